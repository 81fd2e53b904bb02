package piece

import (
	"maps"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/microcosm-cc/bluemonday"

	"gobbet/core/fault"
)

const (
	maxOptions = 60
	maxItems   = 60
	maxHTML    = 40_000
	maxPath    = 4_000
)

func (r *reader) frame(n *fault.Node, at string) (f Frame) {
	if !r.decode(n, at, &f) {
		return f
	}
	key := func(name string) string { return fault.Key(at, name) }
	r.between(key("width"), f.Width, 200, 1200)
	r.between(key("padding"), f.Padding, 0, 96)
	r.between(key("corners"), f.Corners, ByKit, 64)
	r.between(key("gap"), f.Gap, 0, 48)
	r.between(key("veil.opacity"), f.Veil.Opacity, 0, 100)
	for name, c := range map[string]Color{"background": f.Background, "ink": f.Ink, "accent": f.Accent, "accent_ink": f.AccentInk, "veil.color": f.Veil.Color} {
		r.color(key(name), c, false)
	}
	for name, c := range map[string]Color{"close.color": f.Close.Color, "border.color": f.Border.Color, "tab.fill": f.Tab.Fill, "tab.ink": f.Tab.Ink} {
		r.color(key(name), c, true)
	}
	r.font(key("font"), f.Font)
	if f.HeadingFont != "" {
		r.font(key("heading_font"), f.HeadingFont)
	}
	optional(r, key("place"), f.Place, Center, Top, Bottom, Start, End, TopStart, TopEnd, BottomStart, BottomEnd)
	optional(r, key("shadow"), f.Shadow, NoShadow, SoftShadow, DeepShadow)
	optional(r, key("enter"), f.Enter, Still, Fade, Rise, Drop, Slide, Grow)
	optional(r, key("leave"), f.Leave, Still, Fade, Rise, Drop, Slide, Grow)
	optional(r, key("sound"), f.Sound, "chime", "knock")
	r.between(key("border.width"), f.Border.Width, 0, 12)
	r.text(key("close.label"), f.Close.Label, maxWords)
	optional(r, key("close.look"), f.Close.Look, "plain", "words")
	optional(r, key("close.place"), f.Close.Place, "start", "outside")
	r.between(key("close.after"), f.Close.After, 0, 10)
	optional(r, key("anchor.where"), f.Anchor.Where, "before", "after", "first", "last")
	r.text(key("anchor.selector"), f.Anchor.Selector, 500)
	r.text(key("tab.words"), f.Tab.Words, 60)
	optional(r, key("tab.place"), f.Tab.Place, "bottom_start", "bottom_end", "middle_start", "middle_end")
	r.behind(f.Behind, key("behind"))
	if f.Phone != nil {
		r.patch(n, n.Get("phone"), at, func(r *reader, n *fault.Node, at string) { r.frame(n, at) })
	}
	return f
}

func (r *reader) behind(b Behind, at string) {
	if n := len(b.Gradient); n != 0 {
		r.between(fault.Key(at, "gradient"), n, 2, 3)
	}
	for i, c := range b.Gradient {
		r.color(fault.Index(fault.Key(at, "gradient"), i), c, false)
	}
	r.between(fault.Key(at, "angle"), b.Angle, 0, 360)
	r.hash(fault.Key(at, "picture"), b.Picture, "a picture")
	r.hash(fault.Key(at, "video"), b.Video, "a file")
	r.text(fault.Key(at, "alt"), b.Alt, 500)
	r.fit(at, b.Fit, b.Focus)
	r.between(fault.Key(at, "shade"), b.Shade, 0, 95)
	optional(r, fault.Key(at, "side"), b.Side, "start", "end", "top")
	if b.Share != 0 {
		r.between(fault.Key(at, "share"), b.Share, 15, 70)
	}
}

func (r *reader) fit(at string, fit Fit, f Focus) {
	optional(r, fault.Key(at, "fit"), fit, Cover, Contain)
	r.between(fault.Key(at, "focus.x"), f.X, 0, 100)
	r.between(fault.Key(at, "focus.y"), f.Y, 0, 100)
}

