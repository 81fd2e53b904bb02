// Package worst makes the documents that cost most to look at for their size:
// one of each kind of thing that can be heaped up. What takes documents in is
// held to them.
package worst

import (
	"encoding/json"
	"fmt"
	"strings"

	"gobbet/core/piece"
	"gobbet/core/reach"
)

// Document is one of them.
type Document struct {
	Name string
	JSON []byte
	// Refused is what its fault says; empty where it is to be taken.
	Refused string
}

// Documents gives one of each kind.
func Documents() []Document {
	return []Document{
		named("formulas that each name the two before", func(p *piece.Piece) { fibonacci(design(p)) }),
		named("scenes all joined, by answers", func(p *piece.Piece) { joined(design(p), "q") }),
		named("scenes all joined, by scores of every subset", func(p *piece.Piece) { joined(design(p), "score") }),
		named("scenes all joined, by formulas on one another", func(p *piece.Piece) { joined(design(p), "f59") }),
		named("eight variants of scenes all joined", func(p *piece.Piece) {
			joined(design(p), "score")
			first := p.Split.Variants[0]
			for i := range 7 {
				v := first
				v.ID, v.Name = fmt.Sprint("v", i), fmt.Sprint("Variant ", i)
				p.Split.Variants = append(p.Split.Variants, v)
			}
		}),
		named("a hundred nots in nots, over a moment and a fact", func(p *piece.Piece) { p.Rule = nots(94) }),
		named("conditions in conditions", func(p *piece.Piece) { p.Rule = nested(48) }),
		named("as many clauses as there may be", func(p *piece.Piece) {
			p.Rule = nil
			var all reach.All
			for i := range reach.MaxClauses {
				all = append(all, reach.Clause{Fact: "page.title", Op: reach.Like, Value: fmt.Sprint("*a*", i, "*b*")})
			}
			p.Rule = all
		}),
		named("choices of choices, all of them named in formulas", func(p *piece.Piece) { choices(design(p)) }),
		named("words full of what was answered", func(p *piece.Piece) { merging(design(p)) }),
		refused("patterns with counted repeats", "are allowed", func(p *piece.Piece) {
			var all reach.All
			for range 400 {
				all = append(all, reach.Clause{Fact: "page.path", Op: reach.Matches, Value: `(?:[a-z/]{1,30}){1,33}$`})
			}
			p.Rule = all
		}),
		refused("many patterns that each are fair", "one pattern too many", func(p *piece.Piece) {
			var all reach.All
			for range 400 {
				all = append(all, reach.Clause{Fact: "page.path", Op: reach.Matches, Value: `[a-z/]{1,300}x$`})
			}
			p.Rule = all
		}),
		refused("fields whose patterns repeat", "are allowed", func(p *piece.Piece) {
			s := &design(p).Scenes[0]
			for i := range 50 {
				s.Blocks = append(s.Blocks, piece.Field{Kind: "field", ID: fmt.Sprint("w", i), Ask: piece.AskText, Key: fmt.Sprint("w", i), Label: "W", Pattern: `(?:a{1,90}){1,11}`})
			}
		}),
	}
}

func named(name string, with func(*piece.Piece)) Document { return refused(name, "", with) }

func refused(name, why string, with func(*piece.Piece)) Document {
	p := piece.New(name, piece.Popup, "salt")
	with(p)
	raw, err := json.Marshal(p)
	if err != nil {
		panic(err) // it is made here
	}
	return Document{name, raw, why}
}

func design(p *piece.Piece) *piece.Design { return &p.Split.Variants[0].Design }

func fibonacci(d *piece.Design) {
	d.Formulas = []piece.Formula{{Name: "f0", Formula: "1"}, {Name: "f1", Formula: "1"}}
	for i := 2; i < 60; i++ {
		d.Formulas = append(d.Formulas, piece.Formula{Name: fmt.Sprint("f", i), Formula: fmt.Sprintf("(f%d + f%d) / 2", i-1, i-2)})
	}
	d.Scenes[0].Blocks = append(d.Scenes[0].Blocks, piece.Value{Kind: "value", ID: "shown", Formula: "f59", Size: 20, Align: "start"})
}

