package pg

import (
	"database/sql/driver"
	"encoding/json"
	"time"
)

// AsJSON is what a column of JSON is written from.
func AsJSON(v any) (driver.Value, error) {
	text, err := json.Marshal(v)
	return string(text), err
}

// FromJSON reads a column of JSON; null leaves into as it is.
func FromJSON(from, into any) error {
	switch from := from.(type) {
	case string:
		return json.Unmarshal([]byte(from), into)
	case []byte:
		return json.Unmarshal(from, into)
	}
	return nil
}

// NullJSON is a document, or null where there is none.
func NullJSON(document []byte) any {
	if len(document) == 0 {
		return nil
	}
	return document
}

// Listed is a list that is never null.
func Listed[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

// Columns gathers rows as one list a column, for unnest.
type Columns struct{ all []any }

// Add adds a row: texts, numbers, flags and times, each column of one kind.
func (c *Columns) Add(row ...any) {
	if c.all == nil {
		c.all = make([]any, len(row))
	}
	for i, is := range row {
		switch is := is.(type) {
		case string:
			c.all[i] = appended(c.all[i], is)
		case int:
			c.all[i] = appended(c.all[i], is)
		case int64:
			c.all[i] = appended(c.all[i], is)
		case int16:
			c.all[i] = appended(c.all[i], is)
		case bool:
			c.all[i] = appended(c.all[i], is)
		case time.Time:
			c.all[i] = appended(c.all[i], is)
		case *time.Time:
			c.all[i] = appended(c.all[i], is)
		default:
			panic("a column of another kind")
		}
	}
}

func appended[T any](list any, is T) []T {
	typed, _ := list.([]T)
	return append(typed, is)
}

// Lists gives the columns, of which there are so many; without rows each is null.
func (c *Columns) Lists(columns int) []any {
	if c.all == nil {
		return make([]any, columns)
	}
	return c.all
}
