package piece

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"gobbet/core/caps"
	"gobbet/core/fault"
	"gobbet/core/pattern"
	"gobbet/core/reach"
	"gobbet/core/read"
	"gobbet/core/schedule"
	"gobbet/core/style"
)

// Bounds on a document.
const (
	MaxBytes    = 1 << 20
	maxVariants = 8
	maxScenes   = 50
	maxBlocks   = 200 // in a scene
	maxDepth    = 5
	maxName     = 120
	maxWords    = 200
	maxText     = 10_000
	maxAddress  = 2_000
	maxPattern  = 500
	// maxSteps is how many steps a character the patterns of a design may take.
	maxSteps = 2 * pattern.Most
)

// Parse reads and checks a document. Its error is fault.Faults. One whose rule
// stands on saved reaches needs ParseWith.
func Parse(data []byte) (*Piece, error) { return ParseWith(data, nil) }

// ParseWith is Parse for a document of a site with these saved reaches.
func ParseWith(data []byte, saved reach.Book) (*Piece, error) {
	r := reader{saved: saved}
	p := r.piece(data)
	if err := r.Faults.Err(); err != nil {
		return nil, err
	}
	return p, nil
}

type reader struct {
	read.Reader
	saved reach.Book
	steps int // of the patterns of the design that is read; see package pattern
}

func (r *reader) piece(data []byte) (p *Piece) {
	if len(data) > MaxBytes {
		r.Faults.Add("", "is larger than %d KB", MaxBytes/1024)
		return nil
	}
	n := r.Scan(data)
	if n == nil {
		return nil
	}
	defer func() { r.Faults.InOrderOf(n) }()
	var version struct {
		Version int `json:"version"`
	}
	if err := n.Loosely("", &version); err != nil {
		r.Faults.Within("", err)
		return nil
	}
	if version.Version < 1 || version.Version > Version {
		r.Faults.Add("version", "is %d, and this Gobbet reads version %d", version.Version, Version)
		return nil
	}
	if version.Version < Version {
		if n = r.upgraded(n, func(doc map[string]any) { upgradePiece(doc, version.Version) }); n == nil {
			return nil
		}
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
		Page     *fault.Node `json:"page"`
		Split    *fault.Node `json:"split"`
	}
	if !r.Decode(n, "", &raw) {
		return nil
	}
	p = &Piece{Version: Version, Name: r.Line("name", raw.Name, maxName), Format: raw.Format, PhoneFormat: raw.Phone}
	r.formats("", raw.Format, raw.Phone)
	if raw.Kit != nil {
		kit := style.ReadKitNode(&r.Reader, raw.Kit, "kit")
		p.Kit = &kit
	}
	program, err := reach.ReadNode(raw.Rule, r.saved)
	if r.Faults.Within("rule", err); err == nil {
		p.Program, p.Rule = program, program.Rule()
	}
	p.Caps, err = caps.ParseNode(raw.Caps)
	if r.Faults.Within("caps", err); err == nil {
		p.Limits = p.Caps.Ready()
	}
	p.Schedule, err = schedule.ParseNode(raw.Schedule)
	r.Faults.Within("schedule", err)
	p.Page = r.page(raw.Page)
	p.Split = r.split(raw.Split)
	for i := range p.Split.Variants {
		r.ownWays(p, i)
	}
	return p
}

// formats checks how something sits, and how on phones.
func (r *reader) formats(at string, format, phone Format) {
	read.OneOf(&r.Reader, fault.Key(at, "format"), format, Formats...)
	if phone == "" {
		return
	}
	read.OneOf(&r.Reader, fault.Key(at, "phone_format"), phone, Formats...)
	if (phone == Inline) != (format == Inline) {
		r.Faults.Add(fault.Key(at, "phone_format"), "should be inline too, or not at all: one stands in the page, the other over it")
	}
}

