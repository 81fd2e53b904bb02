package jobs_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"gobbet/internal/jobs"
	"gobbet/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Run(m) }

// running runs jobs as so many processes would, and gives what ends them.
func running(t *testing.T, processes int, all ...jobs.Job) (r *jobs.Runner, end func()) {
	t.Helper()
	s := storetest.New(t)
	ctx, stop := context.WithCancel(context.Background())
	var over sync.WaitGroup
	for range processes {
		one, err := jobs.New(s.DB(), all)
		if err != nil {
			t.Fatal(err)
		}
		r = one
		over.Go(func() {
			if err := one.Run(ctx); err != nil {
				t.Error(err)
			}
		})
	}
	return r, func() { stop(); over.Wait() }
}

func until(t *testing.T, what string, is func() bool) {
	t.Helper()
	for end := time.Now().Add(30 * time.Second); !is(); time.Sleep(20 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal(what, "did not come about")
		}
	}
}

func TestOfManyProcessesOneRunsAJob(t *testing.T) {
	var at, most, runs atomic.Int64
	r, end := running(t, 3, jobs.Job{Name: "slow", Every: 200 * time.Millisecond, Deadline: 10 * time.Second, Run: func(context.Context) error {
		most.Store(max(most.Load(), at.Add(1)))
		time.Sleep(300 * time.Millisecond)
		at.Add(-1)
		runs.Add(1)
		return nil
	}})
	until(t, "a few runs", func() bool { return runs.Load() >= 3 })
	states, err := r.States(context.Background())
	end()
	if most.Load() != 1 {
		t.Errorf("%d ran at once", most.Load())
	}
	if err != nil || len(states) != 1 || states[0].EndedAt == nil || states[0].Error != "" || states[0].Took < 250 || states[0].Late {
		t.Errorf("%+v %v", states, err)
	}
}

func TestWhatFailsIsSaidAndTriedAgain(t *testing.T) {
	var runs atomic.Int64
	r, end := running(t, 1, jobs.Job{Name: "fails at first", Every: time.Hour, Deadline: time.Second, Run: func(context.Context) error {
		if runs.Add(1) == 1 {
			return errors.New("the lines are down")
		}
		return nil
	}}, jobs.Job{Name: "throws", Every: time.Hour, Deadline: time.Second, Run: func(context.Context) error { panic("oh") }})
	defer end()
	said := func(name string) string {
		states, err := r.States(context.Background())
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range states {
			if s.Name == name && s.FailedAt != nil {
				return s.Error
			}
		}
		return ""
	}
	until(t, "the failure", func() bool { return strings.Contains(said("fails at first"), "lines are down") })
	until(t, "what was thrown", func() bool { return strings.Contains(said("throws"), "oh") })
	until(t, "another try", func() bool { return runs.Load() > 1 && said("fails at first") == "" })
}

func TestAJobThatTakesTooLongIsEnded(t *testing.T) {
	r, end := running(t, 1, jobs.Job{Name: "endless", Every: time.Hour, Deadline: 200 * time.Millisecond, Run: func(ctx context.Context) error {
		<-ctx.Done()
		return ctx.Err()
	}})
	defer end()
	until(t, "its end", func() bool {
		states, err := r.States(context.Background())
		return err == nil && len(states) == 1 && strings.Contains(states[0].Error, "deadline")
	})
}

// What a process does for itself it does at once, so that nothing is late after a
// pause; what it holds in memory is written down when it ends, and what is under way
// then is waited for.
func TestTheEndWaitsForWhatIsUnderWay(t *testing.T) {
	var begun, done, wrote atomic.Int64
	_, end := running(t, 1, jobs.Job{Name: "under way", Every: time.Hour, Deadline: 10 * time.Second, Run: func(context.Context) error {
		begun.Add(1)
		time.Sleep(time.Second)
		done.Add(1)
		return nil
	}}, jobs.Job{Name: "in memory", Every: time.Hour, Deadline: time.Second, Here: true, Run: func(context.Context) error { wrote.Add(1); return nil }})
	until(t, "its beginning", func() bool { return begun.Load() == 1 && wrote.Load() == 1 })
	end()
	if done.Load() != 1 || wrote.Load() != 2 {
		t.Errorf("%d ended, %d wrote down", done.Load(), wrote.Load())
	}
}

// A process that was killed leaves its lease: a job of a long period is run when
// that has run out. One that has lost its lease leaves the next one's alone.
func TestALeaseThatRanOut(t *testing.T) {
	var runs atomic.Int64
	s := storetest.New(t)
	if _, err := s.DB().Exec(`insert into jobs (name, leased_until, began_at) values ('daily', now() + interval '2 seconds', now() - interval '1 hour')`); err != nil {
		t.Fatal(err)
	}
	r, err := jobs.New(s.DB(), []jobs.Job{{Name: "daily", Every: 24 * time.Hour, Deadline: 2 * time.Second, Run: func(ctx context.Context) error {
		if runs.Add(1) == 1 {
			_, err := s.DB().Exec(`update jobs set began_at = now(), leased_until = 'infinity'`) // as the next one does
			return err
		}
		return nil
	}}})
	if err != nil {
		t.Fatal(err)
	}
	if states, err := r.States(context.Background()); err != nil || len(states) != 1 || states[0].EndedAt != nil || states[0].Late {
		t.Errorf("%+v %v", states, err)
	}
	ctx, stop := context.WithCancel(context.Background())
	var over sync.WaitGroup
	over.Go(func() { r.Run(ctx) })
	until(t, "its run", func() bool {
		states, err := r.States(context.Background())
		return err == nil && states[0].EndedAt != nil
	})
	stop()
	over.Wait()
	var leased bool
	if err := s.DB().QueryRow(`select leased_until = 'infinity' from jobs`).Scan(&leased); err != nil || !leased {
		t.Error("the next one's lease was given back", err)
	}
	if n := runs.Load(); n != 1 {
		t.Errorf("%d runs", n)
	}
}

func TestNamesAreGivenOnce(t *testing.T) {
	one := jobs.Job{Name: "twice", Every: time.Hour, Deadline: time.Second, Run: func(context.Context) error { return nil }}
	if _, err := jobs.New(storetest.New(t).DB(), []jobs.Job{one, one}); err == nil {
		t.Error("two jobs have one name")
	}
}
