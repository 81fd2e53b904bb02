package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"

	"gobbet/core/caps"
	"gobbet/core/fault"
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
}

// ExitSense is how readily a move counts as heading for the exit.
type ExitSense string

const (
	Calm   ExitSense = "calm" // only a quick, clear move
	Normal ExitSense = "normal"
	Eager  ExitSense = "eager" // a slow one too
)

// DefaultSettings are those of a new site.
func DefaultSettings() Settings {
	return Settings{Record: 100, Exit: Normal, Channels: map[string][]string{}}
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

// Value implements driver.Valuer.
func (s Settings) Value() (driver.Value, error) {
	text, err := json.Marshal(s)
	return string(text), err
}

// Scan implements sql.Scanner. What was never set is as DefaultSettings has it.
func (s *Settings) Scan(from any) error {
	*s = DefaultSettings()
	switch from := from.(type) {
	case string:
		return json.Unmarshal([]byte(from), s)
	case []byte:
		return json.Unmarshal(from, s)
	}
	return nil
}

// ChangeSettings sets a site's settings, which Check has passed. Like
// ChangeSite it fails with ErrStale.
func (s *Store) ChangeSettings(ctx context.Context, site int64, version int, settings Settings) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if err := changed(tx.ExecContext(ctx, `
			update sites set settings = $3, settings_version = settings_version + 1 where id = $1 and settings_version = $2`, site, version, settings)); err != nil {
			return err
		}
		return newSnapshot(ctx, tx, site)
	})
}
