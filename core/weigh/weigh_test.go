package weigh

import (
	"math"
	"testing"
)

func near(got, want float64) bool { return math.Abs(got-want) < 0.00006 }

// Newcombe (1998a), Statistics in Medicine 17:857, table I, method 3.
func TestWilsonAsPublished(t *testing.T) {
	for _, c := range []struct {
		x, n      int
		low, high float64
	}{{81, 263, 0.2553, 0.3662}, {15, 148, 0.0624, 0.1605}, {0, 20, 0, 0.1611}, {1, 29, 0.0061, 0.1718}} {
		if b := Wilson(Count{c.n, c.x}, 0.95); !near(b[0], c.low) || !near(b[1], c.high) {
			t.Errorf("%d/%d: %v, want %v to %v", c.x, c.n, b, c.low, c.high)
		}
	}
}

// Newcombe (1998b), Statistics in Medicine 17:873, table II, method 10.
func TestNewcombeAsPublished(t *testing.T) {
	for _, c := range []struct {
		a, b      Count
		low, high float64
	}{
		{Count{70, 56}, Count{80, 48}, 0.0524, 0.3339},
		{Count{10, 9}, Count{10, 3}, 0.1705, 0.8090},
		{Count{7, 6}, Count{7, 2}, 0.0582, 0.8062},
		{Count{56, 5}, Count{29, 0}, -0.0381, 0.1926},
		{Count{10, 0}, Count{20, 0}, -0.1611, 0.2775},
		{Count{10, 10}, Count{20, 0}, 0.6791, 1.0000},
	} {
		if _, b, ok := Newcombe(c.a, c.b, 0.95); !ok || !near(b[0], c.low) || !near(b[1], c.high) {
			t.Errorf("%v against %v: %v, want %v to %v", c.a, c.b, b, c.low, c.high)
		}
	}
}

func TestBoundsHoldTheirRate(t *testing.T) {
	for n := 0; n <= 60; n++ {
		for x := 0; x <= n; x++ {
			for _, confidence := range []float64{0.5, 0.95, 0.999} {
				c := Count{n, x}
				b := Wilson(c, confidence)
				rate, ok := c.Rate()
				if ok != (n > 0) || b[0] < 0 || b[1] > 1 || ok && (rate < b[0] || rate > b[1]) {
					t.Fatalf("%v at %v: %v", c, confidence, b)
				}
			}
		}
	}
}

func TestDifferenceIsAntisymmetric(t *testing.T) {
	a, b := Count{1688, 118}, Count{1702, 146}
	d1, b1, _ := Newcombe(a, b, 0.95)
	d2, b2, _ := Newcombe(b, a, 0.95)
	if d1 != -d2 || !near(b1[0], -b2[1]) || !near(b1[1], -b2[0]) {
		t.Error(d1, b1, d2, b2)
	}
	if _, _, ok := Newcombe(a, Count{}, 0.95); ok {
		t.Error("a difference to nobody exists")
	}
}
