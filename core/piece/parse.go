package piece

import (
	"encoding/json"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"gobbet/core/caps"
	"gobbet/core/fault"
	"gobbet/core/reach"
	"gobbet/core/schedule"
)

// Bounds on a document.
const (
	MaxBytes    = 1 << 20
	maxVariants = 10
	maxScenes   = 50
	maxBlocks   = 200 // in a scene
	maxDepth    = 5
	maxName     = 120
	maxWords    = 200
	maxText     = 10_000
	maxAddress  = 2_000
)

// Parse reads and checks a document. Its error is fault.Faults. One whose rule
// stands on saved reaches needs ParseWith.
func Parse(data []byte) (*Piece, error) { return ParseWith(data, nil) }

// ParseWith is Parse for a document of a site with these saved reaches.
func ParseWith(data []byte, saved reach.Book) (*Piece, error) {
	r := reader{saved: saved}
	p := r.piece(data)
	if err := r.faults.Err(); err != nil {
		return nil, err
	}
	return p, nil
}

type reader struct {
	faults fault.Faults
	saved  reach.Book
}

// decode reads strictly, so that a misspelt key is a fault and not a loss.
func (r *reader) decode(data []byte, at string, into any) bool {
	if len(data) == 0 || string(data) == "null" {
		r.faults.Add(at, "is missing")
		return false
	}
	err := fault.Strictly(data, into)
	r.faults.Within(at, err)
	return err == nil
}

func (r *reader) piece(data []byte) *Piece {
	if len(data) > MaxBytes {
		r.faults.Add("", "is larger than %d KB", MaxBytes/1024)
		return nil
	}
	var version struct {
		Version int `json:"version"`
	}
	if err := fault.Loosely(data, &version); err != nil {
		r.faults.Within("", err)
		return nil
	}
	if version.Version < 1 || version.Version > Version {
		r.faults.Add("version", "is %d, and this Gobbet reads version %d", version.Version, Version)
		return nil
	}
	var raw struct {
		Version  int             `json:"version"`
		Name     string          `json:"name"`
		Format   Format          `json:"format"`
		Phone    Format          `json:"phone_format"`
		Kit      json.RawMessage `json:"kit"`
		Rule     json.RawMessage `json:"rule"`
		Caps     json.RawMessage `json:"caps"`
		Schedule json.RawMessage `json:"schedule"`
		Split    json.RawMessage `json:"split"`
	}
	if !r.decode(data, "", &raw) {
		return nil
	}
	p := &Piece{Version: Version, Name: r.line("name", raw.Name, maxName), Format: raw.Format, PhoneFormat: raw.Phone}
	oneOf(r, "format", raw.Format, Formats...)
	if raw.Phone != "" {
		oneOf(r, "phone_format", raw.Phone, Formats...)
		if (raw.Phone == Inline) != (raw.Format == Inline) {
			r.faults.Add("phone_format", "should be inline too, or not at all: one stands in the page, the other over it")
		}
	}
	if raw.Kit != nil {
		kit := r.kit(raw.Kit, "kit")
		p.Kit = &kit
	}
	program, err := reach.ReadWith(raw.Rule, r.saved)
	if r.faults.Within("rule", err); err == nil {
		p.Program, p.Rule = program, program.Rule()
	}
	p.Caps, err = caps.Parse(raw.Caps)
	if r.faults.Within("caps", err); err == nil {
		p.Limits = p.Caps.Ready()
	}
	p.Schedule, err = schedule.Parse(raw.Schedule)
	r.faults.Within("schedule", err)
	p.Split = r.split(raw.Split)
	return p
}

func (r *reader) split(data []byte) (s Split) {
	var raw struct {
		Salt     string            `json:"salt"`
		Variants []json.RawMessage `json:"variants"`
	}
	if !r.decode(data, "split", &raw) {
		return s
	}
	s.Salt = r.id("split.salt", raw.Salt)
	at := "split.variants"
	if len(raw.Variants) < 1 || len(raw.Variants) > maxVariants {
		r.faults.Add(at, "should be 1 to %d variants", maxVariants)
		return s
	}
	seen, sum := map[string]bool{}, 0
	for i, data := range raw.Variants {
		v := r.variant(data, fault.Index(at, i))
		r.unique(seen, v.ID, fault.Key(fault.Index(at, i), "id"))
		sum += v.Share
		s.Variants = append(s.Variants, v)
	}
	if sum == 0 {
		r.faults.Add(at, "give nobody a share")
	}
	return s
}

func (r *reader) variant(data []byte, at string) (v Variant) {
	var raw struct {
		ID     string          `json:"id"`
		Name   string          `json:"name"`
		Share  int             `json:"share"`
		Design json.RawMessage `json:"design"`
	}
	if !r.decode(data, at, &raw) {
		return v
	}
	v = Variant{ID: r.id(fault.Key(at, "id"), raw.ID), Name: r.line(fault.Key(at, "name"), raw.Name, maxName), Share: raw.Share}
	r.between(fault.Key(at, "share"), raw.Share, 0, 1000)
	v.Design = r.design(raw.Design, fault.Key(at, "design"))
	return v
}

