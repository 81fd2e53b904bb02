package walks

import (
	"cmp"
	"context"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"

	"gobbet/internal/store/pg"
)

// together stores the steps of walks that come at the same time in one
// statement and one commit: one wait for the disk for all of them. A step that
// comes alone waits for nobody. Each is answered once it is committed.
//
// Of one walk a statement takes one step; where two come at once the second
// waits, and finds what the first did. A statement that fails is done again step
// by step, so that what is wrong with one fails none of the others.
type together struct {
	db *pg.DB

	mu      sync.Mutex
	waiting []*step
	lanes   int // statements under way
}

// step is what one request stores of a walk.
type step struct {
	site   int64
	day    string // the walk began, on the site's calendar
	isNew  bool   // the walk begins
	counts string // what it adds to the totals; empty: nothing
	before int    // how many steps the walk had
	who    *Walker
	*moved
	submissions []submitted
	goes        *taken
	done        chan stepped
	kept        bool
}

// submitted is a submission, ready to be stored.
type submitted struct{ id, scene, name, answers string }

// taken is a go, ready to be stored, of what has neither a stock nor a pool.
type taken struct{ key, part, label, code, email string }

type stepped struct {
	kept bool
	err  error
}

const (
	mostLanes    = 2
	mostTogether = 64
	laneTime     = 10 * time.Second
)

// do stores a step; errAgain where the walk is not where the step was taken from.
func (t *together) do(ctx context.Context, s *step) error {
	s.done = make(chan stepped, 1)
	t.mu.Lock()
	t.waiting = append(t.waiting, s)
	if t.lanes < mostLanes {
		t.lanes++
		go t.run(context.WithoutCancel(ctx))
	}
	t.mu.Unlock()
	select {
	case is := <-s.done:
		if is.err == nil && !is.kept {
			return errAgain
		}
		return is.err
	case <-ctx.Done():
		return ctx.Err()
	}
}

// run stores what waits until nothing does.
func (t *together) run(ctx context.Context) {
	for {
		some := t.next()
		if len(some) == 0 {
			return
		}
		t.commit(ctx, some)
	}
}

func (t *together) commit(ctx context.Context, some []*step) {
	ctx, cancel := context.WithTimeout(ctx, laneTime)
	defer cancel()
	answered := 0
	defer func() {
		// Nobody else would hear of it, and whoever waits would wait for good.
		if thrown := recover(); thrown != nil {
			slog.ErrorContext(ctx, "storing steps threw", "thrown", thrown, "stack", string(debug.Stack()))
			for _, s := range some[answered:] {
				s.done <- stepped{false, fmt.Errorf("storing steps threw: %v", thrown)}
			}
		}
	}()
	err := storeSteps(ctx, t.db, some)
	alone := err != nil && len(some) > 1 && !pg.Unreachable(err) && ctx.Err() == nil
	for _, s := range some {
		if alone {
			err = storeSteps(ctx, t.db, []*step{s})
		}
		s.done <- stepped{s.kept, err}
		answered++
	}
}

// next takes steps of the kind that has waited longest: each of another walk.
func (t *together) next() (some []*step) {
	t.mu.Lock()
	defer t.mu.Unlock()
	type walkID struct {
		site int64
		id   string
	}
	here, rest := map[walkID]bool{}, t.waiting[:0:0]
	for _, s := range t.waiting {
		of := walkID{s.site, s.who.Walk}
		if len(some) < mostTogether && !here[of] && (len(some) == 0 || some[0].isNew == s.isNew) {
			some = append(some, s)
		} else {
			rest = append(rest, s)
		}
		here[of] = true
	}
	if t.waiting = rest; len(some) == 0 {
		t.lanes--
	}
	slices.SortFunc(some, func(a, b *step) int {
		return cmp.Or(cmp.Compare(a.site, b.site), cmp.Compare(a.who.Walk, b.who.Walk))
	})
	return some
}

