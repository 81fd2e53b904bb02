package events

import "context"

// LeftOut is events that were left out of all counts, on one day or several.
type LeftOut struct {
	Day    string `db:"day"`
	Why    string `db:"why"`
	What   string `db:"what"` // such as the name a robot gave itself
	Events int    `db:"events"`
}

// mostLeftOut is how many names are kept apart for a site, a day and a reason:
// strangers choose them.
const mostLeftOut = 50

// CountLeftOut adds to what was left out.
func (s *Store) CountLeftOut(ctx context.Context, site int64, l LeftOut) error {
	_, err := s.db.ExecContext(ctx, `
		insert into left_out as l (site_id, day, why, what, events)
		select $1, $2::date, $3, case when exists (select from left_out where site_id = $1 and day = $2::date and why = $3 and what = $4)
			or (select count(*) from left_out where site_id = $1 and day = $2::date and why = $3) < $6 then $4 else 'others' end, $5
		on conflict (site_id, day, why, what) do update set events = l.events + excluded.events`, site, l.Day, l.Why, l.What, l.Events, mostLeftOut)
	return err
}

// LeftOut lists what was left out in the last days of the site's, the most first.
func (s *Store) LeftOut(ctx context.Context, site int64, days int) (all []LeftOut, err error) {
	err = s.db.SelectContext(ctx, &all, `
		select max(day)::text as day, why, what, sum(events) as events from left_out
		where site_id = $1 and day > (now() at time zone (select zone from sites where id = $1))::date - $2::int group by why, what order by sum(events) desc, what limit 100`, site, days)
	return all, err
}
