// Command hostile starts a server of its own, on loopback and over a throwaway
// database, and does to it what an attacker would. For each attack it prints
// what came back, the server's memory before, at its peak and after, and how
// long an honest visitor's event took meanwhile. It ends with status 1 where
// something gave way.
package main

import (
	"context"
	"fmt"
	"io"
	"log"
	"os"
	"os/signal"
	"slices"
	"strings"
	"syscall"
	"time"
)

// mostTime bounds the whole run.
const mostTime = 6 * time.Minute

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	ctx, cancel := context.WithTimeout(ctx, mostTime)
	defer cancel()
	h, err := begin(ctx)
	if err != nil {
		log.Fatal(err)
	}
	failed := run(ctx, h, os.Stdout)
	h.end()
	if failed > 0 {
		fmt.Printf("\n%d of %d gave way.\n", failed, len(attacks))
		os.Exit(1)
	}
	fmt.Printf("\nAll %d held.\n", len(attacks))
}

// attack is one thing that is tried. It gives what came back, in a line, and
// what gave way, if anything.
type attack struct {
	name string
	try  func(ctx context.Context, h *target) (came string, gave []string)
	// growth is how many MB the server may take at its peak beyond what it had.
	growth int
}

var attacks = []attack{
	{"one byte of a 24 MB file, by 200 at once, and 40 who read slowly", files, 160},
	{"40 sign-ins at once", signIns, 340},
	{"a guesser against an owner's account", guesser, 200},
	{"ten pictures of 6300 × 6300 at once", pictures, 900},
	{"15,015 invented facts on a page view, and 300 on each of 60", facts, 120},
	{"a site's origin that ends a policy", origins, 60},
	{"a look at pages within the network", inside, 60},
	{"300 made-up visitors who want codes", codes, 60},
	{"200 at once on the last ten prizes, replayed, forged, and made up by the thousand", prizes, 160},
	{"numbers, texts and bodies out of bounds", bounds, 120},
	{"150 who send a request a byte at a time", slow, 120},
	{"memories and batches as large as they may be, 400 of them", large, 160},
	{"the pages' port: the studio by way of it, and 3000 walks at once", ownPages, 160},
	{"a flood of 100,000 events of made-up visitors, a third of them sent twice", flood, 120},
	{"the documents that cost most to look at, saved, and a board of them", documents, 300},
	{"a frozen database", frozen, 160},
}

// run tries each attack and says how it went; it gives how many gave way.
func run(ctx context.Context, h *target, out io.Writer) (failed int) {
	fmt.Fprintf(out, "%-66s %28s %20s\n", "", "memory MB: before peak after", "honest event: ms")
	for _, a := range attacks {
		if ctx.Err() != nil {
			fmt.Fprintln(out, "Out of time.")
			return failed + 1
		}
		before := h.memory()
		h.resetPeak()
		honest := h.honest(ctx)
		came, gave := a.try(ctx, h)
		took := honest()
		peak := h.peak()
		h.settle()
		after := h.memory()
		if grown := peak - before; grown > a.growth {
			gave = append(gave, fmt.Sprintf("grew by %d MB, more than %d", grown, a.growth))
		}
		if !h.answers(ctx) {
			gave = append(gave, "does not answer any more")
		}
		mark := "held"
		if len(gave) > 0 {
			mark, failed = "GAVE WAY: "+strings.Join(gave, "; "), failed+1
		}
		fmt.Fprintf(out, "%-66s %13d %6d %6d %20s\n    %s\n    %s\n", a.name, before, peak, after, took, came, mark)
	}
	return failed
}

// tally counts answers by status, as text.
type tally map[int]int

func (t tally) String() string {
	var statuses []int
	for status := range t {
		statuses = append(statuses, status)
	}
	slices.Sort(statuses)
	said := []string{}
	for _, status := range statuses {
		what := fmt.Sprint(status)
		if status == 0 {
			what = "no answer"
		}
		said = append(said, fmt.Sprintf("%d × %s", t[status], what))
	}
	return strings.Join(said, ", ")
}

// only reports what came that should not have.
func (t tally) only(allowed ...int) (gave []string) {
	for status, n := range t {
		if !slices.Contains(allowed, status) {
			gave = append(gave, fmt.Sprintf("%d × %d", n, status))
		}
	}
	return gave
}
