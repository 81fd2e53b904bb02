package visitor

import (
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/google/uuid"

	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/walk"
	"gobbet/internal/problem"
	"gobbet/internal/store/walks"
)

// walked is a drawing, made ready to be walked.
type walked struct {
	*piece.Drawing
	*flow.Graph
}

func readyToWalk(d *piece.Drawing) (*walked, error) {
	g, err := flow.Of(d.Design)
	if err != nil {
		return nil, err
	}
	return &walked{d, g}, nil
}

var (
	unknownWalk = problem.New(http.StatusUnprocessableEntity, "unknown-walk", "This piece cannot be gone on with. Please begin again.")
	stepMissing = problem.New(http.StatusConflict, "step-missing", "A step in between did not reach us.")
)

const maxSteps = 100 // in one request

// advance takes a walk on by what a visitor did.
func (v *Server) advance(c *Call, req *AdvanceRequest) (*AdvanceAnswer, error) {
	answer, err := v.advanced(c, req)
	switch {
	case errors.Is(err, fault.ErrNotFound), errors.Is(err, walk.ErrUnknown):
		err = unknownWalk
	case errors.Is(err, walk.ErrMissing):
		err = stepMissing
	}
	return answer, c.Site.inWords(req.Language, err)
}

func (v *Server) advanced(c *Call, req *AdvanceRequest) (*AdvanceAnswer, error) {
	if req.Pass != "" {
		return v.lookedAt(c, req)
	}
	site := c.Site
	now := v.now()
	held, owned := readTicket(site.Site, req.Token, now)
	ref := held.WalkRef
	if !owned && req.Token == "" {
		ref = req.Walk
	}
	id, err := uuid.Parse(ref.ID)
	if err != nil || !site.Known[ref.Piece][ref.Variant] || !isToken(ref.Visitor) || len(req.Steps) > maxSteps || req.From < 0 || !owned && req.From > 0 {
		return nil, unknownWalk
	}
	ref.ID = id.String()
	d, err := v.walked(c, site, ref.Design)
	if err != nil {
		return nil, err
	}
	ask := walk.Request{Graph: d.Graph, Design: ref.Design, From: req.From, Owned: owned, Now: now, Draw: func(of piece.PrizeDraw) *walk.Draw { return site.prizes(ref.Piece, ref.Variant, of) }}
	if ask.Steps, err = walk.Read(req.Steps, now); err != nil {
		return nil, err
	}
	// Whoever leaves addresses is held off long before who only answers questions.
	if slices.ContainsFunc(req.Steps, func(s walk.SentStep) bool { return d.Gate(s.Scene) || d.AsksAddress(s.Scene) }) {
		if err := v.addresses(c.Address); err != nil {
			return nil, err
		}
	}
	// The answers of those who are left out are kept, and not counted.
	if why, _ := v.outsider(c, req.Automated); why != "" {
		req.Unwatched = true
	}
	source := sourceOf(site, req.Landing, req.Referrer)
	cuts := v.cuts(c, req.Visits, req.Width)
	ctx, done := c.outliving()
	defer done()
	who := walks.Walker{
		Walk: ref.ID, Piece: ref.Piece, Variant: ref.Variant, Design: ref.Design, Visitor: ref.Visitor, Visit: visitToken(req.Visit), Page: pagePath(req.Page),
		Channel: source.Channel, Campaign: noNUL(source.UTM["campaign"]), Referrer: noNUL(source.Host), At: now, Run: site.runAt(ref.Piece, now), Device: cuts.Device, Country: cuts.Country, Known: cuts.Known, Unwatched: req.Unwatched,
		LikelyNew: !owned && len(req.Steps) > 0,
		Generous:  int(min(v.generous, 10_000)),
	}
	if d.HasDraws() {
		who.Place, who.Network = c.whereabouts()
		who.Digest = func(address string) string { return secretly(site, "go", strings.ToLower(address)) }
	}
	var next walk.Next
	lead, err := v.store.Walks.Advance(ctx, site.ID, site.Zone, who, func(before walk.Before) (walk.Next, error) {
		var err error
		next, err = walk.Advance(before, ask)
		return next, err
	})
	if err != nil {
		return nil, v.refusedGo(ctx, site, who, &ask, err)
	}
	view, err := next.View(d.Graph, ref.ID)
	if err != nil {
		return nil, err
	}
	answer := &AdvanceAnswer{View: view}
	answer.Token, answer.Design, answer.Lead = req.Token, ref.Design, lead
	if !owned || held.old(now) {
		answer.Token = ticketFor(site.Site, ref, now)
	}
	if len(req.Steps) == 0 {
		answer.Walk, answer.Path, answer.Answers = ref.ID, next.State.Path, next.State.Answers
		if answer.Scenes, err = next.Passed(d.Graph); err != nil {
			return nil, err
		}
	}
	return answer, v.tallied(c, ref.Piece, d.Graph, answer)
}

// tallied adds how everyone has voted, where the scene shows it.
func (v *Server) tallied(c *Call, piece string, g *flow.Graph, answer *AdvanceAnswer) error {
	for _, t := range g.Tallies(answer.Scene) {
		if answer.Tallies == nil {
			answer.Tallies = map[string]*walk.Tally{}
		}
		votes, voters, err := v.store.Walks.Tally(c, c.Site.ID, piece, t.Key)
		if err != nil {
			return err
		}
		answer.Tallies[t.Key] = nil
		if voters >= max(1, t.Least) {
			answer.Tallies[t.Key] = &walk.Tally{Votes: votes, All: voters}
		}
	}
	return nil
}
