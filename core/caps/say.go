package caps

import (
	"fmt"
	"strings"
	"time"
)

// SayLength writes a length of time as a person does: 20 s, 2 min, 1 h 30 min, 3
// days. Empty for none.
func SayLength(d time.Duration) string {
	units := []struct {
		length time.Duration
		name   string
	}{{Day, "days"}, {time.Hour, "h"}, {time.Minute, "min"}, {time.Second, "s"}}
	var said []string
	for _, u := range units {
		n := d / u.length
		d -= n * u.length
		if name := u.name; n > 0 && len(said) < 2 {
			if n == 1 && u.length == Day {
				name = "day"
			}
			said = append(said, fmt.Sprintf("%d %s", n, name))
		}
	}
	return strings.Join(said, " ")
}
