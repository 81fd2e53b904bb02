package reach

import (
	"slices"
	"strings"
)

// Kind is what values a fact takes, and so which operators a clause about it may use.
type Kind string

const (
	Text      Kind = "text"
	Number    Kind = "number"
	Flag      Kind = "flag"
	Either    Kind = "any"       // whatever the site gives: text, number or flag
	Counted   Kind = "counted"   // a moment that grows while the page is open
	Happening Kind = "happening" // a moment that comes or does not
)

// Fact declares something that a rule may ask about. The rule builder, the
// checker, the phrases and the docs are all drawn from these declarations.
type Fact struct {
	// Name is what a clause writes. A name ending in a dot opens a family:
	// page.query. stands for page.query.NAME.
	Name string `json:"name"`
	Kind Kind   `json:"kind"`
	// Group gathers facts in the builder: page, source, device, place, clock, visitor, history, site data, moment.
	Group string `json:"group"`
	// Says is how the fact reads in a sentence; {} stands for the family's NAME.
	Says string `json:"says"`
	// SaysNot is how a flag reads when false, or a happening without its value.
	SaysNot string `json:"says_not,omitempty"`
	Unit    string `json:"unit,omitempty"`
	// Values is the whole set of a fact that takes only certain values, in their order.
	Values []string `json:"values,omitempty"`
	// Names is what people call values that are short for something.
	Names map[string]string `json:"names,omitempty"`
	// Example is a value that a newly added condition may start from.
	Example string `json:"example,omitempty"`
	// Recorded says that the visit log keeps it. What may be personal is not
	// kept, and a rehearsal takes it for absent.
	Recorded bool `json:"recorded"`
}

// Clock is the unit of a time of day, kept in minutes since midnight and said
// as the hands of a clock say it: 09:00.
const Clock = "hh:mm"

// IsMoment reports whether the fact becomes known only while the page is open.
func (f Fact) IsMoment() bool { return f.Kind == Counted || f.Kind == Happening }

// siteData is the family of the site's own data.
const siteData = "data."

