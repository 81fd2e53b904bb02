package main

import "os"

// once has each part run a single short round: whether it runs is seen, and
// nothing of how fast it is.
var once = os.Getenv("BENCH_ONCE") != ""

// times is how often a part measures: n, or once.
func times(n int) int { return size(n, 1) }

// size is how much a part measures on: n, or as little as will do.
func size(n, least int) int {
	if once {
		return least
	}
	return n
}
