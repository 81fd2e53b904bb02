package visitor

import (
	"context"
	"net/http"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/walk"
	"gobbet/internal/problem"
	"gobbet/internal/token"
)

// inspect says how every live piece and every draft stands with a page view.
// It needs a signed link, reads the store, and writes nothing.
func (v *Server) inspect(c *Call, req *InspectRequest) (answer Inspection, err error) {
	site, now := c.Site, v.now()
	who, ok := token.ReadPass(site.Secret, req.Token, now)
	if !ok {
		return answer, noPass
	}
	pieces, names, err := v.everyPiece(c, site)
	if err != nil {
		return answer, err
	}
	m := readMemory(site, &req.View, now)
	visit := visitOf(site, nil, &req.View, m, v.browser(c, nil), now)
	when := clock(site, &req.View, now)
	answer = Inspection{Site: site.Name, Piece: who.Piece, Pieces: []Inspected{}}
	taken := map[string]string{}
	for _, one := range pieces {
		s := one.Stand(visit, m, when, site.Settings.Limits)
		slot, program := one.Slot(visit, m), one.Program(m)
		if by, is := taken[slot]; is && s.Held == "" && !one.draft && slot != "" {
			s.Held, s.By = choose.BySlot, by
		} else if s.Held == "" && s.Rests == 0 && !one.draft && program.Waiting(visit) == nil {
			taken[slot] = one.ID
		}
		variant := choose.Allot(&one.Piece.Split, m.Visitor, m.Of(one.ID).Variant)
		drawing := one.Piece.Draw(variant, &site.Kit)
		ready, err := readyToWalk(&drawing)
		if err != nil {
			return answer, err
		}
		hash, _ := piece.Hashed(one.Piece.Drawing(*variant, &site.Kit))
		// What rests, the page knows best: the time goes on there.
		held := ""
		if s.Held != "" {
			held = s.Say(when.Now, func(id string) string { return names[id] })
		}
		answer.Pieces = append(answer.Pieces, Inspected{
			ID: one.ID, Name: one.Piece.Name, Draft: one.draft, Slot: slot, Verdict: s.Verdict, Waiting: program.Waiting(visit),
			Lines: program.As(site.Settings.Data).Lines(visit), Held: held,
			Interrupts: one.Piece.Interruption(variant, visit.Text("device.kind") == string(phone)) != caps.Invited,
			Design:     hash, Drawing: ready.Public(drawing), Variant: variant.Name,
		})
	}
	return answer, nil
}

type inspected struct {
	choose.Live
	draft bool
}

// everyPiece lists what is live, and after it the drafts that differ.
func (v *Server) everyPiece(ctx context.Context, site *Site) (pieces []inspected, names map[string]string, err error) {
	names = map[string]string{}
	live := map[string]bool{}
	for _, l := range site.Live {
		pieces = append(pieces, inspected{Live: l})
		names[l.ID], live[l.ID] = l.Piece.Name, true
	}
	rows, err := v.store.Pieces.List(ctx, site.ID)
	if err != nil {
		return nil, nil, err
	}
	book, err := v.store.Reaches.Book(ctx, site.ID)
	if err != nil {
		return nil, nil, err
	}
	for _, row := range rows {
		if live[row.ID] && row.LiveVersion != nil && *row.LiveVersion == row.DraftVersion {
			continue
		}
		if p, err := piece.ParseWith(row.Draft, book); err == nil {
			pieces = append(pieces, inspected{choose.Live{ID: row.ID, Piece: p}, true})
		}
	}
	return pieces, names, nil
}

// lookedAt walks a piece, live or a draft, for who holds a pass. Nothing is stored.
func (v *Server) lookedAt(c *Call, req *AdvanceRequest) (*AdvanceAnswer, error) {
	if _, ok := token.ReadPass(c.Site.Secret, req.Pass, v.now()); !ok {
		return nil, noPass
	}
	steps, err := walk.Read(req.Steps, v.now())
	if err != nil {
		return nil, err
	}
	site := c.Site
	if d, ok := site.Designs[req.Walk.Design]; ok {
		return rehearsed(d.Graph, steps, req.Walk.ID)
	}
	pieces, _, err := v.everyPiece(c, site)
	if err != nil {
		return nil, err
	}
	for _, one := range pieces {
		for _, variant := range one.Piece.Split.Variants {
			if hash, _ := piece.Hashed(one.Piece.Drawing(variant, &site.Kit)); hash == req.Walk.Design {
				g, err := flow.Of(variant.Design)
				if err != nil {
					return nil, err
				}
				return rehearsed(g, steps, req.Walk.ID)
			}
		}
	}
	return nil, unknownWalk
}

var noPass = problem.New(http.StatusForbidden, "no-pass", "This link is not valid any more. Make a new one in Reach.")

func rehearsed(g *flow.Graph, steps []walk.Step, seed string) (*AdvanceAnswer, error) {
	view, err := walk.Rehearse(g, steps, seed)
	return &AdvanceAnswer{View: view}, err
}
