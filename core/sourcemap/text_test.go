package sourcemap

import (
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/span"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// holds holds a text against the laws: its segments tile it, and what was copied is the source's.
func holds(t *rapid.T, text Text, sources [][]byte, r *Recorder) {
	at := 0
	for _, s := range text.Segments {
		require.Equal(t, at, s.Start)
		require.Greater(t, s.End, s.Start)
		at = s.End
		if s.Kind == Copied {
			src := sources[s.Place.Occurrence]
			assert.Equal(t, string(s.Place.Span.Of(src)), string(s.Span.Of(text.Bytes)))
		}
	}
	require.Equal(t, len(text.Bytes), at)
	m := r.Map(text)
	for offset := range text.Bytes {
		s, ok := m.At(offset)
		require.True(t, ok)
		assert.True(t, s.Start <= offset && offset < s.End)
	}
	_, ok := m.At(len(text.Bytes))
	assert.False(t, ok)
}

// Whatever is sliced, put behind each other and edited, the laws hold; and without a recorder the
// same operations give the same bytes.
func TestTextsCarryWhereTheyCameFrom(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := &Recorder{}
		var sources [][]byte
		var plain, mapped []Text
		for range rapid.IntRange(1, 3).Draw(t, "sources") {
			b := []byte(rapid.StringN(0, 20, -1).Draw(t, "source"))
			sources = append(sources, b)
			plain = append(plain, Text{Bytes: b})
			mapped = append(mapped, r.Source(b, r.Enter(item.Address{Kind: item.Page, Key: "p"}, -1, span.Span{}, 0)))
		}
		spanOf := func(text Text) span.Span {
			from := rapid.IntRange(0, len(text.Bytes)).Draw(t, "from")
			return span.Span{Start: from, End: rapid.IntRange(from, len(text.Bytes)).Draw(t, "to")}
		}
		for range rapid.IntRange(0, 8).Draw(t, "steps") {
			i := rapid.IntRange(0, len(plain)-1).Draw(t, "i")
			j := rapid.IntRange(0, len(plain)-1).Draw(t, "j")
			at := spanOf(plain[i])
			switch rapid.IntRange(0, 4).Draw(t, "step") {
			case 0:
				plain, mapped = append(plain, plain[i].Slice(at)), append(mapped, mapped[i].Slice(at))
			case 1:
				plain, mapped = append(plain, Concat(plain[i], plain[j])), append(mapped, Concat(mapped[i], mapped[j]))
			case 2:
				p, err := plain[i].Apply([]Edit{{at, plain[j]}})
				require.NoError(t, err)
				m, err := mapped[i].Apply([]Edit{{at, mapped[j]}})
				require.NoError(t, err)
				plain, mapped = append(plain, p), append(mapped, m)
			case 3:
				var none *Recorder
				plain = append(plain, none.Build("x").Made("a").Add(plain[i]).Made("b").Text())
				mapped = append(mapped, r.Build("x").Made("a").Add(mapped[i]).Made("b").Text())
			default:
				plain, mapped = append(plain, plain[i].TrimSpace()), append(mapped, mapped[i].TrimSpace())
			}
		}
		for i := range plain {
			assert.Equal(t, string(plain[i].Bytes), string(mapped[i].Bytes))
			assert.Nil(t, plain[i].Segments)
			holds(t, mapped[i], sources, r)
		}
	})
}

func TestOverlappingEditsAreRefused(t *testing.T) {
	text := Text{Bytes: []byte("abcdef")}
	_, err := text.Apply([]Edit{{Span: span.Span{Start: 0, End: 3}}, {Span: span.Span{Start: 2, End: 4}}})
	assert.Error(t, err)
	_, err = text.Apply([]Edit{{Span: span.Span{Start: 4, End: 9}}})
	assert.Error(t, err)
}

// A value comes back from the page as it went there, in every form.
func TestCodecsAreTurnedRound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		value := rapid.StringOf(rapid.SampledFrom([]rune("ab &<>\"'é\\\n"))).Draw(t, "value")
		for _, c := range Codecs {
			got, ok := c.Value(c.Page(value))
			require.True(t, ok, c)
			assert.Equal(t, value, got, c)
		}
	})
	_, ok := PlainToText.Value("a <b>bold</b> word")
	assert.False(t, ok, "markup is no value")
	assert.Equal(t, `Hut & \"stove\"`, JSONToText.Source(`Hut & "stove"`))
}

func TestPlacesOfStringsInJSON(t *testing.T) {
	src := []byte(`{"title": "Main", "n": 1, "entries": [{"label": "a\"b", "to": "/"}, {"entries": [{"label": ` +
		`"c"}]}], "x/y": "z"}`)
	got := map[string]string{}
	for way, at := range stringPlaces(src) {
		got[way] = string(at.Of(src))
	}
	assert.Equal(t, map[string]string{"title": "Main", "entries/0/label": `a\"b`, "entries/0/to": "/",
		"entries/1/entries/0/label": "c", "x~1y": "z"}, got)
	assert.Empty(t, stringPlaces([]byte(`{"broken`)))
	assert.Equal(t, span.Span{Start: 1, End: 4}, stringPlaces([]byte(`"abc"`))[""])
}
