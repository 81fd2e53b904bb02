package caps

import (
	"testing"
	"time"
)

func TestLengthsAsAPersonWritesThem(t *testing.T) {
	for d, want := range map[time.Duration]string{
		0: "", 20 * time.Second: "20 s", 2 * time.Minute: "2 min", 90 * time.Minute: "1 h 30 min", Day: "1 day", 3*Day + time.Hour: "3 days 1 h",
		time.Hour + time.Minute + time.Second: "1 h 1 min",
	} {
		if got := SayLength(d); got != want {
			t.Errorf("%s: %q, want %q", d, got, want)
		}
	}
}