// ownWays checks the format and the moments that a variant has of its own.
func (r *reader) ownWays(p *Piece, i int) {
	v := &p.Split.Variants[i]
	at := fault.Index("split.variants", i)
	switch {
	case v.Format == "" && v.PhoneFormat != "":
		r.Faults.Add(fault.Key(at, "phone_format"), "needs a format beside it")
	case v.Format != "":
		r.formats(at, v.Format, v.PhoneFormat)
		if (v.Format == Inline) != (p.Format == Inline) {
			r.Faults.Add(fault.Key(at, "format"), "should be inline like the piece, or not at all: one stands in the page, the other over it")
		}
	}
	if v.Moments == nil || p.Program == nil {
		return
	}
	program, err := reach.CompileWith(reach.All{p.Rule, v.Moments}, r.saved)
	if err != nil {
		r.Faults.Add(fault.Key(at, "moments"), "cannot be put together with the reach: %s", err.Error())
	}
	v.Program = program
}

// moments reads what a variant waits for of its own.
func (r *reader) moments(n *fault.Node, at string) reach.Rule {
	if n.IsNull() {
		return nil
	}
	program, err := reach.ReadNode(n, nil)
	if r.Faults.Within(at, err); err != nil {
		return nil
	}
	clauses := 0
	var faults fault.Faults
	program.EachTest(func(place string, t *reach.Test) {
		switch clauses++; {
		case !t.Of.IsMoment():
			faults.Add(fault.Key(place, "fact"), "should be a moment: who sees it is for the reach, which all variants share")
		case t.Fact == reach.Click:
			faults.Add(fault.Key(place, "fact"), "should not be a click: who clicks asks for the piece, whichever variant")
		}
	})
	r.Faults.Within(at, faults.Err())
	if clauses == 0 {
		return nil
	}
	return program.Rule()
}

func (r *reader) split(n *fault.Node) (s Split) {
	var raw struct {
		Salt     string        `json:"salt"`
		Variants []*fault.Node `json:"variants"`
		Held     int           `json:"held"`
		Goal     string        `json:"goal"`
		Plan     *fault.Node   `json:"plan"`
		Follow   bool          `json:"follow"`
	}
	if !r.Decode(n, "split", &raw) {
		return s
	}
	s.Salt, s.Held, s.Follow = r.ID("split.salt", raw.Salt), raw.Held, raw.Follow
	r.Between("split.held", raw.Held, 0, MostHeld)
	if raw.Goal != "" {
		s.Goal = r.ID("split.goal", raw.Goal)
	}
	s.Plan = r.plan(raw.Plan)
	at := "split.variants"
	if len(raw.Variants) < 1 || len(raw.Variants) > maxVariants {
		r.Faults.Add(at, "should be 1 to %d variants", maxVariants)
		return s
	}
	seen, sum := map[string]bool{}, 0
	for i, n := range raw.Variants {
		v := r.variant(n, fault.Index(at, i))
		r.Unique(seen, v.ID, fault.Key(fault.Index(at, i), "id"))
		sum += v.Share
		s.Variants = append(s.Variants, v)
	}
	if sum == 0 {
		r.Faults.Add(at, "give nobody a share")
	}
	return s
}

// MostHeld is how many of a hundred visitors may be held back.
const MostHeld = 50

func (r *reader) plan(n *fault.Node) *Plan {
	if n == nil {
		return nil
	}
	var p Plan
	if !r.Decode(n, "split.plan", &p) {
		return nil
	}
	if !(p.Lift > 0 && p.Lift <= 10) {
		r.Faults.Add("split.plan.lift", "should be above 0 and at most 10, such as 0.2 for a fifth")
	}
	if !(p.Power >= 0.5 && p.Power < 1) {
		r.Faults.Add("split.plan.power", "should be 0.5 or more, and below 1")
	}
	r.Between("split.plan.size", p.Size, 0, 1_000_000_000)
	return &p
}

func (r *reader) variant(n *fault.Node, at string) (v Variant) {
	var raw struct {
		ID      string      `json:"id"`
		Name    string      `json:"name"`
		Share   int         `json:"share"`
		Format  Format      `json:"format"`
		Phone   Format      `json:"phone_format"`
		Moments *fault.Node `json:"moments"`
		Design  *fault.Node `json:"design"`
	}
	if !r.Decode(n, at, &raw) {
		return v
	}
	v = Variant{
		ID: r.ID(fault.Key(at, "id"), raw.ID), Name: r.Line(fault.Key(at, "name"), raw.Name, maxName), Share: raw.Share, Format: raw.Format, PhoneFormat: raw.Phone,
		Moments: r.moments(raw.Moments, fault.Key(at, "moments")),
	}
	r.Between(fault.Key(at, "share"), raw.Share, 0, 1000)
	v.Design = r.design(raw.Design, fault.Key(at, "design"))
	return v
}

