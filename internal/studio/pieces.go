package studio

import (
	"cmp"
	"encoding/json"
	"net/http"
	"time"

	"gobbet/internal/route"

	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
	"gobbet/internal/problem"
	"gobbet/internal/templates"
)

func (s *Server) addPiece(c *route.Call, req NewPiece) (answer PieceInfo, err error) {
	draft, err := s.newDraft(c, req)
	if err != nil {
		return answer, err
	}
	// What a new document holds is read back like any other, so that a bad
	// name or format is found where every fault is.
	raw, err := json.Marshal(draft)
	if err == nil {
		_, err = s.readPiece(c, raw)
	}
	id := pieces.NewID()
	if err == nil {
		err = s.store.Pieces.Add(c, c.Site.ID, id, raw)
	}
	if err != nil {
		return answer, err
	}
	return s.sayPiece(c, id)
}

// readPiece reads a document of the site, which may stand on its saved reaches.
func (s *Server) readPiece(c *route.Call, doc []byte) (*piece.Piece, error) {
	book, err := s.store.Reaches.Book(c, c.Site.ID)
	if err != nil {
		return nil, err
	}
	return piece.ParseWith(doc, book)
}

// draft gives a piece of the site with its draft read.
func (s *Server) draft(c *route.Call, id string) (pieces.Piece, *piece.Piece, error) {
	row, err := s.store.Pieces.Get(c, c.Site.ID, id)
	if err != nil {
		return row, nil, err
	}
	draft, err := s.readPiece(c, row.Draft)
	return row, draft, err
}

func (s *Server) newDraft(c *route.Call, req NewPiece) (*piece.Piece, error) {
	if req.Template != "" {
		start, ok := templates.Of(req.Template)
		if !ok {
			return nil, fault.Fault{At: "template", Message: "is not a template"}
		}
		return start.Piece(req.Name, req.Format, pieces.NewID()), nil
	}
	if req.CopyOf == "" {
		return piece.New(req.Name, req.Format, pieces.NewID()), nil
	}
	_, draft, err := s.draft(c, req.CopyOf)
	if err != nil {
		return nil, err
	}
	// Its own page stays the original's: no two have one address.
	draft.Name, draft.Split.Salt, draft.Page = req.Name, pieces.NewID(), nil
	return draft, nil
}

func (s *Server) piece(c *route.Call, _ route.None) (answer PieceInfo, err error) {
	return s.sayPiece(c, c.Param("piece"))
}

func (s *Server) sayPiece(c *route.Call, id string) (answer PieceInfo, err error) {
	row, draft, err := s.draft(c, id)
	if err != nil {
		return answer, err
	}
	return PieceInfo{
		ID: row.ID, State: row.State, Draft: draft, Version: row.DraftVersion, Live: row.Live, LiveVersion: row.LiveVersion,
		LiveSince: row.LiveSince, PausedAt: row.PausedAt, PausesAt: row.PausesAt, PausedUntil: row.PausedUntil, Edited: edited(row, row.Draft), Notes: settle.Notes(draft, s.surroundings(c)), Phrase: draft.Program.Phrase(),
	}, nil
}

