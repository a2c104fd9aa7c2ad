package tokens

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTokens(t *testing.T) {
	s, err := Parse([]byte(`{"color":{"$type":"color","ink":{"$value":"#1d2b3a"},"text":{"$value":"{color.ink}"}},
"space":{"m":{"$type":"dimension","$value":{"value":1.5,"unit":"rem"}}},"font":{"body":{"$type":"fontFamily",` +
		`"$value":["Hut Serif","serif"]}}}`))
	require.NoError(t, err)
	assert.Equal(
		t,
		":root {\n  --color-ink: #1d2b3a;\n  --color-text: var(--color-ink);\n  --font-body: \"Hut Serif\", "+
			"serif;\n  --space-m: 1.5rem;\n}\n",
		string(s.Sheet()),
	)
	_, err = Parse([]byte(`{"a":{"$value":"{b}"},"b":{"$value":"{a}"}}`))
	assert.ErrorContains(t, err, "circle")
	_, err = Parse([]byte(`{"a":{"$value":"{nothing}"}}`))
	assert.ErrorContains(t, err, "does not exist")
}

func TestColour(t *testing.T) {
	black, _ := ParseColour("#000")
	white, ok := ParseColour("#ffffffff")
	require.True(t, ok)
	assert.InDelta(t, 21, Contrast(black, white), 0.001)
	l, a, b := white.OKLab()
	assert.InDeltaSlice(t, []float64{1, 0, 0}, []float64{l, a, b}, 0.001)
	near, _ := ParseColour("#fefefe")
	assert.Less(t, Distance(white, near), 0.02)
	_, ok = ParseColour("red")
	assert.False(t, ok)

	grey, _ := ParseColour("#999999")
	read, ok := Nearest(grey, white, 4.5)
	require.True(t, ok)
	assert.GreaterOrEqual(t, Contrast(read, white), 4.5)
	assert.Less(t, Contrast(read, white), 4.8, "no darker than it must be")
	assert.Equal(t, "#999999", grey.Hex())
	middle, _ := ParseColour("#777777")
	_, ok = Nearest(grey, middle, 7)
	assert.False(t, ok, "neither black nor white has it")
}