func (r *reader) design(n *fault.Node, at string) (d Design) {
	var raw rawDesign
	if !r.Decode(n, at, &raw) {
		return d
	}
	return r.designOf(raw, at)
}

// rawDesign is the keys of a design.
type rawDesign struct {
	Frame    *fault.Node   `json:"frame"`
	Scenes   []*fault.Node `json:"scenes"`
	Formulas []Formula     `json:"formulas"`
	Cases    []Case        `json:"cases"`
	Ties     string        `json:"ties"`
}

func (r *reader) designOf(raw rawDesign, at string) (d Design) {
	r.steps = 0
	d = Design{Frame: r.frame(raw.Frame, fault.Key(at, "frame")), Formulas: raw.Formulas, Cases: raw.Cases, Ties: raw.Ties}
	read.Optional(&r.Reader, fault.Key(at, "ties"), d.Ties, "latest")
	in := fault.Key(at, "scenes")
	if len(raw.Scenes) < 1 || len(raw.Scenes) > maxScenes {
		r.Faults.Add(in, "should be 1 to %d scenes", maxScenes)
		return d
	}
	seen, found := map[string]bool{}, len(r.Faults)
	for i, n := range raw.Scenes {
		s := r.scene(n, fault.Index(in, i))
		r.Unique(seen, s.ID, fault.Key(fault.Index(in, i), "id"))
		d.Scenes = append(d.Scenes, s)
	}
	// What is not sound itself is not held to what it names.
	if len(r.Faults) == found {
		r.formulas(&d, fault.Key(at, "formulas"))
		r.cases(d.Cases, fault.Key(at, "cases"))
		r.references(&d, at)
	}
	return d
}

func (r *reader) scene(n *fault.Node, at string) (s Scene) {
	var raw struct {
		ID      string        `json:"id"`
		Name    string        `json:"name"`
		Kind    SceneKind     `json:"kind"`
		Blocks  []*fault.Node `json:"blocks"`
		Edges   []Edge        `json:"edges"`
		Limit   int           `json:"limit"`
		Extends bool          `json:"extends"`
		Tags    []string      `json:"tags"`
		Passes  bool          `json:"passes"`
	}
	if !r.Decode(n, at, &raw) {
		return s
	}
	s = Scene{ID: r.ID(fault.Key(at, "id"), raw.ID), Name: r.Line(fault.Key(at, "name"), raw.Name, maxName), Kind: raw.Kind, Limit: raw.Limit, Extends: raw.Extends && raw.Limit > 0, Tags: raw.Tags, Passes: raw.Passes}
	read.OneOf(&r.Reader, fault.Key(at, "kind"), raw.Kind, FormScene, ThanksScene, PlainScene, QuestionScene, ResultScene)
	r.Between(fault.Key(at, "limit"), s.Limit, 0, 3600)
	if len(s.Tags) > maxTags {
		r.Faults.Add(fault.Key(at, "tags"), "should be at most %d", maxTags)
	}
	for i, tag := range s.Tags {
		s.Tags[i] = r.Line(fault.Index(fault.Key(at, "tags"), i), tag, 60)
	}
	found := len(r.Faults)
	s.Blocks = r.blocks(raw.Blocks, fault.Key(at, "blocks"), 0)
	if len(r.Faults) > found {
		return s // a block that could not be read leaves the others at other places
	}
	ids, count, draws := map[string]bool{}, 0, 0
	walk(s.Blocks, at, func(place string, b Block) bool {
		count++
		if _, ok := b.(PrizeDraw); ok {
			if draws++; draws > 1 {
				r.Faults.Add(place, "is a second prize draw: a scene has one at most")
			}
		}
		r.Unique(ids, r.ID(fault.Key(place, "id"), BlockID(b)), fault.Key(place, "id"))
		return true
	})
	if count > maxBlocks {
		r.Faults.Add(fault.Key(at, "blocks"), "should be at most %d blocks", maxBlocks)
	}
	s.Edges = r.edges(raw.Edges, fault.Key(at, "edges"), ids)
	return s
}

