package alert

import (
	"time"

	"gobbet/core/weigh"
)

// What is usual is taken from History days, of which the last Lately are held
// against those before.
const (
	History = 28
	Lately  = 3
)

// Day is what came of a piece on a day.
type Day struct {
	Day time.Time // at midnight UTC
	weigh.Count
}

// RateOf holds the last days of a piece, up to today, against those before.
func RateOf(piece, name string, days []Day, today time.Time) (Alert, bool) {
	from, lately := today.AddDate(0, 0, -History), today.AddDate(0, 0, 1-Lately)
	var before, after weigh.Count
	for _, d := range days {
		of := &before
		switch {
		case d.Day.Before(from) || d.Day.After(today):
			continue
		case !d.Day.Before(lately):
			of = &after
		}
		of.Visitors, of.Conversions = of.Visitors+d.Visitors, of.Conversions+d.Conversions
	}
	return Rate(piece, name, before, after, Lately)
}
