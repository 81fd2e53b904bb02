package piece

import (
	"fmt"
	"iter"
	"net/url"
	"regexp"
	"strings"
	"time"

	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/core/pattern"
	"gobbet/core/read"
	"gobbet/core/style"
	"gobbet/core/text"
)

const (
	maxChoices = 60
	maxItems   = 60
	maxPath    = 4_000
)

func (r *reader) frame(n *fault.Node, at string) (f Frame) {
	if !r.Decode(n, at, &f) {
		return f
	}
	key := func(name string) string { return fault.Key(at, name) }
	r.Between(key("width"), f.Width, 200, 1200)
	r.Between(key("padding"), f.Padding, 0, 96)
	r.Between(key("corners"), f.Corners, ByKit, 64)
	r.Between(key("gap"), f.Gap, 0, 48)
	r.Between(key("backdrop.opacity"), f.Backdrop.Opacity, 0, 100)
	for name, c := range named("background", f.Background, "ink", f.Ink, "accent", f.Accent, "accent_ink", f.AccentInk, "backdrop.color", f.Backdrop.Color) {
		style.ReadColor(&r.Reader, key(name), style.Color(c), false)
	}
	for name, c := range named("close.color", f.Close.Color, "border.color", f.Border.Color, "tab.fill", f.Tab.Fill, "tab.ink", f.Tab.Ink) {
		style.ReadColor(&r.Reader, key(name), style.Color(c), true)
	}
	style.ReadFont(&r.Reader, key("font"), f.Font)
	if f.HeadingFont != "" {
		style.ReadFont(&r.Reader, key("heading_font"), f.HeadingFont)
	}
	read.Optional(&r.Reader, key("place"), f.Place, Center, Top, Bottom, Start, End, TopStart, TopEnd, BottomStart, BottomEnd)
	read.Optional(&r.Reader, key("shadow"), f.Shadow, NoShadow, SoftShadow, DeepShadow)
	read.Optional(&r.Reader, key("enter"), f.Enter, Still, Fade, Rise, Drop, Slide, Grow)
	read.Optional(&r.Reader, key("leave"), f.Leave, Still, Fade, Rise, Drop, Slide, Grow)
	read.Optional(&r.Reader, key("sound"), f.Sound, "chime", "knock")
	r.Between(key("border.width"), f.Border.Width, 0, 12)
	r.Text(key("close.label"), f.Close.Label, maxWords)
	read.Optional(&r.Reader, key("close.look"), f.Close.Look, "plain", "words")
	read.Optional(&r.Reader, key("close.place"), f.Close.Place, "start", "outside")
	r.Between(key("close.after"), f.Close.After, 0, 10)
	read.Optional(&r.Reader, key("anchor.where"), f.Anchor.Where, "before", "after", "first", "last")
	r.Text(key("anchor.selector"), f.Anchor.Selector, 500)
	r.Text(key("tab.words"), f.Tab.Words, 60)
	read.Optional(&r.Reader, key("tab.place"), f.Tab.Place, "bottom_start", "bottom_end", "middle_start", "middle_end")
	r.behind(f.Behind, key("behind"))
	if t := f.Talk; t != nil {
		r.Text(key("talk.name"), t.Name, 60)
		r.hash(key("talk.picture"), t.Picture, "a picture")
		read.Optional(&r.Reader, key("talk.face"), t.Face, "cup", "leaf", "wave", "sun", "star")
		read.Optional(&r.Reader, key("talk.pace"), t.Pace, "calm", "brisk")
		r.Text(key("talk.hint"), t.Hint, 100)
	}
	if f.Phone != nil {
		r.patch(n, n.Get("phone"), at, func(r *reader, n *fault.Node, at string) { r.frame(n, at) })
	}
	return f
}

func (r *reader) behind(b Behind, at string) {
	if n := len(b.Gradient); n != 0 {
		r.Between(fault.Key(at, "gradient"), n, 2, 3)
	}
	for i, c := range b.Gradient {
		style.ReadColor(&r.Reader, fault.Index(fault.Key(at, "gradient"), i), c, false)
	}
	r.Between(fault.Key(at, "angle"), b.Angle, 0, 360)
	r.hash(fault.Key(at, "picture"), b.Picture, "a picture")
	r.hash(fault.Key(at, "video"), b.Video, "a file")
	r.Text(fault.Key(at, "alt"), b.Alt, 500)
	r.fit(at, b.Fit, b.Focus)
	r.Between(fault.Key(at, "shade"), b.Shade, 0, 95)
	read.Optional(&r.Reader, fault.Key(at, "side"), b.Side, "start", "end", "top")
	if b.Share != 0 {
		r.Between(fault.Key(at, "share"), b.Share, 15, 70)
	}
}

