package route

import (
	"encoding/csv"
	"net/http"
	"strings"
	"unicode"
	"unicode/utf8"
)

// CSV writes a table as RFC 4180 has it, with what a spreadsheet would take for a
// formula made plain text.
type CSV struct {
	c *Call
	w *csv.Writer
}

// CSVMedia is the media type of a CSV.
const CSVMedia = "text/csv; charset=utf-8; header=present"

// CSV begins a file of that name with its head.
func (c *Call) CSV(name string, head []string) *CSV {
	c.Writer.Header().Set("Content-Type", CSVMedia)
	c.Writer.Header().Set("Content-Disposition", `attachment; filename="`+name+`"`)
	f := &CSV{c, csv.NewWriter(c.Writer)}
	f.w.UseCRLF = true
	f.Row(head)
	return f
}

// Row writes a row.
func (f *CSV) Row(cells []string) {
	safe := make([]string, len(cells))
	for i, cell := range cells {
		safe[i] = plain(cell)
	}
	_ = f.w.Write(safe) // Close tells
}

// More gives the next part of a long list the time of a request of its own.
func (f *CSV) More() {
	f.c.writeBy(writing)
	f.c.Renew()
}

// Torn ends the answer where the next part cannot be read. The head is out: the
// connection breaks rather than end a file that lacks some.
func (f *CSV) Torn(err error) {
	if err != nil {
		panic(http.ErrAbortHandler)
	}
}

// Close writes what is left.
func (f *CSV) Close() error {
	f.w.Flush()
	return f.w.Error()
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
