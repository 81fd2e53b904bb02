package caps

import (
	"time"

	"gobbet/core/fault"
)

// SiteLimits is a site's limits over all its pieces together. The zero SiteLimits limits
// nothing.
type SiteLimits struct {
	// Overlays is how many pieces over the page one visit may bring; 0 means no limit.
	Overlays int `json:"overlays,omitempty"`
	// Quiet is how long no piece interrupts after another did.
	Quiet Span `json:"quiet,omitempty"`
}

const maxOverlays = 100

// Check finds what is wrong with the limits. Its error is fault.Faults.
func (h SiteLimits) Check() error {
	var faults fault.Faults
	if h.Overlays < 0 || h.Overlays > maxOverlays {
		faults.Add("overlays", "should be 1 to %d, or 0 for no limit", maxOverlays)
	}
	if h.Quiet == Forever {
		faults.Add("quiet", "should be a duration such as PT2M")
	} else if h.Quiet != "" {
		if _, wrong := h.Quiet.parse(); wrong != "" {
			faults.Add("quiet", "%s", wrong)
		}
	}
	return faults.Err()
}

// Hold reports whether the site's limits keep a piece back at now: overlays
// counts those that covered the page in this visit, and latest is when a piece
// last interrupted (zero: never).
func (h SiteLimits) Hold(m Interruption, overlays int, latest, now time.Time) (why Reason, until time.Time, held bool) {
	if m == Invited {
		return "", time.Time{}, false
	}
	if m == Covers && h.Overlays > 0 && overlays >= h.Overlays {
		return Overlays, time.Time{}, true
	}
	if quiet := h.QuietFor(latest, now); quiet > 0 {
		return Quiet, now.Add(quiet), true
	}
	return "", time.Time{}, false
}

// QuietFor is how much of the quiet time after latest is left at now.
func (h SiteLimits) QuietFor(latest, now time.Time) time.Duration {
	if h.Quiet == "" || latest.IsZero() {
		return 0
	}
	length, _ := h.Quiet.Length()
	return max(0, length-max(0, now.Sub(latest)))
}
