package report

import (
	"time"

	"gobbet/core/piece"
	"gobbet/core/weigh"
)

// What reports say of what was played.

// Played is how far visitors came in a piece, and what they answered.
type Played struct {
	Confidence float64         `json:"confidence"`
	Variants   []PlayedVariant `json:"variants"`
}

// PlayedVariant is that of one variant.
type PlayedVariant struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Visitors int    `json:"visitors"` // who saw it
	// Scenes are in the order of the design, Questions those whose answers can be counted.
	Scenes    []PlayedScene    `json:"scenes"`
	Ways      []PlayedWay      `json:"ways"`
	Questions []PlayedQuestion `json:"questions"`
	Draws     []PlayedDraw     `json:"draws"`
}

// PlayedDraw counts goes at a prize draw, one a visitor.
type PlayedDraw struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Goes  int    `json:"goes"`
	// Uncounted are goes beside these, of visitors who are not counted.
	Uncounted int           `json:"uncounted"`
	Parts     []PlayedPart  `json:"parts"`
	Refused   []RefusedGoes `json:"refused"`
}

// PlayedPart is how often a part was drawn, against its present odds.
type PlayedPart struct {
	ID       string       `json:"id"`
	Label    string       `json:"label"`
	Nothing  bool         `json:"nothing"`
	Drawn    int          `json:"drawn"`
	Share    *float64     `json:"share" tstype:"number | null,required"` // of all goes
	Interval weigh.Bounds `json:"interval" tstype:"Bounds"`
	Odds     float64      `json:"odds"`
	// Uncounted is how often visitors who are not counted drew it beside these.
	Uncounted int `json:"uncounted"`
	// Left is what is left of its stock, or of the codes of its pool; null for any
	// number. Days is how long that lasts at the pace of the last week; null where
	// nothing was drawn in it.
	Left *int     `json:"left" tstype:"number | null,required"`
	Days *float64 `json:"days" tstype:"number | null,required"`
}

// RefusedGoes counts goes that were refused for one reason.
type RefusedGoes struct {
	Why  string `json:"why" tstype:"'all_gone' | 'had_go' | 'too_many' | 'over'"`
	Goes int    `json:"goes"`
}

// PlayedScene counts walks; one walk counts once at a scene.
type PlayedScene struct {
	ID      string          `json:"id"`
	Name    string          `json:"name"`
	Kind    piece.SceneKind `json:"kind" tstype:"Scene['kind']"`
	Reached int             `json:"reached"`
	Left    int             `json:"left"` // went on from it
	// Seconds is the mean of those who went on; null where nobody did.
	Seconds *float64 `json:"seconds" tstype:"number | null,required"`
	// Share of a result is its part of all results; of another scene, the part of
	// those who came to it that went no further. Null where nobody came.
	Share    *float64     `json:"share" tstype:"number | null,required"`
	Interval weigh.Bounds `json:"interval" tstype:"Bounds"`
	// Gate is how many went on of those who were asked for an address here; null
	// where nobody is.
	Gate *PlayedGate `json:"gate" tstype:"PlayedGate | null,required"`
}

// PlayedGate counts walks that came to a sign-up, and went on from it.
type PlayedGate struct {
	Came     int          `json:"came"`
	Gone     int          `json:"gone"`
	Share    *float64     `json:"share" tstype:"number | null,required"`
	Interval weigh.Bounds `json:"interval" tstype:"Bounds"`
}

// PlayedWay counts walks that went from one scene to another, each once; its
// share is of those who went on from the first.
type PlayedWay struct {
	From     string       `json:"from"`
	To       string       `json:"to"`
	Walks    int          `json:"walks"`
	Share    *float64     `json:"share" tstype:"number | null,required"`
	Interval weigh.Bounds `json:"interval" tstype:"Bounds"`
}

// AnswerTable is what visitors answered in a piece, the latest first.
type AnswerTable struct {
	// Columns are what the piece asks now.
	Columns []AnswerColumn `json:"columns"`
	Rows    []AnswerRow    `json:"rows"`
	// Next is where the next page begins; empty: there is none.
	Next string `json:"next"`
	// Searched is how many of the latest a search looks through.
	Searched int `json:"searched"`
}

// AnswerColumn is a question.
type AnswerColumn struct {
	Key   string `json:"key"`
	Label string `json:"label"`
}

// AnswerRow is one visitor's way through the piece.
type AnswerRow struct {
	ID      string    `json:"id"`
	At      time.Time `json:"at" tstype:"string"` // when it began
	Variant string    `json:"variant"`            // its letter
	Email   string    `json:"email"`              // empty: none was left
	Scene   string    `json:"scene"`              // where they are or ended, by its name
	Result  string    `json:"result"`             // empty: none
	// Answers are as they were read, by key.
	Answers map[string]string `json:"answers"`
}

// PlayedQuestion is how a question was answered.
type PlayedQuestion struct {
	Key      string `json:"key"`
	Label    string `json:"label"`
	Answered int    `json:"answered"`
	Several  bool   `json:"several"` // each may have taken several
	First    bool   `json:"first"`   // choices were put in order, and count where they came first
	// Uncounted is how many voted beside these, in any variant, whom no report
	// counts: what visitors are shown counts them.
	Uncounted int            `json:"uncounted"`
	Choices   []PlayedChoice `json:"choices"`
}

// PlayedChoice is how many took one choice, of those who answered.
type PlayedChoice struct {
	ID       string       `json:"id"`
	Label    string       `json:"label"`
	Answers  int          `json:"answers"`
	Share    *float64     `json:"share" tstype:"number | null,required"`
	Interval weigh.Bounds `json:"interval" tstype:"Bounds"`
}