func (r *reader) fit(at string, fit Fit, f Focus) {
	read.Optional(&r.Reader, fault.Key(at, "fit"), fit, Cover, Contain)
	r.Between(fault.Key(at, "focus.x"), f.X, 0, 100)
	r.Between(fault.Key(at, "focus.y"), f.Y, 0, 100)
}

func (r *reader) hash(at, given, what string) {
	if given != "" && !hash.MatchString(given) {
		r.Faults.Add(at, "is not %s of this site", what)
	}
}

func (r *reader) align(at string, a Align) {
	read.OneOf(&r.Reader, fault.Key(at, "align"), a, "start", "center", "end")
}

func (r *reader) icon(at, name, path string) {
	r.Text(fault.Key(at, "name"), name, 40)
	if len(path) > maxPath || !iconPath.MatchString(path) {
		r.Faults.Add(fault.Key(at, "path"), "is not the path of an icon")
	}
}

func isHTTPS(address string) bool {
	u, err := url.Parse(address)
	return err == nil && u.Scheme == "https" && u.Host != "" && u.User == nil && len(address) <= maxAddress
}

func (r *reader) field(at string, f *Field) {
	key := func(name string) string { return fault.Key(at, name) }
	read.OneOf(&r.Reader, key("ask"), f.Ask, AskName, AskEmail, AskText, AskPhone, AskNumber, AskDate, AskLong, AskChoice, AskChoices, AskDropdown, AskConsent, AskStars, AskScale, AskHidden, AskSlider, AskOrder)
	if !answerKey.MatchString(f.Key) {
		r.Faults.Add(key("key"), "should be a short name of small letters, digits and _, starting with a letter")
	}
	most := maxWords
	if f.Ask == AskConsent {
		most = 1000
	}
	f.Label = r.Line(key("label"), f.Label, most)
	r.Text(key("hint"), f.Hint, maxWords)
	r.Text(key("help"), f.Help, 500)
	r.Text(key("message"), f.Message, maxWords)
	if f.Ask.Chooses() {
		r.choices(f, key("choices"))
	} else {
		f.Choices = nil
	}
	read.Optional(&r.Reader, key("look"), f.Look, "list", "pictures")
	r.Text(key("unit"), f.Unit, 20)
	if f.Ask == AskSlider {
		r.slider(f, at)
	}
	if len(f.Right) > maxRight {
		r.Faults.Add(key("right"), "should be at most %d answers", maxRight)
	}
	for i, right := range f.Right {
		f.Right[i] = r.Line(fault.Index(key("right"), i), right, maxWords)
	}
	r.amount(key("points"), f.Points)
	r.Text(key("explanation"), f.Explanation, 2000)
	for name, bound := range named("least", f.Least, "most", f.Most) {
		if bound == "" {
			continue
		}
		if f.Ask == AskDate {
			if _, err := time.Parse(time.DateOnly, bound); err != nil {
				r.Faults.Add(key(name), "should be a date such as 2026-12-24")
			}
		} else if _, ok := text.Number(bound); !ok {
			r.Faults.Add(key(name), "should be a number")
		}
	}
	if f.Width != 0 {
		r.Between(key("width"), f.Width, 20, 100)
	}
	if f.Pattern != "" {
		if len(f.Pattern) > maxPattern {
			r.Faults.Add(key("pattern"), "is longer than %d characters", maxPattern)
		} else if _, steps, err := pattern.Compile(f.Pattern, pattern.Most); err != nil {
			r.Faults.Add(key("pattern"), "%s", err)
		} else if r.steps += steps; r.steps > maxSteps {
			r.Faults.Add(key("pattern"), "is one pattern too many: all of the design's together take more than %d steps for each character", maxSteps)
		}
	}
	if f.Ask == AskHidden && f.From != "path" && !hiddenFrom.MatchString(f.From) {
		r.Faults.Add(key("from"), "should be path, query.NAME or data.NAME")
	}
}

