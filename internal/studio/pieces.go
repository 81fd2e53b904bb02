package studio

import (
	"encoding/json"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
	"gobbet/internal/problem"
	"gobbet/internal/starts"
	"gobbet/internal/store"
	"gobbet/internal/visitor"
)

func (s *Server) addPiece(c *gin.Context) {
	var req NewPiece
	if !body(c, &req) {
		return
	}
	draft, err := s.newDraft(c, req)
	if err != nil {
		problem.Write(c, err)
		return
	}
	// What a new document holds is read back like any other, so that a bad
	// name or format is found where every fault is.
	raw, err := json.Marshal(draft)
	if err == nil {
		_, err = s.readPiece(c, raw)
	}
	id := store.NewID()
	if err == nil {
		err = s.store.AddPiece(c, siteOf(c).ID, id, raw)
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	s.sayPiece(c, http.StatusCreated, id)
}

// readPiece reads a document of the site, which may stand on its saved reaches.
func (s *Server) readPiece(c *gin.Context, doc []byte) (*piece.Piece, error) {
	book, err := s.store.Book(c, siteOf(c).ID)
	if err != nil {
		return nil, err
	}
	return piece.ParseWith(doc, book)
}

// draft gives a piece of the site with its draft read.
func (s *Server) draft(c *gin.Context, id string) (store.Piece, *piece.Piece, error) {
	row, err := s.store.Piece(c, siteOf(c).ID, id)
	if err != nil {
		return row, nil, err
	}
	draft, err := s.readPiece(c, row.Draft)
	return row, draft, err
}

func (s *Server) newDraft(c *gin.Context, req NewPiece) (*piece.Piece, error) {
	if req.Start != "" {
		start, ok := starts.Of(req.Start)
		if !ok {
			return nil, fault.Fault{At: "start", Message: "is not a starting point"}
		}
		return start.Piece(req.Name, req.Format, store.NewID()), nil
	}
	if req.CopyOf == "" {
		return piece.New(req.Name, req.Format, store.NewID()), nil
	}
	_, draft, err := s.draft(c, req.CopyOf)
	if err != nil {
		return nil, err
	}
	// Its own page stays the original's: no two have one address.
	draft.Name, draft.Split.Salt, draft.Page = req.Name, store.NewID(), nil
	return draft, nil
}

func (s *Server) piece(c *gin.Context) { s.sayPiece(c, http.StatusOK, c.Param("piece")) }

func (s *Server) sayPiece(c *gin.Context, status int, id string) {
	row, draft, err := s.draft(c, id)
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(status, PieceInfo{
		ID: row.ID, State: row.State, Draft: draft, Version: row.DraftVersion, Live: row.Live, LiveVersion: row.LiveVersion,
		LiveSince: row.LiveSince, RestedAt: row.RestedAt, Notes: settle.Notes(draft, s.surroundings(c)), Phrase: draft.Program.Phrase(),
	})
}

func (s *Server) saveDraft(c *gin.Context) {
	var req SaveRequest
	if !body(c, &req) {
		return
	}
	draft, err := s.readPiece(c, req.Draft)
	if err != nil {
		problem.Write(c, err)
		return
	}
	clean, err := json.Marshal(draft)
	if err != nil {
		problem.Write(c, err)
		return
	}
	version, err := s.store.SaveDraft(c, siteOf(c).ID, c.Param("piece"), int(req.Version), clean)
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(http.StatusOK, Saved{version, settle.Notes(draft, s.surroundings(c)), draft.Program.Phrase()})
}

func (s *Server) removePiece(removed bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		if err := s.store.RemovePiece(c, siteOf(c).ID, c.Param("piece"), removed); err != nil {
			problem.Write(c, err)
			return
		}
		c.Status(http.StatusNoContent)
	}
}

func (s *Server) launch(c *gin.Context) {
	var req LaunchRequest
	if !body(c, &req) {
		return
	}
	site := siteOf(c)
	row, draft, err := s.draft(c, c.Param("piece"))
	if err != nil {
		problem.Write(c, err)
		return
	}
	if stops := stopping(settle.Notes(draft, s.surroundings(c))); stops != nil {
		p := problem.New(http.StatusUnprocessableEntity, "notes-to-settle", "Some notes have to be settled before this can go live.")
		p.Faults = stops
		problem.Write(c, p)
		return
	}
	if err := s.pageIsFree(c, site, row.ID, draft); err != nil {
		problem.Write(c, err)
		return
	}
	if err := s.store.Launch(c, site.ID, row.ID, int(req.Version), visitor.Drawings(draft, &site.Kit, nil)); err != nil {
		problem.Write(c, err)
		return
	}
	s.sayPiece(c, http.StatusOK, row.ID)
}

func stopping(notes []settle.Note) (faults fault.Faults) {
	for _, n := range notes {
		if n.Severity == settle.Stop {
			faults.Add(n.At, "%s %s", n.Say, n.Mend)
		}
	}
	return faults
}

func (s *Server) rest(c *gin.Context) {
	if err := s.store.Rest(c, siteOf(c).ID, c.Param("piece")); err != nil {
		problem.Write(c, err)
		return
	}
	s.sayPiece(c, http.StatusOK, c.Param("piece"))
}

const boardDays = 28

func (s *Server) board(c *gin.Context) {
	site := siteOf(c)
	pieces, err := s.store.Pieces(c, site.ID)
	if err != nil {
		problem.Write(c, err)
		return
	}
	book, err := s.store.Book(c, site.ID)
	if err != nil {
		problem.Write(c, err)
		return
	}
	tallies, err := s.store.Days(c, site.ID, "", s.today(site).AddDate(0, 0, 1-boardDays))
	if err != nil {
		problem.Write(c, err)
		return
	}
	byPiece := map[string][]store.Tally{}
	for _, t := range tallies {
		byPiece[t.Piece] = append(byPiece[t.Piece], t)
	}
	around := s.surroundings(c)
	board := Board{Days: boardDays, Cards: []Card{}, Overall: measure(tallies)}
	for _, row := range pieces {
		board.Cards = append(board.Cards, card(row, book, around, byPiece[row.ID], s.today(site)))
	}
	c.JSON(http.StatusOK, board)
}

func (s *Server) today(site store.Site) time.Time { return s.now().In(site.Location()) }

// card shows what visitors see of a live piece, and the draft of any other.
func card(row store.Piece, book reach.Book, around settle.Around, tallies []store.Tally, now time.Time) Card {
	card := Card{ID: row.ID, State: row.State, Since: row.UpdatedAt, Measure: measure(tallies), Line: line(tallies)}
	doc := []byte(row.Draft)
	switch {
	case row.State == "live":
		doc, card.Since = row.Live, *row.LiveSince
		card.Edited = *row.LiveVersion != row.DraftVersion
	case row.RestedAt != nil:
		card.Since = *row.RestedAt
	}
	p, err := piece.ParseWith(doc, book)
	if err != nil {
		card.Name, card.Unreadable = row.ID, err.Error()
		return card
	}
	card.Name, card.Phrase, card.Variants = p.Name, p.Program.Phrase(), len(p.Split.Variants)
	card.Ended = row.State == "live" && p.Schedule.Over(now)
	design := p.Split.Variants[0].Design
	card.Drawing = p.Draw(design, around.Kit).WithValues()
	for _, n := range settle.Notes(p, around) {
		if n.Severity == settle.Stop {
			card.Stops++
		} else {
			card.Warns++
		}
	}
	return card
}
