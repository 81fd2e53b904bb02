package jobs

import (
	"context"
	"time"
)

// State is how a job ran last.
type State struct {
	Name    string     `json:"name"`
	EndedAt *time.Time `json:"ended_at" tstype:"string | null,required"` // nil: it never ended
	// Took is in milliseconds.
	Took float64 `json:"took"`
	// Error is that of the last run, and FailedAt since when it has failed; empty and
	// nil where it went well.
	Error    string     `json:"error"`
	FailedAt *time.Time `json:"failed_at" tstype:"string | null,required"`
	// Late says that it should have run again by now.
	Late bool `json:"late"`
}

// States tells how each of the runner's jobs ran last, by name.
func (r *Runner) States(ctx context.Context) ([]State, error) {
	rows, err := r.db.QueryContext(ctx, `select name, ended_at, coalesce(extract(epoch from took) * 1000, 0), error, failed_at, coalesce(ended_at, began_at, now()) from jobs order by name`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	states := []State{}
	for rows.Next() {
		var s State
		var last time.Time
		if err := rows.Scan(&s.Name, &s.EndedAt, &s.Took, &s.Error, &s.FailedAt, &last); err != nil {
			return nil, err
		}
		j, known := r.jobs[s.Name]
		if !known {
			continue
		}
		s.Late = time.Since(last) > 3*j.Every+j.Deadline+30*time.Second
		states = append(states, s)
	}
	return states, rows.Err()
}
