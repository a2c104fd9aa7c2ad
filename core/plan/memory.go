package plan

import (
	"maps"
	"slices"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// TextBlend is what blending the texts of an item gave.
type TextBlend struct {
	Text      []byte
	Digest    item.Digest // of the text
	Facts     *facts.Facts
	Conflicts []blend.Conflict
	Used      []string // the keys of decisions that found their conflict
}

// BlendMemory remembers blends by the digest of all that they depend on, so that a plan that
// is made again blends what has changed since. Whoever gets one must not change it.
type BlendMemory interface {
	Get(item.Digest) (*TextBlend, bool)
	Keep(item.Digest, *TextBlend)
}

// memoryKey is the digest of what a blend depends on: the three texts and what was decided.
func (b *blended) memoryKey(base item.Digest, ask Request) item.Digest {
	if base == "" {
		return ""
	}
	address := b.row.Address.String()
	on := []string{string(b.row.Address.Kind), string(base), string(b.head.Doc), string(b.came.Baseline.Doc),
		b.head.Meta.Context, b.came.Baseline.Meta.Context, string(ask.Decisions[address].Side)}
	own := ConflictKey(b.row.Address, "")
	for _, key := range slices.Sorted(maps.Keys(ask.Decisions)) {
		if strings.HasPrefix(key, own) {
			on = append(on, key, string(ask.Decisions[key].Decision))
		}
	}
	return about(on...)
}
