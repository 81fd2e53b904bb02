package kinds

import (
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"

	"github.com/invopop/jsonschema"

	"gobbet/core/piece"
	"gobbet/core/reach"
)

// SchemaID is what the schema of a piece is called.
const SchemaID = "https://gobbet.test/piece.schema.json"

// Schema is the JSON Schema of a piece's document. It says what keys there are
// and of which kind; bounds, and what refers to what, the program checks.
func Schema() ([]byte, error) {
	of := func(parts ...*jsonschema.Schema) *jsonschema.Schema { return &jsonschema.Schema{AnyOf: parts} }
	ref := func(name string) *jsonschema.Schema { return &jsonschema.Schema{Ref: "#/$defs/" + name} }
	text := func() *jsonschema.Schema { return &jsonschema.Schema{Type: "string"} }
	list := func(items *jsonschema.Schema) *jsonschema.Schema {
		return &jsonschema.Schema{Type: "array", Items: items}
	}
	r := jsonschema.Reflector{Anonymous: true, Mapper: func(t reflect.Type) *jsonschema.Schema {
		switch t {
		case reflect.TypeFor[piece.Block]():
			return ref("Block")
		case reflect.TypeFor[piece.Words]():
			return ref("Words")
		case reflect.TypeFor[reach.Rule]():
			return ref("Rule")
		case reflect.TypeFor[piece.Patch]():
			return &jsonschema.Schema{Type: "object"}
		}
		if t.PkgPath() == "gobbet/core/schedule" || t.PkgPath() == "gobbet/core/caps" {
			return of(&jsonschema.Schema{Type: "object"}, text(), list(&jsonschema.Schema{}))
		}
		return nil
	}}
	s := r.Reflect(piece.Piece{})
	kinds := &jsonschema.Schema{}
	for _, k := range piece.Kinds() {
		one := r.ReflectFromType(k.Type)
		for name, def := range one.Definitions {
			s.Definitions[name] = def
		}
		name := k.Type.Name()
		if kind, ok := s.Definitions[name].Properties.Get("kind"); ok {
			kind.Const = k.Name
		}
		kinds.OneOf = append(kinds.OneOf, ref(name))
	}
	span := r.Reflect(piece.Span{})
	for name, def := range span.Definitions {
		s.Definitions[name] = def
	}
	s.Definitions["Block"] = kinds
	s.Definitions["Words"] = of(text(), list(ref("Span")))
	rules := func(key string, value *jsonschema.Schema, more ...string) *jsonschema.Schema {
		p := jsonschema.NewProperties()
		p.Set(key, value)
		for _, name := range more {
			p.Set(name, &jsonschema.Schema{})
		}
		return &jsonschema.Schema{Type: "object", Properties: p, Required: []string{key}, AdditionalProperties: jsonschema.FalseSchema}
	}
	s.Definitions["Rule"] = of(rules("all", list(ref("Rule"))), rules("any", list(ref("Rule"))), rules("not", ref("Rule")), rules("saved", text()), rules("fact", text(), "op", "value"))
	s.ID, s.Title, s.Description = SchemaID, "A piece of Gobbet", "One thing shown on a site: what it looks like, when it may show, and its variants. Version 3; earlier versions are read as well."
	out, err := json.MarshalIndent(s, "", "  ")
	return append(out, '\n'), err
}

// WriteSchema writes docs/piece.schema.json below root.
func WriteSchema(root string) error {
	schema, err := Schema()
	if err != nil {
		return err
	}
	path := filepath.Join(root, "docs/piece.schema.json")
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	return os.WriteFile(path, schema, 0o644)
}
