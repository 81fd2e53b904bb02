package walks

import (
	"fmt"
	"strings"
	"sync"
	"time"
)

// Steps that are stored together are one statement. Three lists come into it: the
// steps, the answers sent on them and the goes taken on them. All else follows
// from the walks' having begun or moved (w). Walks that begin come first, so that
// no two statements each hold what the other waits for.

// sentAnswer is a submission, with the step that it was sent on.
type sentAnswer struct {
	*step
	submitted
}

var stepColumns = []column[*step]{
	col("site_id", "bigint", func(s *step) int64 { return s.site }),
	col("id", "uuid", func(s *step) string { return s.who.Walk }),
	col("piece_id", "text", func(s *step) string { return s.who.Piece }),
	col("variant", "text", func(s *step) string { return s.who.Variant }),
	col("design", "text", func(s *step) string { return s.who.Design }),
	col("visitor", "text", func(s *step) string { return s.who.Visitor }),
	col("at", "timestamptz", func(s *step) time.Time { return s.who.At }),
	col("begins", "bool", func(s *step) bool { return s.isNew }),
	col("before", "int", func(s *step) int { return s.before }),
	col("steps", "int", func(s *step) int { return s.Steps }),
	col("state", "text", func(s *step) string { return string(s.state) }),
	col("scene", "text", func(s *step) string { return s.Scene }),
	col("result", "text", func(s *step) string { return s.Result }),
	col("ended", "bool", func(s *step) bool { return s.State.Ended }),
	col("day", "date", func(s *step) string { return s.day }),
	col("counts", "text", func(s *step) string { return s.counts }),
}

var answeredColumns = []column[sentAnswer]{
	col("site_id", "bigint", func(a sentAnswer) int64 { return a.site }),
	col("walk_id", "uuid", func(a sentAnswer) string { return a.who.Walk }),
	col("id", "uuid", func(a sentAnswer) string { return a.id }),
	col("scene", "text", func(a sentAnswer) string { return a.scene }),
	col("name", "text", func(a sentAnswer) string { return a.name }),
	col("answers", "text", func(a sentAnswer) string { return a.answers }),
	col("page", "text", func(a sentAnswer) string { return a.who.Page }),
	col("channel", "text", func(a sentAnswer) string { return a.who.Channel }),
	col("campaign", "text", func(a sentAnswer) string { return a.who.Campaign }),
	col("referrer", "text", func(a sentAnswer) string { return a.who.Referrer }),
}

var goColumns = []column[*step]{
	col("site_id", "bigint", func(s *step) int64 { return s.site }),
	col("walk_id", "uuid", func(s *step) string { return s.who.Walk }),
	col("key", "text", func(s *step) string { return s.goes.key }),
	col("part", "text", func(s *step) string { return s.goes.part }),
	col("label", "text", func(s *step) string { return s.goes.label }),
	col("code", "text", func(s *step) string { return s.goes.code }),
	col("email", "text", func(s *step) string { return s.goes.email }),
	col("place", "text", func(s *step) string { return s.who.Place }),
	col("network", "text", func(s *step) string { return s.who.Network }),
	col("uncounted", "bool", func(s *step) bool { return s.who.Unwatched }),
	col("per_hour", "int", func(s *step) int { return GoesPerHour * max(1, s.who.Generous) }),
	col("per_day", "int", func(s *step) int { return GoesPerDay * max(1, s.who.Generous) }),
	col("per_network_day", "int", func(s *step) int { return GoesPerNetworkDay * max(1, s.who.Generous) }),
}

const (
	walksBegin = `, begun as (
			insert into walks (site_id, id, piece_id, variant, design, visitor, began_at, last_at, steps, state, scene, result, ended)
			select site_id, id, piece_id, variant, design, visitor, at, at, steps, state::json, scene, nullif(result, ''), ended from step where begins on conflict do nothing
			returning site_id, id, lead_id
		)`
	walksGoOn = `, moved as (
			update walks w set design = s.design, steps = s.steps, state = s.state::json, scene = s.scene, result = nullif(s.result, ''), ended = s.ended, last_at = greatest(w.last_at, s.at)
			from step s where not s.begins and w.site_id = s.site_id and w.id = s.id and w.piece_id = s.piece_id and w.visitor = s.visitor and w.steps = s.before and w.variant = coalesce(nullif(s.variant, ''), w.variant)
			returning w.site_id, w.id, w.lead_id
		)`
	countSteps = `, counted as (
			insert into walk_counts (site_id, piece_id, variant, day, counts)
			select s.site_id, s.piece_id, s.variant, s.day, s.counts::json from step s join w using (site_id, id) where s.counts <> ''
		)`
	sendAnswers = `, sent as (
			insert into submissions (site_id, id, walk_id, scene, piece_id, variant, visitor, page, channel, campaign, referrer, name, answers, at, lead_id)
			select s.site_id, b.id, s.id, b.scene, s.piece_id, s.variant, s.visitor, b.page, b.channel, b.campaign, b.referrer, b.name, b.answers::json, s.at, w.lead_id
			from answer b join step s on s.site_id = b.site_id and s.id = b.walk_id join w on w.site_id = s.site_id and w.id = s.id
			on conflict do nothing
		)`
	takeGoes = `, went as (
			insert into goes (site_id, piece_id, key, visitor, walk_id, variant, at, part, label, nth, code, place, network, email, uncounted)
			select s.site_id, s.piece_id, g.key, s.visitor, s.id, s.variant, s.at, g.part, g.label, 0, g.code,
				case when around.hour < g.per_hour and around.day < g.per_day and around.network_day < g.per_network_day then g.place end, g.network, nullif(g.email, ''), g.uncounted
			from go g join step s on s.site_id = g.site_id and s.id = g.walk_id join w on w.site_id = s.site_id and w.id = s.id
			cross join lateral (
				select count(*) as network_day, count(*) filter (where o.place = g.place) as day, count(*) filter (where o.place = g.place and o.at > now() - interval '1 hour') as hour
				from goes o where o.site_id = s.site_id and o.network <> '' and o.network = g.network and o.at > now() - interval '1 day'
			) around
		)`
	walksKept = ` select site_id, id::text as id from w`
)

