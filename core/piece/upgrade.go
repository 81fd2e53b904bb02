package piece

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"unicode"

	"gobbet/core/fault"
)

// Earlier versions are read by upgrading them first. An upgrade keeps every
// place but those of keys it renames, so that a fault is still found where it
// stands.
const (
	choicesVersion  = 3 // the first in which choices have ids, and edges lead between scenes
	backdropVersion = 4 // the first that calls a frame's backdrop so
)

// upgraded gives a document as this version writes it; nil where it cannot be read.
func (r *reader) upgraded(n *fault.Node, upgrade func(map[string]any)) *fault.Node {
	d := json.NewDecoder(strings.NewReader(n.Raw()))
	d.UseNumber()
	var doc map[string]any
	if err := d.Decode(&doc); err != nil {
		r.Faults.Within("", fault.JSON(err))
		return nil
	}
	upgrade(doc)
	var written bytes.Buffer
	e := json.NewEncoder(&written)
	e.SetEscapeHTML(false)
	if err := e.Encode(doc); err != nil {
		r.Faults.Within("", err)
		return nil
	}
	return r.Scan(written.Bytes())
}

// objectsOf gives the objects of a list.
func objectsOf(list any) (objects []map[string]any) {
	items, _ := list.([]any)
	for _, item := range items {
		if object, ok := item.(map[string]any); ok {
			objects = append(objects, object)
		}
	}
	return objects
}

func upgradePiece(doc map[string]any, from int) {
	doc["version"] = Version
	split, _ := doc["split"].(map[string]any)
	for _, v := range objectsOf(split["variants"]) {
		if design, ok := v["design"].(map[string]any); ok {
			upgradeDesign(design, from)
		}
	}
}

// upgradeAlone upgrades a scene whose neighbours are not known.
func upgradeAlone(scene map[string]any) { upgradeScene(scene, "", map[string]bool{}) }

func upgradeDesign(design map[string]any, from int) {
	if from < backdropVersion {
		frame, _ := design["frame"].(map[string]any)
		rename(frame, "veil", "backdrop")
		phone, _ := frame["phone"].(map[string]any)
		rename(phone, "veil", "backdrop")
	}
	if from >= choicesVersion {
		return
	}
	scenes := objectsOf(design["scenes"])
	keys := map[string]bool{}
	for i, s := range scenes {
		next := ""
		if i+1 < len(scenes) {
			next, _ = scenes[i+1]["id"].(string)
		}
		upgradeScene(s, next, keys)
	}
}

// rename gives a key of an object another name; an object that has both keeps
// the old one, which is then a fault.
func rename(object map[string]any, from, to string) {
	value, ok := object[from]
	if _, both := object[to]; ok && !both {
		object[to] = value
		delete(object, from)
	}
}

// upgradeScene makes edges of where buttons and timers led, and choices of
// options. Answers that an earlier scene has under the same key get a number,
// as the list of people has always had it.
func upgradeScene(s map[string]any, next string, keys map[string]bool) {
	edges, _ := s["edges"].([]any)
	taken := map[string]bool{}
	var walk func(blocks any)
	walk = func(blocks any) {
		for _, b := range objectsOf(blocks) {
			switch b["kind"] {
			case "field":
				upgradeField(b, keys, taken)
			case "button":
				press, _ := b["press"].(map[string]any)
				to, has := press["scene"].(string)
				delete(press, "scene")
				switch press["do"] {
				case "scene":
					press["do"] = "next"
				case "next":
					if has = has || next != "" && s["edges"] == nil; to == "" {
						to = next
					}
				case "send":
				default:
					has = false
				}
				if has && to != "" {
					edges = append(edges, map[string]any{"block": b["id"], "to": to})
				}
			case "timer":
				to, has := b["scene"].(string)
				delete(b, "scene")
				if b["at_zero"] == "scene" {
					if b["at_zero"] = "next"; has {
						edges = append(edges, map[string]any{"block": b["id"], "to": to})
					}
				}
			}
			walk(b["blocks"])
		}
	}
	walk(s["blocks"])
	for key := range taken {
		keys[key] = true
	}
	if len(edges) > 0 {
		s["edges"] = edges
	}
}

func upgradeField(f map[string]any, before, here map[string]bool) {
	if key, ok := f["key"].(string); ok {
		name := key
		for n := 2; before[name]; n++ {
			name = fmt.Sprintf("%s_%d", key, n)
		}
		if reserved(name) && name != ScoreName {
			name += "_1"
		}
		f["key"], here[name] = name, true
	}
	options, ok := f["options"].([]any)
	delete(f, "options")
	if ask, _ := f["ask"].(string); !ok || !Ask(ask).Chooses() {
		return
	}
	ids := map[string]bool{}
	choices := make([]any, len(options))
	for i, o := range options {
		label, isText := o.(string)
		if !isText {
			choices[i] = o
			continue
		}
		id := ChoiceID(label, ids)
		ids[id] = true
		choices[i] = map[string]any{"id": id, "label": label}
	}
	f["choices"] = choices
}

// ChoiceID makes an id of a choice's label that is not taken yet.
func ChoiceID(label string, taken map[string]bool) string {
	id := strings.Trim(strings.Join(strings.FieldsFunc(strings.ToLower(label), func(c rune) bool {
		return c > unicode.MaxASCII || !unicode.IsLetter(c) && !unicode.IsDigit(c)
	}), "_"), "_")
	if id == "" || !(id[0] >= 'a' && id[0] <= 'z') {
		id = strings.TrimSuffix("c_"+id, "_")
	}
	id = strings.TrimSuffix(id[:min(len(id), 32)], "_")
	one := id
	for n := 2; taken[one]; n++ {
		one = fmt.Sprintf("%s_%d", id, n)
	}
	return one
}
