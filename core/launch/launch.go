// Package launch is a piece's life: what may be done with it in which state, and
// what that makes of it.
//
//	next, err := launch.Launch{Version: 7}.On(piece, around)
//	next.Piece     // as it is from then on
//	next.Run       // how it splits visitors from then on, where that changed
//	next.Move      // what is noted of it
//	next.Visible   // whether visitors get something else
//
// A draft is launched, and is live. What is live is paused, for good or until a
// time, at once or from a time on; it resumes as it was; its schedule ends, and
// it is over. A live piece keeps an editable draft beside what is live.
//
// Documents are read loosely: only what decides is looked at, and what is not
// known here stays as it is.
package launch

import (
	"encoding/json"
	"errors"
	"time"

	"gobbet/core/fault"
	"gobbet/core/schedule"
)

// State is where a piece is in its life.
type State string

const (
	Draft  State = "draft"
	Live   State = "live"
	Paused State = "paused"
	Over   State = "over" // its schedule has ended
)

// Piece is a piece as something is done with it.
type Piece struct {
	State State
	// Draft and Live are documents (core/piece); Live is what is or was live last, and
	// nil where nothing ever was.
	Draft, Live  []byte
	DraftVersion int
	LiveVersion  int // of the draft that was launched; 0: none was
	// Revision counts what visitors got of it; it grows with every change of that.
	Revision    int
	LiveSince   *time.Time
	PausedAt    *time.Time
	PausesAt    *time.Time // a pause that is planned
	PausedUntil *time.Time // when a pause, or one that is planned, ends by itself; nil: never
	RemovedAt   *time.Time
	// Split is how it splits visitors by its latest run; nil: it has none.
	Split *Split
	// SharesAt is when shares that follow the winner were drawn last.
	SharesAt *time.Time
}

// Around is what else there is to know.
type Around struct {
	Now time.Time // on the site's clock
	// Live is how many other pieces of the site are live, and Most how many may be.
	Live, Most int
	// Taken reports whether another live piece has the address of an own page.
	Taken func(address string) bool
}

// Next is what something done makes of a piece.
type Next struct {
	Piece
	Run     *Split // nil: it goes on as it is
	Seed    uint64 // that the run's shares were drawn with
	Move    *Move  // nil: nothing is noted
	Visible bool   // visitors get something else
}

// Did is what was done with a piece.
type Did string

const (
	Launched   Did = "launched"
	Replaced   Did = "replaced" // something that several pieces have in common
	PausedIt   Did = "paused"
	Planned    Did = "planned" // a pause
	Unplanned  Did = "unplanned"
	ResumedIt  Did = "resumed"
	StayPaused Did = "stayed_paused" // though its time had come
	Ended      Did = "ended"         // its schedule
	Removed    Did = "removed"
	Restored   Did = "restored"
)

// Move is something that was done with a piece.
type Move struct {
	Did Did
	// From is when a planned pause begins, Until when a pause ends by itself.
	From, Until *time.Time
	// Designs are the ids of variants whose design changed, and Reach says that who
	// sees the piece or when did, where it was live before.
	Designs []string
	Reach   bool
}

var (
	// ErrLive is that a piece is live, and would have to be paused first.
	ErrLive = errors.New("the piece is live")
	// ErrTaken is that another live piece has the address of its own page.
	ErrTaken = errors.New("the address of its page is taken")
	// ErrOver is that its schedule has ended.
	ErrOver = errors.New("its schedule has ended")
)

// Event is something that is done with a piece, or happens to it.
type Event interface {
	// On gives what it makes of a piece. A piece that it makes nothing of comes back
	// as it was, with nothing noted.
	On(p Piece, around Around) (Next, error)
}

// Launch makes what is in the draft live.
type Launch struct {
	Version int // of the draft that was looked at
}

