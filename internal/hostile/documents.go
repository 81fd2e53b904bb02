package main

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gobbet/internal/worst"
)

// slowest is how long saving one of the worst documents may take, and the board
// that has all of them.
const slowest = 5 * time.Second

// documents saves each of the documents that cost most to look at, and looks at
// the board with all of them on it.
func documents(_ context.Context, h *target) (came string, gave []string) {
	saved, refused := 0, 0
	timed := func(what string, do func() int) int {
		began := time.Now()
		status := do()
		if took := time.Since(began); took > slowest {
			gave = append(gave, fmt.Sprintf("%s took %s", what, took.Round(time.Millisecond)))
		}
		return status
	}
	pieces := fmt.Sprintf("/api/sites/%d/pieces", h.site)
	for _, d := range worst.Documents() {
		_, said := h.call(h.owner, "POST", pieces, fmt.Sprintf(`{"name":%q,"format":"popup"}`, d.Name))
		var made struct {
			ID string `json:"id"`
		}
		_ = json.Unmarshal([]byte(said), &made) // a piece that was not made has no id, and is not found below
		status := timed(d.Name, func() int {
			status, _ := h.call(h.owner, "PUT", pieces+"/"+made.ID, fmt.Sprintf(`{"version":1,"draft":%s}`, d.JSON))
			return status
		})
		switch {
		case status == 200 && d.Refused == "":
			saved++
		case status == 422 && d.Refused != "":
			refused++
		default:
			gave = append(gave, fmt.Sprintf("%s: %d", d.Name, status))
		}
	}
	if status := timed("the board", func() int {
		status, _ := h.call(h.owner, "GET", fmt.Sprintf("/api/sites/%d/board", h.site), "")
		return status
	}); status != 200 {
		gave = append(gave, fmt.Sprintf("the board: %d", status))
	}
	return fmt.Sprintf("%d saved, %d refused at their place", saved, refused), gave
}
