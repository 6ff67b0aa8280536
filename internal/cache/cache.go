// Package cache keeps what was used last, up to a weight. The least recently used goes
// first.
package cache

import "github.com/jellydator/ttlcache/v3"

// Cache keeps values by their keys. Safe for concurrent use.
type Cache[K comparable, V any] struct {
	in    *ttlcache.Cache[K, V]
	weigh func(V) int
}

// New makes a cache of at most so many bytes, by what weigh says of a value; what a
// value weighs may grow while it is kept.
func New[K comparable, V any](bytes int, weigh func(V) int) *Cache[K, V] {
	return &Cache[K, V]{ttlcache.New(ttlcache.WithMaxCost[K, V](uint64(bytes), func(i ttlcache.CostItem[K, V]) uint64 { return uint64(weigh(i.Value)) })), weigh}
}

// Some makes a cache of so many values of about the same weight.
func Some[K comparable, V any](n int) *Cache[K, V] {
	return New[K](n, func(V) int { return 1 })
}

// Get finds a value.
func (c *Cache[K, V]) Get(key K) (v V, ok bool) {
	i := c.in.Get(key)
	if i == nil {
		return v, false
	}
	if v = i.Value(); i.Cost() != uint64(c.weigh(v)) {
		c.in.Set(key, v, ttlcache.NoTTL)
	}
	return v, true
}

// Put keeps a value. One that is too heavy for the cache is not kept.
func (c *Cache[K, V]) Put(key K, v V) { c.in.Set(key, v, ttlcache.NoTTL) }

// Once finds a value or computes it. Two who ask at the same moment may both compute it.
func (c *Cache[K, V]) Once(key K, compute func() V) V {
	if v, ok := c.Get(key); ok {
		return v
	}
	v := compute()
	c.Put(key, v)
	return v
}

// Len is how many values are kept.
func (c *Cache[K, V]) Len() int { return c.in.Len() }

// Forget lets go of everything.
func (c *Cache[K, V]) Forget() { c.in.DeleteAll() }
