package fault

import "errors"

// Why something is refused, whichever room finds it. One place answers each
// (internal/problem).
var (
	// ErrNotFound is that something asked for by name is not there, or not for who asks.
	ErrNotFound = errors.New("not found")
	// ErrStale is that something was changed elsewhere since it was read.
	ErrStale = errors.New("changed elsewhere")
	// ErrTooMany is that a site has as many of something as it may.
	ErrTooMany = errors.New("as many as there may be")
	// ErrBusy is that more is asked for at once than can be done.
	ErrBusy = errors.New("more at once than can be done")
)
