package studio

import (
	"encoding/csv"
	"net/http"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/gin-gonic/gin"
)

// csvFile writes a table as RFC 4180 has it, with what a spreadsheet would take
// for a formula made plain text.
type csvFile struct {
	s *Server
	c *gin.Context
	w *csv.Writer
}

func (s *Server) csvFile(c *gin.Context, name string, head []string) *csvFile {
	c.Header("Content-Type", "text/csv; charset=utf-8; header=present")
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	f := &csvFile{s, c, csv.NewWriter(c.Writer)}
	f.w.UseCRLF = true
	f.row(head)
	return f
}

func (f *csvFile) row(cells []string) {
	safe := make([]string, len(cells))
	for i, cell := range cells {
		safe[i] = plain(cell)
	}
	f.w.Write(safe)
}

// more gives the next part of a long list the time of a request of its own.
func (f *csvFile) more() {
	http.NewResponseController(f.c.Writer).SetWriteDeadline(f.s.now().Add(time.Minute))
	f.s.begin(f.c)
}

// torn ends the answer where the next part cannot be read. The head is out: the
// connection breaks rather than end a file that lacks some.
func (f *csvFile) torn(err error) {
	if err != nil {
		panic(http.ErrAbortHandler)
	}
}

// plain keeps a spreadsheet from running a cell: one that starts like a
// formula, after whatever cannot be seen, gets an apostrophe before it.
func plain(cell string) string {
	seen := strings.TrimLeftFunc(cell, func(r rune) bool {
		return unicode.IsSpace(r) || unicode.IsControl(r) || unicode.In(r, unicode.Cf, unicode.Zl, unicode.Zp, unicode.Zs, unicode.Mn, unicode.Me, unicode.Variation_Selector) || !unicode.IsPrint(r)
	})
	first, _ := utf8.DecodeRuneInString(seen)
	if strings.ContainsRune("=+-@＝＋－＠﹢﹣−﹦﹫", first) && seen != "" || cell != "" && strings.ContainsRune("\t\r\n", rune(cell[0])) {
		return "'" + cell
	}
	return cell
}
