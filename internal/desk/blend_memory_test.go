package desk

import (
	"bytes"
	"fmt"
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/plan"

	"github.com/stretchr/testify/assert"
)

// The memory of blends stays within its bound and gives up the least lately used.
func TestTheMemoryOfBlendsIsBounded(t *testing.T) {
	m := newBlendMemory()
	key := func(i int) item.Digest { return item.Digest(fmt.Sprint(i)) }
	text := bytes.Repeat([]byte("x"), 1<<20)
	for i := range 40 {
		m.Keep(key(i), &plan.TextBlend{Text: text})
		m.Keep(key(i), &plan.TextBlend{Text: text}) // again: nothing is counted twice
		_, first := m.Get(key(0))
		assert.True(t, first, "what is used stays")
		assert.LessOrEqual(t, m.bytes, maxBlendBytes)
	}
	_, old := m.Get(key(2))
	assert.False(t, old)
	_, last := m.Get(key(39))
	assert.True(t, last)
	m.Keep("large", &plan.TextBlend{Text: make([]byte, 2*maxBlendBytes)})
	assert.LessOrEqual(t, m.bytes, maxBlendBytes, "one that is too large is not kept")
}
