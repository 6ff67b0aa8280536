package app_test

import (
	"errors"
	"reflect"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
)

// TestHowWordsAreSpoken is kept in the kit as a list, and refused when it is none.
func TestHowWordsAreSpoken(t *testing.T) {
	a, m, kit, _ := open(t)
	ctx := t.Context()
	if err := a.Brand.SaySo(ctx, m, kit, "", "Larkmoor = lark more, GmbH=G M B H,"); err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	if want := []brand.Says{{Word: "Larkmoor", As: "lark more"}, {Word: "GmbH", As: "G M B H"}}; !reflect.DeepEqual(k.Motion.Says, want) {
		t.Errorf("%+v", k.Motion.Says)
	}
	for _, text := range []string{"Larkmoor", "two words = x", "= x", "x ="} {
		if err := a.Brand.SaySo(ctx, m, kit, "", text); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%q: %v", text, err)
		}
	}
	if err := a.Brand.SaySo(ctx, m, kit, "", ""); err != nil {
		t.Fatal(err)
	}
	if k, err = a.Kits.Kit(ctx, m, kit); err != nil || len(k.Motion.Says) != 0 {
		t.Errorf("%+v, %v", k.Motion.Says, err)
	}
}
