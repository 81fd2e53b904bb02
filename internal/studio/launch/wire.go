package launch

// One piece: made, saved, launched, compared, played through.

// LaunchRequest names the version that is meant.
type LaunchRequest struct {
	Version int32 `json:"version"`
}
