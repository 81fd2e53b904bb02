package parts

import (
	"bytes"
	"encoding/json"
	"regexp"

	"gobbet/internal/route"
)

// Uses tells by hash or pool which pieces hold it, in their draft or live.
func (s *Reader) Uses(c *route.Call) (map[string][]UsedIn, error) {
	rows, err := s.store.Pieces.List(c, c.Site.ID)
	if err != nil {
		return nil, err
	}
	used := map[string][]UsedIn{}
	for _, row := range rows {
		live := map[string]bool{}
		if row.State == "live" {
			live = HeldIn(row.Live)
		}
		all := HeldIn(row.Draft)
		for held := range live {
			all[held] = true
		}
		for held := range all {
			used[held] = append(used[held], UsedIn{ID: row.ID, Name: NameIn(row.Draft), Live: live[held]})
		}
	}
	return used, nil
}

var held = regexp.MustCompile(`"([0-9a-f]{32})"|"pool":"([a-z0-9_-]+)"`)

// HeldIn finds the hashes and code pools a document names, whether or not this
// program can read the rest of it.
func HeldIn(doc []byte) map[string]bool {
	found := map[string]bool{}
	var tight bytes.Buffer
	if json.Compact(&tight, doc) != nil {
		return found
	}
	for _, m := range held.FindAllSubmatch(tight.Bytes(), -1) {
		found[string(m[1])+string(m[2])] = true
	}
	return found
}

// Rules: tried, rehearsed, saved.
