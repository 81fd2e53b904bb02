package server

import (
	"context"
	"time"

	"gobbet/internal/jobs"
	"gobbet/internal/limits"
	"gobbet/internal/store"
	"gobbet/internal/studio"
	"gobbet/internal/visitor"
	"gobbet/internal/visits"
)

// work is what is done in the background, all of it.
func work(s *store.Store, visitors *visitor.Server, marketers *studio.Server, logs *visits.Logs, requests *limits.Limits) []jobs.Job {
	now := func(do func(ctx context.Context, now time.Time) error) func(context.Context) error {
		return func(ctx context.Context) error { return do(ctx, time.Now()) }
	}
	return []jobs.Job{
		{Name: "pauses and schedules", Every: 2 * time.Second, Deadline: 20 * time.Second, Run: s.Pieces.Pass},
		{Name: "funnel totals", Every: 2 * time.Second, Deadline: 20 * time.Second, Run: s.Walks.SumUp},
		{Name: "shares that follow the winner", Every: 10 * time.Minute, Deadline: 5 * time.Minute, Run: marketers.FollowWinners},
		{Name: "alerts", Every: 10 * time.Minute, Deadline: 5 * time.Minute, Run: marketers.Watch},
		{Name: "event tables of coming months", Every: time.Hour, Deadline: time.Minute, Run: now(func(ctx context.Context, now time.Time) error { return s.Events.MakeMonths(ctx, now, now) })},
		{Name: "deleting old sessions and counts", Every: 30 * time.Minute, Deadline: 5 * time.Minute, Run: s.Forget},
		{Name: "deleting old counts of requests", Every: time.Minute, Deadline: 30 * time.Second, Run: s.Quotas.Forget},
		{Name: "deleting old events", Every: 24 * time.Hour, Deadline: 2 * time.Hour, Run: now(s.Events.ForgetEvents)},
		{Name: "deleting old page views", Every: 30 * time.Minute, Deadline: 10 * time.Minute, Run: logs.ForgetStored},
		// Of each process.
		{Name: "counts of refused requests", Every: 5 * time.Second, Deadline: 5 * time.Second, Run: visitors.WriteDown, Here: true},
		{Name: "counts of requests by address", Every: 2 * time.Second, Deadline: 2 * time.Second, Run: requests.Share, Here: true},
		{Name: "closing idle visit logs", Every: 10 * time.Minute, Deadline: time.Second, Run: logs.ForgetIdle, Here: true},
	}
}
