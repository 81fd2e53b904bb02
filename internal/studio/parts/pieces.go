package parts

import (
	"encoding/json"
	"strings"
	"time"

	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/internal/route"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
)

// Piece reads a document of the site of a call, which may stand on its saved reaches.
func (s *Reader) Piece(c *route.Call, doc []byte) (*piece.Piece, error) {
	book, err := s.store.Reaches.Book(c, c.Site.ID)
	if err != nil {
		return nil, err
	}
	return piece.ParseWith(doc, book)
}

// Draft gives a piece of the site with its draft read.
func (s *Reader) Draft(c *route.Call, id string) (pieces.Piece, *piece.Piece, error) {
	row, err := s.store.Pieces.Get(c, c.Site.ID, id)
	if err != nil {
		return row, nil, err
	}
	draft, err := s.Piece(c, row.Draft)
	return row, draft, err
}

// Info gives a piece of the site as windows hold it.
func (s *Reader) Info(c *route.Call, id string) (answer PieceInfo, err error) {
	row, draft, err := s.Draft(c, id)
	if err != nil {
		return answer, err
	}
	return PieceInfo{
		ID: row.ID, State: row.State, Draft: draft, Version: row.DraftVersion, Live: row.Live, LiveVersion: row.LiveVersion,
		LiveSince: row.LiveSince, PausedAt: row.PausedAt, PausesAt: row.PausesAt, PausedUntil: row.PausedUntil, Edited: Edited(row, row.Draft), Notes: settle.Notes(draft, s.Surroundings(c)), Phrase: draft.Program.As(c.Site.Settings.Data).Phrase(),
	}, nil
}

// Edited reports whether a draft says something else than what is live of its
// piece. Versions do not tell: what was changed may have been put back.
func Edited(row pieces.Piece, draft []byte) bool { return !launch.Same(draft, row.Live) }

// Act says with which site something is done, and by whom.
func (s *Reader) Act(c *route.Call) pieces.Act {
	return pieces.Act{Site: c.Site.ID, By: c.Account}
}

// Today is the present on a site's clock.
func (s *Reader) Today(site sites.Site) time.Time { return s.now().In(site.Location()) }

// Surroundings is what the notes on a piece want to know of its site. What
// cannot be looked up now is not known.
func (s *Reader) Surroundings(c *route.Call) settle.Around {
	site := c.Site
	around := settle.Around{Kit: &site.Kit, Now: s.now()}
	if pictures, err := s.store.Library.Pictures(c, site.ID); err == nil {
		bytes := map[string]int{}
		for _, p := range pictures {
			bytes[p.Hash] = p.Bytes
		}
		around.Bytes = func(hash string) (int, bool) {
			n, ok := bytes[hash]
			return n, ok
		}
	}
	// Whether a pool runs low is all that the notes ask.
	if pools, err := s.store.Codes.PoolsLeft(c, site.ID, settle.FewCodes); err == nil {
		around.Codes = map[string]int{}
		for _, p := range pools {
			around.Codes[p.ID] = p.Left
		}
	}
	return around
}

// EachPiece goes through the site's pieces whose drafts can be read.
func (s *Reader) EachPiece(c *route.Call, do func(row pieces.Piece, draft *piece.Piece)) error {
	rows, err := s.store.Pieces.List(c, c.Site.ID)
	if err != nil {
		return err
	}
	book, err := s.store.Reaches.Book(c, c.Site.ID)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if draft, err := piece.ParseWith(row.Draft, book); err == nil {
			do(row, draft)
		}
	}
	return nil
}

// Measured reads the piece that is asked about as visitors have it; a draft as
// it is worked on.
func (s *Reader) Measured(c *route.Call, site int64) (row pieces.Piece, p *piece.Piece, err error) {
	row, err = s.store.Pieces.Get(c, site, c.Param("piece"))
	if err != nil {
		return row, nil, err
	}
	doc := []byte(row.Draft)
	if row.State != "draft" {
		doc = row.Live
	}
	p, err = s.Piece(c, doc)
	return row, p, err
}

// LastMicro is the end of the year 9999, in microseconds since 1970.
const LastMicro = 253_402_300_799_000_000

// PieceNames is what pieces and their variants are called, by id.
type PieceNames map[string]struct {
	Name     string
	Variants map[string]string
}

// Names reads what pieces are called, removed ones too.
func (s *Reader) Names(c *route.Call, site int64) (PieceNames, error) {
	pieces, err := s.store.Pieces.Documents(c, site)
	if err != nil {
		return nil, err
	}
	book, err := s.store.Reaches.Book(c, site)
	if err != nil {
		return nil, err
	}
	names := PieceNames{}
	for id, doc := range pieces {
		entry := names[id]
		entry.Name, entry.Variants = id, map[string]string{}
		if p, err := piece.ParseWith(doc, book); err != nil {
			entry.Name = NameIn(doc)
		} else {
			entry.Name = p.Name
			for i, v := range p.Split.Variants {
				entry.Variants[v.ID] = string(rune('A' + i))
			}
		}
		names[id] = entry
	}
	return names, nil
}

// NameIn is what a document is called, whether or not the rest of it can be read.
func NameIn(doc []byte) string {
	var d struct {
		Name string `json:"name"`
	}
	_ = json.Unmarshal(doc, &d)
	return d.Name
}

// OrNone is a list that is never null.
func OrNone[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

// Holds reports whether a text holds another, whatever their case.
func Holds(text, part string) bool {
	return strings.Contains(strings.ToLower(text), strings.ToLower(strings.TrimSpace(part)))
}
