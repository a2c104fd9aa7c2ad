package pictures

import (
	"context"
	"errors"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/internal/memory"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"
)

// Same tells whether two addresses show the same, by what they show alone.
func (p *Pictures) Same(ctx context.Context, a, b string) (bool, error) {
	var shown [2]item.Digest
	for i, at := range []string{a, b} {
		d, err := p.Previews.Digest(ctx, at)
		if err != nil && !errors.Is(err, preview.ErrNotShown) {
			return false, err
		}
		shown[i] = d
	}
	return shown[0] == shown[1], nil
}

// maxDifferences is how many differences are remembered.
const maxDifferences = 4000

// Difference finds where two pictures that were made differ.
func (p *Pictures) Difference(ctx context.Context, before, after *store.Picture) (Difference, error) {
	if before.Doc == after.Doc {
		return Difference{}, nil
	}
	key := [2]item.Digest{before.Picture, after.Picture}
	p.mu.Lock()
	d, known := p.differ[key]
	p.mu.Unlock()
	if known {
		return d, nil
	}
	p.comparing.Lock() // each holds two pictures in memory
	defer p.comparing.Unlock()
	defer memory.Work()()
	a, err := p.Files.Open(before.Doc)
	if err != nil {
		return d, fmt.Errorf("the picture before: %w", err)
	}
	defer a.Close()
	b, err := p.Files.Open(after.Doc)
	if err != nil {
		return d, fmt.Errorf("the picture after: %w", err)
	}
	defer b.Close()
	if d, err = Compare(a, b); err != nil {
		return d, err
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.differ == nil || len(p.differ) >= maxDifferences {
		p.differ = map[[2]item.Digest]Difference{}
	}
	p.differ[key] = d
	return d, ctx.Err()
}
