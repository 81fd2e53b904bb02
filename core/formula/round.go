package formula

import (
	"math"
	"strconv"
	"strings"
)

// Round rounds to a number of decimal places, halves away from zero, as a
// person rounds the number as it is written: 2.345 to 2.35, although the
// nearest binary number lies below it. Negative places round to tens, hundreds
// and so on.
func Round(x float64, places int) float64 {
	if x-x != 0 || x == 0 {
		return x
	}
	var room [32]byte
	// d.ddde±dd, with as many digits as tell this number from every other.
	written := strconv.AppendFloat(room[:0], math.Abs(x), 'e', -1, 64)
	mark := strings.IndexByte(string(written), 'e')
	exponent, _ := strconv.Atoi(string(written[mark+1:]))
	digits := append(make([]byte, 0, 20), written[0])
	if mark > 1 {
		digits = append(digits, written[2:mark]...)
	}
	keep := exponent + 1 + places // digits that stay
	if keep >= len(digits) {
		return x
	}
	if keep < 0 {
		return math.Copysign(0, x)
	}
	up := digits[keep] >= '5'
	digits = digits[:keep]
	for i := keep - 1; up && i >= 0; i-- {
		if up = digits[i] == '9'; up {
			digits[i] = '0'
		} else {
			digits[i]++
		}
	}
	if up {
		digits, exponent = append([]byte{'1'}, digits...), exponent+1
	}
	if len(digits) == 0 {
		return math.Copysign(0, x)
	}
	digits = append(digits, 'e')
	rounded, _ := strconv.ParseFloat(string(strconv.AppendInt(digits, int64(exponent-len(digits)+2), 10)), 64)
	return math.Copysign(rounded, x)
}
