package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"gobbet/core/answer"
	"gobbet/core/caps"
	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/formula"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
)

func computations() []*cobra.Command {
	return []*cobra.Command{
		coreCommand("try", "Judge a rule on a visit", try),
		coreCommand("hold", "Say whether caps hold a piece back, and until when", hold),
		rehearseCommand(),
		coreCommand("reckon", "Compute a formula", reckon),
		coreCommand("walk", "Walk through a piece as visitors do", walk),
		coreCommand("draw", "Draw prizes, many times", drawMany),
		weighCommand(),
		coreCommand("plan", "Say how many visitors a test takes", plan),
		coreCommand("settle", "Look a piece over before launch", settleNotes),
	}
}

func object(input json.RawMessage, into any) error { return fault.Loosely(input, into) }

func instant(at, text string) (time.Time, error) {
	t, err := time.Parse(time.RFC3339Nano, text)
	if err != nil {
		return t, fault.Fault{At: at, Message: "should be a time such as 2026-11-24T10:00:00Z"}
	}
	return t, nil
}

func try(input json.RawMessage) (any, error) {
	var in struct {
		Rule  json.RawMessage `json:"rule"`
		Facts map[string]any  `json:"facts"`
		Now   string          `json:"now"`
	}
	if err := object(input, &in); err != nil {
		return nil, err
	}
	program, err := readRule(in.Rule)
	if err != nil {
		return nil, err
	}
	v := &reach.Visit{}
	if in.Now != "" {
		now, err := instant("now", in.Now)
		if err != nil {
			return nil, err
		}
		v.SetClock(now)
	}
	for name, is := range in.Facts {
		v.Set(name, is)
	}
	return map[string]any{
		"verdict": program.Judge(v), "waiting": program.Waiting(v), "phrase": program.Phrase(), "trace": program.Trace(v),
	}, nil
}

// readRule reads a rule; the places of its faults are from its root.
func readRule(raw json.RawMessage) (*reach.Program, error) {
	if raw == nil {
		return nil, fault.Fault{At: "rule", Message: "is missing"}
	}
	return reach.Read(raw)
}

func hold(input json.RawMessage) (any, error) {
	var in struct {
		Caps   json.RawMessage `json:"caps"`
		Memory struct {
			Visit struct {
				Shown []string `json:"shown"`
			} `json:"visit"`
			Shown      []string `json:"shown"`
			Closed     *string  `json:"closed"`
			Converted  *string  `json:"converted"`
			TotalShown int      `json:"total_shown"`
		} `json:"memory"`
		Now string `json:"now"`
	}
	if err := object(input, &in); err != nil {
		return nil, err
	}
	limits, err := caps.Parse(in.Caps)
	if err != nil {
		return nil, below("caps", err)
	}
	now, err := instant("now", in.Now)
	if err != nil {
		return nil, err
	}
	m := caps.Memory{ShownThisVisit: len(in.Memory.Visit.Shown), TotalShown: in.Memory.TotalShown}
	for i, text := range in.Memory.Visit.Shown {
		if _, err := instant(fault.Index("memory.visit.shown", i), text); err != nil {
			return nil, err
		}
	}
	for i, text := range in.Memory.Shown {
		t, err := instant(fault.Index("memory.shown", i), text)
		if err != nil {
			return nil, err
		}
		m.Shown = append(m.Shown, t)
	}
	for _, once := range []struct {
		at   string
		text *string
		into *time.Time
	}{{"memory.closed", in.Memory.Closed, &m.Closed}, {"memory.converted", in.Memory.Converted, &m.Converted}} {
		if once.text == nil {
			continue
		}
		if *once.into, err = instant(once.at, *once.text); err != nil {
			return nil, err
		}
	}
	why, until, held := limits.Hold(m, now)
	if !held {
		return map[string]any{"free": true}, nil
	}
	answer := map[string]any{"free": false, "why": why, "until": nil}
	if !until.IsZero() {
		answer["until"] = until.UTC().Format(time.RFC3339Nano)
	}
	return answer, nil
}

func below(at string, err error) error {
	var faults fault.Faults
	faults.Within(at, err)
	return faults
}

func settleNotes(input json.RawMessage) (any, error) {
	p, err := piece.Parse(input)
	if err != nil {
		return nil, err
	}
	return map[string]any{"notes": settle.Notes(p, settle.Around{})}, nil
}

func reckon(input json.RawMessage) (any, error) {
	var in struct {
		Formula string         `json:"formula"`
		Inputs  map[string]any `json:"inputs"`
	}
	if err := object(input, &in); err != nil {
		return nil, err
	}
	for name, is := range in.Inputs {
		if _, ok := is.(float64); !ok {
			return nil, fault.Fault{At: fault.Key("inputs", name), Message: "should be a number"}
		}
	}
	f, err := formula.Parse(in.Formula)
	if err != nil {
		return nil, inFormula("formula", err)
	}
	value, err := f.Value(func(name string) (float64, bool) {
		value, ok := in.Inputs[name].(float64)
		return value, ok
	})
	if err != nil {
		return nil, inFormula("formula", err)
	}
	return map[string]any{"value": value}, nil
}

