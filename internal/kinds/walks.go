package kinds

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"time"

	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/style"
	"gobbet/core/walk"
	"gobbet/internal/templates"
)

// walkCase is one visitor's way through a template: what they answered and pressed,
// and where the core has them after each step.
type walkCase struct {
	Template string        `json:"template"`
	Drawing  piece.Drawing `json:"drawing"` // what of it is sent ahead
	Steps    []walkStep    `json:"steps"`
}

type walkStep struct {
	Answers map[string]string `json:"answers"`
	Press   string            `json:"press"`
	Takes   bool              `json:"takes"`
	Sent    walk.SentStep     `json:"sent"`
	View    walk.View         `json:"view"`
}

const (
	mostWalkSteps = 12
	waysThrough   = 3 // each template
)

// WriteWalks writes web/tests/walks.json below root: walks that the page's reducer is
// held to.
func WriteWalks(root string) error {
	var cases []walkCase
	for i, t := range templates.All() {
		design := t.Design(t.Format)
		// Of forms with their thanks a few are enough.
		if len(design.Scenes) < 3 && i%4 != 0 {
			continue
		}
		for seed := range waysThrough {
			c, err := walked(t, design, rand.New(rand.NewPCG(uint64(i), uint64(seed))))
			if err != nil {
				return fmt.Errorf("%s: %w", t.ID, err)
			}
			if len(c.Steps) > 0 {
				cases = append(cases, c)
			}
		}
	}
	text, err := json.Marshal(cases)
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(root, "web/tests/walks.json"), append(text, '\n'), 0o644)
}

func walked(t templates.Template, design piece.Design, r *rand.Rand) (c walkCase, err error) {
	g, err := flow.Of(design)
	if err != nil {
		return c, err
	}
	kit := style.UsualKit()
	c = walkCase{Template: t.ID, Drawing: g.Public(piece.Drawing{Version: piece.Version, Format: t.Format, Kit: &kit, Design: design})}
	c.Drawing.Kit = nil // no part of a walk
	scenes := map[string]piece.Scene{}
	for _, s := range design.Scenes {
		scenes[s.ID] = s
	}
	var sent []walk.SentStep
	at := design.Scenes[0]
	for range mostWalkSteps {
		one := walkStep{Answers: map[string]string{}}
		press, takes, ok := pressed(at, r)
		if !ok {
			break
		}
		one.Press, one.Takes, one.Sent = press, takes, walk.SentStep{Scene: at.ID, Press: press}
		if takes {
			one.Sent.Values = map[string]any{}
			for b := range at.All() {
				if f, is := b.(piece.Field); is && f.Hide == "" {
					said := answerOf(f, r)
					if f.Ask != piece.AskHidden {
						one.Answers[f.Key] = said
					}
					one.Sent.Values[f.Key] = said
				}
			}
		}
		sent = append(sent, one.Sent)
		steps, err := walk.Read(sent, time.Unix(1_700_000_000, 0))
		if err != nil {
			return c, err
		}
		if one.View, err = walk.Rehearse(g, steps, t.ID); err != nil {
			return c, err
		}
		c.Steps = append(c.Steps, one)
		if one.View.Closes {
			break
		}
		at = scenes[one.View.Scene]
	}
	return c, nil
}

// pressed picks what a visitor leaves a scene by; not ok where there is nothing.
func pressed(s piece.Scene, r *rand.Rand) (press string, takes, ok bool) {
	var presses []string
	var all []bool
	for b := range s.All() {
		switch b := b.(type) {
		case piece.Button:
			if b.Hide == "" && (b.Press.Do == piece.DoSend || b.Press.Do == piece.DoNext) {
				presses, all = append(presses, b.ID), append(all, b.Press.Do == piece.DoSend)
			}
		case piece.Field:
			if b.Advances && b.Hide == "" {
				presses, all = append(presses, b.ID), append(all, true)
			}
		case piece.PrizeDraw:
			presses, all = append(presses, b.ID), append(all, true)
		}
	}
	if len(presses) == 0 {
		return "", false, false
	}
	i := r.IntN(len(presses))
	return presses[i], all[i], true
}

// answerOf answers a field as someone might.
func answerOf(f piece.Field, r *rand.Rand) string {
	switch f.Ask {
	case piece.AskChoice, piece.AskDropdown, piece.AskChoices:
		return f.Choices[r.IntN(len(f.Choices))].ID
	case piece.AskOrder:
		var ids []string
		for _, c := range f.Choices {
			ids = append(ids, c.ID)
		}
		r.Shuffle(len(ids), func(i, j int) { ids[i], ids[j] = ids[j], ids[i] })
		return strings.Join(ids, "\n")
	case piece.AskEmail:
		return "ann@example.com"
	case piece.AskPhone:
		return "+44 1632 960961"
	case piece.AskNumber, piece.AskSlider:
		if f.Least != "" {
			return f.Least
		}
		return "5"
	case piece.AskDate:
		if f.Least != "" {
			return f.Least
		}
		return "2026-12-01"
	case piece.AskConsent:
		return "yes"
	case piece.AskStars:
		return fmt.Sprint(1 + r.IntN(5))
	case piece.AskScale:
		return fmt.Sprint(r.IntN(11))
	case piece.AskHidden:
		return ""
	}
	return "Some words"
}
