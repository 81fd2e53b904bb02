package store

import (
	"database/sql/driver"
	"encoding/json"
)

// asJSON is what a column of JSON is written from.
func asJSON(v any) (driver.Value, error) {
	text, err := json.Marshal(v)
	return string(text), err
}

// fromJSON reads a column of JSON; null leaves into as it is.
func fromJSON(from, into any) error {
	switch from := from.(type) {
	case string:
		return json.Unmarshal([]byte(from), into)
	case []byte:
		return json.Unmarshal(from, into)
	}
	return nil
}
