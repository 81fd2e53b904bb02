package piece

import (
	"bytes"
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
	maxBlocks   = 200
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
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		f := fault.JSON(err)
		r.faults.Add(fault.Join(at, f.At), "%s", f.Message)
		return false
	}
	return true
}

func (r *reader) piece(data []byte) *Piece {
	if len(data) > MaxBytes {
		r.faults.Add("", "is larger than %d KB", MaxBytes/1024)
		return nil
	}
	var version struct {
		Version int `json:"version"`
	}
	if err := json.Unmarshal(data, &version); err != nil {
		r.faults.Within("", fault.JSON(err))
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
		Rule     json.RawMessage `json:"rule"`
		Caps     json.RawMessage `json:"caps"`
		Schedule json.RawMessage `json:"schedule"`
		Split    json.RawMessage `json:"split"`
	}
	if !r.decode(data, "", &raw) {
		return nil
	}
	p := &Piece{Version: Version, Name: r.line("name", raw.Name, maxName), Format: raw.Format}
	oneOf(r, "format", raw.Format, Popup, FlyIn)
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
	if frame := fault.Key(at, "frame"); r.decode(raw.Frame, frame, &d.Frame) {
		r.frame(d.Frame, frame)
	}
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
		button, ok := b.(Button)
		if ok && button.Press.Scene != "" && !seen[button.Press.Scene] {
			r.faults.Add(strings.TrimSuffix(at, "scenes")+place+".press.scene", "names a scene that is not here")
		}
	})
	return d
}

// EachBlock visits the blocks of all scenes in order, with their places from the design.
func (d Design) EachBlock(do func(at string, s Scene, b Block)) {
	for i, s := range d.Scenes {
		for j, b := range s.Blocks {
			do(fmt.Sprintf("scenes[%d].blocks[%d]", i, j), s, b)
		}
	}
}

func (r *reader) frame(f Frame, at string) {
	r.between(fault.Key(at, "width"), f.Width, 200, 1200)
	r.between(fault.Key(at, "padding"), f.Padding, 0, 96)
	r.between(fault.Key(at, "corners"), f.Corners, 0, 64)
	r.between(fault.Key(at, "veil.opacity"), f.Veil.Opacity, 0, 100)
	r.color(fault.Key(at, "background"), f.Background, false)
	r.color(fault.Key(at, "ink"), f.Ink, false)
	r.color(fault.Key(at, "accent"), f.Accent, false)
	r.color(fault.Key(at, "accent_ink"), f.AccentInk, false)
	r.color(fault.Key(at, "veil.color"), f.Veil.Color, false)
	oneOf(r, fault.Key(at, "font"), f.Font, Sans, Serif)
	r.text(fault.Key(at, "close.label"), f.Close.Label, maxWords)
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
	at = fault.Key(at, "blocks")
	if len(raw.Blocks) > maxBlocks {
		r.faults.Add(at, "should be at most %d blocks", maxBlocks)
		return s
	}
	ids, keys := map[string]bool{}, map[string]bool{}
	for i, data := range raw.Blocks {
		place := fault.Index(at, i)
		b := r.block(data, place)
		if b == nil {
			continue
		}
		r.unique(ids, r.id(fault.Key(place, "id"), BlockID(b)), fault.Key(place, "id"))
		if f, ok := b.(Field); ok {
			r.unique(keys, f.Key, fault.Key(place, "key"))
		}
		s.Blocks = append(s.Blocks, b)
	}
	return s
}

