package studio

import (
	"cmp"
	"encoding/json"
	"net/http"
	"time"

	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
	"gobbet/internal/problem"
	"gobbet/internal/templates"
)

func (s *Server) addPiece(c *gin.Context) error {
	var req NewPiece
	if err := body(c, &req); err != nil {
		return err
	}
	draft, err := s.newDraft(c, req)
	if err != nil {
		return err
	}
	// What a new document holds is read back like any other, so that a bad
	// name or format is found where every fault is.
	raw, err := json.Marshal(draft)
	if err == nil {
		_, err = s.readPiece(c, raw)
	}
	id := pieces.NewID()
	if err == nil {
		err = s.store.Pieces.Add(c, siteOf(c).ID, id, raw)
	}
	if err != nil {
		return err
	}
	return s.sayPiece(c, http.StatusCreated, id)
}

// readPiece reads a document of the site, which may stand on its saved reaches.
func (s *Server) readPiece(c *gin.Context, doc []byte) (*piece.Piece, error) {
	book, err := s.store.Reaches.Book(c, siteOf(c).ID)
	if err != nil {
		return nil, err
	}
	return piece.ParseWith(doc, book)
}

// draft gives a piece of the site with its draft read.
func (s *Server) draft(c *gin.Context, id string) (pieces.Piece, *piece.Piece, error) {
	row, err := s.store.Pieces.Get(c, siteOf(c).ID, id)
	if err != nil {
		return row, nil, err
	}
	draft, err := s.readPiece(c, row.Draft)
	return row, draft, err
}

