package piece

import (
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/formula"
	"gobbet/core/read"
	"gobbet/core/text"
)

// Edge is a way from a scene to another.
type Edge struct {
	// Block is the button, timer or choice by which one leaves; empty: any.
	Block string `json:"block,omitempty"`
	// When says what has to hold, all of it; nothing: always.
	When []Test `json:"when,omitempty"`
	// To is the scene it leads to; empty: the piece closes.
	To string `json:"to,omitempty"`
}

// Test is a condition over the answers and values so far.
type Test struct {
	// Of is the key of a field, the name of a formula, score, or weights.
	Of string `json:"of"`
	Op TestOp `json:"op"`
	// Value is a number; the id of a choice, or a text, for is and is_not; and
	// the id of a result's scene for most.
	Value any `json:"value,omitempty" tstype:"string | number"`
}

// TestOp is how a value is compared.
type TestOp string

const (
	TestIs       TestOp = "is"
	TestIsNot    TestOp = "is_not"
	TestEq       TestOp = "eq"
	TestNe       TestOp = "ne"
	TestLt       TestOp = "lt"
	TestLte      TestOp = "lte"
	TestGt       TestOp = "gt"
	TestGte      TestOp = "gte"
	TestAnswered TestOp = "answered"
	TestNot      TestOp = "not_answered"
	// TestMost holds where a result has the most weight.
	TestMost TestOp = "most"
)

// Numeric reports whether a test compares numbers.
func (o TestOp) Numeric() bool {
	return slices.Contains([]TestOp{TestEq, TestNe, TestLt, TestLte, TestGt, TestGte}, o)
}

// Names that formulas cannot have, nor fields, but for the score: a field of
// that name stands for it.
const (
	ScoreName   = "score"
	WeightsName = "weights"
)

// Formula is a value computed from answers. See package formula.
type Formula struct {
	Name    string `json:"name"`
	Formula string `json:"formula"`
	// Style is how the value is written: a plain number, money or percent.
	Style    string `json:"style,omitempty" tstype:"'money' | 'percent'"`
	Currency string `json:"currency,omitempty"` // ISO 4217, of money
	// Places is how many decimals are written, 0 to 6; nil: as many as usual.
	Places *int `json:"places,omitempty"`

	Parsed *formula.Formula `json:"-" tstype:"-"`
}

// LiveFormula is a formula as the page has it. Tree is as package formula
// describes it.
type LiveFormula struct {
	Name     string `json:"name"`
	Tree     any    `json:"tree,omitempty" tstype:"unknown"` // nil: the server computes it
	Style    string `json:"style,omitempty" tstype:"'money' | 'percent'"`
	Currency string `json:"currency,omitempty"`
	Places   *int   `json:"places,omitempty"`
}

// Live gives a formula as the page computes it; without a tree where it was not parsed.
func (f Formula) Live() LiveFormula {
	live := LiveFormula{Name: f.Name, Style: f.Style, Currency: f.Currency, Places: f.Places}
	if f.Parsed != nil {
		live.Tree = f.Parsed.Tree()
	}
	return live
}

// Case is a sample of inputs, with the values that are expected.
type Case struct {
	Name   string             `json:"name,omitempty"`
	Inputs map[string]float64 `json:"inputs"`
	Wants  map[string]float64 `json:"wants"` // by the names of formulas
}

const (
	maxEdges    = 60
	maxTests    = 20
	maxFormulas = 60
	maxCases    = 60
)

var currencyForm = regexp.MustCompile(`^[A-Z]{3}$`)