func (e Launch) On(p Piece, around Around) (Next, error) {
	switch {
	case p.RemovedAt != nil || p.DraftVersion != e.Version:
		return Next{}, fault.ErrStale
	case around.Live >= around.Most:
		return Next{}, fault.ErrTooMany
	case around.taken(p.Draft):
		return Next{}, ErrTaken
	}
	next := Next{Piece: p, Visible: true}
	live, run, err := splitFrom(p.Draft, p.Split)
	if err != nil {
		return Next{}, err
	}
	designs, reach := Changes(p.Live, live)
	next.Live, next.LiveVersion, next.Run = live, p.DraftVersion, run
	if next.State != Live {
		next.State, next.LiveSince, next.PausedAt, next.PausesAt, next.PausedUntil = Live, &around.Now, nil, nil, nil
	}
	next.Move = &Move{Did: Launched, Designs: designs, Reach: reach}
	return next, nil
}

// Pause takes a live piece off the site, at once or from a time on. Visitors
// keep what they have open.
type Pause struct {
	From, Until *time.Time
}

func (e Pause) On(p Piece, around Around) (Next, error) {
	next := Next{Piece: p}
	if p.State != Live || p.RemovedAt != nil {
		return next, nil
	}
	next.PausedUntil = e.Until
	if e.From != nil && e.From.After(around.Now) {
		next.PausesAt = e.From
		next.Move = &Move{Did: Planned, From: e.From, Until: e.Until}
		return next, nil
	}
	next.State, next.PausedAt, next.PausesAt, next.Visible = Paused, &around.Now, nil, true
	next.Move = &Move{Did: PausedIt, Until: e.Until}
	return next, nil
}

// Resume puts a paused piece live again as it was, or takes a planned pause back.
type Resume struct{}

func (Resume) On(p Piece, around Around) (Next, error) {
	next := Next{Piece: p}
	if p.State == Live && p.PausesAt != nil {
		next.PausesAt, next.PausedUntil = nil, nil
		next.Move = &Move{Did: Unplanned}
		return next, nil
	}
	if p.State == Over {
		return next, ErrOver
	}
	if p.State != Paused || p.RemovedAt != nil || p.Live == nil {
		return next, nil
	}
	switch {
	case ended(p.Live, around.Now):
		return next, ErrOver
	case around.taken(p.Live):
		return next, ErrTaken
	case around.Live >= around.Most:
		return next, fault.ErrTooMany
	}
	next.State, next.PausedAt, next.PausesAt, next.PausedUntil, next.Visible = Live, nil, nil, nil, true
	next.Move = &Move{Did: ResumedIt}
	return next, nil
}

// Pass is that time passes: pauses begin and end, and schedules.
type Pass struct{}

func (Pass) On(p Piece, around Around) (Next, error) {
	next := Next{Piece: p}
	due := func(at *time.Time) bool { return at != nil && !at.After(around.Now) }
	switch {
	case p.RemovedAt != nil:
	case p.State == Live && ended(p.Live, around.Now):
		next.State, next.PausedAt, next.PausesAt, next.PausedUntil, next.Visible = Over, &around.Now, nil, nil, true
		next.Move = &Move{Did: Ended}
	case p.State == Live && due(p.PausesAt):
		if due(p.PausedUntil) {
			// Nobody was there when it was to begin, and now it is to be over.
			next.PausesAt, next.PausedUntil = nil, nil
			return next, nil
		}
		return Pause{Until: p.PausedUntil}.On(p, around)
	case p.State == Paused && due(p.PausedUntil):
		resumed, err := Resume{}.On(p, around)
		if err == nil {
			return resumed, nil
		}
		// It is not tried again every few seconds: a person says what is to be done.
		next.PausedUntil = nil
		next.Move = &Move{Did: StayPaused}
	}
	return next, nil
}

// Replace rewrites a piece's draft, and what is live of it too where asked for:
// what is live at that moment, whatever was launched since it was looked at.
type Replace struct {
	Live bool
	// Rewrite gives a document with something replaced in it; the same where there is
	// nothing to replace. It may be called for both documents.
	Rewrite func(document []byte) ([]byte, error)
}

