package blend

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAnEditIsCarriedIntoATextThatWentItsOwnWay(t *testing.T) {
	base := `<header><p>Hut</p></header><main><h1>Prices</h1><p>A bunk is 20.</p><p>Soup is 5.</p></main><footer>f</footer>`
	theirs := strings.NewReplacer("20.", "22.", "<p>Soup is 5.</p>", "<p>Soup is 5.</p><p>Tea is free.</p>").Replace(base)
	ours := strings.NewReplacer(`<header><p>Hut</p></header>`, `<cp-part role="header"></cp-part>`, "Soup", "Leek soup").Replace(base)
	out, conflicts := Text([]byte(base), []byte(theirs), []byte(ours))
	assert.Contains(t, string(out), "A bunk is 22.")
	assert.Contains(t, string(out), "<p>Leek soup is 5.</p><p>Tea is free.</p>")
	assert.Contains(t, string(out), "cp-part")
	assert.Empty(t, conflicts)

	twice, conflicts := Text([]byte(base), []byte(theirs), out)
	assert.Equal(t, string(out), string(twice), "what is there already is not made again")
	assert.Empty(t, conflicts)

	theirs = strings.Replace(base, "<p>Hut</p>", "<p>Stable</p>", 1)
	out, conflicts = Text([]byte(base), []byte(theirs), []byte(ours))
	assert.Equal(t, ours, string(out))
	assert.Equal(t, []Conflict{{1, "“Hut” became “Stable”"}}, conflicts)
}

// What was not changed on our side becomes just what theirs is; what they did not
// change stays ours; and applying all hunks to the base gives theirs.
func TestLaws(t *testing.T) {
	word := rapid.SampledFrom([]string{"<p>", "</p>", "a", "b", "c", " ", "\n", "<br>"})
	rapid.Check(t, func(t *rapid.T) {
		b := strings.Join(rapid.SliceOfN(word, 0, 30).Draw(t, "b"), "")
		x := strings.Join(rapid.SliceOfN(word, 0, 30).Draw(t, "x"), "")
		out, conflicts := Text([]byte(b), []byte(x), []byte(b))
		assert.Equal(t, x, string(out))
		assert.Empty(t, conflicts)
		out, conflicts = Text([]byte(b), []byte(b), []byte(x))
		assert.Equal(t, x, string(out))
		assert.Empty(t, conflicts)
		hunks, ok := Hunks([]byte(b), []byte(x))
		require.True(t, ok)
		var made strings.Builder
		at := 0
		for _, h := range hunks {
			made.WriteString(strings.Join(h.base[at:h.from], "") + h.New)
			at = h.to
		}
		all := tokens([]byte(b))
		made.WriteString(strings.Join(all[at:], ""))
		assert.Equal(t, x, made.String())
	})
}

func TestTextsThatHaveNothingInCommon(t *testing.T) {
	out, conflicts := Text([]byte(strings.Repeat("a ", 2000)), []byte(strings.Repeat("b ", 2000)), []byte("mine"))
	assert.Equal(t, "mine", string(out))
	assert.Len(t, conflicts, 1)
}