// statementOf is the statement that stores steps, and the values at its places.
func statementOf(steps []*step) (statement string, values []any) {
	var answers []sentAnswer
	var goes []*step
	is := shape{steps: amount(len(steps))}
	for _, s := range steps {
		is.begins, is.goOn = is.begins || s.isNew, is.goOn || !s.isNew
		for _, sub := range s.submissions {
			answers = append(answers, sentAnswer{s, sub})
		}
		if s.goes != nil {
			goes = append(goes, s)
		}
	}
	is.answers, is.goes = amount(len(answers)), amount(len(goes))
	values = valuesOf(stepColumns, steps, values)
	values = valuesOf(answeredColumns, answers, values)
	return is.statement(), valuesOf(goColumns, goes, values)
}

// shape is what tells statements apart: as few as can be, since each connection
// has each of them planned.
type shape struct {
	begins, goOn         bool
	steps, answers, goes amount
}

// amount is none, one or several.
type amount int

func (n amount) several() bool { return n > 1 }

var statements sync.Map // texts by shape

func (is shape) statement() string {
	is.steps, is.answers, is.goes = min(is.steps, 2), min(is.answers, 2), min(is.goes, 2)
	if is.steps.several() {
		is.begins, is.goOn = true, true
	}
	if text, ok := statements.Load(is); ok {
		return text.(string)
	}
	var b strings.Builder
	places := list(&b, "with step", stepColumns, is.steps, 0)
	if is.answers > 0 {
		places = list(&b, ", answer", answeredColumns, is.answers, places)
	}
	if is.goes > 0 {
		list(&b, ", go", goColumns, is.goes, places)
	}
	var moved []string
	if is.begins {
		b.WriteString(walksBegin)
		moved = append(moved, "select * from begun")
	}
	if is.goOn {
		b.WriteString(walksGoOn)
		moved = append(moved, "select * from moved")
	}
	fmt.Fprintf(&b, ", w as (%s)", strings.Join(moved, " union all "))
	b.WriteString(countSteps)
	if is.answers > 0 {
		b.WriteString(sendAnswers)
	}
	if is.goes > 0 {
		b.WriteString(takeGoes)
	}
	b.WriteString(walksKept)
	statements.Store(is, b.String())
	return b.String()
}

// column is what each of some rows brings under a name.
type column[R any] struct {
	name, kind string
	one        func(R) any
	all        func([]R) any
}

func col[R, V any](name, kind string, what func(R) V) column[R] {
	return column[R]{name, kind, func(row R) any { return what(row) }, func(rows []R) any {
		values := make([]V, len(rows))
		for i, row := range rows {
			values[i] = what(row)
		}
		return values
	}}
}

// list writes rows as a part of a statement: one as it is, several as arrays. The
// places go on from those before.
func list[R any](b *strings.Builder, name string, columns []column[R], n amount, places int) int {
	b.WriteString(name + " as (select ")
	if n.several() {
		b.WriteString("* from unnest(")
	}
	names := make([]string, len(columns))
	for i, c := range columns {
		places++
		names[i] = c.name
		if i > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(b, "$%d::%s", places, c.kind)
		if n.several() {
			b.WriteString("[]")
		} else {
			b.WriteString(" as " + c.name)
		}
	}
	if n.several() {
		fmt.Fprintf(b, ") as r (%s)", strings.Join(names, ", "))
	}
	b.WriteString(")")
	return places
}

func valuesOf[R any](columns []column[R], rows []R, values []any) []any {
	for _, c := range columns {
		switch len(rows) {
		case 0:
		case 1:
			values = append(values, c.one(rows[0]))
		default:
			values = append(values, c.all(rows))
		}
	}
	return values
}
