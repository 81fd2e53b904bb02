package split

import (
	"time"

	"gobbet/core/launch"
	"gobbet/core/weigh"
	"gobbet/internal/studio/parts"
)

// What Split says of a piece's variants.

// SplitResult is what the variants of a piece did, and what to make of it.
type SplitResult struct {
	Confidence float64 `json:"confidence"`
	// Report is the verdict over the time that all variants ran together, in their letters.
	Report   weigh.Report   `json:"report" tstype:"Report"`
	Variants []SplitVariant `json:"variants"`
	// Began and Ended are of the time that is compared; null: there is no test, or it goes on.
	Began *time.Time `json:"began" tstype:"string | null,required"`
	Ended *time.Time `json:"ended" tstype:"string | null,required"`
	Days  float64    `json:"days"`
	// Earlier is how many visitors first saw the piece before, and are not compared.
	Earlier int `json:"earlier"`
	// Goal is what decides; empty: the piece's own conversion. Goals are the site's.
	Goal     string        `json:"goal"`
	Goals    []GoalName    `json:"goals"`
	Currency string        `json:"currency"`
	Whole    parts.Measure `json:"whole"` // of the piece's own conversion, all who ever saw it
	Runs     []SplitRun    `json:"runs"`  // the latest first
	Moves    []SplitMove   `json:"moves"` // the latest first
	// OfEligible says that visitors count from when the piece could be shown to them.
	OfEligible bool             `json:"of_eligible"`
	Plan       *PlanState       `json:"plan" tstype:"PlanState | null,required"`
	Over       []OverDay        `json:"over"` // how it built up, a day at a time
	Gains      []parts.GoalGain `json:"gains"`
	Sound      SoundChecks      `json:"sound"`
}

// GoalName is a goal of the site.
type GoalName struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Valued says that it has a worth.
	Valued bool `json:"valued"`
}

// SplitVariant is one variant of what is compared.
type SplitVariant struct {
	ID     string `json:"id"`
	Letter string `json:"letter"`
	Name   string `json:"name"`
	Share  int    `json:"share"`
	// Gone says that it is no longer in the split.
	Gone    bool          `json:"gone"`
	Measure parts.Measure `json:"measure"`
	// Mean is the value a visitor brought of the goal that decides; null: none is measured.
	Mean *float64 `json:"mean" tstype:"number | null,required"`
	// Others are the site's other goals, as far as anybody reached them.
	Others []GoalMeasure `json:"others"`
}

// GoalMeasure is how many reached a goal.
type GoalMeasure struct {
	Goal    string        `json:"goal"`
	Measure parts.Measure `json:"measure"`
	Value   float64       `json:"value"` // in all
}

// SplitRun is a run of the split.
type SplitRun struct {
	Run      int          `json:"run"`
	Began    time.Time    `json:"began" tstype:"string"`
	Held     int          `json:"held"`
	Follow   bool         `json:"follow"`
	Variants []RunVariant `json:"variants"`
	// Compared says that the verdict is about it.
	Compared bool `json:"compared"`
	Visitors int  `json:"visitors"` // who first saw the piece in it
}

// RunVariant is a variant in a run.
type RunVariant struct {
	ID     string `json:"id"`
	Letter string `json:"letter"`
	Name   string `json:"name"`
	Share  int    `json:"share"`
}

// SplitMove is something that was done with the piece.
type SplitMove struct {
	At    time.Time  `json:"at" tstype:"string"`
	Did   launch.Did `json:"did" tstype:"'launched' | 'replaced' | 'paused' | 'planned' | 'unplanned' | 'resumed' | 'stayed_paused' | 'ended' | 'removed' | 'restored'"`
	From  *time.Time `json:"from" tstype:"string | null,required"`  // of a pause that is planned
	Until *time.Time `json:"until" tstype:"string | null,required"` // of a pause that ends by itself
	// Designs are the letters of variants whose design changed, and Reach says that
	// who sees the piece, or when, did.
	Designs []string `json:"designs"`
	Reach   bool     `json:"reach"`
	By      string   `json:"by"` // who did it; empty: it came about by itself
}

// PlanState is how far a plan has come.
type PlanState struct {
	Lift  float64 `json:"lift"`
	Power float64 `json:"power"`
	Size  int     `json:"size"` // visitors per variant
	Have  int     `json:"have"` // of the variant that has the fewest
}

// OverDay is what was known at the end of a day.
type OverDay struct {
	Day   string     `json:"day"`
	Rates []SafeRate `json:"rates"` // of the variants
	// Differences are of the variants after the first to it.
	Differences []SafeSpread `json:"differences"`
}

// SafeRate is a rate with bounds that hold at every look.
type SafeRate struct {
	Visitors int          `json:"visitors"`
	Rate     weigh.Maybe  `json:"rate" tstype:"number | null,required"`
	Interval weigh.Bounds `json:"interval" tstype:"Bounds"`
}

// SafeSpread is a difference with bounds that hold at every look.
type SafeSpread struct {
	Difference weigh.Maybe  `json:"difference" tstype:"number | null,required"`
	Interval   weigh.Bounds `json:"interval" tstype:"Bounds"`
}

// SoundChecks are whether a test is sound.
type SoundChecks struct {
	SawSeveral int `json:"saw_several"` // visitors who saw more than one variant
	FullWeeks  int `json:"full_weeks"`
	LeftOut    int `json:"left_out"` // events of robots and the team on the site, in 28 days
	// Changed are the variants whose design changed while they were compared, and
	// ChangedAt when the last did.
	Changed   []string   `json:"changed"`
	ChangedAt *time.Time `json:"changed_at" tstype:"string | null,required"`
}

// SplitCuts is the comparison in parts of the visitors.
type SplitCuts struct {
	By         string            `json:"by" tstype:"'device' | 'channel' | 'known' | 'page' | 'country'"`
	Confidence float64           `json:"confidence"`
	Variants   []string          `json:"variants"` // by their letters
	Cuts       []weigh.CutResult `json:"cuts" tstype:"CutResult[]"`
	// More is how many smaller parts are left out.
	More int `json:"more"`
}

// SplitPlan is how many visitors a test takes.
type SplitPlan struct {
	Baseline float64 `json:"baseline"`
	// From says what the baseline is of: the piece, the site, or nothing yet.
	From     string        `json:"from" tstype:"'piece' | 'site' | 'guess'"`
	Visitors int           `json:"visitors"` // it is of
	PerDay   float64       `json:"per_day"`
	Paced    string        `json:"paced" tstype:"'piece' | 'rehearsal' | 'none'"`
	Plan     weigh.Planned `json:"plan" tstype:"Planned"`
}