func (s *Server) newDraft(c *gin.Context, req NewPiece) (*piece.Piece, error) {
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

func (s *Server) piece(c *gin.Context) error { return s.sayPiece(c, http.StatusOK, c.Param("piece")) }

func (s *Server) sayPiece(c *gin.Context, status int, id string) error {
	row, draft, err := s.draft(c, id)
	if err != nil {
		return err
	}
	c.JSON(status, PieceInfo{
		ID: row.ID, State: row.State, Draft: draft, Version: row.DraftVersion, Live: row.Live, LiveVersion: row.LiveVersion,
		LiveSince: row.LiveSince, PausedAt: row.PausedAt, PausesAt: row.PausesAt, PausedUntil: row.PausedUntil, Edited: edited(row, row.Draft), Notes: settle.Notes(draft, s.surroundings(c)), Phrase: draft.Program.Phrase(),
	})
	return nil
}

func (s *Server) saveDraft(c *gin.Context) error {
	var req SaveRequest
	if err := body(c, &req); err != nil {
		return err
	}
	draft, err := s.readPiece(c, req.Draft)
	if err != nil {
		return err
	}
	clean, err := json.Marshal(draft)
	if err != nil {
		return err
	}
	version, err := s.store.Pieces.SaveDraft(c, siteOf(c).ID, c.Param("piece"), int(req.Version), clean)
	if err != nil {
		return err
	}
	row, err := s.store.Pieces.Get(c, siteOf(c).ID, c.Param("piece"))
	if err != nil {
		return err
	}
	c.JSON(http.StatusOK, Saved{version, settle.Notes(draft, s.surroundings(c)), draft.Program.Phrase(), edited(row, clean)})
	return nil
}

// edited reports whether a draft says something else than what is live of its
// piece. Versions do not tell: what was changed may have been put back.
func edited(row pieces.Piece, draft []byte) bool { return !launch.Same(draft, row.Live) }

func (s *Server) removePiece(c *gin.Context) error {
	return s.done(c, s.store.Pieces.Remove(c, s.act(c), c.Param("piece"), true))
}

func (s *Server) restorePiece(c *gin.Context) error {
	if err := s.store.Pieces.Remove(c, s.act(c), c.Param("piece"), false); err != nil {
		return err
	}
	row, err := s.store.Pieces.Get(c, siteOf(c).ID, c.Param("piece"))
	if err != nil {
		return err
	}
	// What was live comes back paused: nothing goes live by being restored.
	c.JSON(http.StatusOK, PieceName{ID: row.ID, Name: nameIn(row.Draft), State: row.State})
	return nil
}

// act says with which site something is done, and by whom.
func (s *Server) act(c *gin.Context) pieces.Act {
	return pieces.Act{Site: siteOf(c).ID, By: s.sessions.GetInt64(c.Request.Context(), "account")}
}

func (s *Server) launch(c *gin.Context) error {
	var req LaunchRequest
	if err := body(c, &req); err != nil {
		return err
	}
	site := siteOf(c)
	row, draft, err := s.draft(c, c.Param("piece"))
	if err != nil {
		return err
	}
	if stops := stopping(settle.Notes(draft, s.surroundings(c))); stops != nil {
		p := problem.New(http.StatusUnprocessableEntity, "notes-to-settle", "Some notes have to be settled before this can go live.")
		p.Faults = stops
		return p
	}
	if err := s.pageIsFree(c, site, row.ID, draft); err != nil {
		return err
	}
	if err := s.store.Pieces.Launch(c, s.act(c), row.ID, int(req.Version), draft.Drawings(&site.Kit, nil)); err != nil {
		return err
	}
	return s.sayPiece(c, http.StatusOK, row.ID)
}

func stopping(notes []settle.Note) (faults fault.Faults) {
	for _, n := range notes {
		if n.Severity == settle.Stop {
			faults.Add(n.At, "%s %s", n.Say, n.Mend)
		}
	}
	return faults
}

// pieceNames lists the site's pieces by name.
func (s *Server) pieceNames(c *gin.Context) error {
	rows, err := s.store.Pieces.Names(c, siteOf(c).ID)
	if err != nil {
		return err
	}
	names := []PieceName{}
	for _, row := range rows {
		names = append(names, PieceName{row.ID, row.Name, piece.Format(row.Format), row.State})
	}
	c.JSON(http.StatusOK, names)
	return nil
}

const wallClock = "2006-01-02T15:04"

// pause takes live pieces off the site, until a time where one is given.
func (s *Server) pause(c *gin.Context) error {
	var req PauseRequest
	if err := body(c, &req); err != nil {
		return err
	}
	site := siteOf(c)
	from, err := s.later("from", req.From, site)
	if err != nil {
		return err
	}
	until, err := s.later("until", req.Until, site)
	switch {
	case err != nil:
		return err
	case from != nil && until != nil && !until.After(*from):
		return fault.Fault{At: "until", Message: "should come after the start"}
	}
	var ids []string
	if len(req.Pieces) > 0 {
		ids = req.Pieces
	}
	paused, err := s.store.Pieces.Pause(c, s.act(c), ids, from, until)
	if err != nil {
		return err
	}
	c.JSON(http.StatusOK, StateChange{orNone(paused), from, until})
	return nil
}

// resume puts paused pieces live again as they were.
func (s *Server) resume(c *gin.Context) error {
	var req ResumeRequest
	if err := body(c, &req); err != nil {
		return err
	}
	var ids []string
	if len(req.Pieces) > 0 {
		ids = req.Pieces
	}
	resumed, err := s.store.Pieces.Resume(c, s.act(c), ids)
	if err != nil {
		return err
	}
	c.JSON(http.StatusOK, StateChange{Pieces: orNone(resumed)})
	return nil
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

func (s *Server) board(c *gin.Context) error {
	site := siteOf(c)
	pieces, err := s.store.Pieces.List(c, site.ID)
	if err != nil {
		return err
	}
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return err
	}
	tallies, err := s.store.Results.Days(c, site.ID, "", s.today(site).AddDate(0, 0, 1-boardDays))
	if err != nil {
		return err
	}
	byPiece := map[string][]results.Tally{}
	for _, t := range tallies {
		byPiece[t.Piece] = append(byPiece[t.Piece], t)
	}
	around := s.surroundings(c)
	board := Board{Days: boardDays, Cards: []Card{}, Overall: measure(tallies)}
	for _, row := range pieces {
		board.Cards = append(board.Cards, card(row, book, around, byPiece[row.ID], s.today(site)))
	}
	c.JSON(http.StatusOK, board)
	return nil
}

func (s *Server) today(site sites.Site) time.Time { return s.now().In(site.Location()) }

// card shows what visitors see of a live piece, and the draft of any other.
func card(row pieces.Piece, book reach.Book, around settle.Around, tallies []results.Tally, now time.Time) Card {
	card := Card{ID: row.ID, State: row.State, Since: row.UpdatedAt, Measure: measure(tallies), Line: line(tallies), PausesAt: row.PausesAt, PausedUntil: row.PausedUntil}
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
