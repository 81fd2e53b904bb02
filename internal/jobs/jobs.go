// Package jobs runs work in the background: each with a name, a period, a
// deadline, and one owner.
//
//	r, err := jobs.New(db, []jobs.Job{
//		{Name: "pieces", Every: 2 * time.Second, Deadline: 20 * time.Second, Run: store.Pieces.Pass},
//		{Name: "refusals", Every: 10 * time.Second, Deadline: 5 * time.Second, Run: visitors.Write, Here: true},
//	})
//	r.Run(ctx) // until ctx ends, and what is under way has ended
//
// Of all processes one leads: it queues each job once a period (River, polling, so
// that it works behind a pooler), and whichever process is free runs it, tried
// again where it fails. What only a process itself holds, such as counts in its
// memory, it writes down by a job of its own (Here), and once more when it ends.
// How each ran last is kept in the table jobs.
package jobs

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"sync"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
)

// Job is something that is done now and then.
type Job struct {
	// Name is what it is called wherever it is spoken of.
	Name     string
	Every    time.Duration
	Deadline time.Duration // of one run
	// Run does it. It may be run again before its time, and by another process.
	Run func(ctx context.Context) error
	// Here has each process run it for itself, when it begins and when it ends too.
	Here bool
}

// Runner runs jobs.
type Runner struct {
	db     *sql.DB
	jobs   map[string]Job
	client *river.Client[*sql.Tx]
}

// Migrate makes the tables of the queue.
func Migrate(ctx context.Context, db *sql.DB) error {
	m, err := rivermigrate.New(riverdatabasesql.New(db), &rivermigrate.Config{Logger: silent})
	if err == nil {
		_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	}
	return err
}

// What the queue says of itself is of no use to who reads the log; what jobs say
// is written by this package.
var silent = slog.New(slog.NewTextHandler(io.Discard, nil))

const (
	atOnce   = 4 // jobs in one process
	polls    = time.Second
	attempts = 3
	keepRuns = 15 * time.Minute // rows of the queue, once done
	// lastWord is how long what is under way may take when a process ends.
	lastWord = 15 * time.Second
)

// New makes a runner. Nothing runs until Run.
func New(db *sql.DB, all []Job) (*Runner, error) {
	r := &Runner{db: db, jobs: map[string]Job{}}
	workers := river.NewWorkers()
	river.AddWorker(workers, &worker{runner: r})
	var periodic []*river.PeriodicJob
	for _, j := range all {
		if _, twice := r.jobs[j.Name]; twice {
			return nil, fmt.Errorf("two jobs are called %s", j.Name)
		}
		if r.jobs[j.Name] = j; j.Here {
			continue
		}
		periodic = append(periodic, river.NewPeriodicJob(river.PeriodicInterval(j.Every), func() (river.JobArgs, *river.InsertOpts) {
			return due{j.Name}, &river.InsertOpts{MaxAttempts: attempts}
		}, &river.PeriodicJobOpts{RunOnStart: true}))
	}
	var err error
	r.client, err = river.NewClient(riverdatabasesql.New(db), &river.Config{
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: atOnce}}, Workers: workers, PeriodicJobs: periodic, PollOnly: true, FetchPollInterval: polls,
		CompletedJobRetentionPeriod: keepRuns, DiscardedJobRetentionPeriod: keepRuns, CancelledJobRetentionPeriod: keepRuns, Logger: silent,
	})
	return r, err
}

// due is that a job is to be run. One that takes longer than its period is queued
// again meanwhile, and finds the lease taken; of a process that was killed the
// lease runs out, and the next period runs it. A job of long periods does not wait
// for the next: it tries again when a lease has run out.
type due struct {
	Name string `json:"name"`
}

func (due) Kind() string { return "due" }

type worker struct {
	river.WorkerDefaults[due]
	runner *Runner
}

func (w *worker) Timeout(j *river.Job[due]) time.Duration {
	// A little more than the job's own deadline, which it is told of first.
	return w.runner.jobs[j.Args.Name].Deadline + time.Second
}

