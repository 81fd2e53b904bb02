// Package draw draws prizes: one part of several, each as likely as its weight
// says, until the stock of a part is used up.
//
//	10% off   weight 3, stock 100     odds 3 in 8
//	nothing   weight 5                odds 5 in 8
//
// A part whose stock is used up is out, and the rest share its odds by weight.
// Where the numbers come from is the caller's to say: for a visitor's go from a
// cryptographic source, for a rehearsal from a seeded one.
package draw

import (
	"errors"
	"math"
	"math/rand/v2"
	"sort"

	"gobbet/core/fault"
)

// Part is one of the things that may be drawn.
type Part struct {
	// Weight is how likely it is, in proportion to the sum of weights: 0 to MaxWeight.
	Weight float64
	// Stock is how often it may be drawn; below 0: any number of times.
	Stock int
}

// MaxWeight bounds weights, so that their sums stay exact enough for the
// smallest of them to be drawn.
const MaxWeight = 1e6

// ErrEmpty says that nothing is left to draw.
var ErrEmpty = errors.New("nothing is left to draw")

// Pot is parts to draw from, with what is left of them. It is not for several
// goroutines at once.
type Pot struct {
	parts []Part
	// upTo[i] is the sum of the weights of the parts up to i that are not out.
	upTo []float64
}

// New makes a pot of parts. Its error is fault.Faults, with parts[i].weight as places.
func New(parts []Part) (*Pot, error) {
	var faults fault.Faults
	for i, p := range parts {
		if !(p.Weight >= 0 && p.Weight <= MaxWeight) {
			faults.Add(fault.Index("parts", i)+".weight", "should be 0 to %d", int(MaxWeight))
		}
	}
	if faults != nil {
		return nil, faults
	}
	p := &Pot{parts: append([]Part(nil), parts...), upTo: make([]float64, len(parts))}
	p.sum()
	return p, nil
}

func (p *Pot) sum() {
	total := 0.0
	for i, part := range p.parts {
		if part.Stock != 0 {
			total += part.Weight
		}
		p.upTo[i] = total
	}
}

func (p *Pot) total() float64 {
	if len(p.upTo) == 0 {
		return 0
	}
	return p.upTo[len(p.upTo)-1]
}

// Draw takes one part out, by its index. Its error is ErrEmpty.
func (p *Pot) Draw(from rand.Source) (int, error) {
	total := p.total()
	if total == 0 {
		return 0, ErrEmpty
	}
	// 53 bits, as many as a float64 tells apart: at least 0 and below total.
	at := float64(from.Uint64()>>11) / (1 << 53) * total
	i := sort.Search(len(p.upTo), func(i int) bool { return p.upTo[i] > at })
	if i == len(p.upTo) { // rounded up to the total itself
		i = sort.SearchFloat64s(p.upTo, total)
	}
	if p.parts[i].Stock > 0 {
		if p.parts[i].Stock--; p.parts[i].Stock == 0 {
			p.sum()
		}
	}
	return i, nil
}

// Out takes a part out of the pot, as if its stock was used up.
func (p *Pot) Out(i int) {
	p.parts[i].Stock = 0
	p.sum()
}

// Odds gives how likely each part is to be drawn next, 0 to 1; all are 0 where
// nothing is left.
func (p *Pot) Odds() []float64 {
	odds := make([]float64, len(p.parts))
	total := p.total()
	for i, part := range p.parts {
		if part.Stock != 0 && total > 0 {
			odds[i] = part.Weight / total
		}
	}
	return odds
}

// Rest gives where a wheel comes to rest on a part, in degrees from the wheel's
// first part on, 0 to 360: anywhere within the part, but for a tenth at either
// edge, where one would have to look twice. shares are the parts of the turn
// that the wheel's parts take, and at says where within it, 0 to 1.
func Rest(shares []float64, part int, at float64) float64 {
	before := 0.0
	for _, s := range shares[:part] {
		before += s
	}
	degrees := 360 * (before + shares[part]*(0.1+0.8*min(max(at, 0), 1)))
	return math.Mod(degrees, 360)
}
