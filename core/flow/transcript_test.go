package flow

import (
	"slices"
	"strings"
	"testing"
)

// chat asks, lets go who says no, and goes on by itself for who says yes.
var chat = []string{
	sceneDoc("hello", "question", `{"kind":"text","id":"t","text":"Hello.","size":16,"align":"start"},{"kind":"field","id":"f","ask":"choice","key":"like","label":"Do you like clay?","required":true,"advances":true,"choices":[{"id":"yes","label":"Yes"},{"id":"no","label":"No"}]}`,
		`{"when":[{"of":"like","op":"is","value":"no"}],"to":"bye"},{"to":"good"}`),
	strings.Replace(sceneDoc("good", "plain", `{"kind":"text","id":"t","text":"Good: {like} it is, {nobody|friend}{nothing}.","size":16,"align":"start"}`, to("end")), `"kind":"plain"`, `"kind":"plain","passes":true`, 1),
	sceneDoc("bye", "thanks", `{"kind":"text","id":"t","text":"Goodbye.","size":16,"align":"start"}`, ""),
	sceneDoc("end", "thanks", `{"kind":"text","id":"t","text":"Come by.","size":16,"align":"start"}`, ""),
}

func TestATranscriptReadsAsItIsSpoken(t *testing.T) {
	g := graph(t, strings.Join(chat, ","))
	heard := map[string]bool{}
	for seed := range uint64(20) {
		var lines []string
		for _, s := range g.Transcript(seed) {
			who := "-"
			if s.Visitor {
				who = ">"
			}
			lines = append(lines, who+" "+s.Text)
		}
		heard[strings.Join(lines, "\n")] = true
		if !slices.Equal(g.Transcript(seed), g.Transcript(seed)) {
			t.Error("the same seed says something else")
		}
	}
	yes, no := "- Hello.\n- Do you like clay?\n> Yes\n- Good: Yes it is, friend.\n- Come by.", "- Hello.\n- Do you like clay?\n> No\n- Goodbye."
	if len(heard) != 2 || !heard[yes] || !heard[no] {
		t.Errorf("%v", heard)
	}
}

func TestALineThatPassesGoesOnByItself(t *testing.T) {
	g := graph(t, strings.Join(chat, ","))
	w, err := g.Replay([]Step{{Scene: "hello", Values: map[string]string{"like": "yes"}}, {Scene: "good"}}, nil)
	if err != nil || w.At() != "end" || !w.Ended {
		t.Errorf("%v at %s", err, w.At())
	}
	if w, err := g.Replay([]Step{{Scene: "hello", Values: map[string]string{"like": "yes"}}, {Scene: "good", Press: "t"}}, nil); err == nil {
		t.Errorf("by a block that leads nowhere to %s", w.At())
	}
	if found := g.Explore(MaxWork); len(found.Scores) != 4 || !found.Whole {
		t.Errorf("%+v", found)
	}
	if ids := g.Trapped(); len(ids) != 0 {
		t.Errorf("nobody leaves %v", ids)
	}
}
