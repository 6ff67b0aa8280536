package test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"aspenridge/assets"
	"aspenridge/demo"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/layout"
	"aspenridge/layouts"
	"aspenridge/test/stage"
)

func schema(t *testing.T, name string) *jsonschema.Schema {
	t.Helper()
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	s, err := jsonschema.NewCompiler().Compile(filepath.Join(root, "docs", "schema", name+".schema.json"))
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func valid(t *testing.T, s *jsonschema.Schema, doc []byte) error {
	t.Helper()
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(doc))
	if err != nil {
		t.Fatal(err)
	}
	return s.Validate(v)
}

// TestTheDocumentedExampleRuns writes out the files docs/formats.md shows, runs
// the command it shows and finds what it says, valid by the schemas.
func TestTheDocumentedExampleRuns(t *testing.T) {
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	doc, err := os.ReadFile(filepath.Join(root, "docs", "formats.md"))
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	for _, m := range regexp.MustCompile("(?s)`([a-z/.]+)`\n\n```(?:json|svg)\n(.*?)```").FindAllStringSubmatch(string(doc), -1) {
		at := filepath.Join(dir, m[1])
		if err := os.MkdirAll(filepath.Dir(at), 0o700); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(at, []byte(m[2]), 0o600); err != nil {
			t.Fatal(err)
		}
		if name, ok := map[string]string{"kit/kit.json": "kit", "brief.json": "brief"}[m[1]]; ok {
			if err := valid(t, schema(t, name), []byte(m[2])); err != nil {
				t.Errorf("%s: %v", m[1], err)
			}
		}
	}
	command := regexp.MustCompile("(?s)```sh\naspenridge (.*?)\n```").FindStringSubmatch(string(doc))
	if command == nil {
		t.Fatal("the example shows no command")
	}
	bin := filepath.Join(t.TempDir(), "aspenridge")
	build := exec.Command("go", "build", "-o", bin, "./cmd/aspenridge")
	build.Dir = root
	if out, err := build.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	cmd := exec.Command(bin, strings.Fields(command[1])...)
	cmd.Dir = dir
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	for _, m := range regexp.MustCompile("`(out/[^`]+)`").FindAllStringSubmatch(string(doc), -1) {
		if _, err := os.Stat(filepath.Join(dir, m[1])); err != nil {
			t.Error(err)
		}
	}
	report, err := os.ReadFile(filepath.Join(dir, "out", "report.json"))
	if err != nil {
		t.Fatal(err)
	}
	if err := valid(t, schema(t, "report"), report); err != nil {
		t.Errorf("report.json: %v", err)
	}
	var shown map[string]any
	var got struct {
		Pieces []struct{ Elements []map[string]any }
	}
	if err := json.Unmarshal([]byte(regexp.MustCompile("(?s)```json report\n(.*?)```").FindStringSubmatch(string(doc))[1]), &shown); err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(report, &got); err != nil {
		t.Fatal(err)
	}
	for _, e := range got.Pieces[0].Elements {
		if e["slot"] != shown["slot"] {
			continue
		}
		for k, v := range shown {
			if fmt.Sprint(e[k]) != fmt.Sprint(v) {
				t.Errorf("%s is %v, the example says %v", k, e[k], v)
			}
		}
		return
	}
	t.Error("the report has no such element")
}

// TestDemoFilesAreValid holds the demo's own files against the schemas.
func TestDemoFilesAreValid(t *testing.T) {
	if err := valid(t, schema(t, "kit"), demo.KitDocument()); err != nil {
		t.Error(err)
	}
	for name, doc := range demo.Briefs() {
		if err := valid(t, schema(t, "brief"), []byte(doc)); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// TestSchemaAndReaderAgree feeds both the same spoiled kits.
// TestLayoutsAndExamplesAreValid holds every layout against its schema and every
// example's card against the brief's.
func TestLayoutsAndExamplesAreValid(t *testing.T) {
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	files, err := filepath.Glob(filepath.Join(root, "layouts", "*.json"))
	if err != nil || len(files) < 24 {
		t.Fatalf("%d layouts, %v", len(files), err)
	}
	s := schema(t, "layout")
	for _, f := range files {
		data, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		if err := valid(t, s, data); err != nil {
			t.Errorf("%s: %v", filepath.Base(f), err)
		}
	}
	if n := len(assets.Examples()); n < 30 {
		t.Errorf("%d examples", n)
	}
	purposes := map[string]int{}
	for _, e := range assets.Examples() {
		purposes[e.Purpose]++
		doc := `{"formatVersion":1,"purpose":"` + e.Purpose + `","cards":[` + string(e.Card) + `]}`
		if err := valid(t, schema(t, "brief"), []byte(doc)); err != nil {
			t.Errorf("%s: %v", e.ID, err)
		}
		parsed, err := edit.ParseObject([]byte(doc))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := brief.Parse(parsed); err != nil {
			t.Errorf("%s: %v", e.ID, err)
		}
		if !slices.ContainsFunc(layouts.All(), func(l *layout.Layout) bool { return l.ID == e.Layout }) {
			t.Errorf("%s: no layout %s", e.ID, e.Layout)
		}
	}
	for _, p := range brief.Purposes {
		if purposes[p] < 3 {
			t.Errorf("%d examples for %s, want three", purposes[p], p)
		}
	}
}

func TestSchemaAndReaderAgree(t *testing.T) {
	s := schema(t, "kit")
	const ext = `"$extensions":{"aspenridge":{"formatVersion":1,"name":"x"}}`
	for doc, good := range map[string]bool{
		`{` + ext + `}`: true,
		`{"color":{"a":{"b":{"$value":{"hex":"#123456"}}}},` + ext + `,"somebody":{"else":1}}`:                        true,
		`{"color":{"a":{"b":{"$value":{"hex":"#12"}}}},` + ext + `}`:                                                  false,
		`{"color":{"a":{"b":{}}},` + ext + `}`:                                                                        false,
		`{"color":{"a":{"b":{"$value":{"hex":"#123456"},"$extensions":{"aspenridge":{"role":"loud"}}}}},` + ext + `}`: false,
		`{"type":{"body":{"$value":{"lineHeight":9}}},` + ext + `}`:                                                   false,
		`{}`: false,
		`{"$extensions":{"aspenridge":{"formatVersion":2,"name":"x"}}}`:                                          false,
		`{"$extensions":{"aspenridge":{"formatVersion":1}}}`:                                                     false,
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{"file":"a","tone":"pink"}]}}}`:     false,
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{"file":"a","tone":"for-dark"}]}}}`: true,
	} {
		o, err := edit.ParseObject([]byte(doc))
		if err != nil {
			t.Fatal(err)
		}
		_, readErr := brand.Parse(o)
		schemaErr := valid(t, s, []byte(doc))
		if (readErr == nil) != good || (schemaErr == nil) != good {
			t.Errorf("%s\nreader: %v\nschema: %v\nwant good: %v", doc, readErr, schemaErr, good)
		}
	}
}
