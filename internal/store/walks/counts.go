package walks

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/walk"
)

// What walks count for reports waits in walk_counts, a row a step, and is summed
// up together. A report counts both, in one view of the two.

// counted is what a step adds to the totals, as walk_counts keeps it.
type counted struct {
	Scenes  []sceneCounted  `json:"scenes,omitempty"`
	Answers []answerCounted `json:"answers,omitempty"`
	Ways    []wayCounted    `json:"ways,omitempty"`
	Refused []goRefused     `json:"refused,omitempty"`
}

// goRefused is goes at a draw that were refused, and why.
type goRefused struct {
	Key string `json:"key"`
	Why string `json:"why"`
	N   int    `json:"n"`
}

type wayCounted struct {
	walk.Passage
	N int `json:"n"`
}

type sceneCounted struct {
	Scene   string `json:"scene"`
	Reached int    `json:"reached,omitempty"`
	Left    int    `json:"left_it,omitempty"`
	Seconds int    `json:"seconds,omitempty"`
}

type answerCounted struct {
	Key    string `json:"key"`
	Choice string `json:"choice,omitempty"`
	N      int    `json:"n"`
}

// counts writes what a walk has come to for the totals; empty for nothing.
func (m *moved) counts() (string, error) {
	var c counted
	for scene, n := range m.Scenes {
		c.Scenes = append(c.Scenes, sceneCounted{scene, n.Reached, n.Left, n.Seconds})
	}
	for a, n := range m.Choices {
		c.Answers = append(c.Answers, answerCounted{a.Key, a.Choice, n})
	}
	for _, way := range m.Passages {
		c.Ways = append(c.Ways, wayCounted{way, 1})
	}
	if len(c.Scenes)+len(c.Answers)+len(c.Ways) == 0 {
		return "", nil
	}
	text, err := json.Marshal(c)
	return string(text), err
}

// The counts of walk_counts, as rows.
const (
	waitingScenes  = `json_to_recordset(t.counts -> 'scenes') as c (scene text, reached int, left_it int, seconds int)`
	waitingWays    = `json_to_recordset(t.counts -> 'ways') as c (scene text, next text, n int)`
	waitingRefused = `json_to_recordset(t.counts -> 'refused') as c (key text, why text, n int)`
	waitingAnswers = `json_to_recordset(t.counts -> 'answers') as c (key text, choice text, n int)`
)

const mostSummed = 5000

// counts at a time

// SumUp adds what walks have counted to the totals of scenes and answers. Until
// it does, Played counts it from where it waits; any number of servers may sum up
// at once.
func (s *Store) SumUp(ctx context.Context) error {
	for n := mostSummed; n == mostSummed; {
		var err error
		if n, err = s.sumUp(ctx); err != nil {
			return err
		}
	}
	return nil
}

// sumUp takes counts that no other server is summing, and gives how many. Rows
// of totals go in sorted, so that two servers never wait for each other in a circle.
func (s *Store) sumUp(ctx context.Context) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `
		with taken as (
			delete from walk_counts where ctid in (select ctid from walk_counts limit $1 for update skip locked) returning *
		), scenes as (
			insert into scene_days as d (site_id, piece_id, variant, day, scene, shard, reached, left_it, seconds)
			select t.site_id, t.piece_id, t.variant, t.day, c.scene, 0, coalesce(sum(c.reached), 0), coalesce(sum(c.left_it), 0), coalesce(sum(c.seconds), 0)
			from taken t, `+waitingScenes+`
			group by 1, 2, 3, 4, 5 order by 1, 2, 3, 4, 5
			on conflict (site_id, piece_id, variant, day, scene, shard)
				do update set reached = d.reached + excluded.reached, left_it = d.left_it + excluded.left_it, seconds = d.seconds + excluded.seconds
		), answers as (
			insert into answer_days as d (site_id, piece_id, variant, day, key, choice, shard, answers)
			select t.site_id, t.piece_id, t.variant, t.day, c.key, coalesce(c.choice, ''), 0, sum(c.n)
			from taken t, `+waitingAnswers+`
			group by 1, 2, 3, 4, 5, 6 order by 1, 2, 3, 4, 5, 6
			on conflict (site_id, piece_id, variant, day, key, choice, shard) do update set answers = d.answers + excluded.answers
		), ways as (
			insert into way_days as d (site_id, piece_id, variant, day, scene, next, walks)
			select t.site_id, t.piece_id, t.variant, t.day, c.scene, c.next, sum(c.n)
			from taken t, `+waitingWays+`
			group by 1, 2, 3, 4, 5, 6 order by 1, 2, 3, 4, 5, 6
			on conflict (site_id, piece_id, variant, day, scene, next) do update set walks = d.walks + excluded.walks
		), refused as (
			insert into refused_goes as d (site_id, piece_id, variant, day, key, why, goes)
			select t.site_id, t.piece_id, t.variant, t.day, c.key, c.why, sum(c.n)
			from taken t, `+waitingRefused+`
			group by 1, 2, 3, 4, 5, 6 order by 1, 2, 3, 4, 5, 6
			on conflict (site_id, piece_id, variant, day, key, why) do update set goes = d.goes + excluded.goes
		)
		select count(*) from taken`, mostSummed)
	return n, err
}