const maxTags = 20

func (r *reader) blocks(raw []*fault.Node, at string, depth int) []Block {
	blocks := []Block{}
	if len(raw) > maxBlocks {
		r.Faults.Add(at, "should be at most %d blocks", maxBlocks)
		return blocks
	}
	if depth > maxDepth {
		r.Faults.Add(at, "are more than %d deep in boxes and columns", maxDepth)
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
		r.Faults.Within("", err)
		return nil
	}
	kind := kindCalled(head.Kind)
	if kind == nil {
		r.Faults.Add(fault.Key(at, "kind"), "%q is not a kind of block", head.Kind)
		return nil
	}
	b := kind.read(r, n, at, depth)
	if b != nil && head.Phone != nil {
		r.patch(n, head.Phone, at, func(r *reader, n *fault.Node, at string) { kind.read(r, n, at, depth) })
	}
	return b
}

// unpatched are the keys that are the same on every device.
var unpatched = []string{"kind", "id", "ask", "key", "required", "choices", "right", "points", "reveal", "advances", "press", "counts", "blocks", "phone", "locked", "from", "pool", "draw", "parts", "items"}

// patch checks what differs on phones, by reading the thing as phones have it.
func (r *reader) patch(n, phone *fault.Node, at string, reading func(r *reader, n *fault.Node, at string)) {
	place := fault.Key(at, "phone")
	patch, ok := phone.Keys()
	if !ok {
		r.Faults.Add(place, "should be an object")
		return
	}
	for _, key := range patch {
		if slices.Contains(unpatched, strings.ToLower(key)) {
			r.Faults.Add(fault.Key(place, key), "is the same on every device")
			return
		}
	}
	as := &reader{saved: r.saved}
	reading(as, n.Without("phone").With(phone), at)
	for _, f := range as.Faults {
		key, rest := strings.TrimPrefix(strings.TrimPrefix(f.At, at), "."), ""
		if i := strings.IndexAny(key, ".["); i >= 0 {
			key, rest = key[:i], key[i:]
		}
		if slices.Contains(patch, key) {
			r.Faults.Add(fault.Key(place, key)+rest, "%s", f.Message)
		}
	}
}

func (r *reader) address(at, address string) {
	if wrong := badAddress(address); wrong != "" {
		r.Faults.Add(at, "%s", wrong)
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
	answerKey = regexp.MustCompile(`^[a-z][a-z0-9_]{0,39}$`)
	iconPath  = regexp.MustCompile(`^[MmLlHhVvCcSsQqTtAaZz0-9eE ,.+-]*$`)
	hash      = regexp.MustCompile(`^[0-9a-f]{32}$`)
)

// ReadScene reads one scene alone, of whatever version. Its error is fault.Faults.
func ReadScene(data []byte) (Scene, error) {
	r := reader{}
	n := r.Scan(data)
	if n != nil {
		n = r.upgraded(n, upgradeAlone)
	}
	if n == nil {
		return Scene{}, r.Faults
	}
	s := r.scene(n, "")
	return s, r.Faults.Err()
}

// ReadDrawing reads what Drawing wrote, of whatever version.
func ReadDrawing(data []byte) (*Drawing, error) {
	r := reader{}
	n := r.Scan(data)
	if version, _ := n.Get("version").Number(); n != nil && version < Version {
		n = r.upgraded(n, func(doc map[string]any) { upgradeDesign(doc, int(version)) })
	}
	var raw struct {
		Version     int         `json:"version"`
		Format      Format      `json:"format"`
		PhoneFormat Format      `json:"phone_format"`
		Kit         *fault.Node `json:"kit"`
		rawDesign
	}
	if n == nil || !r.Decode(n, "", &raw) {
		return nil, r.Faults
	}
	drawing := &Drawing{Version: Version, Format: raw.Format, PhoneFormat: raw.PhoneFormat, Design: r.designOf(raw.rawDesign, "")}
	if raw.Kit != nil {
		kit := style.ReadKitNode(&r.Reader, raw.Kit, "kit")
		drawing.Kit = &kit
	}
	return drawing, r.Faults.Err()
}