func (e Replace) On(p Piece, _ Around) (next Next, err error) {
	next = Next{Piece: p}
	if p.RemovedAt != nil {
		return next, fault.ErrStale
	}
	if next.Draft, err = e.Rewrite(p.Draft); err != nil {
		return next, err
	}
	same := Same(p.Draft, p.Live)
	if !Same(next.Draft, p.Draft) {
		next.DraftVersion++
	}
	if !e.Live || p.State != Live {
		return next, nil
	}
	if next.Live, err = e.Rewrite(p.Live); err != nil {
		return next, err
	}
	if Same(next.Live, p.Live) {
		next.Live = p.Live
		return next, nil
	}
	// What was as it is live still is, once both have changed alike.
	if same {
		next.LiveVersion = next.DraftVersion
	}
	designs, reach := Changes(p.Live, next.Live)
	next.Visible, next.Move = true, &Move{Did: Replaced, Designs: designs, Reach: reach}
	if len(designs) == 0 && !reach {
		next.Move = nil
	}
	return next, nil
}

// Reshare gives a live piece's variants other shares, by their ids, where those
// follow the winner.
type Reshare struct {
	// Since is what they were drawn from: nothing is done where another did later.
	Since  time.Time
	Shares map[string]int
	Seed   uint64
}

func (e Reshare) On(p Piece, around Around) (next Next, err error) {
	next = Next{Piece: p}
	if p.State != Live || p.RemovedAt != nil || p.SharesAt != nil && p.SharesAt.After(e.Since) {
		return next, nil
	}
	next.SharesAt = &around.Now
	if next.Live, err = withShares(p.Live, e.Shares); err != nil {
		return next, err
	}
	split, err := SplitOf(next.Live)
	if err != nil {
		return next, err
	}
	if p.Split != nil && p.Split.Same(split) {
		// Shares that have settled are nothing new to anyone.
		next.Live = p.Live
		return next, nil
	}
	split.Seed = e.Seed
	next.Run, next.Visible = &split, true
	return next, nil
}

// Remove deletes a piece that is not live.
type Remove struct{}

func (Remove) On(p Piece, around Around) (Next, error) {
	next := Next{Piece: p}
	switch {
	case p.State == Live:
		return next, ErrLive
	case p.RemovedAt != nil:
		return next, nil
	}
	next.RemovedAt, next.PausedUntil, next.PausesAt = &around.Now, nil, nil
	next.Move = &Move{Did: Removed}
	return next, nil
}

// Restore brings a deleted piece back. It does not go live by that.
type Restore struct{}

func (Restore) On(p Piece, _ Around) (Next, error) {
	next := Next{Piece: p}
	if p.RemovedAt == nil {
		return next, nil
	}
	next.RemovedAt = nil
	next.Move = &Move{Did: Restored}
	return next, nil
}

func (a Around) taken(document []byte) bool {
	var doc struct {
		Page struct {
			Address string `json:"address"`
		} `json:"page"`
	}
	return a.Taken != nil && json.Unmarshal(document, &doc) == nil && doc.Page.Address != "" && a.Taken(doc.Page.Address)
}

// lastClock is how far behind the site's clock the clocks of visitors may be.
const lastClock = 26 * time.Hour

// EndsAt is when the schedule of a live piece ends by itself, everywhere; nil: it
// never does.
func (p Piece) EndsAt(around Around) *time.Time {
	var doc struct {
		Schedule schedule.Schedule `json:"schedule"`
	}
	if p.State != Live || json.Unmarshal(p.Live, &doc) != nil {
		return nil
	}
	at, is := doc.Schedule.Ends(around.Now.Location())
	if !is {
		return nil
	}
	if doc.Schedule.Zone == schedule.OfVisitor {
		at = at.Add(lastClock)
	}
	return &at
}

// ended reports whether a document's schedule has ended for good, for visitors on
// whatever clock it goes by.
func ended(document []byte, now time.Time) bool {
	var doc struct {
		Schedule schedule.Schedule `json:"schedule"`
	}
	if json.Unmarshal(document, &doc) != nil {
		return false
	}
	if doc.Schedule.Zone == schedule.OfVisitor {
		now = now.Add(-lastClock)
	}
	return doc.Schedule.Over(now)
}