func (w *worker) Work(ctx context.Context, j *river.Job[due]) error {
	job, ok := w.runner.jobs[j.Args.Name]
	if !ok {
		return nil // of another version of the program
	}
	return w.runner.once(ctx, job)
}

// NextRetry tries again soon: the next period does what a job has missed.
func (w *worker) NextRetry(j *river.Job[due]) time.Time {
	return time.Now().Add(min(time.Minute, time.Duration(j.Attempt)*5*time.Second))
}

// Run runs the jobs until ctx ends, and then waits for what is under way.
func (r *Runner) Run(ctx context.Context) error {
	running := context.WithoutCancel(ctx)
	if err := r.client.Start(running); err != nil {
		return fmt.Errorf("jobs cannot be run: %w", err)
	}
	var own sync.WaitGroup
	for _, j := range r.jobs {
		if j.Here {
			own.Go(func() { r.here(ctx, j) })
		}
	}
	<-ctx.Done()
	stop, cancel := context.WithTimeout(running, lastWord)
	defer cancel()
	err := r.client.Stop(stop)
	if err != nil {
		err = errors.Join(err, r.client.StopAndCancel(stop))
	}
	own.Wait()
	return err
}

// here runs a job of this process alone, at once as all are, and once more at the end.
func (r *Runner) here(ctx context.Context, j Job) {
	tick := time.NewTicker(j.Every)
	defer tick.Stop()
	for over := false; ; {
		within, cancel := context.WithTimeout(context.WithoutCancel(ctx), j.Deadline)
		_ = r.noted(within, j, time.Now())
		cancel()
		if over {
			return
		}
		select {
		case <-ctx.Done():
			over = true
		case <-tick.C:
		}
	}
}

// once runs a job unless another process does.
func (r *Runner) once(ctx context.Context, j Job) error {
	var began time.Time
	err := r.db.QueryRowContext(ctx, `
		insert into jobs as j (name, leased_until, began_at) values ($1, now() + make_interval(secs => $2), now())
		on conflict (name) do update set leased_until = excluded.leased_until, began_at = excluded.began_at where j.leased_until is null or j.leased_until < now()
		returning began_at`, j.Name, j.Deadline.Seconds()).Scan(&began)
	if errors.Is(err, sql.ErrNoRows) {
		if j.Every > j.Deadline {
			return river.JobSnooze(j.Deadline)
		}
		return nil
	}
	if err != nil {
		return err
	}
	within, cancel := context.WithTimeout(ctx, j.Deadline)
	defer cancel()
	return r.noted(within, j, began)
}

// noted runs a job, and keeps how it went. The lease that began then is given back;
// one that ran out, and is another's by now, stays.
func (r *Runner) noted(ctx context.Context, j Job, leased time.Time) (err error) {
	began := time.Now()
	defer func() {
		if thrown := recover(); thrown != nil {
			err = fmt.Errorf("it threw: %v", thrown)
		}
		said := ""
		if err != nil {
			said = err.Error()
			slog.WarnContext(ctx, "a job failed; it is tried again", "job", j.Name, "error", err)
		}
		last, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		_, kept := r.db.ExecContext(last, `
			insert into jobs as j (name, began_at, ended_at, took, error, failed_at) values ($1, now() - make_interval(secs => $2), now(), make_interval(secs => $2), $3::text, case when $3::text <> '' then now() end)
			on conflict (name) do update set leased_until = case when j.began_at <> $4 then j.leased_until end, ended_at = excluded.ended_at, took = excluded.took, error = excluded.error,
				failed_at = case when excluded.error <> '' then coalesce(j.failed_at, now()) end`, j.Name, time.Since(began).Seconds(), said, leased)
		if kept != nil && err == nil {
			slog.WarnContext(ctx, "how a job went is not kept", "job", j.Name, "error", kept)
		}
	}()
	return j.Run(ctx)
}
