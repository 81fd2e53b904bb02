package kinds

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"github.com/gzuidhof/tygo/tygo"
)

// What each place of the studio is asked and answers stands in its wire.go; in
// TypeScript all of them are one module.

const (
	studioPackage = "gobbet/internal/studio/"
	studioModule  = "web/kinds/studio.ts"
)

var studioPlaces = []string{"account", "board", "compose", "launch", "library", "people", "reach", "report", "results", "site", "split"}

// placePath is where a place's types are put before they are gathered.
func placePath(place string) string { return "web/kinds/studio-" + place + ".ts" }

func places() (all []*tygo.PackageConfig) {
	for _, place := range studioPlaces {
		all = append(all, &tygo.PackageConfig{
			Path: studioPackage + place, OutputPath: placePath(place), IncludeFiles: []string{"wire.go"},
			TypeMappings: map[string]string{
				"parts.Measure": "Measure", "parts.DayCount": "DayCount", "parts.UsedIn": "UsedIn", "parts.GoalGain": "GoalGain", "parts.PieceInfo": "PieceInfo", "site.SiteInfo": "SiteInfo",
			},
		})
	}
	return all
}

var header = regexp.MustCompile(`^// Code generated.*\n`)

// gatherPlaces puts the types of all places behind those that they share.
func gatherPlaces(root string) error {
	module := filepath.Join(root, studioModule)
	all, err := os.ReadFile(module)
	if err != nil {
		return err
	}
	for _, place := range studioPlaces {
		name := filepath.Join(root, placePath(place))
		text, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		if err := os.Remove(name); err != nil {
			return err
		}
		own := strings.ReplaceAll(header.ReplaceAllString(string(text), ""), "// source: wire.go", "// "+place)
		all = append(all, own...)
	}
	return os.WriteFile(module, all, 0o644)
}
