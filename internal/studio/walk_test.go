package studio_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/internal/studio/compose"
	"gobbet/internal/templates"
)

// started is the drawing of a template with some goal, as the studio draws it.
func started(t *testing.T, goal templates.Goal) (drawing string, design piece.Design) {
	t.Helper()
	for _, s := range templates.All() {
		if s.Goal == goal {
			raw, err := json.Marshal(s.Drawing(s.Format, nil).WithValues())
			if err != nil {
				t.Fatal(err)
			}
			return string(raw), s.Design(s.Format)
		}
	}
	t.Fatalf("nothing to start %s from", goal)
	return "", piece.Design{}
}

// What is tried out in the studio goes as it goes for visitors, and shows them
// no more.
func TestAWorkedOnDesignIsWalkedAsVisitorsDo(t *testing.T) {
	h := signedIn(t)
	drawing, design := started(t, "quiz")
	var a struct {
		Drawing struct{ Scenes []json.RawMessage }
		At      struct{ Scene string }
	}
	said := h.Call("POST", at(h, "/walk"), `{"drawing":`+drawing+`,"steps":[]}`)
	said.Into(t, &a)
	if a.At.Scene != design.Scenes[0].ID || len(a.Drawing.Scenes) != len(design.Scenes) {
		t.Errorf("%+v", a.At)
	}
	if !strings.Contains(drawing, `"weights"`) || strings.Contains(string(said.Body), `"weights"`) {
		t.Errorf("what visitors are not told is in their drawing: %s", said.Body)
	}
	wants(t, h.Call("POST", at(h, "/walk"), `{"drawing":`+drawing+`,"steps":[{"scene":"nowhere"}]}`), http.StatusUnprocessableEntity, "faults")
	wants(t, h.Call("POST", at(h, "/walk"), `{"drawing":{"version":3},"steps":[]}`), http.StatusUnprocessableEntity, "faults")
	wants(t, h.Call("POST", at(h, "/walk"), `{"drawing":"no","steps":[]}`), http.StatusUnprocessableEntity, "faults")
}

func TestAThousandVisitorsGoThroughADesign(t *testing.T) {
	h := signedIn(t)
	drawing, design := started(t, "quiz")
	var first, again flow.PlayThrough
	h.Call("POST", at(h, "/playthrough"), `{"drawing":`+drawing+`,"seed":4}`).Into(t, &first)
	h.Call("POST", at(h, "/playthrough"), `{"drawing":`+drawing+`,"seed":4}`).Into(t, &again)
	if first.Visitors != 1000 || first.Reached[design.Scenes[0].ID] != 1000 || len(first.Results) < 2 || first.Lost != 0 {
		t.Errorf("%+v", first)
	}
	if first.Results[design.Scenes[len(design.Scenes)-1].ID] != again.Results[design.Scenes[len(design.Scenes)-1].ID] {
		t.Error("the same seed gives another play-through")
	}
	wants(t, h.Call("POST", at(h, "/playthrough"), `{"drawing":{"version":3}}`), http.StatusUnprocessableEntity, "faults")
}

func TestFormulasAreReckonedBesideWrongOnes(t *testing.T) {
	h := signedIn(t)
	var a compose.ReckonAnswer
	h.Call("POST", at(h, "/reckon"), `{"formulas":[{"name":"sum","formula":"bags * 12.5"},{"name":"bad","formula":"1 +* 2"},{"name":"more","formula":"sum + 1"},{"name":"round","formula":"round + 1"}],
		"inputs":["bags"],"samples":[{"bags":4},{}]}`).Into(t, &a)
	if len(a.Values) != 2 || a.Values[0][0] == nil || *a.Values[0][0] != 50 || a.Values[0][1] != nil || a.Values[0][2] == nil || *a.Values[0][2] != 51 {
		t.Errorf("%+v", a)
	}
	if a.Values[1][0] != nil {
		t.Error("a value without its input")
	}
	var at1 bool
	for _, f := range a.Faults {
		at1 = at1 || f.At == "formulas[1]" && f.Character == 4
	}
	if !at1 {
		t.Errorf("the fault is not at its character: %+v", a.Faults)
	}
	if len(a.Live) != 4 || a.Live[0].Tree == nil || a.Live[1].Tree != nil {
		t.Errorf("%+v", a.Live)
	}
	many := strings.TrimSuffix(strings.Repeat(`{"name":"a","formula":"1"},`, 61), ",")
	wants(t, h.Call("POST", at(h, "/reckon"), `{"formulas":[`+many+`],"inputs":[],"samples":[]}`), http.StatusUnprocessableEntity, "faults")
}
