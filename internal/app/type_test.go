package app_test

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
)

// TestCapitalsAreRefusedForScripts: and a change of one level leaves the others
// and what somebody else put into the tokens alone.
func TestCapitalsAreRefusedForScripts(t *testing.T) {
	a, m, kit, _ := open(t)
	if err := a.Brand.SetFamilies(t.Context(), m, kit, "tab", "", "Pacifico", "Karla"); err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.SetLevel(t.Context(), m, kit, "tab", "", brand.Headline, "capitals", "yes"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("capitals in a script: %v", err)
	}
	if _, err := a.Documents.Edit(t.Context(), m, kit, app.Change{Client: "tab", Base: app.Latest, Op: edit.Op{Path: "/type/body/$description", Value: json.RawMessage(`"for reading"`)}}); err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.SetLevel(t.Context(), m, kit, "tab", "", brand.Headline, "size", "120"); err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	levels := k.TypeSets[0].Levels
	if levels[brand.Headline].SizePx != 120 || levels[brand.Body].Family != "Karla" || levels[brand.Button].Family == "Pacifico" {
		t.Errorf("levels: %+v", levels)
	}
	d, err := a.Store().Document(t.Context(), m.Workspace, kit)
	if err != nil || !strings.Contains(string(d.Doc), "for reading") {
		t.Errorf("a foreign member is gone: %v", err)
	}
	for field, value := range map[string]string{"weight": "0", "size": "x", "role": "boss", "family": "Nowhere", "nonsense": ""} {
		if err := a.Brand.SetLevel(t.Context(), m, kit, "tab", "", brand.Body, field, value); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%s %q: %v", field, value, err)
		}
	}
}