// Facts is every fact there is, in the order the builder offers them.
var Facts = []Fact{
	{Name: "page.path", Kind: Text, Group: "page", Says: "page", Example: "/", Recorded: true},
	{Name: "page.url", Kind: Text, Group: "page", Says: "page address"},
	{Name: "page.title", Kind: Text, Group: "page", Says: "page title", Recorded: true},
	{Name: "page.kind", Kind: Text, Group: "page", Says: "kind of page", Example: "product", Recorded: true},
	{Name: "page.query.", Kind: Text, Group: "page", Says: "address parameter {}"},

	{Name: "source.channel", Kind: Text, Group: "source", Recorded: true, Says: "channel",
		Values: []string{"direct", "search", "social", "email", "ads", "referral", "internal"}},
	{Name: "source.referrer", Kind: Text, Group: "source", Says: "referring address"},
	{Name: "source.host", Kind: Text, Group: "source", Says: "referring site", Recorded: true},
	{Name: "source.utm_source", Kind: Text, Group: "source", Says: "campaign source", Recorded: true},
	{Name: "source.utm_medium", Kind: Text, Group: "source", Says: "campaign medium", Recorded: true},
	{Name: "source.utm_campaign", Kind: Text, Group: "source", Says: "campaign name", Recorded: true},
	{Name: "source.utm_term", Kind: Text, Group: "source", Says: "campaign term", Recorded: true},
	{Name: "source.utm_content", Kind: Text, Group: "source", Says: "campaign content", Recorded: true},

	{Name: "device.kind", Kind: Text, Group: "device", Recorded: true, Says: "device",
		Values: []string{"desktop", "tablet", "phone"}},
	{Name: "device.os", Kind: Text, Group: "device", Says: "system", Recorded: true},
	{Name: "device.browser", Kind: Text, Group: "device", Says: "browser", Recorded: true},
	{Name: "device.width", Kind: Number, Group: "device", Says: "window width", Unit: "px", Example: "768", Recorded: true},
	{Name: "device.language", Kind: Text, Group: "device", Says: "browser language", Example: "en", Recorded: true},

	{Name: "place.country", Kind: Text, Group: "place", Says: "country", Values: countries, Example: "IE", Recorded: true},
	{Name: "place.region", Kind: Text, Group: "place", Says: "region", Recorded: true},

	{Name: "clock.date", Kind: Text, Group: "clock", Says: "date", Recorded: true},
	{Name: "clock.time", Kind: Number, Group: "clock", Says: "time of day", Unit: Clock, Example: "540", Recorded: true},
	{Name: "clock.weekday", Kind: Text, Group: "clock", Recorded: true, Says: "weekday",
		Values: []string{"mon", "tue", "wed", "thu", "fri", "sat", "sun"},
		Names:  map[string]string{"mon": "Monday", "tue": "Tuesday", "wed": "Wednesday", "thu": "Thursday", "fri": "Friday", "sat": "Saturday", "sun": "Sunday"}},

	{Name: "visitor.new", Kind: Flag, Group: "visitor", Says: "visitor is new", SaysNot: "visitor is returning", Recorded: true},
	{Name: "visitor.visits", Kind: Number, Group: "visitor", Says: "number of visits", Example: "2", Recorded: true},
	{Name: "visitor.pages", Kind: Number, Group: "visitor", Says: "pages seen in total", Example: "3", Recorded: true},
	{Name: "visitor.pages_this_visit", Kind: Number, Group: "visitor", Says: "pages seen this visit", Example: "2", Recorded: true},
	{Name: "visitor.days_since_last", Kind: Number, Group: "visitor", Says: "days since the last visit", Example: "7", Recorded: true},
	{Name: "visitor.landing_path", Kind: Text, Group: "visitor", Says: "first page of the visit", Example: "/", Recorded: true},
	{Name: "visitor.lead", Kind: Flag, Group: "visitor", Says: "visitor is a lead", SaysNot: "visitor is not a lead", Recorded: true},
	{Name: "visitor.tags", Kind: Text, Group: "visitor", Says: "visitor's tag", Recorded: true},

	{Name: "history.shown.", Kind: Number, Group: "history", Says: "times {} was shown", Example: "1", Recorded: true},
	{Name: "history.closed.", Kind: Number, Group: "history", Says: "times {} was closed", Example: "1", Recorded: true},
	{Name: "history.converted.", Kind: Number, Group: "history", Says: "times {} converted", Example: "1", Recorded: true},

	{Name: siteData, Kind: Either, Group: "site data", Says: "{}", Recorded: true},
	{Name: "cookie.", Kind: Text, Group: "site data", Says: "cookie {}"},

	{Name: "moment.seconds_on_page", Kind: Counted, Group: "moment", Says: "time on page", Unit: "s", Example: "30", Recorded: true},
	{Name: "moment.seconds_on_site", Kind: Counted, Group: "moment", Says: "time on site", Unit: "s", Example: "60"},
	{Name: "moment.scroll_percent", Kind: Counted, Group: "moment", Says: "scroll", Unit: "%", Example: "50", Recorded: true},
	{Name: "moment.scroll_pixels", Kind: Counted, Group: "moment", Says: "scroll distance", Unit: "px", Example: "600"},
	{Name: "moment.idle_seconds", Kind: Counted, Group: "moment", Says: "time idle", Unit: "s", Example: "20", Recorded: true},
	{Name: "moment.exit_intent", Kind: Happening, Group: "moment", Says: "visitor shows exit intent", Recorded: true},
	{Name: "moment.click", Kind: Happening, Group: "moment", Says: "{} is clicked", SaysNot: "something is clicked", Example: "#buy", Recorded: true},
	{Name: "moment.seen", Kind: Happening, Group: "moment", Says: "{} is seen", SaysNot: "something is seen", Example: "#offer", Recorded: true},
	{Name: "moment.leaving_to", Kind: Happening, Group: "moment", Says: "visitor leaves for {}", SaysNot: "visitor follows a link to another site", Recorded: true},
	{Name: "moment.event", Kind: Happening, Group: "moment", Says: "event {} is sent", SaysNot: "any event is sent", Recorded: true},
}

