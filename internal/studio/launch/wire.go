package launch

// What Launch is asked and answers.

// LaunchRequest names the version that is meant.
type LaunchRequest struct {
	Version int32 `json:"version"`
}
