package span

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestApply(t *testing.T) {
	out, err := Apply(
		[]byte("hello world"),
		[]Edit{
			{Span{6, 11}, []byte("hut")},
			{Span{0, 0}, []byte("a ")},
			{Span{0, 0}, []byte("b ")},
			{Span{5, 6}, nil},
		},
	)
	require.NoError(t, err)
	assert.Equal(t, "a b hellohut", string(out))
	for _, bad := range [][]Edit{{{Span{0, 3}, nil}, {Span{2, 4}, nil}}, {{Span{9, 99}, nil}}, {{Span{3, 1}, nil}}} {
		_, err := Apply([]byte("hello"), bad)
		assert.Error(t, err)
	}
}

// What no edit names stays byte for byte, in order.
func TestTheRestStays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		src := []byte(rapid.StringN(0, 40, -1).Draw(t, "src"))
		var edits []Edit
		var kept []byte
		at := 0
		for at < len(src) {
			n := rapid.IntRange(1, len(src)-at).Draw(t, "n")
			if rapid.Bool().Draw(t, "edit") {
				edits = append(edits, Edit{Span{at, at + n}, nil})
			} else {
				kept = append(kept, src[at:at+n]...)
			}
			at += n
		}
		out, err := Apply(src, edits)
		require.NoError(t, err)
		assert.Equal(t, string(kept), string(out))
	})
}

func TestLine(t *testing.T) {
	for offset, want := range map[int][2]int{0: {1, 1}, 2: {1, 3}, 3: {2, 1}, 5: {3, 1}, 99: {3, 2}} {
		line, column := Line([]byte("ab\nc\nd"), offset)
		assert.Equal(t, want, [2]int{line, column}, "offset %d", offset)
	}
}
