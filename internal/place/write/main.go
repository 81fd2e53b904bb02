// Command write makes the made-up file of places that ships with Gobbet.
package main

import (
	"log"
	"net"
	"os"

	"github.com/maxmind/mmdbwriter"
	"github.com/maxmind/mmdbwriter/mmdbtype"
)

func main() {
	tree, err := mmdbwriter.New(mmdbwriter.Options{DatabaseType: "Made-up-Places", Description: map[string]string{"en": "Made up: documentation ranges and this machine"}, IncludeReservedNetworks: true, RecordSize: 24, BuildEpoch: 1})
	if err != nil {
		log.Fatal(err)
	}
	for _, one := range []struct{ network, country, region string }{
		{"127.0.0.0/8", "IE", "Leinster"}, {"::1/128", "IE", "Leinster"},
		{"192.0.2.0/25", "IE", "Munster"}, {"192.0.2.128/25", "GB", "Wales"},
		{"198.51.100.0/25", "DE", "Saxony"}, {"198.51.100.128/25", "FR", "Brittany"},
		{"203.0.113.0/25", "US", "Vermont"}, {"203.0.113.128/25", "JP", "Gifu"},
		{"2001:db8::/33", "NL", "Drenthe"}, {"2001:db8:8000::/33", "CA", "Nova Scotia"},
	} {
		_, network, err := net.ParseCIDR(one.network)
		if err != nil {
			log.Fatal(err)
		}
		err = tree.Insert(network, mmdbtype.Map{
			"country":      mmdbtype.Map{"iso_code": mmdbtype.String(one.country)},
			"subdivisions": mmdbtype.Slice{mmdbtype.Map{"names": mmdbtype.Map{"en": mmdbtype.String(one.region)}}},
		})
		if err != nil {
			log.Fatal(err)
		}
	}
	f, err := os.Create("madeup.mmdb")
	if err != nil {
		log.Fatal(err)
	}
	if _, err := tree.WriteTo(f); err != nil {
		log.Fatal(err)
	}
	if err := f.Close(); err != nil {
		log.Fatal(err)
	}
}
