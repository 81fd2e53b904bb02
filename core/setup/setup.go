// Package setup is how a site is set up: limits over all its pieces, what is
// recorded and measured and for how long, and what it wants of visitors.
package setup

import (
	"maps"
	"net/netip"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"gobbet/core/caps"
	"gobbet/core/fault"
	"gobbet/core/words"
)

// Settings is what a marketer may set for a whole site.
type Settings struct {
	// Limits are over all pieces together.
	Limits caps.SiteLimits `json:"limits" tstype:"SiteLimits"`
	// Record is how many of a hundred visitors have their page views recorded.
	Record int `json:"record"`
	// Exit is how readily a move counts as heading for the exit.
	Exit ExitSense `json:"exit"`
	// Channels names hosts that stand for a channel, beside those told by the
	// labels of their names.
	Channels map[string][]string `json:"channels" tstype:"{ [channel: string]: string[] }"`
	// KeepMonths is for how many months raw events are kept; totals stay.
	KeepMonths int `json:"keep_months"`
	// Goals are what the site wants of visitors in the end.
	Goals []Goal `json:"goals"`
	// Currency of goals' values, as ISO 4217 has it; empty: none is said.
	Currency string `json:"currency"`
	// Team are addresses and networks (CIDR) from which visits are the team's own.
	Team []string `json:"team"`
	// DataLayer is the array of the page that every step is pushed to as well; empty: none.
	DataLayer string `json:"data_layer"`
	// Language is that of pages that do not say theirs, as BCP 47 has it; empty: en.
	Language string `json:"language,omitempty"`
	// Words are fixed words of pieces that the site has otherwise, by language and key.
	Words map[string]words.Table `json:"words,omitempty" tstype:"{ [language: string]: { [key: string]: string } }"`
	// Data is what the site's own data is called in rules, by the name that its pages send it under.
	Data map[string]string `json:"data,omitempty" tstype:"{ [name: string]: string }"`
}

// Goal is something the site wants of visitors in the end, such as an order.
type Goal struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Kind is what reaches it: a page of the address, or an event of the name in About.
	Kind  string `json:"kind" tstype:"'page' | 'event'"`
	About string `json:"about"`
	// Value is the name of the site's own data that says what it is worth; empty: nothing does.
	Value string `json:"value"`
	// Days is for how long after first seeing a piece it counts for the piece.
	Days int `json:"days"`
}

// ExitSense is how readily a move counts as heading for the exit.
type ExitSense string

const (
	Calm   ExitSense = "calm" // only a quick, clear move
	Normal ExitSense = "normal"
	Eager  ExitSense = "eager" // a slow one too
)

// Default is that of a new site.
func Default() Settings {
	return Settings{Record: 100, Exit: Normal, Channels: map[string][]string{}, KeepMonths: keepMonths, Goals: []Goal{}, Team: []string{}}
}

// NamedChannels are those that hosts may be named for.
var NamedChannels = []string{"search", "social", "email", "ads"}

// Check finds what is wrong, and brings hosts to the form they are compared
// in. Its error is fault.Faults.
func (s *Settings) Check() error {
	var faults fault.Faults
	faults.Within("limits", s.Limits.Check())
	if s.Record < 0 || s.Record > 100 {
		faults.Add("record", "should be 0 to 100")
	}
	if s.Exit != Calm && s.Exit != Normal && s.Exit != Eager {
		faults.Add("exit", "should be calm, normal or eager")
	}
	s.checkMeasuring(&faults)
	if s.Language != "" && !slices.Contains(words.Languages(), s.Language) {
		faults.Add("language", "should be a language that there are words in, such as de")
	}
	faults.Within("words", words.Check(s.Words))
	s.checkData(&faults)
	hosts := map[string][]string{}
	for channel := range s.Channels {
		if !slices.Contains(NamedChannels, channel) {
			faults.Add(fault.Key("channels", channel), "is not one of %s", strings.Join(NamedChannels, ", "))
		}
	}
	for _, channel := range NamedChannels {
		at := fault.Key("channels", channel)
		if len(s.Channels[channel]) > 200 {
			faults.Add(at, "are more than 200")
			continue
		}
		for i, given := range s.Channels[channel] {
			host := strings.TrimPrefix(strings.ToLower(strings.TrimSpace(given)), "www.")
			if host == "" || len(host) > 253 || strings.ContainsAny(host, " /:@?#*") || !strings.Contains(host, ".") {
				faults.Add(fault.Index(at, i), "is not a host such as search.example.com")
				continue
			}
			hosts[channel] = append(hosts[channel], host)
		}
	}
	s.Channels = hosts
	return faults.Err()
}

