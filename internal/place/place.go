// Package place tells the country and region of an address from an MMDB file.
//
// A made-up file ships with the program: it knows the ranges that are set
// aside for documentation (RFC 5737, RFC 3849) and this machine itself. Any
// file with country.iso_code and subdivisions[0].names.en may take its place.
// Addresses are looked up and forgotten.
package place

import (
	_ "embed"
	"fmt"
	"net/netip"
	"os"

	"github.com/oschwald/maxminddb-golang/v2"
)

//go:generate go run ./write

//go:embed madeup.mmdb
var madeUp []byte

// Book looks places up. It is safe for use by many goroutines.
type Book struct{ reader *maxminddb.Reader }

// Place is where an address is, as far as the file knows.
type Place struct {
	Country string // ISO 3166-1 alpha-2
	Region  string
}

// Open opens an MMDB file, or the made-up one for an empty name.
func Open(name string) (*Book, error) {
	data := madeUp
	if name != "" {
		var err error
		// The whole file is read, so that replacing it under a running server
		// does no harm.
		if data, err = os.ReadFile(name); err != nil {
			return nil, fmt.Errorf("the file of places cannot be read: %w", err)
		}
	}
	reader, err := maxminddb.OpenBytes(data)
	if err != nil {
		return nil, fmt.Errorf("%s is not an MMDB file: %w", name, err)
	}
	return &Book{reader}, nil
}

// Of tells where an address is; the zero Place where nothing is known. A nil
// Book knows nothing.
func (b *Book) Of(address string) Place {
	if b == nil {
		return Place{}
	}
	ip, err := netip.ParseAddr(address)
	if err != nil {
		return Place{}
	}
	var found struct {
		Country struct {
			Code string `maxminddb:"iso_code"`
		} `maxminddb:"country"`
		Subdivisions []struct {
			Names map[string]string `maxminddb:"names"`
		} `maxminddb:"subdivisions"`
	}
	if err := b.reader.Lookup(ip.Unmap()).Decode(&found); err != nil {
		return Place{}
	}
	p := Place{Country: found.Country.Code}
	if len(found.Subdivisions) > 0 {
		p.Region = found.Subdivisions[0].Names["en"]
	}
	return p
}
