package store

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// Words gives the search words of an item's name and title.
func Words(h item.Head) []string {
	return facts.Words(
		h.Address.Key + " " + h.Meta.Title + " " + string(h.Meta.Role) + " " + strings.Join(h.Meta.Tags, " "),
	)
}

// MaxSearchWords is how many words a search can have: each is a statement.
const MaxSearchWords = 20

// ErrTooManyWords tells that a search has more than MaxSearchWords.
var ErrTooManyWords = fmt.Errorf("a search has at most %d words", MaxSearchWords)

// Search gives the ids of a collection's items in which every word, as a prefix, occurs. A
// query without a word, or with one that is too long to be indexed, finds nothing.
func (s *Store) Search(ctx context.Context, c *Collection, query string) (map[string]bool, error) {
	words := facts.Split(query)
	if len(words) > MaxSearchWords {
		return nil, ErrTooManyWords
	}
	if len(words) == 0 || slices.ContainsFunc(words, func(w string) bool { return len(w) > facts.MaxWord }) {
		return map[string]bool{}, nil
	}
	var found map[string]bool
	for _, w := range words {
		var ids []string
		like := likeText(w) + "%"
		if err := s.conn(ctx).
			Table("item_terms").
			Distinct("item_id").
			Where("collection_id = ? AND term LIKE ?", c.ID, like).
			Pluck("item_id", &ids).
			Error; err != nil {
			return nil, err
		}
		next := map[string]bool{}
		for _, id := range ids {
			if found == nil || found[id] {
				next[id] = true
			}
		}
		found = next
	}
	return found, nil
}

// likeText writes a text so that LIKE takes it as it is.
func likeText(s string) string {
	return strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(s)
}