func (r *reader) design(data []byte, at string) (d Design) {
	var raw struct {
		Frame  json.RawMessage   `json:"frame"`
		Scenes []json.RawMessage `json:"scenes"`
	}
	if !r.decode(data, at, &raw) {
		return d
	}
	d.Frame = r.frame(raw.Frame, fault.Key(at, "frame"))
	at = fault.Key(at, "scenes")
	if len(raw.Scenes) < 1 || len(raw.Scenes) > maxScenes {
		r.faults.Add(at, "should be 1 to %d scenes", maxScenes)
		return d
	}
	seen := map[string]bool{}
	for i, data := range raw.Scenes {
		s := r.scene(data, fault.Index(at, i))
		r.unique(seen, s.ID, fault.Key(fault.Index(at, i), "id"))
		d.Scenes = append(d.Scenes, s)
	}
	d.EachBlock(func(place string, s Scene, b Block) {
		to, key := "", ""
		switch b := b.(type) {
		case Button:
			to, key = b.Press.Scene, ".press.scene"
		case Timer:
			to, key = b.Scene, ".scene"
		}
		if to != "" && !seen[to] {
			r.faults.Add(strings.TrimSuffix(at, "scenes")+place+key, "names a scene that is not here")
		}
	})
	return d
}

func (r *reader) scene(data []byte, at string) (s Scene) {
	var raw struct {
		ID     string            `json:"id"`
		Name   string            `json:"name"`
		Kind   SceneKind         `json:"kind"`
		Blocks []json.RawMessage `json:"blocks"`
	}
	if !r.decode(data, at, &raw) {
		return s
	}
	s = Scene{ID: r.id(fault.Key(at, "id"), raw.ID), Name: r.line(fault.Key(at, "name"), raw.Name, maxName), Kind: raw.Kind, Blocks: []Block{}}
	oneOf(r, fault.Key(at, "kind"), raw.Kind, FormScene, ThanksScene, PlainScene)
	s.Blocks = r.blocks(raw.Blocks, fault.Key(at, "blocks"), 0)
	ids, keys, count := map[string]bool{}, map[string]bool{}, 0
	walk(s.Blocks, at, func(place string, b Block) bool {
		count++
		r.unique(ids, r.id(fault.Key(place, "id"), BlockID(b)), fault.Key(place, "id"))
		if f, ok := b.(Field); ok {
			r.unique(keys, f.Key, fault.Key(place, "key"))
		}
		return true
	})
	if count > maxBlocks {
		r.faults.Add(fault.Key(at, "blocks"), "should be at most %d blocks", maxBlocks)
	}
	return s
}

func (r *reader) blocks(raw []json.RawMessage, at string, depth int) []Block {
	blocks := []Block{}
	if len(raw) > maxBlocks {
		r.faults.Add(at, "should be at most %d blocks", maxBlocks)
		return blocks
	}
	if depth > maxDepth {
		r.faults.Add(at, "are more than %d deep in boxes and columns", maxDepth)
		return blocks
	}
	for i, data := range raw {
		if b := r.block(data, fault.Index(at, i), depth); b != nil {
			blocks = append(blocks, b)
		}
	}
	return blocks
}

func (r *reader) block(data []byte, at string, depth int) Block {
	var head struct {
		Kind  string          `json:"kind"`
		Phone json.RawMessage `json:"phone"`
	}
	if err := fault.Loosely(data, &head); err != nil {
		r.faults.Within(at, err)
		return nil
	}
	reading, ok := blockKinds[head.Kind]
	if !ok {
		r.faults.Add(fault.Key(at, "kind"), "%q is not a kind of block", head.Kind)
		return nil
	}
	b := reading(r, data, at, depth)
	if b != nil && head.Phone != nil {
		r.patch(data, head.Phone, at, func(r *reader, data []byte, at string) { reading(r, data, at, depth) })
	}
	return b
}

// unpatched are the keys that are the same on every device.
var unpatched = []string{"kind", "id", "ask", "key", "required", "options", "press", "counts", "blocks", "phone", "locked", "from", "pool", "items"}

// patch checks what differs on phones, by reading the thing as phones have it.
func (r *reader) patch(data, phone []byte, at string, reading func(r *reader, data []byte, at string)) {
	var whole, patch map[string]json.RawMessage
	place := fault.Key(at, "phone")
	if json.Unmarshal(data, &whole) != nil || json.Unmarshal(phone, &patch) != nil || patch == nil {
		r.faults.Add(place, "should be an object")
		return
	}
	delete(whole, "phone")
	for key, value := range patch {
		if slices.Contains(unpatched, key) {
			r.faults.Add(fault.Key(place, key), "is the same on every device")
			return
		}
		whole[key] = value
	}
	merged, err := json.Marshal(whole)
	if err != nil {
		r.faults.Add(place, "cannot be read")
		return
	}
	as := &reader{saved: r.saved}
	reading(as, merged, at)
	for _, f := range as.faults {
		key, rest := strings.TrimPrefix(strings.TrimPrefix(f.At, at), "."), ""
		if i := strings.IndexAny(key, ".["); i >= 0 {
			key, rest = key[:i], key[i:]
		}
		if _, mine := patch[key]; mine {
			r.faults.Add(fault.Key(place, key)+rest, "%s", f.Message)
		}
	}
}