func (s *Server) saveDraft(c *route.Call, req SaveRequest) (answer Saved, err error) {
	draft, err := s.readPiece(c, req.Draft)
	if err != nil {
		return answer, err
	}
	clean, err := json.Marshal(draft)
	if err != nil {
		return answer, err
	}
	version, err := s.store.Pieces.SaveDraft(c, c.Site.ID, c.Param("piece"), int(req.Version), clean)
	if err != nil {
		return answer, err
	}
	row, err := s.store.Pieces.Get(c, c.Site.ID, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	return Saved{version, settle.Notes(draft, s.surroundings(c)), draft.Program.Phrase(), edited(row, clean)}, nil
}

// edited reports whether a draft says something else than what is live of its
// piece. Versions do not tell: what was changed may have been put back.
func edited(row pieces.Piece, draft []byte) bool { return !launch.Same(draft, row.Live) }

func (s *Server) removePiece(c *route.Call, _ route.None) (answer route.None, err error) {
	return answer, s.store.Pieces.Remove(c, s.act(c), c.Param("piece"), true)
}

func (s *Server) restorePiece(c *route.Call, _ route.None) (answer PieceName, err error) {
	if err := s.store.Pieces.Remove(c, s.act(c), c.Param("piece"), false); err != nil {
		return answer, err
	}
	row, err := s.store.Pieces.Get(c, c.Site.ID, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	// What was live comes back paused: nothing goes live by being restored.
	return PieceName{ID: row.ID, Name: nameIn(row.Draft), State: row.State}, nil
}

// act says with which site something is done, and by whom.
func (s *Server) act(c *route.Call) pieces.Act {
	return pieces.Act{Site: c.Site.ID, By: c.Account}
}

func (s *Server) launch(c *route.Call, req LaunchRequest) (answer PieceInfo, err error) {
	site := c.Site
	row, draft, err := s.draft(c, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	if stops := stopping(settle.Notes(draft, s.surroundings(c))); stops != nil {
		p := problem.New(http.StatusUnprocessableEntity, "notes-to-settle", "Some notes have to be settled before this can go live.")
		p.Faults = stops
		return answer, p
	}
	if err := s.pageIsFree(c, site, row.ID, draft); err != nil {
		return answer, err
	}
	if err := s.store.Pieces.Launch(c, s.act(c), row.ID, int(req.Version), draft.Drawings(&site.Kit, nil)); err != nil {
		return answer, err
	}
	return s.sayPiece(c, row.ID)
}

func stopping(notes []settle.Note) (faults fault.Faults) {
	for _, n := range notes {
		if n.Severity == settle.Stop {
			faults.Add(n.At, "%s %s", n.Say, n.Mend)
		}
	}
	return faults
}

// list lists the site's pieces by name.
func (s *Server) list(c *route.Call, _ route.None) (answer []PieceName, err error) {
	rows, err := s.store.Pieces.Names(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	names := []PieceName{}
	for _, row := range rows {
		names = append(names, PieceName{row.ID, row.Name, piece.Format(row.Format), row.State})
	}
	return names, nil
}

const wallClock = "2006-01-02T15:04"

// pause takes live pieces off the site, until a time where one is given.
func (s *Server) pause(c *route.Call, req PauseRequest) (answer StateChange, err error) {
	site := c.Site
	from, err := s.later("from", req.From, site)
	if err != nil {
		return answer, err
	}
	until, err := s.later("until", req.Until, site)
	switch {
	case err != nil:
		return answer, err
	case from != nil && until != nil && !until.After(*from):
		return answer, fault.Fault{At: "until", Message: "should come after the start"}
	}
	var ids []string
	if len(req.Pieces) > 0 {
		ids = req.Pieces
	}
	paused, err := s.store.Pieces.Pause(c, s.act(c), ids, from, until)
	if err != nil {
		return answer, err
	}
	return StateChange{orNone(paused), from, until}, nil
}

// resume puts paused pieces live again as they were.
func (s *Server) resume(c *route.Call, req ResumeRequest) (answer StateChange, err error) {
	var ids []string
	if len(req.Pieces) > 0 {
		ids = req.Pieces
	}
	resumed, err := s.store.Pieces.Resume(c, s.act(c), ids)
	if err != nil {
		return answer, err
	}
	return StateChange{Pieces: orNone(resumed)}, nil
}

// later reads a time to come on a site's wall clock; nil where none is given.
func (s *Server) later(at, text string, site sites.Site) (*time.Time, error) {
	if text == "" {
		return nil, nil
	}
	when, err := time.ParseInLocation(wallClock, text, site.Location())
	switch {
	case err != nil:
		return nil, fault.Fault{At: at, Message: "should be a day and a time, such as 2026-12-24T18:00"}
	case !when.After(s.now()):
		return nil, fault.Fault{At: at, Message: "is in the past"}
	}
	return &when, nil
}

const boardDays = 28

func (s *Server) board(c *route.Call, _ route.None) (answer Board, err error) {
	site := c.Site
	pieces, err := s.store.Pieces.List(c, site.ID)
	if err != nil {
		return answer, err
	}
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return answer, err
	}
	tallies, err := s.store.Results.Days(c, site.ID, "", s.today(site).AddDate(0, 0, 1-boardDays))
	if err != nil {
		return answer, err
	}
	byPiece := map[string][]results.Tally{}
	for _, t := range tallies {
		byPiece[t.Piece] = append(byPiece[t.Piece], t)
	}
	around := s.surroundings(c)
	board := Board{Days: boardDays, Cards: []Card{}, Overall: tallied(tallies)}
	for _, row := range pieces {
		board.Cards = append(board.Cards, card(row, book, around, byPiece[row.ID], s.today(site)))
	}
	return board, nil
}

func (s *Server) today(site sites.Site) time.Time { return s.now().In(site.Location()) }

// card shows what visitors see of a live piece, and the draft of any other.
func card(row pieces.Piece, book reach.Book, around settle.Around, tallies []results.Tally, now time.Time) Card {
	card := Card{ID: row.ID, State: row.State, Since: row.UpdatedAt, Measure: tallied(tallies), Line: line(tallies), PausesAt: row.PausesAt, PausedUntil: row.PausedUntil}
	doc := []byte(row.Draft)
	switch {
	case row.State == "live":
		doc, card.Since = row.Live, *row.LiveSince
		card.Edited = edited(row, row.Draft)
	case row.PausedAt != nil:
		card.Since = *row.PausedAt
	}
	p, err := piece.ParseWith(doc, book)
	if err != nil {
		card.Name, card.Unreadable = cmp.Or(nameIn(row.Draft), row.ID), err.Error()
		return card
	}
	card.Name, card.Phrase, card.Variants = p.Name, p.Program.Phrase(), len(p.Split.Variants)
	card.Drawing = p.Draw(p.First(), around.Kit).WithValues()
	for _, n := range settle.Notes(p, around) {
		if n.Severity == settle.Stop {
			card.Stops++
		} else {
			card.Warns++
		}
	}
	return card
}
