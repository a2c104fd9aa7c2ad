package outside

import (
	"strings"
	"testing"
	"time"

	"compactparcel/core/span"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// applied makes the edited text from the published one and the hunks.
func applied(t require.TestingT, before, after []byte, hunks []Hunk) string {
	var edits []span.Edit
	for _, h := range hunks {
		edits = append(edits, span.Edit{Span: h.Old, New: h.New.Of(after)})
	}
	out, err := span.Apply(before, edits)
	require.NoError(t, err)
	return string(out)
}

// The hunks of any two texts make the one into the other, and what lies between them is equal.
func TestHunksMakeTheOneTextIntoTheOther(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		piece := rapid.SampledFrom([]string{"<p>", "</p>", " ", "\n", "word", "word", "other", "&amp;", "é",
			"<a href=\"", "\">"})
		a := []byte(strings.Join(rapid.SliceOfN(piece, 0, 40).Draw(t, "a"), ""))
		b := []byte(strings.Join(rapid.SliceOfN(piece, 0, 40).Draw(t, "b"), ""))
		hunks := align(a, b)
		assert.Equal(t, string(b), applied(t, a, b, hunks))
		at, bt := 0, 0
		for _, h := range hunks {
			assert.Equal(t, string(a[at:h.Old.Start]), string(b[bt:h.New.Start]), "between hunks both are equal")
			assert.False(t, h.Old.Len() == 0 && h.New.Len() == 0)
			at, bt = h.Old.End, h.New.End
		}
	})
}

// One word changed in one of many equal blocks is one hunk of that word, there.
func TestAHunkIsThatWordThere(t *testing.T) {
	block := "<li class=\"card\">\n  <p>Beds and blankets</p>\n</li>\n"
	before := strings.Repeat(block, 50)
	at := strings.Index(before[len(block)*20:], "blankets") + len(block)*20
	after := before[:at] + "pillows" + before[at+len("blankets"):]
	hunks := align([]byte(before), []byte(after))
	require.Len(t, hunks, 1)
	assert.Equal(t, span.Span{Start: at, End: at + len("blankets")}, hunks[0].Old)
}

// A text that was rewritten from end to end is compared, too.
func TestATextRewrittenFromEndToEnd(t *testing.T) {
	var a, b strings.Builder
	for i := range 60_000 {
		a.WriteString("old" + strings.Repeat("x", i%7) + " ")
		b.WriteString("new" + strings.Repeat("y", i%5) + "\n")
	}
	begun := time.Now()
	hunks := align([]byte(a.String()), []byte(b.String()))
	assert.Equal(t, b.String(), applied(t, []byte(a.String()), []byte(b.String()), hunks))
	t.Logf("%d bytes in %s", a.Len(), time.Since(begun))
}