// The steps come as lists, one value a step. All else follows from the walks'
// having moved (w).
const (
	stepsCome = `
		with step as (
			select * from unnest(@site::bigint[], @walk::uuid[], @piece::text[], @variant::text[], @design::text[], @visitor::text[], @at::timestamptz[], @steps::int[], @before::int[],
				@state::text[], @scene::text[], @result::text[], @ended::bool[], @day::date[], @counts::text[], @place::text[], @network::text[], @uncounted::bool[])
				as s (site_id, id, piece_id, variant, design, visitor, at, steps, before, state, scene, result, ended, day, counts, place, network, uncounted)
		)`
	walksBegin = `, w as (
			insert into walks (site_id, id, piece_id, variant, design, visitor, began_at, last_at, steps, state, scene, result, ended)
			select site_id, id, piece_id, variant, design, visitor, at, at, steps, state::json, scene, nullif(result, ''), ended from step on conflict do nothing
			returning site_id, id, lead_id
		)`
	walksGoOn = `, w as (
			update walks w set design = s.design, steps = s.steps, state = s.state::json, scene = s.scene, result = nullif(s.result, ''), ended = s.ended, last_at = greatest(w.last_at, s.at)
			from step s where w.site_id = s.site_id and w.id = s.id and w.piece_id = s.piece_id and w.visitor = s.visitor and w.steps = s.before and w.variant = coalesce(nullif(s.variant, ''), w.variant)
			returning w.site_id, w.id, w.lead_id
		)`
	countSteps = `, counted as (
			insert into walk_counts (site_id, piece_id, variant, day, counts)
			select s.site_id, s.piece_id, s.variant, s.day, s.counts::json from step s join w using (site_id, id) where s.counts <> ''
		)`
	sendSteps = `, sent as (
			insert into submissions (site_id, id, walk_id, scene, piece_id, variant, visitor, page, channel, campaign, referrer, name, answers, at, lead_id)
			select s.site_id, b.id, s.id, b.scene, s.piece_id, s.variant, s.visitor, b.page, b.channel, b.campaign, b.referrer, b.name, b.answers::json, s.at, w.lead_id
			from unnest(@sentSite::bigint[], @sentWalk::uuid[], @sentID::uuid[], @sentScene::text[], @sentName::text[], @sentAnswers::text[], @sentPage::text[], @sentChannel::text[], @sentCampaign::text[], @sentReferrer::text[])
				as b (site_id, walk_id, id, scene, name, answers, page, channel, campaign, referrer)
			join step s on s.site_id = b.site_id and s.id = b.walk_id join w on w.site_id = s.site_id and w.id = s.id
			on conflict do nothing
		)`
	goSteps = `, went as (
			insert into goes (site_id, piece_id, key, visitor, walk_id, variant, at, part, label, nth, code, place, network, email, uncounted)
			select s.site_id, s.piece_id, g.key, s.visitor, s.id, s.variant, s.at, g.part, g.label, 0, g.code,
				case when around.hour < g.per_hour and around.day < g.per_day and around.network_day < g.per_network_day then s.place end, s.network, nullif(g.email, ''), s.uncounted
			from unnest(@goSite::bigint[], @goWalk::uuid[], @goKey::text[], @goPart::text[], @goLabel::text[], @goCode::text[], @goEmail::text[], @goPerHour::int[], @goPerDay::int[], @goPerNetworkDay::int[])
				as g (site_id, walk_id, key, part, label, code, email, per_hour, per_day, per_network_day)
			join step s on s.site_id = g.site_id and s.id = g.walk_id join w on w.site_id = s.site_id and w.id = s.id
			cross join lateral (
				select count(*) as network_day, count(*) filter (where o.place = s.place) as day, count(*) filter (where o.place = s.place and o.at > now() - interval '1 hour') as hour
				from goes o where o.site_id = s.site_id and o.network <> '' and o.network = s.network and o.at > now() - interval '1 day'
			) around
		)`
	stepsKept = ` select site_id, id::text as id from w`
)

// storeSteps stores steps, all of which begin a walk or all of which go on with one,
// and marks those whose walk was where it was thought to be.
func storeSteps(ctx context.Context, db *pg.DB, steps []*step) error {
	text, args := statementOf(steps)
	statement, values, err := prepared(ctx, text, args)
	if err != nil {
		return err
	}
	for _, s := range steps {
		s.kept = false // rows may have come before a statement failed
	}
	batch := &pgx.Batch{}
	batch.Queue(byKeyOnly)
	batch.Queue(statement, values...).Query(func(rows pgx.Rows) error {
		var site int64
		var id string
		_, err := pgx.ForEachRow(rows, []any{&site, &id}, func() error {
			for _, s := range steps {
				s.kept = s.kept || s.site == site && s.who.Walk == id
			}
			return nil
		})
		return err
	})
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(driver any) error {
		// What goes to the database before one sync is one transaction.
		return driver.(*stdlib.Conn).Conn().SendBatch(ctx, batch).Close()
	})
}

// storeWithin stores one step in a transaction that does more; errAgain where its
// walk is not where it was thought to be.
func storeWithin(ctx context.Context, tx *sqlx.Tx, s *step) error {
	text, args := statementOf([]*step{s})
	statement, values, err := prepared(ctx, text, args)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, byKeyOnly); err != nil {
		return err
	}
	var walks []struct {
		Site int64  `db:"site_id"`
		ID   string `db:"id"`
	}
	if err = tx.SelectContext(ctx, &walks, statement, values...); err == nil && len(walks) == 0 {
		err = errAgain
	}
	return err
}

