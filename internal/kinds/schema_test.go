package kinds

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"gobbet/core/piece"
	"gobbet/internal/templates"
)

func published(t *testing.T) *jsonschema.Schema {
	t.Helper()
	raw, err := os.ReadFile("../../docs/piece.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	if want, err := Schema(); err != nil || !bytes.Equal(raw, want) {
		t.Fatal("docs/piece.schema.json is stale: run make kinds", err)
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource(SchemaID, doc); err != nil {
		t.Fatal(err)
	}
	s, err := c.Compile(SchemaID)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func TestTheSchemaTakesWhatTheProgramWrites(t *testing.T) {
	s := published(t)
	for _, one := range templates.All() {
		for _, format := range piece.Formats {
			raw, err := json.Marshal(one.Piece("A piece", format, "salt"))
			if err != nil {
				t.Fatal(err)
			}
			doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
			if err == nil {
				err = s.Validate(doc)
			}
			if err != nil {
				t.Fatalf("%s as %s: %v", one.ID, format, err)
			}
		}
	}
}

func TestTheSchemaRefusesWhatTheProgramRefuses(t *testing.T) {
	s := published(t)
	start, _ := templates.Of("plain-letter")
	raw, _ := json.Marshal(start.Piece("A piece", piece.Popup, "salt"))
	for _, change := range [][2]string{
		{`"kind":"heading"`, `"kind":"marquee"`}, {`"name":"A piece",`, ``}, {`"format":"popup"`, `"format":7`}, {`"align":"center"`, `"alignment":"center"`}, {`"all":`, `"every":`}, {`"size":34`, `"size":"34"`},
	} {
		bad := strings.Replace(string(raw), change[0], change[1], 1)
		if bad == string(raw) {
			t.Fatalf("%s is not in the document", change[0])
		}
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(bad))
		if err != nil {
			t.Fatal(err)
		}
		if s.Validate(doc) == nil {
			t.Errorf("%s is taken", change[1])
		}
		if _, err := piece.Parse([]byte(bad)); err == nil {
			t.Errorf("the program takes %s", change[1])
		}
	}
}

func TestTheGuidesExamplesAreRead(t *testing.T) {
	s := published(t)
	guide, err := os.ReadFile("../../docs/piece.md")
	if err != nil {
		t.Fatal(err)
	}
	parts := strings.Split(string(guide), "```json\n")
	if len(parts) < 3 {
		t.Fatal("the guide has no examples")
	}
	for _, part := range parts[1:] {
		example, _, _ := strings.Cut(part, "```")
		if _, err := piece.Parse([]byte(example)); err != nil {
			t.Errorf("%v\n%s", err, example)
		}
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(example))
		if err == nil {
			err = s.Validate(doc)
		}
		if err != nil {
			t.Error(err)
		}
	}
}
