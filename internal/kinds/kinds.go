// Package kinds writes the TypeScript types of everything that crosses the
// wire, from the Go types.
package kinds

import (
	_ "embed"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"github.com/gzuidhof/tygo/tygo"
	"gopkg.in/yaml.v2"

	"gobbet/core/piece"
)

//go:embed tygo.yaml
var config []byte

// Write writes the types below root, the folder that holds web/.
func Write(root string) error {
	var c tygo.Config
	if err := yaml.Unmarshal(config, &c); err != nil {
		return err
	}
	c.Packages = append(c.Packages, places()...)
	for _, p := range c.Packages {
		p.OutputPath = filepath.Join(root, p.OutputPath)
		if err := os.MkdirAll(filepath.Dir(p.OutputPath), 0o755); err != nil {
			return err
		}
	}
	if err := tygo.New(&c).Generate(); err != nil {
		return err
	}
	for _, p := range c.Packages {
		text, err := os.ReadFile(p.OutputPath)
		if err != nil {
			return err
		}
		if err := os.WriteFile(p.OutputPath, []byte(blocks(p.Path, unions(unqualified(string(text))))), 0o644); err != nil {
			return err
		}
	}
	if err := gatherPlaces(root); err != nil {
		return err
	}
	if err := writeRoutes(root); err != nil {
		return err
	}
	if err := writeAsked(root); err != nil {
		return err
	}
	if err := writeOps(root); err != nil {
		return err
	}
	if err := writeKit(root); err != nil {
		return err
	}
	return writeFormats(root)
}

var (
	constant = regexp.MustCompile(`(?m)^export const \w+: (\w+) = ("[^"]*");.*\n`)
	anyConst = regexp.MustCompile(`(?m)^export const .*\n`)
)

// unions makes a type whose constants are texts the union of those texts, and
// leaves constants out: in TypeScript the text itself is checked.
func unions(text string) string {
	values := map[string][]string{}
	for _, m := range constant.FindAllStringSubmatch(text, -1) {
		values[m[1]] = append(values[m[1]], m[2])
	}
	text = anyConst.ReplaceAllString(text, "")
	for name, union := range values {
		text = strings.Replace(text, fmt.Sprintf("export type %s = string;", name), fmt.Sprintf("export type %s = %s;", name, strings.Join(union, " | ")), 1)
	}
	return text
}

// blocks adds to the types of package piece the union of all kinds of blocks.
func blocks(path, text string) string {
	if path != "gobbet/core/piece" {
		return text
	}
	names := []string{}
	for _, k := range piece.Kinds() {
		names = append(names, k.Type.Name())
	}
	return text + "\n/** A block of any kind. */\nexport type Block = " + strings.Join(names, " | ") + ";\n"
}

var qualified = regexp.MustCompile(`extends [a-z]+\.`)

// unqualified names what an interface extends as it is imported: by its name alone.
func unqualified(text string) string { return qualified.ReplaceAllString(text, "extends ") }
