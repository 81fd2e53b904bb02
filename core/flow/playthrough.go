package flow

import (
	"context"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"

	"gobbet/core/answer"
	"gobbet/core/piece"
)

// PlayThrough is what comes of visitors who answer whatever they are asked, at
// random: any choice is as likely as any other. Real ones are not like that; it
// shows what the design itself makes likely.
type PlayThrough struct {
	// Visitors is how many went: fewer than were asked where they go round long,
	// or the time was over.
	Visitors int `json:"visitors"`
	// Reached is how many came to a scene, by its id.
	Reached map[string]int `json:"reached"`
	// Results is how many were given a result, by its scene.
	Results map[string]int `json:"results"`
	// Steps is how many came to the end in so many steps, by that number.
	Steps []int `json:"steps"`
	// Lost came to no end: Rounds of them went on in circles, others were led
	// nowhere by what they had answered, or could not answer as a pattern asks.
	Lost   int `json:"lost"`
	Rounds int `json:"rounds"`
	// Transcript is what the first of them heard and said.
	Transcript []Said `json:"transcript"`
}

const maxPlayed = 200_000 // steps of all visitors

// PlayThrough has visitors go through a graph; the same seed gives the same.
// They press what takes their answers where there is such a thing, or else any
// way on.
func (g *Graph) PlayThrough(ctx context.Context, visitors int, seed uint64) PlayThrough {
	out := PlayThrough{Reached: map[string]int{}, Results: map[string]int{}, Steps: []int{}, Transcript: g.Transcript(seed)}
	r := rand.New(rand.NewPCG(seed, 1))
	ways := make([][]string, len(g.scenes))
	for i := range g.scenes {
		ways[i] = g.scenes[i].likely()
	}
	for played := 0; out.Visitors < visitors && played < maxPlayed && ctx.Err() == nil; {
		out.Visitors++
		w := g.Begin()
		steps, from := 0, ""
		for !w.Ended {
			s := w.scene()
			press := ways[g.at[s.ID]][r.IntN(len(ways[g.at[s.ID]]))]
			step := Step{Scene: s.ID, Press: press}
			if s.presses[press].takes {
				step.Values = g.anyAnswers(s, r)
			}
			from = s.ID
			if w.TakeDrawing(step, r) != nil {
				break
			}
			steps++
			played++
		}
		for i, id := range w.Path {
			if slices.Index(w.Path, id) == i {
				out.Reached[id]++
			}
		}
		if result := w.Result(); result != "" {
			out.Results[result]++
		}
		switch {
		case !w.Ended:
			out.Lost++
			if len(w.Path) >= MaxPath {
				out.Rounds++
			}
		case w.At() == from && w.leads():
			out.Lost++
		default:
			for len(out.Steps) <= steps {
				out.Steps = append(out.Steps, 0)
			}
			out.Steps[steps]++
		}
	}
	return out
}

// likely are the ways that answers are taken along by, or else all.
func (s *scene) likely() []string {
	all := slices.Sorted(maps.Keys(s.presses))
	takes := slices.DeleteFunc(slices.Clone(all), func(press string) bool { return !s.presses[press].takes })
	if len(takes) > 0 {
		return takes
	}
	return all
}

// leads reports whether something could have led on from where a walk is.
func (w *Walk) leads() bool {
	return slices.ContainsFunc(w.scene().edges, func(e edge) bool { return e.to >= 0 && len(e.tests) > 0 })
}

// anyAnswers answers all that a scene asks.
func (g *Graph) anyAnswers(s *scene, r *rand.Rand) answer.Answers {
	answers := make(answer.Answers, len(s.form.Fields))
	for i := range s.form.Fields {
		if f := &s.form.Fields[i]; f.Ask != piece.AskDrawn {
			answers[f.Key] = g.anyAnswer(f, r)
		}
	}
	return answers
}

func (g *Graph) anyAnswer(f *answer.Field, r *rand.Rand) string {
	switch f.Ask {
	case piece.AskChoice, piece.AskDropdown:
		if len(f.Choices) > 0 {
			return f.Choices[r.IntN(len(f.Choices))].ID
		}
	case piece.AskChoices, piece.AskOrder:
		ids := make([]string, len(f.Choices))
		for i, at := range r.Perm(len(ids)) {
			ids[i] = f.Choices[at].ID
		}
		if f.Ask == piece.AskChoices {
			fewest, most := 1, len(ids)
			if n, err := strconv.Atoi(f.Least); err == nil {
				fewest = n
			}
			if n, err := strconv.Atoi(f.Most); err == nil {
				most = min(most, n)
			}
			taken := 0
			for range ids {
				taken += r.IntN(2)
			}
			ids = ids[:max(0, min(taken, most), min(fewest, most))]
		}
		return strings.Join(ids, "\n")
	case piece.AskNumber, piece.AskSlider:
		if f.Least != "" && f.Most != "" {
			low, high := bounds(f)
			step := f.StepSize()
			if step <= 0 {
				break
			}
			return strconv.FormatFloat(low+step*float64(r.IntN(int(min(1e6, math.Floor((high-low)/step)))+1)), 'f', -1, 64)
		}
	}
	candidates, _ := g.candidates(f)
	if len(candidates) > 1 && candidates[0] == "" {
		candidates = candidates[1:]
	}
	if len(candidates) == 0 {
		return ""
	}
	return candidates[r.IntN(len(candidates))]
}
