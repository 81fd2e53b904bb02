package studio

import (
	"context"
	crypto "crypto/rand"
	"encoding/csv"
	"errors"
	"io"
	"math/rand/v2"
	"net/http"
	"regexp"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/internal/problem"
)

// Pools of codes: listed, filled by hand, by a pattern or from a file, and
// written as one.

func (s *Server) pools(c *gin.Context) error {
	pools, err := s.store.Codes.Pools(c, siteOf(c).ID)
	if err != nil {
		return err
	}
	used, err := s.uses(c)
	if err != nil {
		return err
	}
	infos := []PoolInfo{}
	for _, p := range pools {
		infos = append(infos, PoolInfo{p.ID, p.Name, p.Left, p.Given, orNone(used[p.ID])})
	}
	c.JSON(http.StatusOK, infos)
	return nil
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

func (s *Server) addCodes(c *gin.Context) error {
	var req CodesRequest
	if err := body(c, &req); err != nil {
		return err
	}
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
		return err
	}
	return s.storeCodes(c, c, name, codes)
}

func (s *Server) storeCodes(c *gin.Context, ctx context.Context, name string, codes []string) error {
	added, err := s.store.Codes.Add(ctx, siteOf(c).ID, c.Param("id"), name, codes)
	if err != nil {
		return err
	}
	c.JSON(http.StatusOK, CodesAnswer{len(codes), added})
	return nil
}

// addCodeFile adds the codes of a CSV file: those of its column called code, or
// of its first one.
func (s *Server) addCodeFile(c *gin.Context) error {
	name, faults := named(c.Param("id"), c.Query("name"))
	err := faults.Err()
	var codes []string
	if err == nil {
		codes, err = codesIn(c.Request.Body)
	}
	if err != nil {
		return err
	}
	ctx, done := context.WithTimeout(c.MustGet(baseKey).(context.Context), codePatience)
	defer done()
	http.NewResponseController(c.Writer).SetWriteDeadline(s.now().Add(codePatience + 5*time.Second))
	return s.storeCodes(c, ctx, name, codes)
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
func (s *Server) codes(c *gin.Context) error {
	id, search := c.Param("id"), strings.TrimSpace(c.Query("q"))
	if !poolID.MatchString(id) {
		return fault.ErrNotFound
	}
	if len(search) > maxCode || strings.ContainsRune(search+c.Query("after"), 0) {
		return fault.Fault{At: "q", Message: "is more than can be searched for"}
	}
	found, err := s.store.Codes.List(c, siteOf(c).ID, id, c.Query("after"), search, codesPerPage+1)
	if err != nil {
		return err
	}
	names, err := s.store.Pieces.Names(c, siteOf(c).ID)
	if err != nil {
		return err
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
	c.JSON(http.StatusOK, page)
	return nil
}

// codesCSV writes the codes of a pool, with who has which.
func (s *Server) codesCSV(c *gin.Context) error {
	id := c.Param("id")
	if !poolID.MatchString(id) {
		return fault.ErrNotFound
	}
	names, err := s.names(c, siteOf(c).ID)
	if err != nil {
		return err
	}
	codes, err := s.store.Codes.List(c, siteOf(c).ID, id, "", "", codesAtOnce)
	if err != nil {
		return err
	}
	file := s.csvFile(c, id+".csv", []string{"code", "given_at", "piece", "email"})
	for {
		for _, one := range codes {
			given := ""
			if one.GivenAt != nil {
				given = one.GivenAt.UTC().Format(time.RFC3339)
			}
			file.row([]string{one.Code, given, names[one.Piece].name, one.Email})
		}
		if len(codes) < codesAtOnce {
			break
		}
		file.more()
		codes, err = s.store.Codes.List(c, siteOf(c).ID, id, codes[len(codes)-1].Code, "", codesAtOnce)
		file.torn(err)
	}
	file.w.Flush()
	return nil
}

const codesAtOnce = 5000

func (s *Server) removePool(c *gin.Context) error {
	used, err := s.uses(c)
	if err == nil {
		err = inUse("pool", used[c.Param("id")])
	}
	if err == nil {
		err = s.store.Codes.RemovePool(c, siteOf(c).ID, c.Param("id"))
	}
	return s.done(c, err)
}
