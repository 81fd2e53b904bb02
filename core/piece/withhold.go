package piece

import "slices"

// What visitors get is a projection of the drawing: scenes that lie behind
// something to send, or hold what is to be earned, come when they are reached.

// Earned reports whether the scene holds what a visitor should get only by
// reaching it: a code, a file, or a text to copy.
func (s Scene) Earned() bool {
	for b := range s.All() {
		switch b := b.(type) {
		case Code:
			return true
		case Button:
			if b.Press.Do == DoFile || b.Press.Do == DoCopy {
				return true
			}
		}
	}
	return false
}

// Reached lists the scenes a visitor can be at who began at one of the scenes
// in from, without sending anything but what they sent, by scene.
func (d Drawing) Reached(from []string, sent []string) map[string]bool {
	at := map[string]int{}
	for i, s := range d.Scenes {
		at[s.ID] = i
	}
	reached := map[string]bool{}
	next := slices.Clone(from)
	for len(next) > 0 {
		id := next[0]
		next = next[1:]
		i, ok := at[id]
		if !ok || reached[id] {
			continue
		}
		reached[id] = true
		for b := range d.Scenes[i].All() {
			switch b := b.(type) {
			case Button:
				switch b.Press.Do {
				case DoScene:
					next = append(next, b.Press.Scene)
				case DoNext:
					if i+1 < len(d.Scenes) {
						next = append(next, d.Scenes[i+1].ID)
					}
				case DoSend:
					if slices.Contains(sent, id) {
						next = append(next, b.Press.Scene)
					}
				}
			case Timer:
				if b.AtZero == "scene" {
					next = append(next, b.Scene)
				}
			}
		}
	}
	return reached
}

// AfterSending lists the scenes to give to who has sent a scene: where its
// buttons lead, and what can be reached from there, but for what is to be
// earned by going on.
func (d Drawing) AfterSending(scene string) []Scene {
	var targets []string
	for _, s := range d.Scenes {
		if s.ID != scene {
			continue
		}
		for b := range s.All() {
			if b, ok := b.(Button); ok && b.Press.Do == DoSend && b.Press.Scene != "" {
				targets = append(targets, b.Press.Scene)
			}
		}
	}
	reached := d.Reached(targets, nil)
	scenes := []Scene{}
	for _, s := range d.Scenes {
		if reached[s.ID] && (slices.Contains(targets, s.ID) || !s.Earned()) {
			scenes = append(scenes, s)
		}
	}
	return scenes
}

// Public is the drawing as it is sent ahead: the first scene, and those that
// can be reached from it without sending and hold nothing to be earned. Of the
// others only their places are told.
func (d Drawing) Public() Drawing {
	if len(d.Scenes) == 0 {
		return d
	}
	reached := d.Reached([]string{d.Scenes[0].ID}, nil)
	scenes := slices.Clone(d.Scenes)
	for i, s := range scenes {
		if i > 0 && (!reached[s.ID] || s.Earned()) {
			scenes[i] = Scene{ID: s.ID, Name: "…", Kind: s.Kind, Blocks: []Block{}, Withheld: true}
		}
	}
	d.Scenes = scenes
	return d
}
