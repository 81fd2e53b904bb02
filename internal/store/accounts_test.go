package store

import (
	"testing"

	"gobbet/internal/store/accounts"
)

// What the shipped program spends on a password is the second choice of RFC 9106;
// tests run with less, and this holds what they set apart from it.
func TestPasswordsCostWhatTheRFCRecommends(t *testing.T) {
	if shipped.Memory != 64*1024 || shipped.Iterations != 3 || shipped.Parallelism != 4 || shipped.SaltLength != 16 || shipped.KeyLength != 32 {
		t.Errorf("%+v", shipped)
	}
}

// shipped is PasswordCost as it is before a test's main sets a lesser one.
var shipped = accounts.PasswordCost
