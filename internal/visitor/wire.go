package visitor

import (
	"encoding/json"

	"gobbet/core/choose"
)

// DecideRequest is what the loader says of a page view.
type DecideRequest struct {
	URL      string `json:"url"`
	Title    string `json:"title"`
	Width    int    `json:"width"`
	Language string `json:"language"`
	// Memory that cannot be read is taken for none: it must never break a page.
	Memory json.RawMessage `json:"memory" tstype:"Memory"`
}

// DecideAnswer is what may show on the page view.
type DecideAnswer struct {
	Placements []choose.Placement `json:"placements" tstype:"Placement[]"`
	// Renderer is the address of the renderer, from the loader's own.
	Renderer string `json:"renderer"`
}

// EventIn is one event as the page sends it.
type EventIn struct {
	ID      string `json:"id"` // a UUID
	Kind    string `json:"kind" tstype:"'shown' | 'closed' | 'converted'"`
	At      int64  `json:"at"` // milliseconds since 1970, by the browser's clock
	Piece   string `json:"piece"`
	Variant string `json:"variant"`
	Page    string `json:"page"`
}

// EventsRequest is a batch of events of one visit.
type EventsRequest struct {
	Visitor string    `json:"visitor"`
	Visit   string    `json:"visit"`
	Events  []EventIn `json:"events"`
}

// EventsAnswer says that a batch is stored. Refused events are ones that can
// never be; the page forgets them too.
type EventsAnswer struct {
	Stored  int `json:"stored"`
	Refused int `json:"refused"`
}

// AnswersRequest is what a visitor sends from a scene.
type AnswersRequest struct {
	ID       string            `json:"id"` // a UUID; the same when sent again
	Piece    string            `json:"piece"`
	Variant  string            `json:"variant"`
	Design   string            `json:"design"` // the hash of the drawing that asked
	Scene    string            `json:"scene"`
	Visitor  string            `json:"visitor"`
	Visit    string            `json:"visit"`
	Page     string            `json:"page"`
	Landing  string            `json:"landing"`
	Referrer string            `json:"referrer"`
	Answers  map[string]string `json:"answers"`
	// Unwatched is set where the browser asks not to be measured.
	Unwatched bool `json:"unwatched,omitempty"`
}

// AnswersAnswer says that answers are stored.
type AnswersAnswer struct {
	Stored bool `json:"stored"`
}
