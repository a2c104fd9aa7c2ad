package desk

import (
	"sync"

	"compactparcel/core/item"
	"compactparcel/core/plan"

	lru "github.com/hashicorp/golang-lru/v2/simplelru"
)

// maxBlendBytes bounds the texts of blends that are kept in memory.
const maxBlendBytes = 16 << 20

// blendMemory keeps the blends of plans, the least lately used given up first.
type blendMemory struct {
	mu    sync.Mutex
	known *lru.LRU[item.Digest, *plan.TextBlend]
	bytes int
}

func newBlendMemory() *blendMemory {
	m := &blendMemory{}
	m.known, _ = lru.NewLRU(1<<20, func(_ item.Digest, b *plan.TextBlend) { m.bytes -= cost(b) }) // a size above 0 fits
	return m
}

// cost is about what a blend takes in memory.
func cost(b *plan.TextBlend) int {
	refs := 0
	if b.Facts != nil {
		refs = len(b.Facts.Refs)
	}
	return len(b.Text) + 512*(1+len(b.Conflicts)) + 160*refs
}

// Get gives a blend that is known.
func (m *blendMemory) Get(key item.Digest) (*plan.TextBlend, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.known.Get(key)
}

// Keep keeps a blend.
func (m *blendMemory) Keep(key item.Digest, b *plan.TextBlend) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.known.Contains(key) {
		return
	}
	m.known.Add(key, b)
	for m.bytes += cost(b); m.bytes > maxBlendBytes; {
		m.known.RemoveOldest()
	}
}