// edges reads the edges of a scene. Those of blocks that are not there any more
// lead nowhere and are dropped.
func (r *reader) edges(edges []Edge, at string, blocks map[string]bool) (kept []Edge) {
	if len(edges) > maxEdges {
		r.Faults.Add(at, "should be at most %d edges", maxEdges)
		return nil
	}
	for i, e := range edges {
		place := fault.Index(at, i)
		if len(e.When) > maxTests {
			r.Faults.Add(fault.Key(place, "when"), "should be at most %d tests", maxTests)
		}
		for j, t := range e.When {
			read.OneOf(&r.Reader, fault.Key(fault.Index(fault.Key(place, "when"), j), "op"), t.Op, TestIs, TestIsNot, TestEq, TestNe, TestLt, TestLte, TestGt, TestGte, TestAnswered, TestNot, TestMost)
		}
		if e.Block == "" || blocks[e.Block] {
			kept = append(kept, e)
		}
	}
	return kept
}

// Numeric reports whether an answer is, or stands for, a number in formulas.
func (f Field) Numeric() bool {
	switch f.Ask {
	case AskNumber, AskSlider, AskScale, AskStars, AskChoice, AskChoices, AskDropdown, AskOrder, AskConsent:
		return true
	case AskText:
		return len(f.Right) > 0
	}
	return false
}

// Fields gives all that is answered in a design by their keys: fields, and
// prize draws.
func (d Design) Fields() map[string]Field {
	fields := map[string]Field{}
	d.EachBlock(func(_ string, _ Scene, b Block) {
		if f, ok := Asked(b); ok {
			fields[f.Key] = f
		}
	})
	return fields
}

// Asked gives a block as a field, if it is answered by something.
func Asked(b Block) (f Field, ok bool) {
	switch b := b.(type) {
	case Field:
		return b, true
	case PrizeDraw:
		f = Field{Kind: "field", ID: b.ID, Ask: AskDrawn, Key: b.Key, Label: b.Label, Lay: b.Lay}
		for _, p := range b.Parts {
			f.Choices = append(f.Choices, Choice{ID: p.ID, Label: p.Label})
		}
		return f, true
	}
	return f, false
}

// Inputs lists the names that formulas may use besides each other's: keys of
// answers that are numbers; key.choice, which is 1 where that choice was taken
// and 0 otherwise; and score, unless a field has that key.
func (d Design) Inputs() (names []string) {
	if _, taken := d.Fields()[ScoreName]; !taken {
		names = append(names, ScoreName)
	}
	d.EachBlock(func(_ string, _ Scene, b Block) {
		f, ok := b.(Field)
		if !ok || !f.Numeric() {
			return
		}
		names = append(names, f.Key)
		if f.Ask != AskOrder {
			for _, c := range f.Choices {
				names = append(names, f.Key+"."+c.ID)
			}
		}
	})
	return names
}

// FormulaSet puts the formulas of a checked design together.
func (d Design) FormulaSet() (*formula.Set, error) {
	names, formulas := make([]string, len(d.Formulas)), make([]*formula.Formula, len(d.Formulas))
	for i, f := range d.Formulas {
		names[i], formulas[i] = f.Name, f.Parsed
	}
	return formula.NewSet(names, formulas, d.Inputs())
}

// formulas reads the formulas of a design, and holds them to its fields.
func (r *reader) formulas(d *Design, at string) {
	if len(d.Formulas) > maxFormulas {
		r.Faults.Add(at, "should be at most %d formulas", maxFormulas)
		return
	}
	fields, seen, sound := d.Fields(), map[string]bool{}, true
	for i := range d.Formulas {
		f := &d.Formulas[i]
		place := fault.Index(at, i)
		if !answerKey.MatchString(f.Name) {
			r.Faults.Add(fault.Key(place, "name"), "should be a short name of small letters, digits and _, starting with a letter")
		}
		r.Unique(seen, f.Name, fault.Key(place, "name"))
		if _, taken := fields[f.Name]; taken || reserved(f.Name) {
			r.Faults.Add(fault.Key(place, "name"), "is the name of something else already")
			sound = false
		}
		read.Optional(&r.Reader, fault.Key(place, "style"), f.Style, "money", "percent")
		if f.Style == "money" && !currencyForm.MatchString(f.Currency) {
			r.Faults.Add(fault.Key(place, "currency"), "should be a currency such as EUR")
		}
		if f.Places != nil {
			r.Between(fault.Key(place, "places"), *f.Places, 0, 6)
		}
		parsed, err := formula.Parse(f.Formula)
		f.Parsed = parsed
		sound = r.inFormula(fault.Key(place, "formula"), err) && sound
	}
	if !sound {
		return
	}
	_, err := d.FormulaSet()
	var wrong *formula.NamedError
	if errors.As(err, &wrong) {
		r.inFormula(fault.Key(fault.Index(at, wrong.Index), "formula"), err)
	}
}

