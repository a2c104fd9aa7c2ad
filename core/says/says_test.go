package says

import (
	"errors"
	"fmt"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

type refusal struct{ Message }

func (r refusal) Error() string { return r.String() }
func (r refusal) Said() Message { return r.Message }

// A message says what fmt would, and knows what its values are; one within another keeps them.
func TestAMessageSaysWhatItsFormatDoes(t *testing.T) {
	a := item.MustAddress("page/walks")
	m := New("%s is at %s already: %q names %d of <%s>, {as} 100%%", a, Slug("/walks/"), Selector("main > p"), 3,
		TagName("nav"))
	assert.Equal(t, `page/walks is at /walks/ already: "main > p" names 3 of <nav>, {as} 100%`, m.String())
	assert.Equal(t, []Value{{Item, "page/walks"}, {Page, "/walks/"}, {Element, "main > p"}, {Text, "3"}, {Tag, "nav"}},
		m.Values)
	assert.Equal(t, "is-at-already-names-of-as", m.Code)
	outer := New("%s of {it}: %v (%s)", "line 3", refusal{m}, errors.New("plain"))
	assert.Equal(t, "line 3 of {it}: "+m.String()+" (plain)", outer.String())
	assert.Len(t, outer.Values, 7)
	assert.Equal(t, Item, outer.Values[1].Kind)
	assert.True(t, Message{}.IsZero())
}

func TestAnyTextsCanBeValues(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x, y := rapid.String().Draw(t, "x"), rapid.String().Draw(t, "y")
		words := rapid.StringMatching(`[a-z{} ]{0,12}`).Draw(t, "words")
		assert.Equal(t, fmt.Sprintf(words+"%s, %v %q %.3q", x, y, x, y),
			New(words+"%s, %v %q %.3q", x, y, x, y).String())
	})
}