// blockKinds reads a block of each kind.
var blockKinds = map[string]func(r *reader, data []byte, at string) Block{
	"heading": func(r *reader, data []byte, at string) Block {
		return read(r, data, at, func(b *Heading) {
			r.text(fault.Key(at, "text"), b.Text, maxText)
			r.between(fault.Key(at, "size"), b.Size, 12, 72)
			r.lay(at, b.Align, b.Color)
		})
	},
	"text": func(r *reader, data []byte, at string) Block {
		return read(r, data, at, func(b *Text) {
			r.text(fault.Key(at, "text"), b.Text, maxText)
			r.between(fault.Key(at, "size"), b.Size, 10, 40)
			r.lay(at, b.Align, b.Color)
		})
	},
	"picture": func(r *reader, data []byte, at string) Block {
		return read(r, data, at, func(b *Picture) {
			if b.Picture != "" && !hash.MatchString(b.Picture) {
				r.faults.Add(fault.Key(at, "picture"), "is not a picture of this site")
			}
			r.between(fault.Key(at, "ratio"), b.Ratio, 10, 400)
			r.between(fault.Key(at, "width"), b.Width, 10, 100)
			r.between(fault.Key(at, "corners"), b.Corners, 0, 64)
			r.text(fault.Key(at, "alt"), b.Alt, 500)
			r.lay(at, b.Align, "")
		})
	},
	"field": func(r *reader, data []byte, at string) Block {
		return read(r, data, at, func(b *Field) {
			oneOf(r, fault.Key(at, "ask"), b.Ask, AskName, AskEmail, AskText)
			if !answerKey.MatchString(b.Key) {
				r.faults.Add(fault.Key(at, "key"), "should be a short name of small letters, digits and _, starting with a letter")
			}
			r.line(fault.Key(at, "label"), b.Label, maxWords)
			r.text(fault.Key(at, "hint"), b.Hint, maxWords)
		})
	},
	"button": func(r *reader, data []byte, at string) Block {
		return read(r, data, at, func(b *Button) {
			r.line(fault.Key(at, "words"), b.Words, maxWords)
			r.color(fault.Key(at, "fill"), b.Fill, true)
			r.color(fault.Key(at, "ink"), b.Ink, true)
			r.press(b.Press, fault.Key(at, "press"))
		})
	},
}

func (r *reader) block(data []byte, at string) Block {
	var head struct {
		Kind string `json:"kind"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		r.faults.Within(at, fault.JSON(err))
		return nil
	}
	reading, ok := blockKinds[head.Kind]
	if !ok {
		r.faults.Add(fault.Key(at, "kind"), "%q is not a kind of block", head.Kind)
		return nil
	}
	return reading(r, data, at)
}

func read[B Block](r *reader, data []byte, at string, check func(*B)) Block {
	var b B
	if !r.decode(data, at, &b) {
		return nil
	}
	check(&b)
	return b
}

func (r *reader) press(p Press, at string) {
	oneOf(r, fault.Key(at, "do"), p.Do, DoSend, DoScene, DoOpen, DoClose)
	if p.Do == DoScene && p.Scene == "" {
		r.faults.Add(fault.Key(at, "scene"), "should be the scene to go to")
	}
	if p.Do == DoOpen {
		if wrong := badAddress(p.Address); wrong != "" {
			r.faults.Add(fault.Key(at, "address"), "%s", wrong)
		}
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
	idForm    = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,39}$`)
	answerKey = regexp.MustCompile(`^[a-z][a-z0-9_]{0,39}$`)
	colorForm = regexp.MustCompile(`^#[0-9a-f]{6}$`)
	hash      = regexp.MustCompile(`^[0-9a-f]{32}$`)
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

func (r *reader) lay(at string, align Align, c Color) {
	oneOf(r, fault.Key(at, "align"), align, "start", "center", "end")
	r.color(fault.Key(at, "color"), c, true)
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

// ReadDrawing reads what Drawing wrote.
func ReadDrawing(data []byte) (*Drawing, error) {
	var format struct {
		Format Format          `json:"format"`
		Frame  json.RawMessage `json:"frame"`
		Scenes json.RawMessage `json:"scenes"`
	}
	r := reader{}
	if !r.decode(data, "", &format) {
		return nil, r.faults
	}
	design, err := json.Marshal(map[string]json.RawMessage{"frame": format.Frame, "scenes": format.Scenes})
	if err != nil {
		return nil, err
	}
	d := r.design(design, "")
	return &Drawing{format.Format, d.Frame, d.Scenes}, r.faults.Err()
}
