package board

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

var now = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)

// shelf is pieces that are there. What is not overridden is not asked.
type shelf struct {
	*pieces.Store
	rows   []pieces.Piece
	paused struct {
		act         pieces.Act
		ids         []string
		from, until *time.Time
	}
}

func (s *shelf) List(context.Context, int64) ([]pieces.Piece, error) { return s.rows, nil }

func (s *shelf) Get(_ context.Context, _ int64, id string) (pieces.Piece, error) {
	for _, row := range s.rows {
		if row.ID == id {
			return row, nil
		}
	}
	return pieces.Piece{}, fault.ErrNotFound
}

func (s *shelf) Pause(_ context.Context, act pieces.Act, ids []string, from, until *time.Time) ([]string, error) {
	s.paused.act, s.paused.ids, s.paused.from, s.paused.until = act, ids, from, until
	return ids, nil
}

type counts struct{ *results.Store }

func (counts) Days(context.Context, int64, string, time.Time) ([]results.Tally, error) {
	return []results.Tally{{Piece: "one", Variant: "a", Day: now, Visitors: 40, Showings: 50, Conversions: 4}, {Piece: "gone", Variant: "a", Day: now, Visitors: 10, Conversions: 1}}, nil
}

type book struct{}

func (book) Book(context.Context, int64) (reach.Book, error) { return reach.Book{}, nil }

type pictures struct{ *library.Store }

func (pictures) Pictures(context.Context, int64) ([]library.Picture, error) {
	return nil, errors.New("away")
}

type pools struct{ *codes.Store }

func (pools) PoolsLeft(context.Context, int64, int) ([]codes.Pool, error) { return nil, nil }

func place(rows ...pieces.Piece) (*Place, *shelf) {
	s := &shelf{rows: rows}
	clock := func() time.Time { return now }
	read := parts.NewReader(parts.Stores{Pieces: s, Reaches: book{}, Library: pictures{}, Codes: pools{}}, clock)
	return New(read, Stores{Pieces: s, Reaches: book{}, Results: counts{}, Library: pictures{}}, nil, clock), s
}

func call() *route.Call {
	return &route.Call{Context: context.Background(), Site: sites.Site{ID: 3, Zone: "Europe/Dublin"}, Account: 7}
}

func drafted(id, name string) pieces.Piece {
	doc, _ := json.Marshal(piece.New(name, piece.Popup, "s"))
	return pieces.Piece{ID: id, State: "draft", Draft: doc, UpdatedAt: now}
}

func TestWhenAPauseMayBe(t *testing.T) {
	for _, c := range []struct{ from, until, at, says string }{
		{"", "", "", ""},
		{"2026-12-24T18:00", "2026-12-27T09:00", "", ""},
		{"", "tomorrow", "until", "should be a day and a time"},
		{"24.12.2026", "", "from", "should be a day and a time"},
		{"", "2020-01-01T09:00", "until", "is in the past"},
		{"2020-01-01T09:00", "", "from", "is in the past"},
		{"2026-12-27T09:00", "2026-12-24T18:00", "until", "should come after the start"},
		{"2026-12-24T18:00", "2026-12-24T18:00", "until", "should come after the start"},
	} {
		p, s := place()
		_, err := p.pause(call(), PauseRequest{Pieces: []string{"one"}, From: c.from, Until: c.until})
		if c.says == "" {
			if err != nil || s.paused.act != (pieces.Act{Site: 3, By: 7}) || len(s.paused.ids) != 1 {
				t.Errorf("%+v: %v, %+v", c, err, s.paused)
			}
			continue
		}
		var f fault.Fault
		if !errors.As(err, &f) || f.At != c.at || !strings.Contains(f.Message, c.says) || s.paused.ids != nil {
			t.Errorf("%+v: %v", c, err)
		}
	}
}

// A time is on the site's clock, whatever the server's.
func TestAPauseIsOnTheSitesClock(t *testing.T) {
	p, s := place()
	c := call()
	c.Site.Zone = "America/New_York"
	if _, err := p.pause(c, PauseRequest{All: true, Until: "2026-12-24T18:00"}); err != nil || !s.paused.until.Equal(time.Date(2026, 12, 24, 23, 0, 0, 0, time.UTC)) {
		t.Error(err, s.paused.until)
	}
	if s.paused.ids != nil {
		t.Error("all are named one by one")
	}
}