// inFormula notes what is wrong with a formula, at the very character.
func (r *reader) inFormula(at string, err error) bool {
	var wrong *formula.Error
	if errors.As(err, &wrong) {
		r.Faults = append(r.Faults, fault.Fault{At: at, Message: wrong.Message, Character: wrong.At + 1})
	}
	return err == nil
}

func reserved(name string) bool {
	return slices.Contains([]string{ScoreName, WeightsName, "and", "or", "not"}, name) || slices.Contains(formula.Functions(), name)
}

func (r *reader) cases(cases []Case, at string) {
	if len(cases) > maxCases {
		r.Faults.Add(at, "should be at most %d cases", maxCases)
	}
	for i, c := range cases {
		r.Text(fault.Key(fault.Index(at, i), "name"), c.Name, maxName)
		if len(c.Inputs) > 200 || len(c.Wants) > maxFormulas {
			r.Faults.Add(fault.Index(at, i), "names more than there is")
		}
	}
}

// references checks everything in a design that names something else of it.
func (r *reader) references(d *Design, at string) {
	fields := d.Fields()
	formulas := map[string]bool{}
	for _, f := range d.Formulas {
		formulas[f.Name] = true
	}
	results, scenes := map[string]bool{}, map[string]bool{}
	for _, s := range d.Scenes {
		scenes[s.ID], results[s.ID] = true, s.Kind == ResultScene
	}
	for i, s := range d.Scenes {
		for j, e := range s.Edges {
			place := fault.Index(fault.Key(fault.Index(fault.Key(at, "scenes"), i), "edges"), j)
			if e.To != "" && !scenes[e.To] {
				r.Faults.Add(fault.Key(place, "to"), "names a scene that is not here")
			}
			for k, t := range e.When {
				if wrong := t.unfit(fields, formulas, results); wrong != "" {
					r.Faults.Add(fault.Index(fault.Key(place, "when"), k), "%s", wrong)
				}
			}
		}
	}
	keys := map[string]bool{}
	d.EachBlock(func(place string, _ Scene, b Block) {
		place = fault.Join(at, place)
		switch b := b.(type) {
		case Field:
			r.answers(keys, b.Key, place)
			for i, c := range b.Choices {
				for _, to := range slices.Sorted(maps.Keys(c.Weights)) {
					if !results[to] {
						r.Faults.Add(fault.Key(fault.Index(fault.Key(place, "choices"), i), "weights"), "speak for %q, which is not a result", to)
					}
				}
			}
		case PrizeDraw:
			r.answers(keys, b.Key, place)
		case Code:
			if b.Draw != "" && fields[b.Draw].Ask != AskDrawn {
				r.Faults.Add(fault.Key(place, "draw"), "names a prize draw that is not here")
			}
		case Value:
			if !formulas[b.Formula] {
				r.Faults.Add(fault.Key(place, "formula"), "names a formula that is not here")
			}
		case Tally:
			if f, ok := fields[b.Key]; !ok || !f.Ask.Chooses() || f.Ask == AskOrder {
				r.Faults.Add(fault.Key(place, "key"), "should be the name of a question with choices")
			}
		}
	})
}

// answers notes that a block answers by a key.
func (r *reader) answers(keys map[string]bool, key, place string) {
	if r.Unique(keys, key, fault.Key(place, "key")); reserved(key) && key != ScoreName {
		r.Faults.Add(fault.Key(place, "key"), "is the name of something else already")
	}
}

