package setup

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
)

// Part is what of the settings is changed, and saved, by itself. Each has a
// version of its own, so that saving one does not undo, or refuse, another.
type Part string

// The parts, and what each holds.
const (
	PartLimits    Part = "limits"    // limits over all pieces, and exit intent
	PartGoals     Part = "goals"     // goals and their currency
	PartRecording Part = "recording" // what is recorded, and for how long
	PartSources   Part = "sources"   // hosts that stand for a channel
	PartTeam      Part = "team"      // the team's own addresses
	PartLanguage  Part = "language"  // language and fixed words
	PartData      Part = "data"      // what the site's own data is called
)

// Parts are all there are.
var Parts = []Part{PartLimits, PartGoals, PartRecording, PartSources, PartTeam, PartLanguage, PartData}

// Known reports whether there is such a part.
func (p Part) Known() bool { return p.move(&Settings{}, &Settings{}) }

// Version is that of a part, told by its content: parts that say the same are
// the same version, whoever wrote them.
func (s Settings) Version(p Part) string {
	var only Settings
	p.move(&only, &s)
	text, err := json.Marshal(only)
	if err != nil {
		return "" // a channel or a word that is no text: Check has refused it
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:8])
}

// With is the settings with a part as others have it.
func (s Settings) With(p Part, others Settings) Settings {
	p.move(&s, &others)
	return s
}

// move sets what a part holds, and reports whether there is such a part.
func (p Part) move(to, from *Settings) bool {
	switch p {
	case PartLimits:
		to.Limits, to.Exit = from.Limits, from.Exit
	case PartGoals:
		to.Goals, to.Currency = from.Goals, from.Currency
	case PartRecording:
		to.Record, to.KeepMonths, to.DataLayer = from.Record, from.KeepMonths, from.DataLayer
	case PartSources:
		to.Channels = from.Channels
	case PartTeam:
		to.Team = from.Team
	case PartLanguage:
		to.Language, to.Words = from.Language, from.Words
	case PartData:
		to.Data = from.Data
	default:
		return false
	}
	return true
}