// byKeyOnly has what follows in a transaction found by its key. A plan that was
// made while a table was empty reads all of it for good.
const byKeyOnly = `select set_config('enable_seqscan', 'off', true), set_config('enable_hashjoin', 'off', true), set_config('enable_mergejoin', 'off', true)`

// places are statements with numbered places, by the statements with names, and
// which name is at which place.
var places sync.Map

type numbered struct {
	statement string
	names     []string
}

// prepared puts numbered places for the names of a statement, each time the same.
func prepared(ctx context.Context, text string, args pgx.NamedArgs) (statement string, values []any, err error) {
	known, ok := places.Load(text)
	if !ok {
		names := pgx.NamedArgs{}
		for name := range args {
			names[name] = name
		}
		rewritten, order, err := names.RewriteQuery(ctx, nil, text, nil)
		if err != nil {
			return "", nil, err
		}
		p := numbered{statement: rewritten}
		for _, name := range order {
			p.names = append(p.names, name.(string))
		}
		known = p
		places.Store(text, p)
	}
	p := known.(numbered)
	values = make([]any, len(p.names))
	for i, name := range p.names {
		values[i] = args[name]
	}
	return p.statement, values, nil
}

func statementOf(steps []*step) (statement string, args pgx.NamedArgs) {
	args = pgx.NamedArgs{}
	list(args, "site", steps, func(s *step) int64 { return s.site })
	list(args, "at", steps, func(s *step) time.Time { return s.who.At })
	list(args, "steps", steps, func(s *step) int { return s.Steps })
	list(args, "before", steps, func(s *step) int { return s.before })
	list(args, "ended", steps, func(s *step) bool { return s.State.Ended })
	list(args, "uncounted", steps, func(s *step) bool { return s.who.Unwatched })
	for name, of := range map[string]func(s *step) string{
		"walk": func(s *step) string { return s.who.Walk }, "piece": func(s *step) string { return s.who.Piece }, "variant": func(s *step) string { return s.who.Variant },
		"design": func(s *step) string { return s.who.Design }, "visitor": func(s *step) string { return s.who.Visitor }, "state": func(s *step) string { return string(s.state) },
		"scene": func(s *step) string { return s.Scene }, "result": func(s *step) string { return s.Result }, "day": func(s *step) string { return s.day },
		"counts": func(s *step) string { return s.counts }, "place": func(s *step) string { return s.who.Place }, "network": func(s *step) string { return s.who.Network },
	} {
		list(args, name, steps, of)
	}
	statement = stepsCome + walksGoOn + countSteps
	if steps[0].isNew {
		statement = stepsCome + walksBegin + countSteps
	}
	if slices.ContainsFunc(steps, func(s *step) bool { return len(s.submissions) > 0 }) {
		statement += sendSteps
		type sent struct {
			*step
			submitted
		}
		var all []sent
		for _, s := range steps {
			for _, sub := range s.submissions {
				all = append(all, sent{s, sub})
			}
		}
		list(args, "sentSite", all, func(s sent) int64 { return s.site })
		for name, of := range map[string]func(s sent) string{
			"sentWalk": func(s sent) string { return s.who.Walk }, "sentID": func(s sent) string { return s.id }, "sentScene": func(s sent) string { return s.scene },
			"sentName": func(s sent) string { return s.name }, "sentAnswers": func(s sent) string { return s.answers }, "sentPage": func(s sent) string { return s.who.Page },
			"sentChannel": func(s sent) string { return s.who.Channel }, "sentCampaign": func(s sent) string { return s.who.Campaign }, "sentReferrer": func(s sent) string { return s.who.Referrer },
		} {
			list(args, name, all, of)
		}
	}
	if went := slices.DeleteFunc(slices.Clone(steps), func(s *step) bool { return s.goes == nil }); len(went) > 0 {
		statement += goSteps
		list(args, "goSite", went, func(s *step) int64 { return s.site })
		for name, of := range map[string]func(s *step) string{
			"goWalk": func(s *step) string { return s.who.Walk }, "goKey": func(s *step) string { return s.goes.key }, "goPart": func(s *step) string { return s.goes.part },
			"goLabel": func(s *step) string { return s.goes.label }, "goCode": func(s *step) string { return s.goes.code }, "goEmail": func(s *step) string { return s.goes.email },
		} {
			list(args, name, went, of)
		}
		for name, most := range map[string]int{"goPerHour": GoesPerHour, "goPerDay": GoesPerDay, "goPerNetworkDay": GoesPerNetworkDay} {
			list(args, name, went, func(s *step) int { return most * max(1, s.who.Generous) })
		}
	}
	return statement + stepsKept, args
}

// list names what each of several has.
func list[S, V any](args pgx.NamedArgs, name string, of []S, what func(S) V) {
	values := make([]V, len(of))
	for i, one := range of {
		values[i] = what(one)
	}
	args[name] = values
}