// SceneCount is how walks fared at a scene over some days.
type SceneCount struct {
	Variant string `db:"variant"`
	Scene   string `db:"scene"`
	Reached int    `db:"reached"`
	Left    int    `db:"left_it"`
	Seconds int    `db:"seconds"`
}

// AnswerCount is how often a choice was taken over some days; the empty choice
// stands for all who answered.
type AnswerCount struct {
	Variant string `db:"variant"`
	Key     string `db:"key"`
	Choice  string `db:"choice"`
	Answers int    `db:"answers"`
}

// WayCount is how many walks went from one scene to another over some days.
type WayCount struct {
	Variant string `db:"variant"`
	walk.Passage
	Walks int `db:"walks"`
}

// RefusedCount is how many goes at a draw were refused over some days, and why.
type RefusedCount struct {
	Variant string `db:"variant"`
	Key     string `db:"key"`
	Why     string `db:"why"`
	Goes    int    `db:"goes"`
}

// Play is what a piece's walks add up to.
type Play struct {
	Scenes  []SceneCount
	Answers []AnswerCount
	Ways    []WayCount
	Refused []RefusedCount
}

// Played gives how far a piece's walks came that began since a day, and what
// they answered.
func (s *Store) Played(ctx context.Context, site int64, piece string, since time.Time) (play Play, err error) {
	// One view of what is summed up and what waits: counts go from one to the other.
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `set transaction isolation level repeatable read, read only`); err != nil {
			return err
		}
		err := tx.SelectContext(ctx, &play.Scenes, `
			select variant, scene, sum(reached) as reached, sum(left_it) as left_it, sum(seconds) as seconds from (
				select variant, scene, reached, left_it, seconds from scene_days where site_id = $1 and piece_id = $2 and day >= $3
				union all
				select t.variant, c.scene, coalesce(c.reached, 0), coalesce(c.left_it, 0), coalesce(c.seconds, 0) from walk_counts t, `+waitingScenes+`
				where t.site_id = $1 and t.piece_id = $2 and t.day >= $3
			) all_of_it group by variant, scene`, site, piece, since.Format(time.DateOnly))
		if err != nil {
			return err
		}
		err = tx.SelectContext(ctx, &play.Answers, `
			select variant, key, choice, sum(answers) as answers from (
				select variant, key, choice, answers from answer_days where site_id = $1 and piece_id = $2 and day >= $3
				union all
				select t.variant, c.key, coalesce(c.choice, ''), c.n from walk_counts t, `+waitingAnswers+`
				where t.site_id = $1 and t.piece_id = $2 and t.day >= $3
			) all_of_it group by variant, key, choice`, site, piece, since.Format(time.DateOnly))
		if err != nil {
			return err
		}
		err = tx.SelectContext(ctx, &play.Refused, `
			select variant, key, why, sum(goes) as goes from (
				select variant, key, why, goes from refused_goes where site_id = $1 and piece_id = $2 and day >= $3
				union all
				select t.variant, c.key, c.why, c.n from walk_counts t, `+waitingRefused+`
				where t.site_id = $1 and t.piece_id = $2 and t.day >= $3
			) all_of_it group by variant, key, why`, site, piece, since.Format(time.DateOnly))
		if err != nil {
			return err
		}
		return tx.SelectContext(ctx, &play.Ways, `
			select variant, scene, next, sum(walks) as walks from (
				select variant, scene, next, walks from way_days where site_id = $1 and piece_id = $2 and day >= $3
				union all
				select t.variant, c.scene, c.next, c.n from walk_counts t, `+waitingWays+`
				where t.site_id = $1 and t.piece_id = $2 and t.day >= $3
			) all_of_it group by variant, scene, next`, site, piece, since.Format(time.DateOnly))
	})
	return play, err
}
