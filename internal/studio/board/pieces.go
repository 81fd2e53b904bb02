package board

import (
	"cmp"
	"encoding/json"
	"time"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
	"gobbet/core/style"
	"gobbet/internal/route"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
	"gobbet/internal/templates"
)

func (s *Place) addPiece(c *route.Call, req NewPiece) (answer parts.PieceInfo, err error) {
	draft, err := s.newDraft(c, req)
	if err != nil {
		return answer, err
	}
	// What a new document holds is read back like any other, so that a bad
	// name or format is found where every fault is.
	raw, err := json.Marshal(draft)
	if err == nil {
		_, err = s.read.Piece(c, raw)
	}
	id := pieces.NewID()
	if err == nil {
		err = s.store.Pieces.Add(c, c.Site.ID, id, raw)
	}
	if err != nil {
		return answer, err
	}
	return s.read.Info(c, id)
}

func (s *Place) newDraft(c *route.Call, req NewPiece) (*piece.Piece, error) {
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
	_, draft, err := s.read.Draft(c, req.CopyOf)
	if err != nil {
		return nil, err
	}
	// Its own page stays the original's: no two have one address.
	draft.Name, draft.Split.Salt, draft.Page = req.Name, pieces.NewID(), nil
	return draft, nil
}

func (s *Place) removePiece(c *route.Call, _ route.None) (answer route.None, err error) {
	return answer, s.store.Pieces.Remove(c, s.read.Act(c), c.Param("piece"), true)
}

func (s *Place) restorePiece(c *route.Call, _ route.None) (answer PieceName, err error) {
	if err := s.store.Pieces.Remove(c, s.read.Act(c), c.Param("piece"), false); err != nil {
		return answer, err
	}
	row, err := s.store.Pieces.Get(c, c.Site.ID, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	// What was live comes back paused: nothing goes live by being restored.
	_ = json.Unmarshal(row.Draft, &answer) // its name and format, as far as it can be read
	answer.ID, answer.State = row.ID, row.State
	return answer, nil
}

// list lists the site's pieces by name.
func (s *Place) list(c *route.Call, _ route.None) (answer []PieceName, err error) {
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
func (s *Place) pause(c *route.Call, req PauseRequest) (answer StateChange, err error) {
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
	ids, err := named(req.Pieces, req.All)
	if err != nil {
		return answer, err
	}
	paused, err := s.store.Pieces.Pause(c, s.read.Act(c), ids, from, until)
	if err != nil {
		return answer, err
	}
	return StateChange{parts.OrNone(paused), from, until}, nil
}

// resume puts paused pieces live again as they were.
func (s *Place) resume(c *route.Call, req ResumeRequest) (answer StateChange, err error) {
	ids, err := named(req.Pieces, req.All)
	if err != nil {
		return answer, err
	}
	resumed, err := s.store.Pieces.Resume(c, s.read.Act(c), ids)
	if err != nil {
		return answer, err
	}
	return StateChange{Pieces: parts.OrNone(resumed)}, nil
}

// named are the pieces that a request is about; nil: all of them. It has to say so:
// what names none by mistake must not take the whole site down.
func named(ids []string, all bool) ([]string, error) {
	switch {
	case all:
		return nil, nil
	case len(ids) == 0:
		return nil, fault.Fault{At: "pieces", Message: "names none"}
	}
	return ids, nil
}

// later reads a time to come on a site's wall clock; nil where none is given.
func (s *Place) later(at, text string, site sites.Site) (*time.Time, error) {
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

func (s *Place) board(c *route.Call, _ route.None) (answer Board, err error) {
	site := c.Site
	pieces, err := s.store.Pieces.List(c, site.ID)
	if err != nil {
		return answer, err
	}
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return answer, err
	}
	tallies, err := s.store.Results.Days(c, site.ID, "", s.read.Today(site).AddDate(0, 0, 1-boardDays))
	if err != nil {
		return answer, err
	}
	byPiece := map[string][]results.Tally{}
	for _, t := range tallies {
		byPiece[t.Piece] = append(byPiece[t.Piece], t)
	}
	around := s.read.Surroundings(c)
	board := Board{Days: boardDays, Cards: []Card{}, Overall: parts.Tallied(tallies)}
	for _, row := range pieces {
		board.Cards = append(board.Cards, card(row, book, site.Settings.Data, around, byPiece[row.ID], s.read.Today(site)))
	}
	return board, nil
}

// drawing is what a card shows, which the board asks for once and not with each count.
func (s *Place) drawing(c *route.Call, _ route.None) (answer PieceDrawing, err error) {
	row, err := s.store.Pieces.Get(c, c.Site.ID, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	book, err := s.store.Reaches.Book(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	p, err := piece.ParseWith(onCard(row), book)
	if err != nil {
		return answer, err
	}
	kit := s.read.Surroundings(c).Kit
	return PieceDrawing{drawn(p, kit), p.Draw(p.First(), kit).WithValues()}, nil
}

// onCard is the document that a card is of.
func onCard(row pieces.Piece) []byte {
	if row.State == "live" {
		return row.Live
	}
	return row.Draft
}

// drawn is the hash of what a card shows.
func drawn(p *piece.Piece, kit *style.Kit) string {
	hash, _ := piece.Hashed(p.Drawing(*p.First(), kit))
	return hash
}

// card shows what visitors see of a live piece, and the draft of any other.
func card(row pieces.Piece, book reach.Book, called reach.Called, around settle.Around, tallies []results.Tally, now time.Time) Card {
	card := Card{ID: row.ID, State: row.State, Since: row.UpdatedAt, Measure: parts.Tallied(tallies), Line: parts.Line(tallies), PausesAt: row.PausesAt, PausedUntil: row.PausedUntil}
	switch {
	case row.State == "live":
		card.Since = *row.LiveSince
		card.Edited = parts.Edited(row, row.Draft)
	case row.PausedAt != nil:
		card.Since = *row.PausedAt
	}
	p, err := piece.ParseWith(onCard(row), book)
	if err != nil {
		card.Name, card.Unreadable = cmp.Or(parts.NameIn(row.Draft), row.ID), err.Error()
		return card
	}
	card.Name, card.Phrase, card.Variants = p.Name, p.Program.As(called).Phrase(), len(p.Split.Variants)
	card.Format, card.Drawn = p.Format, drawn(p, around.Kit)
	for _, n := range settle.Notes(p, around) {
		if n.Severity == settle.Stop {
			card.Stops++
		} else {
			card.Warns++
		}
	}
	return card
}
