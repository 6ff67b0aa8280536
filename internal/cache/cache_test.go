package cache_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"aspenridge/internal/cache"
)

func TestTheLeastRecentlyUsedGoes(t *testing.T) {
	c := cache.New[string](10, func(v []byte) int { return len(v) })
	put := func(k string, n int) { c.Put(k, make([]byte, n)) }
	has := func(k string, want bool) {
		t.Helper()
		if _, ok := c.Get(k); ok != want {
			t.Errorf("%s kept: %v", k, ok)
		}
	}
	put("a", 4)
	put("b", 4)
	has("a", true) // and used
	put("c", 4)
	has("b", false)
	has("a", true)
	put("d", 6)
	has("c", false)
	has("a", true)
	c.Forget()
	has("a", false)
}

type growing struct{ bytes int }

func TestWhatGrowsMakesRoom(t *testing.T) {
	c := cache.New[string](10, func(v *growing) int { return v.bytes })
	g := &growing{1}
	c.Put("still", &growing{6})
	c.Put("growing", g)
	g.bytes = 8
	if _, ok := c.Get("growing"); !ok {
		t.Error("what was used is gone")
	}
	if _, ok := c.Get("still"); ok {
		t.Error("14 bytes are kept in 10")
	}
}

// Against a list in order of use, kept by hand.
func TestAsAList(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	c := cache.Some[int, int](8)
	var list []int
	for range 5000 {
		k := rng.IntN(20)
		i := slices.Index(list, k)
		_, ok := c.Get(k)
		if ok != (i >= 0) {
			t.Fatalf("%d: kept %v, in the list at %d", k, ok, i)
		}
		if i >= 0 {
			list = slices.Delete(list, i, i+1)
		} else {
			c.Put(k, k)
		}
		if list = append(list, k); len(list) > 8 {
			list = list[1:]
		}
	}
}
