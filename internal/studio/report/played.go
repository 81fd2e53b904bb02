package report

import (
	"strconv"
	"strings"
	"time"

	"gobbet/core/answer"
	"gobbet/core/piece"
	"gobbet/internal/route"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/walks"
	"gobbet/internal/studio/parts"
)

// played says how far visitors came in a piece, and what they answered.
func (s *Place) played(c *route.Call, ask PlayedQuery) (answer Played, err error) {
	site := c.Site
	row, p, err := s.read.Measured(c, site.ID)
	if err != nil {
		return answer, err
	}
	since := s.since(ask.Days, site)
	play, err := s.store.Walks.Played(c, site.ID, row.ID, since)
	if err != nil {
		return answer, err
	}
	days, err := s.store.Results.Days(c, site.ID, row.ID, since)
	if err != nil {
		return answer, err
	}
	result := Played{Confidence: parts.Confidence, Variants: []PlayedVariant{}}
	prizes, err := s.prizesLeft(c, site, row.ID, p)
	if err != nil {
		return answer, err
	}
	uncounted, err := s.store.Walks.Uncounted(c, site.ID, row.ID, since)
	if err != nil {
		return answer, err
	}
	for _, v := range p.Split.Variants {
		one := playedVariant(v, play, days)
		one.Draws = playedDraws(v, play, prizes)
		one.setApart(uncounted)
		result.Variants = append(result.Variants, one)
	}
	return result, nil
}

// setApart notes what visitors who are not counted took part in.
func (v *PlayedVariant) setApart(uncounted []walks.Uncounted) {
	for _, u := range uncounted {
		for i := range v.Draws {
			d := &v.Draws[i]
			if u.Variant != v.ID || u.Key != d.Key {
				continue
			}
			if u.Choice == "" {
				d.Uncounted = u.N
			}
			for j := range d.Parts {
				if d.Parts[j].ID == u.Choice {
					d.Parts[j].Uncounted = u.N
				}
			}
		}
		for i := range v.Questions {
			if u.Variant == "" && u.Choice == "" && u.Key == v.Questions[i].Key {
				v.Questions[i].Uncounted = u.N
			}
		}
	}
}

// since is the first day of the period that is asked for; zero for all time.
func (s *Place) since(days string, site sites.Site) time.Time {
	if days, err := strconv.Atoi(days); err == nil && days > 0 && days < 10_000 {
		return s.read.Today(site).AddDate(0, 0, 1-days)
	}
	return time.Time{}
}

func playedVariant(v piece.Variant, play walks.Play, days []results.Tally) PlayedVariant {
	out := PlayedVariant{ID: v.ID, Name: v.Name, Scenes: []PlayedScene{}, Ways: []PlayedWay{}, Questions: []PlayedQuestion{}}
	for _, d := range days {
		if d.Variant == v.ID {
			out.Visitors += d.Visitors
		}
	}
	at := map[string]walks.SceneCount{}
	for _, s := range play.Scenes {
		if s.Variant == v.ID {
			at[s.Scene] = s
		}
	}
	counts := map[string]map[string]int{}
	for _, a := range play.Answers {
		if a.Variant != v.ID {
			continue
		}
		if counts[a.Key] == nil {
			counts[a.Key] = map[string]int{}
		}
		counts[a.Key][a.Choice] = a.Answers
	}
	for _, w := range play.Ways {
		if w.Variant != v.ID {
			continue
		}
		// Of those who went on from a scene, each once a way.
		one := PlayedWay{From: w.Scene, To: w.Next, Walks: w.Walks}
		one.Share, one.Interval = parts.ShareOf(min(w.Walks, at[w.Scene].Left), at[w.Scene].Left)
		out.Ways = append(out.Ways, one)
	}
	results := 0
	for _, s := range v.Design.Scenes {
		if s.Kind == piece.ResultScene {
			results += at[s.ID].Reached
		}
	}
	for i, s := range v.Design.Scenes {
		count := at[s.ID]
		one := PlayedScene{ID: s.ID, Name: s.Name, Kind: s.Kind, Reached: count.Reached, Left: count.Left}
		// A walk begins with its first step: how long the first scene took is not known.
		if count.Left > 0 && i > 0 {
			mean := float64(count.Seconds) / float64(count.Left)
			one.Seconds = &mean
		}
		if s.Kind == piece.ResultScene {
			one.Share, one.Interval = parts.ShareOf(count.Reached, results)
		} else {
			one.Share, one.Interval = parts.ShareOf(count.Reached-count.Left, count.Reached)
		}
		if asksFor(s, piece.AskEmail) {
			gate := PlayedGate{Came: count.Reached, Gone: count.Left}
			gate.Share, gate.Interval = parts.ShareOf(count.Left, count.Reached)
			one.Gate = &gate
		}
		out.Scenes = append(out.Scenes, one)
		for b := range s.All() {
			if f, ok := b.(piece.Field); ok {
				if q, ok := playedQuestion(f, counts[f.Key]); ok {
					out.Questions = append(out.Questions, q)
				}
			}
		}
	}
	return out
}

func asksFor(s piece.Scene, ask piece.Ask) bool {
	for b := range s.All() {
		if f, ok := b.(piece.Field); ok && f.Ask == ask {
			return true
		}
	}
	return false
}

// playedQuestion counts the choices of a field; not ok for one whose answers are
// not counted.
func playedQuestion(f piece.Field, counts map[string]int) (q PlayedQuestion, ok bool) {
	choices := f.Choices
	switch f.Ask {
	case piece.AskChoice, piece.AskChoices, piece.AskDropdown:
	case piece.AskStars, piece.AskScale:
		low, high := answer.Steps(f.Ask)
		for n := low; n <= high; n++ {
			choices = append(choices, piece.Choice{ID: strconv.Itoa(n), Label: strconv.Itoa(n)})
		}
	case piece.AskOrder:
	case piece.AskSlider, piece.AskNumber:
		for _, r := range answer.Ranges(f) {
			choices = append(choices, piece.Choice{ID: r.ID, Label: strings.TrimSpace(r.Label + " " + f.Unit)})
		}
	default:
		return q, false
	}
	q = PlayedQuestion{Key: f.Key, Label: f.Label, Answered: counts[""], Several: f.Ask == piece.AskChoices, First: f.Ask == piece.AskOrder, Choices: []PlayedChoice{}}
	for _, c := range choices {
		n := min(counts[c.ID], q.Answered)
		one := PlayedChoice{ID: c.ID, Label: c.Label, Answers: n}
		one.Share, one.Interval = parts.ShareOf(n, q.Answered)
		q.Choices = append(q.Choices, one)
	}
	return q, true
}
