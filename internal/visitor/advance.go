package visitor

import (
	"encoding/json"
	"errors"
	"maps"
	"math/rand/v2"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"gobbet/core/answer"
	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/store"
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

const (
	maxSteps = 100 // in one request
	// maxState bounds what is kept of one walk, in bytes.
	maxState = 256 << 10
	// grace is what a line may take on top of a scene's time limit.
	grace = 5 * time.Second
)

// state is a walk as it is kept.
type state struct {
	flow.Walk
	// Came is when each scene of the path was come to, in ms since 1970.
	Came []int64 `json:"came"`
	// Sent are the scenes whose answers were kept, and Met those come to at all.
	Sent []string `json:"sent,omitempty"`
	Met  []string `json:"met"`
	// Begun is when the walk began, in ms since 1970.
	Begun int64 `json:"begun"`
	// Owed are the scenes whose answers will be the lead's, once there is one:
	// until an address is left the walk alone keeps them.
	Owed []owed `json:"owed,omitempty"`
}

// owed is a scene that was sent, by which step of the walk.
type owed struct {
	Scene string `json:"scene"`
	Step  int    `json:"step"`
}

// given is one that is sent now.
type given struct {
	owed
	converts bool
}

// advance takes a walk on by what a visitor did.
func (v *Server) advance(c *gin.Context) error {
	var req AdvanceRequest
	if err := body(c, &req); err != nil {
		return err
	}
	answer, err := v.goOn(c, siteOf(c), &req)
	switch {
	case errors.Is(err, errHeldOff):
		return nil
	case errors.Is(err, store.ErrNotFound):
		return unknownWalk
	case err != nil:
		return err
	}
	c.JSON(http.StatusOK, answer)
	return nil
}

// errHeldOff says that the request was answered: there were too many.
var errHeldOff = errors.New("held off")

func (v *Server) goOn(c *gin.Context, site *Site, req *AdvanceRequest) (*AdvanceAnswer, error) {
	if req.Pass != "" {
		return v.lookedAt(c, site, req)
	}
	now := v.now()
	held, begun := readTicket(site.Site, req.Token, now)
	ref := held.WalkRef
	if !begun && req.Token == "" {
		ref = req.Walk
	}
	id, err := uuid.Parse(ref.ID)
	if err != nil || !site.Known[ref.Piece][ref.Variant] || !isToken(ref.Visitor) || len(req.Steps) > maxSteps || req.From < 0 || !begun && req.From > 0 {
		return nil, unknownWalk
	}
	ref.ID = id.String()
	d, err := v.walked(c, site, ref.Design)
	if err != nil {
		return nil, err
	}
	turn := turn{
		graph: d.Graph, design: ref.Design, walk: id, from: req.From, begun: begun, now: now,
		prizes: func(of piece.PrizeDraw) *store.Want { return site.prizes(ref.Piece, ref.Variant, of) },
		digest: func(address string) string { return secretly(site, "go", strings.ToLower(address)) },
	}
	if turn.steps, turn.at, err = stepsOf(req.Steps, now); err != nil {
		return nil, err
	}
	// Whoever leaves addresses is held off long before who only answers questions.
	if slices.ContainsFunc(req.Steps, func(s StepIn) bool { return d.Gate(s.Scene) || d.AsksAddress(s.Scene) }) {
		if v.addresses(c); c.IsAborted() {
			return nil, errHeldOff
		}
	}
	// The answers of those who are left out are kept, and not counted.
	if why, _ := v.outsider(c, site, req.Automated); why != "" {
		req.Unwatched = true
	}
	source := sourceOf(site, req.Landing, req.Referrer)
	cuts := v.cuts(c, req.Visits, req.Width)
	ctx, done := finishing(c)
	defer done()
	who := store.Walker{
		Walk: ref.ID, Piece: ref.Piece, Variant: ref.Variant, Design: ref.Design, Visitor: ref.Visitor, Visit: visitToken(req.Visit), Page: pagePath(req.Page),
		Channel: source.Channel, Campaign: noNUL(source.UTM["campaign"]), Referrer: noNUL(source.Host), At: now, Run: site.runAt(ref.Piece, now), Device: cuts.Device, Country: cuts.Country, Known: cuts.Known, Unwatched: req.Unwatched,
		Begins:   !begun && len(req.Steps) > 0,
		Generous: int(min(v.generous, 10_000)),
	}
	if d.HasDraws() {
		address, network := Whereabouts(c.ClientIP())
		who.Place, who.Network = secretly(site, "address", address), secretly(site, "network", network)
	}
	lead, err := v.store.Advance(ctx, site.ID, site.Zone, who, turn.take)
	if err != nil {
		return nil, v.whyNoGo(ctx, site, who, &turn, err)
	}
	w, err := d.Resume(turn.state.Walk)
	if err != nil {
		return nil, err
	}
	answer := told(d.Graph, w, turn.steps, turn.taken)
	answer.Drawn = turn.told()
	answer.Token, answer.Design, answer.Lead = req.Token, ref.Design, lead
	if !begun || held.old(now) {
		answer.Token = ticketFor(site.Site, ref, now)
	}
	if len(req.Steps) == 0 {
		answer.Walk, answer.Path, answer.Answers, answer.Scenes = ref.ID, w.Path, w.Answers, d.Passed(w)
	}
	return answer, v.tallied(c, site, ref.Piece, d.Graph, answer)
}

// tallied adds how everyone has voted, where the scene shows it.
func (v *Server) tallied(c *gin.Context, site *Site, piece string, g *flow.Graph, answer *AdvanceAnswer) error {
	for _, t := range g.Tallies(answer.Scene) {
		if answer.Tallies == nil {
			answer.Tallies = map[string]*Tally{}
		}
		votes, voters, err := v.store.Tally(c, site.ID, piece, t.Key)
		if err != nil {
			return err
		}
		answer.Tallies[t.Key] = nil
		if voters >= max(1, t.Least) {
			answer.Tallies[t.Key] = &Tally{votes, voters}
		}
	}
	return nil
}

// stepsOf reads steps as they came, and when each was taken: in order, and none
// after now.
func stepsOf(in []StepIn, now time.Time) (steps []flow.Step, at []time.Time, err error) {
	var faults fault.Faults
	for i, s := range in {
		step := flow.Step{Scene: s.Scene, Press: s.Press, Back: s.Back, Late: s.Late, Values: make(map[string]string, len(s.Values))}
		for key, value := range s.Values {
			text, ok := answer.Text(value)
			if !ok {
				faults.Add(fault.Key(fault.Key(fault.Index("steps", i), "values"), key), "is not an answer")
			}
			step.Values[key] = text
		}
		when := now.Add(-time.Duration(max(0, min(s.Ago, maxAgo))) * time.Millisecond)
		if i > 0 && when.Before(at[i-1]) {
			when = at[i-1]
		}
		steps, at = append(steps, step), append(at, when)
	}
	return steps, at, faults.Err()
}

const maxAgo = 24 * 60 * 60 * 1000 // ms

// turn takes a walk on within the store's transaction.
type turn struct {
	graph  *flow.Graph
	design string
	walk   uuid.UUID
	from   int
	begun  bool // the walk's token came with it
	steps  []flow.Step
	at     []time.Time
	now    time.Time

	// prizes gives what may be drawn now; nil where the draw is over. digest
	// tells addresses apart without saying which they are.
	prizes func(piece.PrizeDraw) *store.Want
	digest func(address string) string

	// What it comes to, with the answers that were taken along.
	state state
	taken int
	given []given
	drawn *store.Drawn
	over  string // the key of a draw that is
}

// Taking takes a walk of a design by steps, each at its time, for those who have
// them from elsewhere than a page.
func Taking(g *flow.Graph, design string, walk uuid.UUID, steps []flow.Step, at []time.Time) func(store.Progress) (*store.Moved, error) {
	t := &turn{
		graph: g, design: design, walk: walk, begun: true, steps: steps, at: at, now: at[len(at)-1],
		prizes: func(of piece.PrizeDraw) *store.Want { return wantOf(of, of) },
		digest: func(address string) string { return strings.ToLower(address) },
	}
	return t.take
}

func (t *turn) take(p store.Progress) (*store.Moved, error) {
	// Without the token, only what was sent already may be sent again.
	if p.Steps > 0 && (p.Design != t.design || !t.begun && len(t.steps) > p.Steps) {
		return nil, unknownWalk
	}
	if t.from > p.Steps {
		return nil, stepMissing
	}
	w := t.graph.Begin()
	t.state = state{Came: []int64{t.now.UnixMilli()}}
	if len(t.at) > 0 {
		t.state.Came[0] = t.at[0].UnixMilli()
	}
	if p.Steps > 0 {
		t.state = state{}
		if err := json.Unmarshal(p.State, &t.state); err != nil {
			return nil, err
		}
		var err error
		if w, err = t.graph.Resume(t.state.Walk); err != nil {
			return nil, err
		}
	}
	skip := min(p.Steps-t.from, len(t.steps))
	t.given = nil // it may be taken again, from elsewhere
	moved := &store.Moved{Steps: p.Steps, Votes: map[string][]string{}, Came: map[string]store.Came{}, Answers: map[store.Answered]int{}}
	if p.Steps == 0 {
		t.state.Begun, t.state.Met = t.state.Came[0], []string{w.At()}
		moved.Came[w.At()] = store.Came{Reached: 1}
	}
	t.drawn = nil
	for i := skip; i < len(t.steps); i++ {
		err := t.step(w, i, p.Drawn, moved)
		var undrawn *flow.Undrawn
		if errors.As(err, &undrawn) {
			return t.want(undrawn.Draws[0], p.Drawn)
		}
		if err != nil {
			return nil, err
		}
	}
	t.state.Walk, t.taken = *w, moved.Steps
	if moved.Steps == p.Steps {
		return nil, nil
	}
	t.settle(w, p.Lead, moved)
	var err error
	if moved.State, err = json.Marshal(t.state); err == nil && len(moved.State) > maxState {
		err = fault.Fault{Message: "holds more than one visitor can say"}
	}
	moved.Scene, moved.Result, moved.Ended, moved.Began = w.At(), w.Result(), w.Ended, time.UnixMilli(t.state.Begun)
	return moved, err
}

// step takes one step, and notes what is to be kept of it.
func (t *turn) step(w *flow.Walk, i int, drawn *store.Drawn, moved *store.Moved) error {
	step := t.steps[i]
	if drawn != nil {
		step.Drawn = map[string]string{drawn.Key: drawn.Part}
	}
	limit := t.graph.Limit(w.At())
	if step.Late = step.Late && limit > 0; limit > 0 && len(t.state.Came) > 0 {
		step.Late = step.Late || t.at[i].UnixMilli()-t.state.Came[len(t.state.Came)-1] > (time.Duration(limit)*time.Second+grace).Milliseconds()
	}
	from, before := w.At(), maps.Clone(w.Answers)
	err := w.Take(step)
	if errors.As(err, new(*flow.Undrawn)) {
		return err
	}
	if err != nil {
		var faults fault.Faults
		faults.Within(fault.Index("steps", i), err)
		return faults
	}
	if drawn != nil && before[drawn.Key] == "" && w.Answers[drawn.Key] != "" {
		t.took(w, from, drawn, moved)
		if drawn.Again {
			before[drawn.Key] = drawn.Part // it was counted then
		}
	}
	t.count(w, step, from, t.at[i], before, moved)
	for len(t.state.Came) < len(w.Path) {
		t.state.Came = append(t.state.Came, t.at[i].UnixMilli())
	}
	t.state.Came = t.state.Came[:len(w.Path)]
	moved.Steps++
	if takes, counts := t.graph.Counts(step); takes && !step.Back {
		for _, f := range t.graph.Form(step.Scene).Fields {
			if given := w.Answers[f.Key]; given != "" && t.graph.Polled()[f.Key] {
				moved.Votes[f.Key] = t.graph.Votes(f.Key, given)
			}
		}
		t.given = append(t.given, given{owed{step.Scene, moved.Steps}, counts})
	}
	return nil
}

// sent is what a scene's fields are answered with by now.
func (t *turn) sent(w *flow.Walk, o owed) store.Sent {
	form, answers := t.graph.Form(o.Scene), answer.Answers{}
	for _, f := range form.Fields {
		if a := w.Answers[f.Key]; a != "" {
			answers[f.Key] = a
		}
	}
	sent := store.Sent{
		ID: uuid.NewSHA1(t.walk, []byte(strconv.Itoa(o.Step))).String(), Scene: o.Scene,
		Email: form.Email(answers), Name: form.Name(answers), Answers: form.Said(answers),
	}
	if sent.Email != "" && t.graph.HasDraws() {
		sent.EmailDigest = t.digest(sent.Email)
	}
	for _, d := range t.graph.Draws(o.Scene) {
		sent.Draws = append(sent.Draws, d.Key)
	}
	return sent
}

// settle says which of the answers that were taken along are stored. As long as
// nobody has left an address the walk alone keeps them, and owes them; with the
// address all of them become the lead's, as they are by then.
func (t *turn) settle(w *flow.Walk, lead bool, moved *store.Moved) {
	stored := map[string]bool{}
	for _, scene := range t.state.Sent {
		stored[scene] = true
	}
	for _, o := range t.state.Owed {
		delete(stored, o.Scene)
	}
	for _, g := range t.given {
		lead = lead || t.graph.Form(g.Scene).Email(w.Answers) != ""
		if !slices.Contains(t.state.Sent, g.Scene) {
			t.state.Sent = append(t.state.Sent, g.Scene)
		}
	}
	pays := func(scene string) {
		t.state.Owed = slices.DeleteFunc(t.state.Owed, func(o owed) bool { return o.Scene == scene })
	}
	for _, g := range t.given {
		pays(g.Scene)
		if !lead && !g.converts && !stored[g.Scene] {
			t.state.Owed = append(t.state.Owed, g.owed)
			continue
		}
		sent := t.sent(w, g.owed)
		sent.Converts, sent.Again, stored[g.Scene] = g.converts, stored[g.Scene], true
		moved.Sent = append(moved.Sent, sent)
	}
	if lead {
		for i, o := range t.state.Owed {
			moved.Sent = slices.Insert(moved.Sent, i, t.sent(w, o))
		}
		t.state.Owed = nil
	}
}

// longestAt bounds what one scene is said to have taken: who leaves it open is
// not reading it.
const longestAt = 10 * time.Minute

// count notes how far the walk has come by a step, once a scene, and how what
// is answered has changed.
func (t *turn) count(w *flow.Walk, step flow.Step, from string, at time.Time, before answer.Answers, moved *store.Moved) {
	if left := from + " left"; !step.Back && !slices.Contains(t.state.Met, left) {
		t.state.Met = append(t.state.Met, left)
		c := moved.Came[from]
		c.Left++
		if n := len(t.state.Came); n > 0 {
			c.Seconds += max(0, int(min(at.Sub(time.UnixMilli(t.state.Came[n-1])), longestAt).Seconds()))
		}
		moved.Came[from] = c
	}
	if id := w.At(); id != from && !step.Back {
		if way := from + " to " + id; !slices.Contains(t.state.Met, way) {
			t.state.Met = append(t.state.Met, way)
			moved.Gone = append(moved.Gone, store.Way{Scene: from, Next: id})
		}
	}
	if id := w.At(); !slices.Contains(t.state.Met, id) {
		t.state.Met = append(t.state.Met, id)
		c := moved.Came[id]
		c.Reached++
		moved.Came[id] = c
	}
	for key, given := range before {
		if w.Answers[key] != given {
			t.graph.Tell(key, given, func(choice string) { moved.Answers[store.Answered{Key: key, Choice: choice}]-- })
		}
	}
	for key, given := range w.Answers {
		if before[key] != given {
			t.graph.Tell(key, given, func(choice string) { moved.Answers[store.Answered{Key: key, Choice: choice}]++ })
		}
	}
}

// told says where a walk has come to by its last step.
func told(g *flow.Graph, w *flow.Walk, steps []flow.Step, taken int) *AdvanceAnswer {
	answer := &AdvanceAnswer{Steps: taken, Scene: w.At(), Ended: w.Ended, Scenes: g.Given(w), Values: w.Shown()}
	if s, ok := g.Scene(w.At()); ok {
		answer.Tags = s.Tags
	}
	if len(steps) > 0 {
		last := steps[len(steps)-1].Scene
		answer.Closes = w.Ended && w.At() == last && !g.Ends(last)
		if _, ok := g.Scene(last); ok && !steps[len(steps)-1].Back {
			answer.Marks = w.Marks(last)
		}
	}
	return answer
}

// Steps reads steps as they come.
func Steps(in []StepIn) ([]flow.Step, error) {
	if len(in) > flow.MaxPath {
		return nil, fault.Fault{At: "steps", Message: "are too many"}
	}
	steps, _, err := stepsOf(in, time.Now())
	return steps, err
}

// Rehearsed walks from the beginning for someone who only looks; nothing is
// stored. seed, any text, decides what is drawn.
func Rehearsed(g *flow.Graph, steps []flow.Step, seed string) (*AdvanceAnswer, error) {
	w := g.Begin()
	// The same draws each time: what is walked again is what was walked.
	source := rand.NewPCG(seedOf(seed), 1)
	var last map[string]string
	for i, step := range steps {
		before := maps.Clone(w.Answers)
		if err := w.TakeDrawing(step, source); err != nil {
			var faults fault.Faults
			faults.Within(fault.Index("steps", i), err)
			return nil, faults
		}
		last = drawnSince(g, before, w)
	}
	answer := told(g, w, steps, len(steps))
	for key, part := range last {
		if answer.Drawn == nil {
			answer.Drawn = map[string]DrawnPart{}
		}
		answer.Drawn[key] = drawnPart(g, uuid.Nil, key, part)
	}
	answer.Scenes = g.Passed(w)
	for _, t := range g.Tallies(answer.Scene) {
		answer.Tallies = map[string]*Tally{t.Key: nil}
	}
	return answer, nil
}
