package library

import (
	"bytes"
	crypto "crypto/rand"
	"encoding/csv"
	"errors"
	"io"
	"math/rand/v2"
	"regexp"
	"strings"
	"time"

	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/internal/problem"
	"gobbet/internal/route"
	"gobbet/internal/studio/parts"
)

// Pools of codes: listed, filled by hand, by a pattern or from a file, and
// written as one.

func (s *Place) pools(c *route.Call, _ route.None) (answer []PoolInfo, err error) {
	pools, err := s.store.Codes.Pools(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	used, err := s.read.Uses(c)
	if err != nil {
		return answer, err
	}
	infos := []PoolInfo{}
	for _, p := range pools {
		infos = append(infos, PoolInfo{p.ID, p.Name, p.Left, p.Given, parts.OrNone(used[p.ID])})
	}
	return infos, nil
}

const (
	maxCodes     = 50_000 // typed or pasted at once
	maxFileCodes = 1_000_000
	maxCodeFile  = 40 << 20 // bytes
	maxCode      = 300      // characters
	// A file of codes may take this long to be stored.
	codePatience = time.Minute
)

var poolID = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,39}$`)

// badCode says what is wrong with a code; empty: nothing.
func badCode(code string) string {
	if len(code) > maxCode && len([]rune(code)) > maxCode || strings.ContainsFunc(code, func(r rune) bool { return r < ' ' || r == 0x7f }) || strings.ToValidUTF8(code, "") != code {
		return "is longer than 300 characters, or holds some that cannot be kept"
	}
	return ""
}

// named checks what a pool is called.
func named(id, name string) (string, fault.Faults) {
	var faults fault.Faults
	if name = strings.TrimSpace(name); name == "" || len([]rune(name)) > 120 || strings.ContainsRune(name, 0) {
		faults.Add("name", "needs 1 to 120 characters")
	}
	if !poolID.MatchString(id) {
		faults.Add("id", "should be small letters, digits, - and _")
	}
	return name, faults
}

func (s *Place) addCodes(c *route.Call, req CodesRequest) (answer CodesAnswer, err error) {
	name, faults := named(c.Param("id"), req.Name)
	codes := []string{}
	for i, code := range req.Codes {
		if code = strings.TrimSpace(code); code == "" {
			continue
		}
		if wrong := badCode(code); wrong != "" {
			faults.Add(fault.Index("codes", i), "%s", wrong)
			break
		}
		codes = append(codes, code)
	}
	if len(codes) > maxCodes {
		faults.Add("codes", "are more than %d at once: take a file for more", maxCodes)
	}
	if req.Pattern != "" {
		var seed [32]byte
		_, _ = crypto.Read(seed[:]) // never fails
		made, err := draw.Codes(req.Pattern, req.Count, rand.NewChaCha8(seed))
		faults.Within("", err)
		codes = append(codes, made...)
	}
	if err := faults.Err(); err != nil {
		return answer, err
	}
	return s.storeCodes(c, name, codes)
}

func (s *Place) storeCodes(c *route.Call, name string, codes []string) (answer CodesAnswer, err error) {
	added, err := s.store.Codes.Add(c, c.Site.ID, c.Param("id"), name, codes)
	if err != nil {
		return answer, err
	}
	return CodesAnswer{len(codes), added}, nil
}

// addCodeFile adds the codes of a CSV file: those of its column called code, or
// of its first one.
func (s *Place) addCodeFile(c *route.Call, ask NameQuery, raw []byte) (answer CodesAnswer, err error) {
	name, faults := named(c.Param("id"), ask.Name)
	err = faults.Err()
	var codes []string
	if err == nil {
		codes, err = codesIn(bytes.NewReader(raw))
	}
	if err != nil {
		return answer, err
	}
	c.Last(codePatience)
	return s.storeCodes(c, name, codes)
}

func codesIn(file io.Reader) (codes []string, err error) {
	r := csv.NewReader(file)
	r.FieldsPerRecord, r.LazyQuotes, r.ReuseRecord, r.TrimLeadingSpace = -1, true, true, true
	column, first := 0, true
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var wrong *csv.ParseError
		if errors.As(err, &wrong) {
			return nil, lineFault(wrong.Line, "cannot be read as CSV")
		}
		if err != nil {
			return nil, problem.Upload(err)
		}
		line, _ := r.FieldPos(0)
		if first {
			first = false
			row[0] = strings.TrimPrefix(row[0], "\ufeff")
			if i := headed(row); i >= 0 {
				column = i
				continue
			}
		}
		if column >= len(row) {
			continue
		}
		code := strings.Clone(strings.TrimSpace(row[column]))
		if code == "" {
			continue
		}
		if wrong := badCode(code); wrong != "" {
			return nil, lineFault(line, wrong)
		}
		if len(codes) == maxFileCodes {
			return nil, fault.Fault{At: "file", Message: "holds more than a million codes"}
		}
		codes = append(codes, code)
	}
	if len(codes) == 0 {
		return nil, fault.Fault{At: "file", Message: "holds no codes: put one on each line, or name a column “code”"}
	}
	return codes, nil
}

func headed(row []string) int {
	for i, cell := range row {
		if strings.EqualFold(strings.TrimSpace(cell), "code") {
			return i
		}
	}
	return -1
}

func lineFault(line int, wrong string) error {
	return fault.Faults{fault.Fault{At: fault.Index("file", line-1), Message: wrong}}
}

const codesPerPage = 50

// codes lists the codes of a pool, with who has which.
func (s *Place) codes(c *route.Call, ask CodesQuery) (answer CodePage, err error) {
	id, search := c.Param("id"), strings.TrimSpace(ask.Q)
	if !poolID.MatchString(id) {
		return answer, fault.ErrNotFound
	}
	if len(search) > maxCode || strings.ContainsRune(search+ask.After, 0) {
		return answer, fault.Fault{At: "q", Message: "is more than can be searched for"}
	}
	found, err := s.store.Codes.List(c, c.Site.ID, id, ask.After, search, codesPerPage+1)
	if err != nil {
		return answer, err
	}
	names, err := s.store.Pieces.Names(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	page := CodePage{Codes: []CodeRow{}}
	if len(found) > codesPerPage {
		found = found[:codesPerPage]
		page.Next = found[codesPerPage-1].Code
	}
	for _, one := range found {
		row := CodeRow{one.Code, one.GivenAt, one.Piece, one.Email}
		for _, n := range names {
			if n.ID == one.Piece {
				row.Piece = n.Name
			}
		}
		page.Codes = append(page.Codes, row)
	}
	return page, nil
}

// codesCSV writes the codes of a pool, with who has which.
func (s *Place) codesCSV(c *route.Call, _ route.None) error {
	id := c.Param("id")
	if !poolID.MatchString(id) {
		return fault.ErrNotFound
	}
	names, err := s.read.Names(c, c.Site.ID)
	if err != nil {
		return err
	}
	codes, err := s.store.Codes.List(c, c.Site.ID, id, "", "", codesAtOnce)
	if err != nil {
		return err
	}
	file := c.CSV(id+".csv", []string{"code", "given_at", "piece", "email"})
	for {
		for _, one := range codes {
			given := ""
			if one.GivenAt != nil {
				given = one.GivenAt.UTC().Format(time.RFC3339)
			}
			file.Row([]string{one.Code, given, names[one.Piece].Name, one.Email})
		}
		if len(codes) < codesAtOnce {
			break
		}
		file.More()
		codes, err = s.store.Codes.List(c, c.Site.ID, id, codes[len(codes)-1].Code, "", codesAtOnce)
		file.Torn(err)
	}
	return file.Close()
}

const codesAtOnce = 5000

func (s *Place) removePool(c *route.Call, _ route.None) (answer route.None, err error) {
	used, err := s.read.Uses(c)
	if err == nil {
		err = inUse("pool", used[c.Param("id")])
	}
	if err == nil {
		err = s.store.Codes.RemovePool(c, c.Site.ID, c.Param("id"))
	}
	return answer, err
}