// joined makes 40 scenes of which each leads to all, by what is tested.
func joined(d *piece.Design, by string) {
	const n = 40
	d.Scenes, d.Ties = nil, "latest"
	for i := range n {
		s := piece.Scene{ID: fmt.Sprint("s", i), Name: "S", Kind: piece.QuestionScene}
		f := piece.Field{Kind: "field", ID: "f", Ask: piece.AskChoices, Key: fmt.Sprint("q", i), Label: "Q"}
		for c := range 10 {
			f.Choices = append(f.Choices, piece.Choice{ID: fmt.Sprint("c", c), Label: fmt.Sprint("C", c), Score: float64(int(1) << c)})
		}
		s.Blocks = []piece.Block{f, piece.Button{Kind: "button", ID: "b", Words: "On", Press: piece.Press{Do: piece.DoSend}}}
		for to := range n {
			test := piece.Test{Of: by, Op: piece.TestGte, Value: float64(1000 - 25*to)}
			if by == "q" {
				test = piece.Test{Of: f.Key, Op: piece.TestIs, Value: fmt.Sprint("c", to%10)}
			}
			s.Edges = append(s.Edges, piece.Edge{When: []piece.Test{test}, To: fmt.Sprint("s", to)})
		}
		d.Scenes = append(d.Scenes, s)
	}
	if by == "f59" {
		d.Formulas = []piece.Formula{{Name: "f0", Formula: "score * 2"}}
		for i := 1; i < 60; i++ {
			d.Formulas = append(d.Formulas, piece.Formula{Name: fmt.Sprint("f", i), Formula: fmt.Sprintf("f%d * 1.01 + score", i-1)})
		}
	}
}

func nots(deep int) reach.Rule {
	var r reach.Rule = reach.All{
		reach.Any{reach.Clause{Fact: "page.path", Op: reach.Is, Value: "/nowhere"}, reach.Clause{Fact: "moment.exit_intent", Op: reach.Happened}},
		reach.Clause{Fact: "moment.scroll_percent", Op: reach.Gte, Value: 50.0},
	}
	for range deep {
		r = reach.Not{Rule: r}
	}
	return r
}

func nested(deep int) reach.Rule {
	clause := func(i int) reach.Rule {
		return reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: float64(i)}
	}
	r := clause(0)
	for i := range deep {
		r = reach.Any{reach.All{clause(i), r}, clause(2 * i)}
	}
	return r
}

// merging asks much at once, and then says it over and over.
func merging(d *piece.Design) {
	asks := piece.Scene{ID: "s0", Name: "S", Kind: piece.QuestionScene}
	for k := range 40 {
		f := piece.Field{Kind: "field", ID: fmt.Sprint("f", k), Ask: piece.AskChoices, Key: fmt.Sprint("q", k), Label: "Q"}
		for c := range 30 {
			f.Choices = append(f.Choices, piece.Choice{ID: fmt.Sprint("c", c), Label: fmt.Sprint("C", c)})
		}
		asks.Blocks = append(asks.Blocks, f)
	}
	asks.Blocks = append(asks.Blocks, piece.Button{Kind: "button", ID: "b", Words: "On", Press: piece.Press{Do: piece.DoSend}})
	asks.Edges = []piece.Edge{{To: "s1"}}
	d.Scenes = []piece.Scene{asks}
	for i := 1; i < 40; i++ {
		s := piece.Scene{ID: fmt.Sprint("s", i), Name: "S", Kind: piece.PlainScene, Passes: true}
		for k := range 15 {
			s.Blocks = append(s.Blocks, piece.Text{Kind: "text", ID: fmt.Sprint("t", k), Text: piece.Plain(strings.Repeat(fmt.Sprintf("{q%d}", k), 300)), Size: 16, Align: "start"})
		}
		if i < 39 {
			s.Edges = []piece.Edge{{To: fmt.Sprint("s", i+1)}}
		}
		d.Scenes = append(d.Scenes, s)
	}
}

// choices heaps up as many as a document has room for.
func choices(d *piece.Design) {
	var sum []string
	for i := range 40 {
		s := piece.Scene{ID: fmt.Sprint("s", i), Name: "S", Kind: piece.QuestionScene}
		for k := range 8 {
			f := piece.Field{Kind: "field", ID: fmt.Sprint("f", k), Ask: piece.AskChoices, Key: fmt.Sprintf("q%d_%d", i, k), Label: "Q"}
			for c := range 30 {
				f.Choices = append(f.Choices, piece.Choice{ID: fmt.Sprint("c", c), Label: fmt.Sprint("C", c), Score: 1})
			}
			s.Blocks = append(s.Blocks, f)
			sum = append(sum, f.Key+".c1")
		}
		s.Blocks = append(s.Blocks, piece.Button{Kind: "button", ID: "b", Words: "On", Press: piece.Press{Do: piece.DoSend}})
		if i > 0 {
			d.Scenes[i-1].Edges = []piece.Edge{{To: s.ID}}
		} else {
			d.Scenes = nil
		}
		d.Scenes = append(d.Scenes, s)
	}
	for i := range 20 {
		d.Formulas = append(d.Formulas, piece.Formula{Name: fmt.Sprint("f", i), Formula: strings.Join(sum[i*16:(i+1)*16], " + ")})
	}
}
