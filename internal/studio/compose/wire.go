package compose

import (
	"encoding/json"
	"time"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/core/walk"
)

// What the designer is asked and answers.

// VersionInfo is a draft as it was.
type VersionInfo struct {
	Version  int          `json:"version"`
	SavedAt  time.Time    `json:"saved_at" tstype:"string"`
	Launched bool         `json:"launched"`
	Draft    *piece.Piece `json:"draft" tstype:"Piece,required"`
}

// SaveRequest is a draft with the version it was changed from.
type SaveRequest struct {
	Version int32           `json:"version"`
	Draft   json.RawMessage `json:"draft" tstype:"Piece"`
}

// Saved is a draft's new version and what there is to settle in it.
type Saved struct {
	Version int           `json:"version"`
	Notes   []settle.Note `json:"notes" tstype:"Note[]"`
	Phrase  string        `json:"phrase"`
	// Edited is as in PieceInfo.
	Edited bool `json:"edited"`
}

// WalkRequest goes through a drawing that is worked on by what a visitor would do.
type WalkRequest struct {
	Drawing json.RawMessage `json:"drawing" tstype:"Drawing"`
	Steps   []walk.SentStep `json:"steps" tstype:"SentStep[]"` // all from the first on
	// Seed decides what is drawn: the same each time for the same seed.
	Seed string `json:"seed,omitempty"`
}

// WalkAnswer is the drawing as visitors get it, and where the steps lead.
type WalkAnswer struct {
	Drawing piece.Drawing `json:"drawing" tstype:"Drawing"`
	At      walk.View     `json:"at" tstype:"View"`
}

// PlayThroughRequest has made-up visitors go through a drawing that is worked on.
type PlayThroughRequest struct {
	Drawing json.RawMessage `json:"drawing" tstype:"Drawing"`
	Seed    uint64          `json:"seed"` // the same gives the same
}

// ReckonRequest computes formulas over each other and these inputs.
type ReckonRequest struct {
	Formulas []piece.Formula      `json:"formulas" tstype:"Formula[]"`
	Inputs   []string             `json:"inputs"`
	Samples  []map[string]float64 `json:"samples"` // values of inputs, by name
}

// ReckonAnswer gives, for each sample, the value of each formula; null where it
// has none. Faults are at formulas[i].
type ReckonAnswer struct {
	Values [][]*float64 `json:"values" tstype:"(number | null)[][]"`
	Faults fault.Faults `json:"faults" tstype:"Fault[]"`
	// Live are the formulas as a drawing computes them.
	Live []piece.LiveFormula `json:"live" tstype:"LiveFormula[]"`
}