// inFormula places an error of package formula.
func inFormula(at string, err error) error {
	var wrong *formula.Error
	if errors.As(err, &wrong) {
		return fault.Fault{At: at, Message: wrong.Message, Character: wrong.At + 1}
	}
	return err
}

func walk(input json.RawMessage) (any, error) {
	var in struct {
		Piece   json.RawMessage `json:"piece"`
		Variant string          `json:"variant"` // empty: the first
		Walks   []struct {
			Answers []struct {
				Scene  string         `json:"scene"`
				Press  string         `json:"press"`
				Values map[string]any `json:"values"`
				Back   bool           `json:"back"`
			} `json:"answers"`
			Seed int64 `json:"seed"`
		} `json:"walks"`
	}
	if err := object(input, &in); err != nil {
		return nil, err
	}
	if in.Piece == nil {
		return nil, fault.Fault{At: "piece", Message: "is missing"}
	}
	p, err := piece.Parse(in.Piece)
	if err != nil {
		var faults fault.Faults
		faults.Within("piece", err)
		return nil, faults
	}
	v := p.Split.Variants[0]
	if in.Variant != "" {
		var ok bool
		if v, ok = p.Variant(in.Variant); !ok {
			return nil, fault.Fault{At: "variant", Message: "is not a variant of this piece"}
		}
	}
	g, err := flow.Of(v.Design)
	if err != nil {
		return nil, err
	}
	walks := []any{}
	for _, one := range in.Walks {
		steps, wrong := []flow.Step{}, error(nil)
		for i, a := range one.Answers {
			step := flow.Step{Scene: a.Scene, Press: a.Press, Back: a.Back, Values: map[string]string{}}
			for _, key := range slices.Sorted(maps.Keys(a.Values)) {
				text, ok := answer.Text(a.Values[key])
				if !ok {
					wrong = fault.Fault{At: fault.Key(fault.Key(fault.Index("answers", i), "values"), key), Message: "is not an answer"}
				}
				step.Values[key] = text
			}
			if wrong != nil {
				break
			}
			steps = append(steps, step)
		}
		w, err := g.Replay(steps, rand.NewPCG(uint64(one.Seed), 1))
		if err == nil {
			err = wrong
		}
		var stopped any
		if err != nil {
			stopped = fault.Of(err)[0]
		}
		walks = append(walks, map[string]any{
			"path": w.Path, "score": w.Score(), "values": w.Values(), "result": orNull(w.Result()), "drawn": orNull(drawnLast(w)), "ended": w.Ended, "error": stopped,
		})
	}
	return map[string]any{"walks": walks}, nil
}

// drawnLast is the label of what was drawn last on a walk; empty: nothing.
func drawnLast(w *flow.Walk) (label string) {
	drawn := w.Drawn()
	for _, id := range w.Path {
		for _, d := range w.Graph().Draws(id) {
			if p, ok := drawn[d.Key]; ok {
				label = p.Label
			}
		}
	}
	return label
}

func drawMany(input json.RawMessage) (any, error) {
	var in struct {
		Parts []struct {
			Label  string   `json:"label"`
			Weight *float64 `json:"weight"`
			Stock  *int     `json:"stock"`
		} `json:"parts"`
		Times int   `json:"times"`
		Seed  int64 `json:"seed"`
	}
	if err := object(input, &in); err != nil {
		return nil, err
	}
	var faults fault.Faults
	if len(in.Parts) == 0 || len(in.Parts) > mostDrawParts {
		faults.Add("parts", "should be 1 to %d", mostDrawParts)
		return nil, faults
	}
	if in.Times < 0 || in.Times > mostDraws {
		faults.Add("times", "should be 0 to %d", mostDraws)
	}
	parts, odds, drawn := make([]draw.Part, len(in.Parts)), map[string]float64{}, map[string]int{}
	for i, p := range in.Parts {
		at := fault.Index("parts", i)
		if _, twice := odds[p.Label]; twice {
			faults.Add(fault.Key(at, "label"), "is there twice")
		}
		odds[p.Label] = 0
		parts[i].Stock = -1
		switch {
		case p.Weight == nil:
			faults.Add(fault.Key(at, "weight"), "is missing")
		default:
			parts[i].Weight = *p.Weight
		}
		if p.Stock != nil {
			if parts[i].Stock = *p.Stock; *p.Stock < 0 {
				faults.Add(fault.Key(at, "stock"), "should be 0 or more")
			}
		}
	}
	if faults != nil {
		return nil, faults
	}
	pot, err := draw.New(parts)
	if err != nil {
		return nil, err
	}
	for i, o := range pot.Odds() {
		odds[in.Parts[i].Label], drawn[in.Parts[i].Label] = o, 0
	}
	source := rand.NewPCG(uint64(in.Seed), 1)
	for n := range in.Times {
		i, err := pot.Draw(source)
		if err != nil {
			return nil, fault.Fault{At: "times", Message: fmt.Sprintf("is more than there is to draw: nothing is left after %d", n)}
		}
		drawn[in.Parts[i].Label]++
	}
	return map[string]any{"drawn": drawn, "odds": odds}, nil
}

const (
	mostDrawParts = 1000
	mostDraws     = 100_000_000
)

func orNull(s string) any {
	if s == "" {
		return nil
	}
	return s
}
