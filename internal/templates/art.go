package templates

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"fmt"
	"strings"
)

// The pictures are drawings of our own, kept as SVG: small, and sharp at every size.
//
//go:embed art/*.svg
var drawings embed.FS

// Drawing is a picture that ships, as it is served.
type Drawing struct {
	Name, Mime string
	Body       []byte
}

var byHash, hashOf = func() (map[string]Drawing, map[string]string) {
	art, hashes := map[string]Drawing{}, map[string]string{}
	entries, err := drawings.ReadDir("art")
	if err != nil {
		panic(err)
	}
	for _, e := range entries {
		body, err := drawings.ReadFile("art/" + e.Name())
		if err != nil {
			panic(err)
		}
		sum := sha256.Sum256(body)
		hash, name := hex.EncodeToString(sum[:16]), strings.TrimSuffix(e.Name(), ".svg")
		art[hash], hashes[name] = Drawing{name, "image/svg+xml", body}, hash
	}
	return art, hashes
}()

// Art gives a picture that ships, by its hash.
func Art(hash string) (Drawing, bool) {
	d, ok := byHash[hash]
	return d, ok
}

// Hash is that of a picture that ships. It panics for a name that none has.
func Hash(name string) string {
	hash, ok := hashOf[name]
	if !ok {
		panic(fmt.Sprintf("templates: no picture %q", name))
	}
	return hash
}

// Icons are line drawings by name, as SVG paths in a box of 24 by 24.
var Icons = map[string]string{
	"letter":   "M3 6h18v12H3zM3 7l9 7 9-7",
	"gift":     "M4 11h16v9H4zM3 7h18v4H3zM12 7v13M12 7C9 2 5 4 7 7M12 7c3-5 7-3 5 0",
	"clock":    "M12 3a9 9 0 1 0 .1 0zM12 7v5l4 2",
	"tag":      "M3 12V4h8l10 10-8 7zM7 8h.1",
	"parcel":   "M4 8l8-4 8 4v9l-8 4-8-4zM4 8l8 4 8-4M12 12v9",
	"star":     "M12 3l2.8 5.8 6.2.8-4.5 4.4 1.1 6.3L12 17.3 6.4 20.3l1.1-6.3L3 9.600l6.2-.8z",
	"heart":    "M12 20S3 14.500 3 8.500A4.700 4.700 0 0 1 12 6.600 4.700 4.700 0 0 1 21 8.500C21 14.500 12 20 12 20z",
	"talk":     "M4 5h16v11H10l-5 4v-4H4zM8 9h8M8 12h5",
	"people":   "M9 11a3.500 3.500 0 1 0-.1 0zM3 20c0-4 3-6 6-6s6 2 6 6M16 11a3 3 0 1 0-1-5M17 14c3 0 4 3 4 5",
	"photo":    "M4 7h4l2-2h4l2 2h4v12H4zM12 10a3.500 3.500 0 1 0 .1 0z",
	"play":     "M4 5h16v14H4zM10 9l5 3-5 3z",
	"phone":    "M6 3h4l1 5-3 2c1 3 3 5 6 6l2-3 5 1v4c0 2-2 3-4 3C10 20 4 14 3 7c0-2 1-4 3-4z",
	"globe":    "M12 3a9 9 0 1 0 .1 0zM3 12h18M12 3c-5 5-5 13 0 18M12 3c5 5 5 13 0 18",
	"pin":      "M12 21s-7-6.500-7-11.500a7 7 0 0 1 14 0C19 14.500 12 21 12 21zM12 7.500a2.500 2.500 0 1 0 .1 0z",
	"check":    "M4 12.500l5.500 5.500L20 6.500",
	"bell":     "M6 17V11a6 6 0 0 1 12 0v6l2 2H4zM10 21h4",
	"bolt":     "M13 2L4 14h7l-1 8 9-12h-7z",
	"leaf":     "M5 19C4 9 10 4 20 4c0 10-5 16-15 15zM5 19c3-5 6-8 10-10",
	"book":     "M12 6C9 4 5 4 3 5v14c2-1 6-1 9 1 3-2 7-2 9-1V5c-2-1-6-1-9 1zM12 6v14",
	"calendar": "M4 6h16v15H4zM4 10h16M8 3v5M16 3v5",
	"truck":    "M2 6h12v11H2zM14 10h4l4 4v3h-8zM6 17a2 2 0 1 0 .1 0zM18 17a2 2 0 1 0 .1 0z",
	"shield":   "M12 3l8 3v6c0 5-4 8-8 9-4-1-8-4-8-9V6zM8.500 12l2.500 2.500 4.500-5",
	"basket":   "M3 9h18l-2 11H5zM8 9l3-6M16 9l-3-6M9 13v4M15 13v4",
	"sun":      "M12 8a4 4 0 1 0 .1 0zM12 2v2M12 20v2M2 12h2M20 12h2M5 5l1.500 1.500M17.500 17.500L19 19M5 19l1.500-1.500M17.500 6.500L19 5",
	"snow":     "M12 2v20M3.500 7l17 10M3.500 17l17-10M9 4l3 3 3-3M9 20l3-3 3 3",
	"arrow":    "M4 12h16M14 6l6 6-6 6",
	"question": "M12 3a9 9 0 1 0 .1 0zM9 9.500a3 3 0 1 1 4 2.800c-1 .5-1 1-1 2M12 17.500h.1",
	"cup":      "M4 8h13v6a5 5 0 0 1-5 5H9a5 5 0 0 1-5-5zM17 10h2a2 2 0 0 1 0 5h-2M8 2v3M12 2v3",
}