var hiddenFrom = regexp.MustCompile(`^(query|data)\.[A-Za-z0-9_.-]{1,80}$`)

// Chooses reports whether a field has choices.
func (a Ask) Chooses() bool {
	return a == AskChoice || a == AskChoices || a == AskDropdown || a == AskOrder
}

const (
	maxRight = 40
	maxParts = 24
	maxStock = 10_000_000
)

func (r *reader) draw(at string, d *PrizeDraw) {
	key := func(name string) string { return fault.Key(at, name) }
	if !answerKey.MatchString(d.Key) {
		r.Faults.Add(key("key"), "should be a short name of small letters, digits and _, starting with a letter")
	}
	d.Label = r.Line(key("label"), d.Label, maxWords)
	d.Words = r.Line(key("words"), d.Words, 40)
	read.OneOf(&r.Reader, key("look"), d.Look, "wheel", "card", "boxes")
	r.Between(key("size"), d.Size, 160, 480)
	if d.Boxes != 0 {
		r.Between(key("boxes"), d.Boxes, 2, 9)
	}
	style.ReadColor(&r.Reader, key("color"), d.Color, true)
	if d.Statement = ""; len(d.Parts) < 2 || len(d.Parts) > maxParts {
		r.Faults.Add(key("parts"), "should be 2 to %d parts", maxParts)
		return
	}
	ids, sum := map[string]bool{}, 0.0
	for i := range d.Parts {
		p := &d.Parts[i]
		place := fault.Index(key("parts"), i)
		if !answerKey.MatchString(p.ID) {
			r.Faults.Add(fault.Key(place, "id"), "should be a short name of small letters, digits and _, starting with a letter")
		}
		r.Unique(ids, p.ID, fault.Key(place, "id"))
		p.Label = r.Line(fault.Key(place, "label"), p.Label, 60)
		if !(p.Weight >= 0 && p.Weight <= draw.MaxWeight) {
			r.Faults.Add(fault.Key(place, "weight"), "should be 0 to %d", int(draw.MaxWeight))
		}
		sum += p.Weight
		if p.Stock != nil {
			r.Between(fault.Key(place, "stock"), *p.Stock, 0, maxStock)
		}
		if p.Nothing {
			p.Code, p.Pool = "", ""
		}
		r.Text(fault.Key(place, "code"), p.Code, maxCode)
		if p.Pool != "" {
			r.ID(fault.Key(place, "pool"), p.Pool)
			p.Code = ""
		}
		style.ReadColor(&r.Reader, fault.Key(place, "fill"), p.Fill, true)
		p.Share = 0
	}
	if sum == 0 {
		r.Faults.Add(key("parts"), "need at least one with a weight above 0")
	}
}

const maxCode = 300

func (r *reader) press(p Press, at string) {
	key := func(name string) string { return fault.Key(at, name) }
	read.OneOf(&r.Reader, key("do"), p.Do, DoSend, DoNext, DoBack, DoOpen, DoMail, DoCall, DoCopy, DoClose, DoNever, DoScroll, DoPiece, DoFile)
	switch p.Do {
	case DoOpen:
		r.address(key("address"), p.Address)
	case DoMail:
		if address, _, _ := strings.Cut(p.Address, "?"); !text.IsEmail(address) {
			r.Faults.Add(key("address"), "should be an email address")
		}
	case DoCall:
		if !text.IsPhone(p.Address) {
			r.Faults.Add(key("address"), "should be a telephone number such as +353 1 234 567")
		}
	case DoCopy:
		r.Line(key("text"), p.Text, 2000)
	case DoScroll:
		r.Line(key("target"), p.Target, 500)
	case DoPiece:
		if !read.IsID(p.Piece) {
			r.Faults.Add(key("piece"), "should be the piece to open")
		}
	case DoFile:
		if p.File == "" {
			r.Faults.Add(key("file"), "should be the file to hand out")
		}
		r.hash(key("file"), p.File, "a file")
		r.Text(key("file_name"), p.FileName, 200)
	}
}

// named gives values with their names, in the order they are written in.
func named(pairs ...any) iter.Seq2[string, string] {
	return func(yield func(string, string) bool) {
		for i := 0; i < len(pairs); i += 2 {
			if !yield(pairs[i].(string), fmt.Sprint(pairs[i+1])) {
				return
			}
		}
	}
}