func read[B Block](r *reader, data []byte, at string, check func(*B)) Block {
	var b B
	if !r.decode(data, at, &b) {
		return nil
	}
	lay := b.lay()
	if lay.Hide != "" {
		oneOf(r, fault.Key(at, "hide"), lay.Hide, "phone", "desktop")
	}
	r.between(fault.Key(at, "above"), lay.Above, -48, 160)
	check(&b)
	return b
}

func (r *reader) address(at, address string) {
	if wrong := badAddress(address); wrong != "" {
		r.faults.Add(at, "%s", wrong)
	}
}

// badAddress refuses every address that could run as a script.
func badAddress(address string) string {
	u, err := url.Parse(address)
	switch {
	case address == "":
		return "is missing"
	case len(address) > maxAddress:
		return fmt.Sprintf("is longer than %d characters", maxAddress)
	case err != nil || strings.TrimSpace(address) != address:
		return "is not an address"
	case u.Scheme == "http" || u.Scheme == "https":
		if u.Host == "" {
			return "is not an address"
		}
		return ""
	case u.Scheme == "mailto" || u.Scheme == "tel":
		return ""
	case u.Scheme == "" && strings.HasPrefix(address, "/") && !strings.Contains(address, `\`):
		return ""
	}
	return "should start with https://, mailto:, tel: or /"
}

var (
	idForm     = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,39}$`)
	answerKey  = regexp.MustCompile(`^[a-z][a-z0-9_]{0,39}$`)
	colorForm  = regexp.MustCompile(`^(#[0-9a-f]{6}|@[a-z][a-z0-9_]{0,19})$`)
	plainColor = regexp.MustCompile(`^#[0-9a-f]{6}$`)
	kitName    = regexp.MustCompile(`^[a-z][a-z0-9_]{0,19}$`)
	kitUse     = regexp.MustCompile(`"@([a-z][a-z0-9_]{0,19})"`)
	iconPath   = regexp.MustCompile(`^[MmLlHhVvCcSsQqTtAaZz0-9eE ,.+-]*$`)
	hash       = regexp.MustCompile(`^[0-9a-f]{32}$`)
)

func (r *reader) id(at, id string) string {
	if !idForm.MatchString(id) {
		r.faults.Add(at, "should be 1 to 40 small letters, digits, - and _")
	}
	return id
}

func (r *reader) unique(seen map[string]bool, id, at string) {
	if seen[id] && id != "" {
		r.faults.Add(at, "is used twice")
	}
	seen[id] = true
}

func (r *reader) between(at string, n, low, high int) {
	if n < low || n > high {
		r.faults.Add(at, "should be %d to %d", low, high)
	}
}

func (r *reader) color(at string, c Color, mayBeEmpty bool) {
	if !(c == "" && mayBeEmpty) && !colorForm.MatchString(string(c)) {
		r.faults.Add(at, "should be a colour such as #6a2a5b")
	}
}

// text checks the length of words that may be empty.
func (r *reader) text(at, s string, most int) {
	if utf8.RuneCountInString(s) > most {
		r.faults.Add(at, "is longer than %d characters", most)
	}
	if strings.ContainsRune(s, 0) {
		r.faults.Add(at, "holds a character that cannot be kept")
	}
}

// line is words that may not be empty.
func (r *reader) line(at, s string, most int) string {
	s = strings.TrimSpace(s)
	if s == "" {
		r.faults.Add(at, "needs words")
	}
	r.text(at, s, most)
	return s
}

func oneOf[T ~string](r *reader, at string, got T, allowed ...T) {
	if slices.Contains(allowed, got) {
		return
	}
	names := make([]string, len(allowed))
	for i, a := range allowed {
		names[i] = string(a)
	}
	r.faults.Add(at, "should be one of %s", strings.Join(names, ", "))
}

// ReadScene reads one scene alone. Its error is fault.Faults.
func ReadScene(data []byte) (Scene, error) {
	r := reader{}
	s := r.scene(data, "")
	return s, r.faults.Err()
}

// ReadDrawing reads what Drawing wrote.
func ReadDrawing(data []byte) (*Drawing, error) {
	var raw struct {
		Format      Format          `json:"format"`
		PhoneFormat Format          `json:"phone_format"`
		Frame       json.RawMessage `json:"frame"`
		Scenes      json.RawMessage `json:"scenes"`
		Kit         json.RawMessage `json:"kit"`
	}
	r := reader{}
	if !r.decode(data, "", &raw) {
		return nil, r.faults
	}
	design, err := json.Marshal(map[string]json.RawMessage{"frame": raw.Frame, "scenes": raw.Scenes})
	if err != nil {
		return nil, err
	}
	d := r.design(design, "")
	drawing := &Drawing{raw.Format, raw.PhoneFormat, d.Frame, d.Scenes, nil}
	if raw.Kit != nil {
		kit := r.kit(raw.Kit, "kit")
		drawing.Kit = &kit
	}
	return drawing, r.faults.Err()
}