// What names no piece by mistake, such as the body null, takes nothing down.
func TestAllArePausedOnlyWhereItIsSaid(t *testing.T) {
	p, s := place()
	for _, none := range [][]string{nil, {}} {
		var f fault.Fault
		if _, err := p.pause(call(), PauseRequest{Pieces: none}); !errors.As(err, &f) || f.At != "pieces" {
			t.Error("pause:", err)
		}
		if _, err := p.resume(call(), ResumeRequest{Pieces: none}); !errors.As(err, &f) || f.At != "pieces" {
			t.Error("resume:", err)
		}
	}
	if s.paused.act != (pieces.Act{}) {
		t.Error("something was paused")
	}
}

// One that cannot be read is shown as that, and takes none of the others along;
// what cannot be looked up now is not known, and stops nothing.
func TestABadDocumentTakesNothingElseDown(t *testing.T) {
	broken := drafted("two", "Broken")
	broken.Draft = json.RawMessage(`{"name":"Broken","format":"no such"}`)
	p, _ := place(drafted("one", "One"), broken, drafted("three", "Three"))
	board, err := p.board(call(), route.None{})
	if err != nil || len(board.Cards) != 3 {
		t.Fatal(err, len(board.Cards))
	}
	one, two, three := board.Cards[0], board.Cards[1], board.Cards[2]
	if one.Name != "One" || one.Unreadable != "" || one.Measure.Visitors != 40 || one.Measure.Rate == nil || *one.Measure.Rate != 0.1 {
		t.Errorf("%+v", one)
	}
	if two.Name != "Broken" || two.Unreadable == "" || three.Unreadable != "" {
		t.Errorf("%q %q %q", two.Name, two.Unreadable, three.Unreadable)
	}
	// The rate of nobody is none, and a piece that is gone still counts in the whole.
	if three.Measure.Rate != nil || board.Overall.Visitors != 50 || board.Overall.Conversions != 5 {
		t.Errorf("%+v, %+v", three.Measure, board.Overall)
	}
}

func TestWhatANewPieceIsMadeOf(t *testing.T) {
	original := piece.New("Original", piece.Bar, "salt")
	original.Page = &piece.OwnPage{Address: "letter", Title: "Letter"}
	doc, _ := json.Marshal(original)
	p, _ := place(pieces.Piece{ID: "one", State: "draft", Draft: doc})
	copied, err := p.newDraft(call(), NewPiece{Name: "Copy", CopyOf: "one"})
	if err != nil || copied.Name != "Copy" || copied.Format != piece.Bar || copied.Page != nil || copied.Split.Salt == "salt" {
		t.Errorf("%v %+v", err, copied)
	}
	if _, err := p.newDraft(call(), NewPiece{Name: "Copy", CopyOf: "none"}); !errors.Is(err, fault.ErrNotFound) {
		t.Error(err)
	}
	var f fault.Fault
	if _, err := p.newDraft(call(), NewPiece{Name: "X", Template: "none"}); !errors.As(err, &f) || f.At != "template" {
		t.Error(err)
	}
}

// Counts are asked for every few seconds, drawings once: a card tells whether its is still the same.
func TestACardTellsItsDrawing(t *testing.T) {
	one, other := drafted("one", "One"), drafted("other", "Other")
	var doc map[string]any
	if err := json.Unmarshal(other.Draft, &doc); err != nil {
		t.Fatal(err)
	}
	doc["split"].(map[string]any)["variants"].([]any)[0].(map[string]any)["design"].(map[string]any)["frame"].(map[string]any)["width"] = 333
	other.Draft, _ = json.Marshal(doc)
	p, s := place(one, other)
	board, err := p.board(call(), route.None{})
	if err != nil {
		t.Fatal(err)
	}
	if board.Cards[0].Drawn == "" || board.Cards[0].Drawn == board.Cards[1].Drawn || board.Cards[0].Format != piece.Popup {
		t.Errorf("%+v", board.Cards)
	}
	for i, id := range []string{"one", "other"} {
		c := call()
		c.Params = map[string]string{"piece": id}
		got, err := p.drawing(c, route.None{})
		if err != nil || got.Drawn != board.Cards[i].Drawn || got.Drawing.Format != piece.Popup {
			t.Errorf("%s: %+v %v", id, got.Drawn, err)
		}
	}
	// A live piece is shown as visitors have it, whatever its draft.
	s.rows[0].State, s.rows[0].Live, s.rows[0].LiveSince, s.rows[0].Draft = "live", one.Draft, &now, other.Draft
	board, err = p.board(call(), route.None{})
	if err != nil || board.Cards[0].Drawn == board.Cards[1].Drawn {
		t.Errorf("%v %+v", err, board.Cards)
	}
}
