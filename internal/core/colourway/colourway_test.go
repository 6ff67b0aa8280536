package colourway

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

func kit(hexes ...string) []brand.Colour {
	var out []brand.Colour
	for i, h := range hexes {
		c, err := colour.Parse(h)
		if err != nil {
			panic(err)
		}
		out = append(out, brand.Colour{Token: fmt.Sprintf("main.c%d", i), Value: c, Role: brand.Roles[i%len(brand.Roles)]})
	}
	return out
}

var larkmoor = kit("#0F3D4C", "#F3B23E", "#F2694B", "#F6EBD6", "#10242B", "#E6F0EC")

func random(rng *rand.Rand, n int) []brand.Colour {
	var out []brand.Colour
	for i := range n {
		v := rng.Uint32()
		out = append(out, brand.Colour{
			Token: fmt.Sprintf("main.c%d", i), Value: colour.RGB{R: uint8(v), G: uint8(v >> 8), B: uint8(v >> 16)},
			Role: brand.Roles[rng.IntN(len(brand.Roles))], NeverGround: rng.IntN(4) == 0,
		})
	}
	return out
}

func TestNoPaletteEverGivesAnUnreadableColourway(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	for range 300 {
		colours := random(rng, rng.IntN(13))
		for _, on := range []Seat{Ground, Panel} {
			needs := Needs{GroundArea: 0.6, PanelArea: 0.3, ButtonOn: on}
			ranked := Rank(colours, needs, 24)
			if len(ranked) == 0 {
				t.Fatalf("%v: nothing", colours)
			}
			for _, c := range ranked {
				if !c.Legal(needs) {
					t.Fatalf("%v: %v breaks a hard edge", colours, c.Tokens())
				}
				if c.At(Ground).NeverGround || c.At(Panel).NeverGround {
					t.Fatalf("a colour that is never a ground became one: %v", c.Tokens())
				}
			}
		}
	}
}

func TestNeutralsJoinOnlyWhenNeeded(t *testing.T) {
	for _, c := range Rank(larkmoor, Needs{GroundArea: 0.6, PanelArea: 0.3, ButtonOn: Panel}, MaxRanked) {
		for _, col := range c.Colours {
			if col.Token == White.Token || col.Token == Black.Token {
				t.Fatalf("a full kit was given %s", col.Token)
			}
		}
	}
	if got := Rank(kit("#888888"), Needs{GroundArea: 0.6, PanelArea: 0.3, ButtonOn: Panel}, 5); len(got) == 0 {
		t.Error("a kit of one grey has no colourway")
	}
	if got := Rank(nil, Needs{GroundArea: 0.6, PanelArea: 0.3, ButtonOn: Panel}, 5); len(got) == 0 {
		t.Error("an empty kit has no colourway")
	}
}

func TestRankingIsDiverseAndStable(t *testing.T) {
	needs := Needs{GroundArea: 0.5, PanelArea: 0.4, ButtonOn: Panel}
	a, b := Rank(larkmoor, needs, 40), Rank(larkmoor, needs, 40)
	if !reflect.DeepEqual(a, b) {
		t.Error("the same kit ranked differently twice")
	}
	grounds := map[string]bool{}
	for _, c := range a[:8] {
		grounds[c.At(Ground).Token] = true
	}
	if len(grounds) < 4 {
		t.Errorf("only %d grounds among the first eight", len(grounds))
	}
	if lead := a[0]; lead.At(Ground).Role != brand.Lead && lead.At(Panel).Role != brand.Lead {
		t.Errorf("the best one does not lead with the lead colour: %v", lead.Tokens())
	}
}

func TestResolveRefusesWhatNoLongerReads(t *testing.T) {
	needs := Needs{GroundArea: 0.5, PanelArea: 0.4, ButtonOn: Panel}
	k := &brand.Kit{Palettes: []brand.Palette{{ID: "main", Colours: larkmoor}}}
	tokens := Rank(larkmoor, needs, 1)[0].Tokens()
	if _, ok := Resolve(k, tokens, needs); !ok {
		t.Fatal("a ranked colourway does not resolve")
	}
	tokens["inkPanel"] = tokens["panel"]
	if _, ok := Resolve(k, tokens, needs); ok {
		t.Error("ink on itself was called legal")
	}
}

func BenchmarkRankTwelveColours(b *testing.B) {
	// most palettes drawn at random have a handful of legal assignments; this one
	// fills the pool, which is what the bar of 50 ms is about
	colours := random(rand.New(rand.NewPCG(2, 4)), 12)
	for b.Loop() {
		if n := len(Rank(colours, Needs{GroundArea: 0.6, PanelArea: 0.3, ButtonOn: Panel}, MaxRanked)); n != MaxRanked {
			b.Fatalf("%d colourways: this measures the easy case", n)
		}
	}
	if per := b.Elapsed() / time.Duration(b.N); per > 50*time.Millisecond {
		b.Errorf("%v, the bar is 50 ms", per)
	}
}
