package css

import (
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
)

// Pseudo-classes of one browser say how an element is at a moment: a rule for them is cut as one for :hover is.
func TestStatesOfOneBrowserAreStates(t *testing.T) {
	piece := []Subject{SubjectOf(markup.Parse([]byte(`<form class="ask"><select class="kind"></select></form>`), ""))}
	got := Subset(Parse([]byte(".kind:-moz-focusring{color:red} .other:-moz-focusring{color:blue} "+
		".kind:not(:-moz-placeholder-shown){top:0} .kind:no-such-thing{left:0}")), piece)
	assert.Contains(t, string(got.CSS), ".kind:-moz-focusring")
	assert.NotContains(t, string(got.CSS), ".other")
	assert.Contains(t, string(got.CSS), ":not(:-moz-placeholder-shown)")
	if assert.Len(t, got.Notes, 1) {
		assert.Contains(t, got.Notes[0], "no-such-thing")
	}
}
