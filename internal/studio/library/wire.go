package library

import (
	"encoding/json"
	"time"

	"gobbet/internal/studio/parts"
)

// What pieces are made from: pictures, files, snippets, codes.

// Renamed is another name for something.
type Renamed struct {
	Name string `json:"name"`
}

// ReplaceRequest puts another picture in place of one, in drafts and, with Live,
// in what is live.
type ReplaceRequest struct {
	With string `json:"with"`
	Live bool   `json:"live"`
}

// CodeRow is a code of a pool, with who has it.
type CodeRow struct {
	Code    string     `json:"code"`
	GivenAt *time.Time `json:"given_at" tstype:"string | null,required"`
	Piece   string     `json:"piece"` // its name; empty: nobody has the code
	Email   string     `json:"email"` // empty where they left none
}

// CodePage is some of the codes of a pool, in their order.
type CodePage struct {
	Codes []CodeRow `json:"codes"`
	Next  string    `json:"next"` // the last of them, where there are more
}

// FileInfo is a file of the library.
type FileInfo struct {
	Hash  string         `json:"hash"`
	Name  string         `json:"name"`
	Mime  string         `json:"mime"`
	Bytes int            `json:"bytes"`
	Used  []parts.UsedIn `json:"used"`
}

// SnippetInfo is a block or a scene kept to be used again.
type SnippetInfo struct {
	ID   string          `json:"id"`
	Kind string          `json:"kind" tstype:"'block' | 'scene'"`
	Name string          `json:"name"`
	Body json.RawMessage `json:"body" tstype:"Block | Scene"`
}

// NewSnippet is a block or a scene to be kept.
type NewSnippet struct {
	Kind string          `json:"kind" tstype:"'block' | 'scene'"`
	Name string          `json:"name"`
	Body json.RawMessage `json:"body" tstype:"Block | Scene"`
}

// PoolInfo is codes to be given out, one a visitor.
type PoolInfo struct {
	ID    string         `json:"id"`
	Name  string         `json:"name"`
	Left  int            `json:"left"`
	Given int            `json:"given"`
	Used  []parts.UsedIn `json:"used"`
}

// CodesRequest adds codes to a pool: those that are given, and so many of a
// pattern (see package draw).
type CodesRequest struct {
	Name    string   `json:"name"`
	Codes   []string `json:"codes,omitempty"`
	Pattern string   `json:"pattern,omitempty"`
	Count   int      `json:"count,omitempty"`
}

// CodesAnswer tells how many codes came, and how many were new to the pool.
type CodesAnswer struct {
	Came  int   `json:"came"`
	Added int64 `json:"added"`
}

// Replaced tells where something was replaced; Live in a piece says that it was
// in what is live, too.
type Replaced struct {
	Pieces []parts.UsedIn `json:"pieces"`
}

// PictureInfo is an uploaded picture.
type PictureInfo struct {
	Hash   string         `json:"hash"`
	Name   string         `json:"name"`
	Width  int            `json:"width"`
	Height int            `json:"height"`
	Bytes  int            `json:"bytes"`
	Used   []parts.UsedIn `json:"used"`
}
