package store

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
)

// A step may change one item several times, as when a picture's words and its name are set: the last change is the
// one that counts, at the place of the first.
func TestTheLastChangeOfAnItemCounts(t *testing.T) {
	change := func(id, doc string) Change { return Change{Head: item.Head{ID: id, Doc: item.Digest(doc)}} }
	assert.Equal(t, []Change{change("a", "3"), change("b", "2")},
		lastOfEach([]Change{change("a", "1"), change("b", "2"), change("a", "3")}))
	assert.Empty(t, lastOfEach(nil))
}