var slots = func() map[string]int {
	m := make(map[string]int, len(Facts))
	for i, f := range Facts {
		m[f.Name] = i
	}
	return m
}()

// families are the facts whose names go on, and so are not held by slot.
var families = slices.DeleteFunc(slices.Clone(Facts), func(f Fact) bool { return !strings.HasSuffix(f.Name, ".") })

const maxFactName = 200

// find gives a fact's declaration and its slot, or -1 with the rest of its name for one of a family.
func find(name string) (f Fact, slot int, rest string, ok bool) {
	if i, ok := slots[name]; ok && !strings.HasSuffix(name, ".") {
		return Facts[i], i, "", true
	}
	for _, f := range families {
		if rest, ok := strings.CutPrefix(name, f.Name); ok && rest != "" && len(name) <= maxFactName {
			return f, -1, rest, true
		}
	}
	return Fact{}, -1, "", false
}

// Find gives the declaration of a fact by the name a clause uses.
func Find(name string) (Fact, bool) {
	f, _, _, ok := find(name)
	return f, ok
}

// Op is what a clause asks of a fact.
type Op string

const (
	Is          Op = "is"
	IsNot       Op = "is_not"
	Contains    Op = "contains"
	ContainsNot Op = "contains_not"
	StartsWith  Op = "starts_with"
	EndsWith    Op = "ends_with"
	Like        Op = "like"
	Matches     Op = "matches"
	In          Op = "in"
	NotIn       Op = "not_in"
	Present     Op = "present"
	Absent      Op = "absent"
	Eq          Op = "eq"
	Ne          Op = "ne"
	Lt          Op = "lt"
	Lte         Op = "lte"
	Gt          Op = "gt"
	Gte         Op = "gte"
	Between     Op = "between"
	Happened    Op = "happened"
)

var (
	textOps   = []Op{Is, IsNot, Contains, ContainsNot, StartsWith, EndsWith, Like, Matches, In, NotIn, Present, Absent}
	numberOps = []Op{Eq, Ne, Lt, Lte, Gt, Gte, Between, Present, Absent}
)

// Ops is the operators a clause about a fact of each kind may use.
var Ops = map[Kind][]Op{
	Text:      textOps,
	Number:    numberOps,
	Flag:      {Is, Present, Absent},
	Either:    append(slices.Clone(textOps), Eq, Ne, Lt, Lte, Gt, Gte, Between),
	Counted:   {Gte},
	Happening: {Happened},
}

// countries is ISO 3166-1 alpha-2.
var countries = strings.Fields(`AD AE AF AG AI AL AM AO AQ AR AS AT AU AW AX AZ BA BB BD BE BF BG BH BI BJ BL BM BN BO BQ BR BS BT BV BW BY BZ
CA CC CD CF CG CH CI CK CL CM CN CO CR CU CV CW CX CY CZ DE DJ DK DM DO DZ EC EE EG EH ER ES ET FI FJ FK FM FO FR GA GB GD GE GF GG GH GI GL GM
GN GP GQ GR GS GT GU GW GY HK HM HN HR HT HU ID IE IL IM IN IO IQ IR IS IT JE JM JO JP KE KG KH KI KM KN KP KR KW KY KZ LA LB LC LI LK LR LS LT
LU LV LY MA MC MD ME MF MG MH MK ML MM MN MO MP MQ MR MS MT MU MV MW MX MY MZ NA NC NE NF NG NI NL NO NP NR NU NZ OM PA PE PF PG PH PK PL PM PN
PR PS PT PW PY QA RE RO RS RU RW SA SB SC SD SE SG SH SI SJ SK SL SM SN SO SR SS ST SV SX SY SZ TC TD TF TG TH TJ TK TL TM TN TO TR TT TV TW TZ
UA UG UM US UY UZ VA VC VE VG VI VN VU WF WS YE YT ZA ZM ZW`)
