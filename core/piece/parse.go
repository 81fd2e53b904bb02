package piece

import (
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
func (r *reader) decode(n *fault.Node, at string, into any) bool {
	if n.IsNull() {
		r.faults.Add(at, "is missing")
		return false
	}
	err := n.Strictly(at, into)
	r.faults.Within("", err)
	return err == nil
}

// scan reads JSON into a node; nil where it cannot be read.
func (r *reader) scan(data []byte) *fault.Node {
	n, err := fault.Read(data)
	r.faults.Within("", err)
	return n
}

func (r *reader) piece(data []byte) *Piece {
	if len(data) > MaxBytes {
		r.faults.Add("", "is larger than %d KB", MaxBytes/1024)
		return nil
	}
	n := r.scan(data)
	if n == nil {
		return nil
	}
	var version struct {
		Version int `json:"version"`
	}
	if err := n.Loosely("", &version); err != nil {
		r.faults.Within("", err)
		return nil
	}
	if version.Version < 1 || version.Version > Version {
		r.faults.Add("version", "is %d, and this Gobbet reads version %d", version.Version, Version)
		return nil
	}
	var raw struct {
		Version  int         `json:"version"`
		Name     string      `json:"name"`
		Format   Format      `json:"format"`
		Phone    Format      `json:"phone_format"`
		Kit      *fault.Node `json:"kit"`
		Rule     *fault.Node `json:"rule"`
		Caps     *fault.Node `json:"caps"`
		Schedule *fault.Node `json:"schedule"`
		Split    *fault.Node `json:"split"`
	}
	if !r.decode(n, "", &raw) {
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
	program, err := reach.ReadNode(raw.Rule, r.saved)
	if r.faults.Within("rule", err); err == nil {
		p.Program, p.Rule = program, program.Rule()
	}
	p.Caps, err = caps.ParseNode(raw.Caps)
	if r.faults.Within("caps", err); err == nil {
		p.Limits = p.Caps.Ready()
	}
	p.Schedule, err = schedule.ParseNode(raw.Schedule)
	r.faults.Within("schedule", err)
	p.Split = r.split(raw.Split)
	return p
}

func (r *reader) split(n *fault.Node) (s Split) {
	var raw struct {
		Salt     string        `json:"salt"`
		Variants []*fault.Node `json:"variants"`
	}
	if !r.decode(n, "split", &raw) {
		return s
	}
	s.Salt = r.id("split.salt", raw.Salt)
	at := "split.variants"
	if len(raw.Variants) < 1 || len(raw.Variants) > maxVariants {
		r.faults.Add(at, "should be 1 to %d variants", maxVariants)
		return s
	}
	seen, sum := map[string]bool{}, 0
	for i, n := range raw.Variants {
		v := r.variant(n, fault.Index(at, i))
		r.unique(seen, v.ID, fault.Key(fault.Index(at, i), "id"))
		sum += v.Share
		s.Variants = append(s.Variants, v)
	}
	if sum == 0 {
		r.faults.Add(at, "give nobody a share")
	}
	return s
}

func (r *reader) variant(n *fault.Node, at string) (v Variant) {
	var raw struct {
		ID     string      `json:"id"`
		Name   string      `json:"name"`
		Share  int         `json:"share"`
		Design *fault.Node `json:"design"`
	}
	if !r.decode(n, at, &raw) {
		return v
	}
	v = Variant{ID: r.id(fault.Key(at, "id"), raw.ID), Name: r.line(fault.Key(at, "name"), raw.Name, maxName), Share: raw.Share}
	r.between(fault.Key(at, "share"), raw.Share, 0, 1000)
	v.Design = r.design(raw.Design, fault.Key(at, "design"))
	return v
}

func (r *reader) design(n *fault.Node, at string) (d Design) {
	var raw struct {
		Frame  *fault.Node   `json:"frame"`
		Scenes []*fault.Node `json:"scenes"`
	}
	if !r.decode(n, at, &raw) {
		return d
	}
	return r.designOf(raw.Frame, raw.Scenes, at)
}

func (r *reader) designOf(frame *fault.Node, scenes []*fault.Node, at string) (d Design) {
	d.Frame = r.frame(frame, fault.Key(at, "frame"))
	at = fault.Key(at, "scenes")
	if len(scenes) < 1 || len(scenes) > maxScenes {
		r.faults.Add(at, "should be 1 to %d scenes", maxScenes)
		return d
	}
	seen := map[string]bool{}
	for i, n := range scenes {
		s := r.scene(n, fault.Index(at, i))
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

func (r *reader) scene(n *fault.Node, at string) (s Scene) {
	var raw struct {
		ID     string        `json:"id"`
		Name   string        `json:"name"`
		Kind   SceneKind     `json:"kind"`
		Blocks []*fault.Node `json:"blocks"`
	}
	if !r.decode(n, at, &raw) {
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

func (r *reader) blocks(raw []*fault.Node, at string, depth int) []Block {
	blocks := []Block{}
	if len(raw) > maxBlocks {
		r.faults.Add(at, "should be at most %d blocks", maxBlocks)
		return blocks
	}
	if depth > maxDepth {
		r.faults.Add(at, "are more than %d deep in boxes and columns", maxDepth)
		return blocks
	}
	for i, n := range raw {
		if b := r.block(n, fault.Index(at, i), depth); b != nil {
			blocks = append(blocks, b)
		}
	}
	return blocks
}

func (r *reader) block(n *fault.Node, at string, depth int) Block {
	var head struct {
		Kind  string      `json:"kind"`
		Phone *fault.Node `json:"phone"`
	}
	if err := n.Loosely(at, &head); err != nil {
		r.faults.Within("", err)
		return nil
	}
	reading, ok := blockKinds[head.Kind]
	if !ok {
		r.faults.Add(fault.Key(at, "kind"), "%q is not a kind of block", head.Kind)
		return nil
	}
	b := reading(r, n, at, depth)
	if b != nil && head.Phone != nil {
		r.patch(n, head.Phone, at, func(r *reader, n *fault.Node, at string) { reading(r, n, at, depth) })
	}
	return b
}

// unpatched are the keys that are the same on every device.
var unpatched = []string{"kind", "id", "ask", "key", "required", "options", "press", "counts", "blocks", "phone", "locked", "from", "pool", "items"}

// patch checks what differs on phones, by reading the thing as phones have it.
func (r *reader) patch(n, phone *fault.Node, at string, reading func(r *reader, n *fault.Node, at string)) {
	place := fault.Key(at, "phone")
	patch, ok := phone.Keys()
	if !ok {
		r.faults.Add(place, "should be an object")
		return
	}
	for _, key := range patch {
		if slices.Contains(unpatched, strings.ToLower(key)) {
			r.faults.Add(fault.Key(place, key), "is the same on every device")
			return
		}
	}
	as := &reader{saved: r.saved}
	reading(as, n.Without("phone").With(phone), at)
	for _, f := range as.faults {
		key, rest := strings.TrimPrefix(strings.TrimPrefix(f.At, at), "."), ""
		if i := strings.IndexAny(key, ".["); i >= 0 {
			key, rest = key[:i], key[i:]
		}
		if slices.Contains(patch, key) {
			r.faults.Add(fault.Key(place, key)+rest, "%s", f.Message)
		}
	}
}

func read[B Block](r *reader, n *fault.Node, at string, check func(*B)) Block {
	var b B
	if !r.decode(n, at, &b) {
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
	case strings.HasPrefix(address, "//"):
		// It would lead to another site, by whichever scheme the page came.
		return "should start with https:// to lead to another site"
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
	n := r.scan(data)
	if n == nil {
		return Scene{}, r.faults
	}
	s := r.scene(n, "")
	return s, r.faults.Err()
}

// ReadDrawing reads what Drawing wrote.
func ReadDrawing(data []byte) (*Drawing, error) {
	var raw struct {
		Format      Format        `json:"format"`
		PhoneFormat Format        `json:"phone_format"`
		Frame       *fault.Node   `json:"frame"`
		Scenes      []*fault.Node `json:"scenes"`
		Kit         *fault.Node   `json:"kit"`
	}
	r := reader{}
	n := r.scan(data)
	if n == nil || !r.decode(n, "", &raw) {
		return nil, r.faults
	}
	d := r.designOf(raw.Frame, raw.Scenes, "")
	drawing := &Drawing{raw.Format, raw.PhoneFormat, d.Frame, d.Scenes, nil}
	if raw.Kit != nil {
		kit := r.kit(raw.Kit, "kit")
		drawing.Kit = &kit
	}
	return drawing, r.faults.Err()
}
