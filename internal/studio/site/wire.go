package site

import (
	"encoding/json"
	"time"

	"gobbet/core/piece"
	"gobbet/core/setup"
	"gobbet/core/style"
	"gobbet/core/words"
	"gobbet/internal/jobs"
)

// A site and its settings.

// SiteInfo is a site as the studio shows it.
type SiteInfo struct {
	ID      int64    `json:"id"`
	Key     string   `json:"key"`
	Name    string   `json:"name"`
	Zone    string   `json:"zone"`
	Origins []string `json:"origins"`
	// Pages is where the addresses of its pieces' own pages begin; empty: they can
	// have none.
	Pages string `json:"pages"`
	// Settings are the site's own limits and how it records visits.
	Settings setup.Settings `json:"settings" tstype:"Settings"`
	Kit      style.Kit      `json:"kit" tstype:"Kit"`
	// Versions of what is saved as a whole, to be sent along with a change.
	Version    int `json:"version"`
	KitVersion int `json:"kit_version"`
	// SettingsVersions are those of the parts of the settings.
	SettingsVersions map[setup.Part]string `json:"settings_versions" tstype:"{ [part in SettingsPart]: string }"`
}

// SiteChange is what may be changed of a site.
type SiteChange struct {
	Version int32    `json:"version"` // that the change was made on
	Name    string   `json:"name"`
	Zone    string   `json:"zone"`
	Origins []string `json:"origins"`
}

// SettingsChange is a part of a site's settings, changed; what is not of the part
// is not looked at.
type SettingsChange struct {
	Version  string         `json:"version"` // of the part, that the change was made on
	Settings setup.Settings `json:"settings" tstype:"Settings"`
}

// SetDefaults has what is not said be as usual.
func (c *SettingsChange) SetDefaults() { c.Settings = setup.Default() }

// KitChange is a site's style kit, changed.
type KitChange struct {
	Version int32           `json:"version"` // that the change was made on
	Kit     json.RawMessage `json:"kit" tstype:"Kit"`
}

// Health is what a marketer should know of how the site is wired up.
type Health struct {
	// SeenAt is when the latest page view that is recorded began: the script is
	// on the site's pages. Null: none is recorded.
	SeenAt *time.Time `json:"seen_at" tstype:"string | null"`
	// Proxy is the address of a proxy that is in use and was not named to
	// Gobbet, so that all visitors count as one address; empty: none.
	Proxy string `json:"proxy"`
	// DataNames are the names of the site's own data that the visit log keeps,
	// of at most MostDataNames.
	DataNames     []string `json:"data_names"`
	MostDataNames int      `json:"most_data_names"`
	// Refused is what was sent and not kept in the last RefusedDays days.
	Refused     []RefusedKind `json:"refused"`
	RefusedDays int           `json:"refused_days"`
	// Jobs is the work in the background of the whole program, and how each ran last.
	Jobs []jobs.State `json:"jobs" tstype:"Job[]"`
}

// RefusedKind is how often something of one kind was refused.
type RefusedKind struct {
	Kind    string    `json:"kind" tstype:"'data_name' | 'drawing'"`
	Times   int64     `json:"times"`
	Example string    `json:"example"` // the latest
	LastAt  time.Time `json:"last_at" tstype:"string"`
}

// KitUse is a piece that follows the site's style kit.
type KitUse struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	State   string        `json:"state" tstype:"State"`
	Colors  []string      `json:"colors"` // ids of the kit's colours that it uses
	Drawing piece.Drawing `json:"drawing" tstype:"Drawing"`
}

// FixedWords are the words that pieces say by themselves, as they ship.
type FixedWords struct {
	Languages []string `json:"languages"`
	Keys      []string `json:"keys"` // of each table, in order
	// Tables are by language, and in them by key.
	Tables map[string]words.Table `json:"tables" tstype:"{ [language: string]: { [key: string]: string } }"`
}