func (r *reader) hash(at, given, what string) {
	if given != "" && !hash.MatchString(given) {
		r.faults.Add(at, "is not %s of this site", what)
	}
}

func (r *reader) font(at string, f Font) {
	oneOf(r, at, f, append([]Font{Sans, Serif, KitText, KitHeading, PageFont}, Shipped...)...)
}

// optional is oneOf for what may be left out.
func optional[T ~string](r *reader, at string, got T, allowed ...T) {
	if got != "" {
		oneOf(r, at, got, allowed...)
	}
}

// blockKinds reads a block of each kind, so deep in others.
var blockKinds map[string]func(r *reader, n *fault.Node, at string, depth int) Block

// It refers to itself through the blocks that hold others.
func init() {
	blockKinds = map[string]func(r *reader, n *fault.Node, at string, depth int) Block{
		"heading": plainKind(func(r *reader, at string, b *Heading) {
			r.words(fault.Key(at, "text"), b.Text, maxText)
			r.between(fault.Key(at, "size"), b.Size, 12, 120)
			r.align(at, b.Align)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"text": plainKind(func(r *reader, at string, b *Text) {
			r.words(fault.Key(at, "text"), b.Text, maxText)
			r.between(fault.Key(at, "size"), b.Size, 10, 40)
			r.align(at, b.Align)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"list": plainKind(func(r *reader, at string, b *List) {
			if len(b.Items) < 1 || len(b.Items) > maxItems {
				r.faults.Add(fault.Key(at, "items"), "should be 1 to %d lines", maxItems)
			}
			for i, item := range b.Items {
				r.words(fault.Index(fault.Key(at, "items"), i), item, maxText)
			}
			oneOf(r, fault.Key(at, "marker"), b.Marker, "dot", "tick", "dash", "number")
			r.between(fault.Key(at, "size"), b.Size, 10, 40)
			r.color(fault.Key(at, "color"), b.Color, true)
			r.color(fault.Key(at, "mark"), b.Mark, true)
		}),
		"picture": plainKind(func(r *reader, at string, b *Picture) {
			r.hash(fault.Key(at, "picture"), b.Picture, "a picture")
			r.between(fault.Key(at, "ratio"), b.Ratio, 10, 400)
			r.between(fault.Key(at, "width"), b.Width, 10, 100)
			r.between(fault.Key(at, "corners"), b.Corners, 0, 400)
			r.text(fault.Key(at, "alt"), b.Alt, 500)
			r.align(at, b.Align)
			r.fit(at, b.Fit, b.Focus)
			if b.Link != "" {
				r.address(fault.Key(at, "link"), b.Link)
			}
		}),
		"video": plainKind(func(r *reader, at string, b *Video) {
			r.hash(fault.Key(at, "file"), b.File, "a file")
			if b.Address != "" && !isHTTPS(b.Address) {
				r.faults.Add(fault.Key(at, "address"), "should be the https address of a player to embed")
			}
			r.text(fault.Key(at, "title"), b.Title, 500)
			r.between(fault.Key(at, "ratio"), b.Ratio, 10, 400)
			r.between(fault.Key(at, "corners"), b.Corners, 0, 64)
		}),
		"icon": plainKind(func(r *reader, at string, b *Icon) {
			r.icon(at, b.Name, b.Path)
			r.between(fault.Key(at, "size"), b.Size, 12, 200)
			r.align(at, b.Align)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"divider": plainKind(func(r *reader, at string, b *Divider) {
			r.between(fault.Key(at, "thick"), b.Thick, 1, 12)
			r.between(fault.Key(at, "width"), b.Width, 5, 100)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"space": plainKind(func(r *reader, at string, b *Space) { r.between(fault.Key(at, "height"), b.Height, 1, 400) }),
		"box": holdingKind(func(r *reader, n *fault.Node, at string, blocks []Block) Block {
			return read(r, n, at, func(b *Box) {
				b.Blocks = blocks
				r.color(fault.Key(at, "background"), b.Background, true)
				r.between(fault.Key(at, "padding"), b.Padding, 0, 64)
				r.between(fault.Key(at, "corners"), b.Corners, 0, 64)
				r.between(fault.Key(at, "gap"), b.Gap, 0, 48)
				r.between(fault.Key(at, "border.width"), b.Border.Width, 0, 12)
				r.color(fault.Key(at, "border.color"), b.Border.Color, true)
			})
		}),
		"columns": holdingKind(func(r *reader, n *fault.Node, at string, blocks []Block) Block {
			return read(r, n, at, func(b *Columns) {
				b.Blocks = blocks
				if len(blocks) > maxColumns {
					r.faults.Add(fault.Key(at, "blocks"), "should be at most %d side by side", maxColumns)
				}
				if len(b.Widths) > maxColumns {
					r.faults.Add(fault.Key(at, "widths"), "should be at most %d", maxColumns)
				}
				for i, w := range b.Widths {
					r.between(fault.Index(fault.Key(at, "widths"), i), w, 1, 100)
				}
				r.between(fault.Key(at, "gap"), b.Gap, 0, 64)
				optional(r, fault.Key(at, "lined"), b.Lined, "middle", "end")
			})
		}),
		"field": plainKind(func(r *reader, at string, b *Field) { r.field(at, b) }),
		"button": plainKind(func(r *reader, at string, b *Button) {
			r.line(fault.Key(at, "words"), b.Words, maxWords)
			r.color(fault.Key(at, "fill"), b.Fill, true)
			r.color(fault.Key(at, "ink"), b.Ink, true)
			r.color(fault.Key(at, "hover"), b.Hover, true)
			if b.Align != "" {
				r.align(at, b.Align)
			}
			if b.Size != 0 {
				r.between(fault.Key(at, "size"), b.Size, 12, 32)
			}
			if b.Corners != nil {
				r.between(fault.Key(at, "corners"), *b.Corners, 0, 64)
			}
			optional(r, fault.Key(at, "stir"), b.Stir, "pulse", "nudge", "shine")
			r.press(b.Press, fault.Key(at, "press"))
		}),
		"timer": plainKind(func(r *reader, at string, b *Timer) {
			if b.To != "" {
				if _, err := time.Parse(time.RFC3339, b.To); err != nil {
					r.faults.Add(fault.Key(at, "to"), "should be a moment such as 2026-12-24T18:00:00Z")
				}
			} else {
				r.between(fault.Key(at, "minutes"), b.Minutes, 1, 525_600)
			}
			oneOf(r, fault.Key(at, "at_zero"), b.AtZero, "stay", "hide", "words", "close", "scene")
			if b.AtZero == "scene" && b.Scene == "" {
				r.faults.Add(fault.Key(at, "scene"), "should be the scene to go to")
			}
			r.text(fault.Key(at, "words"), b.Words, maxWords)
			r.between(fault.Key(at, "size"), b.Size, 12, 72)
			r.align(at, b.Align)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"code": plainKind(func(r *reader, at string, b *Code) {
			r.text(fault.Key(at, "code"), b.Code, 100)
			if b.Pool != "" {
				r.id(fault.Key(at, "pool"), b.Pool)
			} else if strings.TrimSpace(b.Code) == "" {
				r.faults.Add(fault.Key(at, "code"), "needs a code, or a pool to take one from")
			}
			r.line(fault.Key(at, "words"), b.Words, maxWords)
			r.line(fault.Key(at, "copied"), b.Copied, maxWords)
			r.text(fault.Key(at, "apply_words"), b.ApplyWords, maxWords)
			if b.Apply != "" {
				r.address(fault.Key(at, "apply"), strings.ReplaceAll(b.Apply, "{code}", "code"))
			}
			r.between(fault.Key(at, "size"), b.Size, 12, 48)
			r.color(fault.Key(at, "background"), b.Background, true)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"progress": plainKind(func(r *reader, at string, b *Progress) {
			oneOf(r, fault.Key(at, "look"), b.Look, "bar", "dots", "words")
			r.between(fault.Key(at, "value"), b.Value, 0, 100)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"links": plainKind(func(r *reader, at string, b *Links) {
			if len(b.Items) < 1 || len(b.Items) > 12 {
				r.faults.Add(fault.Key(at, "items"), "should be 1 to 12 links")
			}
			for i, item := range b.Items {
				place := fault.Index(fault.Key(at, "items"), i)
				r.icon(place, item.Name, item.Path)
				r.line(fault.Key(place, "label"), item.Label, maxWords)
				r.address(fault.Key(place, "address"), item.Address)
			}
			r.between(fault.Key(at, "size"), b.Size, 16, 64)
			r.align(at, b.Align)
			r.color(fault.Key(at, "color"), b.Color, true)
		}),
		"html": plainKind(func(r *reader, at string, b *HTML) {
			r.text(fault.Key(at, "html"), b.HTML, maxHTML)
			b.HTML = CleanHTML(b.HTML)
			// The phone's markup is markup as well. The patch is not the reader's own.
			if onPhones, ok := b.Phone["html"].(string); ok {
				b.Phone = maps.Clone(b.Phone)
				b.Phone["html"] = CleanHTML(onPhones)
			}
		}),
	}
}

const maxColumns = 6

func plainKind[B Block](check func(r *reader, at string, b *B)) func(*reader, *fault.Node, string, int) Block {
	return func(r *reader, n *fault.Node, at string, _ int) Block {
		return read(r, n, at, func(b *B) { check(r, at, b) })
	}
}

// holdingKind reads a block with those it holds. They are read apart, since
// JSON alone does not say of which kind each is.
func holdingKind(whole func(r *reader, n *fault.Node, at string, blocks []Block) Block) func(*reader, *fault.Node, string, int) Block {
	return func(r *reader, n *fault.Node, at string, depth int) Block {
		held := n.Get("blocks")
		raw, ok := held.Items()
		if !ok && !held.IsNull() {
			r.faults.Add(fault.Key(at, "blocks"), "should be a list of blocks")
			return nil
		}
		return whole(r, n.Without("blocks"), at, r.blocks(raw, fault.Key(at, "blocks"), depth+1))
	}
}

func (r *reader) align(at string, a Align) {
	oneOf(r, fault.Key(at, "align"), a, "start", "center", "end")
}

func (r *reader) icon(at, name, path string) {
	r.text(fault.Key(at, "name"), name, 40)
	if len(path) > maxPath || !iconPath.MatchString(path) {
		r.faults.Add(fault.Key(at, "path"), "is not the path of an icon")
	}
}

func isHTTPS(address string) bool {
	u, err := url.Parse(address)
	return err == nil && u.Scheme == "https" && u.Host != "" && u.User == nil && len(address) <= maxAddress
}

func (r *reader) field(at string, f *Field) {
	key := func(name string) string { return fault.Key(at, name) }
	oneOf(r, key("ask"), f.Ask, AskName, AskEmail, AskText, AskPhone, AskNumber, AskDate, AskLong, AskChoice, AskChoices, AskDropdown, AskConsent, AskStars, AskScale, AskHidden)
	if !answerKey.MatchString(f.Key) {
		r.faults.Add(key("key"), "should be a short name of small letters, digits and _, starting with a letter")
	}
	most := maxWords
	if f.Ask == AskConsent {
		most = 1000
	}
	f.Label = r.line(key("label"), f.Label, most)
	r.text(key("hint"), f.Hint, maxWords)
	r.text(key("help"), f.Help, 500)
	r.text(key("message"), f.Message, maxWords)
	if f.Ask.Chooses() {
		r.options(f, key("options"))
	}
	for name, bound := range map[string]string{"least": f.Least, "most": f.Most} {
		if bound == "" {
			continue
		}
		if f.Ask == AskDate {
			if _, err := time.Parse(time.DateOnly, bound); err != nil {
				r.faults.Add(key(name), "should be a date such as 2026-12-24")
			}
		} else if _, ok := finite(bound); !ok {
			r.faults.Add(key(name), "should be a number")
		}
	}
	if f.Width != 0 {
		r.between(key("width"), f.Width, 20, 100)
	}
	if f.Pattern != "" {
		if _, err := regexp.Compile(f.Pattern); err != nil || len(f.Pattern) > 500 {
			r.faults.Add(key("pattern"), "is not a regular expression (RE2) of at most 500 characters")
		}
	}
	if f.Ask == AskHidden && f.From != "path" && !hiddenFrom.MatchString(f.From) {
		r.faults.Add(key("from"), "should be path, query.NAME or data.NAME")
	}
}

var hiddenFrom = regexp.MustCompile(`^(query|data)\.[A-Za-z0-9_.-]{1,80}$`)

// Chooses reports whether answers are among the field's options.
func (a Ask) Chooses() bool { return a == AskChoice || a == AskChoices || a == AskDropdown }

func (r *reader) options(f *Field, at string) {
	if len(f.Options) < 1 || len(f.Options) > maxOptions {
		r.faults.Add(at, "should be 1 to %d", maxOptions)
		return
	}
	seen := map[string]bool{}
	for i, o := range f.Options {
		f.Options[i] = r.line(fault.Index(at, i), o, maxWords)
		if strings.Contains(o, "\n") {
			r.faults.Add(fault.Index(at, i), "should be one line")
		}
		r.unique(seen, f.Options[i], fault.Index(at, i))
	}
}

func finite(s string) (float64, bool) {
	n, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
	return n, err == nil && n-n == 0
}

func (r *reader) press(p Press, at string) {
	key := func(name string) string { return fault.Key(at, name) }
	oneOf(r, key("do"), p.Do, DoSend, DoScene, DoNext, DoOpen, DoMail, DoCall, DoCopy, DoClose, DoNever, DoScroll, DoPiece, DoFile)
	switch p.Do {
	case DoScene:
		if p.Scene == "" {
			r.faults.Add(key("scene"), "should be the scene to go to")
		}
	case DoOpen:
		r.address(key("address"), p.Address)
	case DoMail:
		if address, _, _ := strings.Cut(p.Address, "?"); !IsEmail(address) {
			r.faults.Add(key("address"), "should be an email address")
		}
	case DoCall:
		if !phoneForm.MatchString(p.Address) {
			r.faults.Add(key("address"), "should be a telephone number such as +353 1 234 567")
		}
	case DoCopy:
		r.line(key("text"), p.Text, 2000)
	case DoScroll:
		r.line(key("target"), p.Target, 500)
	case DoPiece:
		if !idForm.MatchString(p.Piece) {
			r.faults.Add(key("piece"), "should be the piece to open")
		}
	case DoFile:
		if p.File == "" {
			r.faults.Add(key("file"), "should be the file to hand out")
		}
		r.hash(key("file"), p.File, "a file")
		r.text(key("file_name"), p.FileName, 200)
	}
}

var phoneForm = regexp.MustCompile(`^\+?[0-9][0-9 ()./-]{2,30}$`)

// cleaning lets through what a mail or an article is made of, and nothing that
// could run, load a script, or reach out of its block.
var cleaning = func() *bluemonday.Policy {
	p := bluemonday.UGCPolicy()
	p.AllowAttrs("target").Matching(regexp.MustCompile(`^_blank$`)).OnElements("a")
	p.RequireNoFollowOnLinks(false)
	p.RequireNoReferrerOnFullyQualifiedLinks(true)
	p.AllowStyles("color", "background-color", "font-weight", "font-style", "text-align", "text-decoration", "padding", "margin", "border-radius").Globally()
	p.AllowURLSchemes("http", "https", "mailto", "tel")
	return p
}()

// CleanHTML keeps of a marketer's markup what cannot run. What is far longer
// than markup may be is not looked at: a reader refuses it.
func CleanHTML(s string) string {
	if len(s) > 4*maxHTML {
		return ""
	}
	return strings.TrimSpace(cleaning.Sanitize(s))
}
