package launch

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
)

// Split is how a piece splits visitors.
type Split struct {
	Held     int       `json:"held"` // of a hundred
	Follow   bool      `json:"follow,omitempty"`
	Variants []Variant `json:"variants"`
	// Seed is what the shares were drawn with that follow the winner.
	Seed uint64 `json:"seed,omitempty"`
}

// Variant is a variant in a split, with how and when it shows where that is not
// as the piece does.
type Variant struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Share   int    `json:"share"`
	Showing string `json:"ways,omitempty"` // the same for the same
}

// SplitOf reads how a document splits visitors.
func SplitOf(document []byte) (split Split, err error) {
	var doc struct {
		Format string `json:"format"`
		Phone  string `json:"phone_format"`
		Split  struct {
			Held     int  `json:"held"`
			Follow   bool `json:"follow"`
			Variants []struct {
				Variant
				Format  string `json:"format"`
				Phone   string `json:"phone_format"`
				Moments any    `json:"moments"`
			} `json:"variants"`
		} `json:"split"`
	}
	if err := json.Unmarshal(document, &doc); err != nil {
		return split, err
	}
	split = Split{Held: doc.Split.Held, Follow: doc.Split.Follow}
	for _, v := range doc.Split.Variants {
		sits := v.Format != "" && (v.Format != doc.Format || v.Phone != doc.Phone)
		if v.Showing = ""; sits || v.Moments != nil {
			moments, err := json.Marshal(v.Moments)
			if err != nil {
				return split, err
			}
			v.Showing = fmt.Sprint(v.Format, " ", v.Phone, " ", string(moments))
		}
		split.Variants = append(split.Variants, v.Variant)
	}
	return split, nil
}

// Same reports whether visitors are split alike, by whatever names.
func (s Split) Same(other Split) bool {
	if s.Held != other.Held || s.Follow != other.Follow || !s.sameVariants(other) {
		return false
	}
	for i, v := range s.Variants {
		if v.Share != other.Variants[i].Share {
			return false
		}
	}
	return true
}

// sameVariants reports whether two splits have the same variants that show alike, in order.
func (s Split) sameVariants(other Split) bool {
	return slices.EqualFunc(s.Variants, other.Variants, func(a, b Variant) bool { return a.ID == b.ID && a.Showing == b.Showing })
}

// splitFrom gives a document as it goes live, and how it splits visitors where
// that is not as it did. Shares that follow the winner go on where they are,
// whatever else was changed.
func splitFrom(document []byte, last *Split) (live []byte, run *Split, err error) {
	split, err := SplitOf(document)
	if err != nil {
		return nil, nil, err
	}
	if last != nil && split.Follow && last.Follow && last.Held == split.Held && last.sameVariants(split) {
		shares := map[string]int{}
		for _, v := range last.Variants {
			shares[v.ID] = v.Share
		}
		live, err = withShares(document, shares)
		return live, nil, err
	}
	if last != nil && last.Same(split) {
		return document, nil, nil
	}
	return document, &split, nil
}

// withShares gives a document with other shares, by the ids of variants.
func withShares(document []byte, shares map[string]int) ([]byte, error) {
	var doc map[string]any
	if err := json.Unmarshal(document, &doc); err != nil {
		return nil, err
	}
	split, _ := doc["split"].(map[string]any)
	variants, _ := split["variants"].([]any)
	for _, v := range variants {
		if v, ok := v.(map[string]any); ok {
			id, _ := v["id"].(string)
			if share, ok := shares[id]; ok {
				v["share"] = share
			}
		}
	}
	return json.Marshal(doc)
}

// Same reports whether two documents say the same, however they are written, but
// for shares that follow the winner, which move by themselves.
func Same(a, b []byte) bool {
	var was, is map[string]any
	if len(a) == 0 || len(b) == 0 || json.Unmarshal(a, &was) != nil || json.Unmarshal(b, &is) != nil {
		return false
	}
	if follows(was) && follows(is) {
		forgetShares(was)
		forgetShares(is)
	}
	return reflect.DeepEqual(was, is)
}

func follows(doc map[string]any) bool {
	split, _ := doc["split"].(map[string]any)
	return split["follow"] == true
}

func forgetShares(doc map[string]any) {
	split, _ := doc["split"].(map[string]any)
	variants, _ := split["variants"].([]any)
	for _, v := range variants {
		if v, ok := v.(map[string]any); ok {
			delete(v, "share")
		}
	}
}

// Changes tells what visitors get otherwise: which variants, of those that both
// documents have, look different, and whether who sees them or when does. Nothing
// is a change from no document at all.
func Changes(before, after []byte) (designs []string, reach bool) {
	designs = []string{}
	type variant struct {
		ID     string `json:"id"`
		Design any    `json:"design"`
	}
	type parts struct {
		Format any `json:"format"`
		Phone  any `json:"phone_format"`
		Rule   any `json:"rule"`
		Caps   any `json:"caps"`
		Hours  any `json:"schedule"`
		Split  struct {
			Variants []variant `json:"variants"`
		} `json:"split"`
	}
	var was, is parts
	if len(before) == 0 || json.Unmarshal(before, &was) != nil || json.Unmarshal(after, &is) != nil {
		return designs, false
	}
	sits := was.Format == is.Format && was.Phone == is.Phone
	for _, v := range is.Split.Variants {
		for _, old := range was.Split.Variants {
			if old.ID == v.ID && !(sits && reflect.DeepEqual(old.Design, v.Design)) {
				designs = append(designs, v.ID)
			}
		}
	}
	return designs, !reflect.DeepEqual([]any{was.Rule, was.Caps, was.Hours}, []any{is.Rule, is.Caps, is.Hours})
}
