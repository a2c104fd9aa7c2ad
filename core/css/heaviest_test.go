package css

import (
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a rule must outdo: the heaviest that any rule says of the property, nested ones with the heaviest of their
// parents (CSS Nesting Level 1, section 3.2), whatever its place or its state.
func TestTheHeaviestRuleIsTold(t *testing.T) {
	tree := markup.Parse([]byte(`<main id="m" class="wide"><p class="note" style="margin: 0">x</p></main>`), "")
	p := tree.ByTag("p")
	require.Len(t, p, 1)
	for name, x := range map[string]struct {
		sheet string
		want  Weight
	}{
		"nothing is said": {`p { margin: 0 }`,
			Weight{}},
		"a type": {`p { color: red }`,
			Weight{Specificity: [3]int{0, 0, 1}}},
		"the heavier of two": {`.note.note { color: red } p { color: red }`,
			Weight{Specificity: [3]int{0, 2, 0}}},
		"one for a state": {`p { color: red } p:hover { color: red }`,
			Weight{Specificity: [3]int{0, 1, 1}}},
		"one that does not fit": {`#other p { color: red }`,
			Weight{}},
		"the heaviest of a list of parents": {`#n, .wide { & p { color: red } }`,
			Weight{Specificity: [3]int{1, 0, 1}}},
		"the same the other way round": {`.wide, #n { & p { color: red } }`,
			Weight{Specificity: [3]int{1, 0, 1}}},
		"a parent twice": {`.wide { &.wide & .note, & p { color: red } }`,
			Weight{Specificity: [3]int{0, 1, 1}}},
		"important": {`p { color: red !important }`,
			Weight{Specificity: [3]int{0, 0, 1}, Important: true}},
		"a property of the same family": {`p { background-color: red }`,
			Weight{}},
		"in a layer it weighs nothing": {`@layer a { #m p { color: red } } p { color: red }`,
			Weight{Specificity: [3]int{0, 0, 1}}},
		"important in a layer": {`@layer a { p { color: red !important } }`,
			Weight{Important: true, Layered: true}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, x.want, NewCascade([]byte(x.sheet)).Heaviest(p[0], "color"))
		})
	}
	assert.Equal(t, Weight{Specificity: [3]int{0, 0, 1}, Inline: true},
		NewCascade([]byte(`p { margin-top: 0 }`)).Heaviest(p[0], "margin"), "the style attribute says it, too")
	assert.Equal(t, [3]int{0, 1, 0}, NewCascade([]byte(`.note { font: x } p { line-height: 1 }`)).
		Heaviest(p[0], "line-height").Specificity, "a shorthand of another name decides it as well")
}