// DataName is what a site may send its own data under.
var DataName = regexp.MustCompile(`^[A-Za-z0-9_.:-]{1,80}$`)

const (
	mostData     = 200 // as many as are recorded
	longestCalls = 60  // characters
)

// checkData takes what is left empty out, and refuses two names for different data.
func (s *Settings) checkData(faults *fault.Faults) {
	if len(s.Data) > mostData {
		faults.Add("data", "are more than %d", mostData)
		return
	}
	given := map[string]string{}
	for _, name := range slices.Sorted(maps.Keys(s.Data)) {
		says, at := strings.Join(strings.Fields(s.Data[name]), " "), fault.Key("data", name)
		if says == "" {
			delete(s.Data, name)
			continue
		}
		s.Data[name] = says
		switch other := given[strings.ToLower(says)]; {
		case !DataName.MatchString(name):
			faults.Add(at, "is not the name of data that a page can send")
		case utf8.RuneCountInString(says) > longestCalls:
			faults.Add(at, "is longer than %d characters", longestCalls)
		case other != "":
			faults.Add(at, "is what %s is called already", other)
		}
		given[strings.ToLower(says)] = name
	}
}

const (
	keepMonths = 25
	mostGoals  = 10
	mostTeam   = 50
	mostDays   = 365
)

var (
	goalID     = regexp.MustCompile(`^[a-z0-9_-]{1,40}$`)
	dataName   = regexp.MustCompile(`^[A-Za-z0-9_.:-]{1,80}$`)
	identifier = regexp.MustCompile(`^[A-Za-z_$][A-Za-z0-9_$]{0,60}$`)
	currency   = regexp.MustCompile(`^[A-Z]{3}$`)
)

// checkMeasuring checks what is measured, and for how long it is kept.
func (s *Settings) checkMeasuring(faults *fault.Faults) {
	if s.KeepMonths == 0 {
		s.KeepMonths = keepMonths
	}
	if s.KeepMonths < 1 || s.KeepMonths > 120 {
		faults.Add("keep_months", "should be 1 to 120")
	}
	if s.Currency = strings.ToUpper(strings.TrimSpace(s.Currency)); s.Currency != "" && !currency.MatchString(s.Currency) {
		faults.Add("currency", "should be a code of three letters, such as EUR")
	}
	if s.DataLayer = strings.TrimSpace(s.DataLayer); s.DataLayer != "" && !identifier.MatchString(s.DataLayer) {
		faults.Add("data_layer", "should be the name of a variable, such as dataLayer")
	}
	if len(s.Team) > mostTeam {
		faults.Add("team", "are more than %d", mostTeam)
	}
	for i, given := range s.Team {
		is := strings.TrimSpace(given)
		_, one := netip.ParseAddr(is)
		_, many := netip.ParsePrefix(is)
		if one != nil && many != nil {
			faults.Add(fault.Index("team", i), "should be an address such as 203.0.113.7, or a network such as 203.0.113.0/24")
		}
		s.Team[i] = is
	}
	if len(s.Goals) > mostGoals {
		faults.Add("goals", "are more than %d", mostGoals)
		return
	}
	ids := map[string]bool{}
	for i := range s.Goals {
		g, at := &s.Goals[i], fault.Index("goals", i)
		g.Name, g.About, g.Value = strings.TrimSpace(g.Name), strings.TrimSpace(g.About), strings.TrimSpace(g.Value)
		if !goalID.MatchString(g.ID) || ids[g.ID] {
			faults.Add(fault.Key(at, "id"), "should be a name of its own in small letters")
		}
		ids[g.ID] = true
		if g.Name == "" || len(g.Name) > 80 {
			faults.Add(fault.Key(at, "name"), "should be 1 to 80 letters")
		}
		switch {
		case g.Kind != "page" && g.Kind != "event":
			faults.Add(fault.Key(at, "kind"), "should be page or event")
		case g.About == "" || len(g.About) > 200:
			faults.Add(fault.Key(at, "about"), "is missing, or more than 200 letters")
		case g.Kind == "page" && !strings.HasPrefix(g.About, "/"):
			faults.Add(fault.Key(at, "about"), "should be a path that begins with /, such as /thanks")
		}
		if g.Value != "" && !dataName.MatchString(g.Value) {
			faults.Add(fault.Key(at, "value"), "is not a name of data")
		}
		if g.Days < 1 || g.Days > mostDays {
			faults.Add(fault.Key(at, "days"), "should be 1 to %d", mostDays)
		}
	}
}

// GoalIDs are the ids of its goals.
func (s Settings) GoalIDs() (ids []string) {
	for _, g := range s.Goals {
		ids = append(ids, g.ID)
	}
	return ids
}
