package settle

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
)

const (
	mostLose  = 0.7  // of goes that win nothing
	narrowest = 0.03 // of a wheel that can be read
	soonDry   = 14   // days
)

// prizes looks at what a prize draw promises: odds nobody expects, prizes that
// are never shown, codes that nobody sees or that have run out.
func (n *notes) prizes(d piece.Design) {
	shown := map[string]bool{}
	d.EachBlock(func(_ string, _ piece.Scene, b piece.Block) {
		if c, ok := b.(piece.Code); ok && c.Draw != "" {
			shown[c.Draw] = true
		}
	})
	d.EachBlock(func(at string, s piece.Scene, b piece.Block) {
		if b, ok := b.(piece.PrizeDraw); ok {
			n.draw(n.at+"."+at, s, b, shown[b.Key])
		}
	})
}

func (n *notes) draw(at string, s piece.Scene, d piece.PrizeDraw, shown bool) {
	odds, loses := flow.OddsOf(d), 0.0
	narrow, hidden := []string{}, []string{}
	for i, p := range d.Parts {
		place := fault.Index(at+".parts", i)
		if p.Nothing {
			loses += odds[i]
		}
		if odds[i] == 0 {
			n.add(Warn, "part_never", place+".weight", fmt.Sprintf("“%s”%s has no weight, and is never drawn.", short(p.Label), n.where), "Give it a weight, or remove it.")
		} else if odds[i] < narrowest && d.Look == "wheel" && !d.Even {
			narrow = append(narrow, "“"+short(p.Label)+"”")
		}
		if (p.Code != "" || p.Pool != "") && !shown {
			hidden = append(hidden, "“"+short(p.Label)+"”")
		}
		if p.Stock != nil && *p.Stock == 0 && odds[i] > 0 {
			n.add(Warn, "no_stock", place+".stock", fmt.Sprintf("“%s”%s has a stock of 0, and is never drawn.", short(p.Label), n.where), "Raise its stock, or leave it empty for unlimited.")
		}
		n.pool(place, p.Pool)
	}
	switch {
	case loses >= 0.9995:
		n.add(Warn, "wins_nothing", at+".parts", "Nobody can win anything"+n.where+".", "Give a prize a weight.")
	case loses >= mostLose:
		n.add(Warn, "wins_nothing", at+".parts", fmt.Sprintf("%s of goes%s win nothing, which is more than people expect.", draw.Percent(loses), n.where), "Give prizes more weight, if only small ones.")
	}
	if len(narrow) > 0 {
		n.add(Warn, "narrow_part", at+".even", fmt.Sprintf("On the wheel%s %s cannot be read: it is as narrow as its odds.", n.where, strings.Join(narrow, ", ")), "Make the parts equally wide.")
	}
	if len(hidden) > 0 {
		n.add(Warn, "code_unseen", at+".parts", fmt.Sprintf("Whoever wins %s%s never sees the code.", strings.Join(hidden, ", "), n.where), "Add a code block to the next scene, with the code from the prize.")
	}
	if !slices.ContainsFunc(s.Edges, func(e piece.Edge) bool { return e.To != "" }) {
		n.add(Warn, "prize_unseen", at, fmt.Sprintf("No scene follows the draw in “%s”%s: what was won is not shown again.", s.Name, n.where), "Add a scene that says what was won.")
	}
}

// pool looks at what is left in a pool of codes.
func (n *notes) pool(at, pool string) {
	if pool == "" || n.around.Codes == nil {
		return
	}
	left, known := n.around.Codes[pool]
	switch {
	case !known:
		n.add(Stop, "no_pool", at+".pool", "Its codes"+n.where+" come from a deleted pool.", "Choose a pool, or a fixed code.")
	case left == 0:
		n.add(Stop, "pool_dry", at+".pool", "No code is left in its pool"+n.where+".", "Add codes under Site, Codes.")
	case left < FewCodes:
		n.add(Warn, "pool_low", at+".pool", fmt.Sprintf("%d codes are left in its pool%s.", left, n.where), "Add codes under Site, Codes.")
	}
}

// SoonDry is how many codes are enough for every pool, so that who counts more
// has nothing to tell Drying.
func SoonDry(visitorsADay float64) int {
	return int(math.Min(math.Ceil(visitorsADay*soonDry)+1, math.MaxInt32))
}

// Drying says which pools run dry within two weeks if each of so many visitors a
// day takes what the piece gives. left is how many codes each pool has, names
// what the pools are called.
func Drying(p *piece.Piece, visitorsADay float64, left map[string]int, names map[string]string) []Note {
	n := notes{list: []Note{}}
	shares := 0
	for _, v := range p.Split.Variants {
		shares += v.Share
	}
	need := map[string]float64{} // codes a day
	at := map[string]string{}
	for i, v := range p.Split.Variants {
		v.Design.EachBlock(func(place string, _ piece.Scene, b piece.Block) {
			visitors := visitorsADay * float64(v.Share) / float64(shares)
			takes := func(pool, key string, odds float64) {
				if pool != "" {
					need[pool] += visitors * odds
					at[pool] = fault.Key(fault.Index("split.variants", i), "design") + "." + place + key
				}
			}
			switch b := b.(type) {
			case piece.Code:
				takes(b.Pool, ".pool", 1)
			case piece.PrizeDraw:
				odds := flow.OddsOf(b)
				for j, part := range b.Parts {
					takes(part.Pool, fault.Index(".parts", j)+".pool", odds[j])
				}
			}
		})
	}
	for _, pool := range slices.Sorted(maps.Keys(need)) {
		codes, known := left[pool]
		if days := float64(codes) / need[pool]; known && codes > 0 && days < soonDry {
			n.add(Warn, "pool_soon_dry", at[pool], fmt.Sprintf("At %.0f visitors a day, %d codes of “%s” are gone after %s if everyone takes one.", visitorsADay, codes, names[pool], dayCount(days)), "Add codes under Site, Codes, or lower the weight.")
		}
	}
	return n.list
}

func dayCount(days float64) string {
	switch n := math.Floor(days); {
	case n < 1:
		return "less than a day"
	case n == 1:
		return "a day"
	default:
		return fmt.Sprintf("%.0f days", n)
	}
}