// unfit says what is wrong with a test; empty: nothing.
func (t Test) unfit(fields map[string]Field, formulas, results map[string]bool) string {
	field, isField := fields[t.Of]
	number, isNumber := t.Value.(float64)
	word, isText := t.Value.(string)
	switch {
	case t.Op == TestMost:
		if t.Of != WeightsName || !results[word] {
			return "should be the weights, and a result they speak for"
		}
	case t.Of == WeightsName:
		return "weights are compared by which result has the most"
	case !isField && !formulas[t.Of] && t.Of != ScoreName:
		return fmt.Sprintf("%q is neither a field, a formula nor the score", t.Of)
	case t.Op == TestAnswered || t.Op == TestNot:
		if !isField {
			return "only a field is answered or not"
		}
	case t.Op.Numeric():
		if !isNumber || number-number != 0 {
			return "should be compared with a number"
		}
		if isField && !field.Numeric() {
			return "compares an answer that is not a number"
		}
	case !isField || !isText:
		return "should compare an answer with a text, or with the id of a choice"
	case len(field.Choices) > 0 && !slices.ContainsFunc(field.Choices, func(c Choice) bool { return c.ID == word }):
		return fmt.Sprintf("%q is not a choice of that field", word)
	}
	return ""
}

// choices checks what a field offers.
func (r *reader) choices(f *Field, at string) {
	if len(f.Choices) < 1 || len(f.Choices) > maxChoices {
		r.Faults.Add(at, "should be 1 to %d", maxChoices)
		return
	}
	ids, labels := map[string]bool{}, map[string]bool{}
	for i := range f.Choices {
		c := &f.Choices[i]
		place := fault.Index(at, i)
		if !answerKey.MatchString(c.ID) {
			r.Faults.Add(fault.Key(place, "id"), "should be a short name of small letters, digits and _, starting with a letter")
		}
		r.Unique(ids, c.ID, fault.Key(place, "id"))
		c.Label = r.Line(fault.Key(place, "label"), c.Label, maxWords)
		if strings.Contains(c.Label, "\n") {
			r.Faults.Add(fault.Key(place, "label"), "should be one line")
		}
		r.Unique(labels, c.Label, fault.Key(place, "label"))
		r.hash(fault.Key(place, "picture"), c.Picture, "a picture")
		r.amount(fault.Key(place, "score"), c.Score)
		if len(c.Weights) > maxScenes {
			r.Faults.Add(fault.Key(place, "weights"), "should be at most %d", maxScenes)
		}
		for _, w := range c.Weights {
			r.amount(fault.Key(place, "weights"), w)
		}
	}
}

// maxAmount bounds scores and weights, so that sums of them stay exact.
const maxAmount = 1e9

func (r *reader) amount(at string, x float64) {
	if !(x >= -maxAmount && x <= maxAmount) {
		r.Faults.Add(at, "should be %d to %d", -int64(maxAmount), int64(maxAmount))
	}
}

// slider checks the bounds of a slider.
func (r *reader) slider(f *Field, at string) {
	least, hasLeast := text.Number(f.Least)
	most, hasMost := text.Number(f.Most)
	if !hasLeast || !hasMost || least >= most {
		r.Faults.Add(fault.Key(at, "most"), "should be above the least, and both be numbers")
		return
	}
	step := f.StepSize()
	if step <= 0 || (most-least)/step > 100_000 {
		r.Faults.Add(fault.Key(at, "step"), "should be above 0, with at most 100000 steps")
	}
	if start, ok := text.Number(f.Start); f.Start != "" && (!ok || start < least || start > most) {
		r.Faults.Add(fault.Key(at, "start"), "should be between least and most")
	}
}

// StepSize is the distance between numbers that a slider may take.
func (f Field) StepSize() float64 {
	if step, ok := text.Number(f.Step); ok {
		return step
	}
	return 1
}
