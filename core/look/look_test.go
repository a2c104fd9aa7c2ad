package look

import (
	"encoding/json"
	"errors"
	"io"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const brand = `{
  "color": {
    "$type": "color",
    "ink": {"$value": "#2b2135"},
    "link": {"$value": "{color.ink}"},
    "paper": {"$value": "#fdf8f3"}
  },
  "gap": {"$type": "dimension", "$value": {"value": 1.5, "unit": "rem"}}
}
`

// site gives a collection of token documents and settings, by their addresses.
func site(docs map[string]string) *item.Set {
	out := item.NewSet()
	for a, text := range docs {
		out.Put(item.Head{Address: item.MustAddress(a)}, []byte(text))
	}
	return out
}

func TestALookIsReadAndWorn(t *testing.T) {
	c := site(map[string]string{"tokens/brand": brand,
		"setting/looks": `{"Night": {"tokens/brand#color.ink": "#fdf8f3", "tokens/brand#color.gone": "#000000",
			"tokens/other#color.ink": "#000000", "page/home#x": 1, "nonsense": 2}}`})
	all, err := Of(c)
	require.NoError(t, err)
	docs, missing, err := all["Night"].Worn(c)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"tokens/brand#color.gone", "tokens/other#color.ink", "page/home#x", "nonsense"},
		missing, "what the site has not is told")
	require.Len(t, docs, 1)
	after := string(docs[item.MustAddress("tokens/brand")])
	assert.Contains(t, after, `"ink": {"$value": "#fdf8f3"}`)
	assert.Contains(t, after, `"link": {"$value": "{color.ink}"}`, "nothing else is written anew")

	sheet, err := all["Night"].Sheet(c)
	require.NoError(t, err)
	assert.Contains(t, string(sheet), "--color-ink: #fdf8f3")
}

func TestTheLookOfNowChangesNothing(t *testing.T) {
	c := site(map[string]string{"tokens/brand": brand, "tokens/broken": "{"})
	now, err := Now(c)
	require.NoError(t, err)
	assert.NotContains(t, now, "tokens/brand#color.link", "what follows another has no value of its own")
	assert.Len(t, now, 3)
	// Written in another way, it is the same value.
	now["tokens/brand#gap"] = json.RawMessage("{\n\"value\" : 1.5, \"unit\":\"rem\"}")
	docs, missing, err := now.Worn(c)
	require.NoError(t, err)
	assert.Empty(t, docs)
	assert.Empty(t, missing)
	sheet, err := now.Sheet(c)
	require.NoError(t, err)
	assert.Empty(t, sheet)
	whole, err := now.Whole(c)
	require.NoError(t, err)
	assert.Contains(t, string(whole), "--gap: 1.5rem", "tried on a page of another look, all of it is needed")
}

func TestALookComesFromAnotherSiteByItsProperties(t *testing.T) {
	own := site(map[string]string{"tokens/brand": brand})
	other := site(map[string]string{"tokens/theirs": `{"color": {"$type": "color",
		"ink": {"$value": "#101010"}, "link": {"$value": "#0b4f8a"}, "more": {"$value": "#ffffff"}}}`})
	got, err := From(other, own)
	require.NoError(t, err)
	assert.JSONEq(t, `"#101010"`, string(got["tokens/brand#color.ink"]))
	assert.JSONEq(t, `"#0b4f8a"`, string(got["tokens/brand#color.link"]), "an alias gives way to their value")
	assert.JSONEq(t, `"#fdf8f3"`, string(got["tokens/brand#color.paper"]), "what they have not stays")
	assert.NotContains(t, got, "tokens/brand#color.more", "what this site has not does not come")

	same, err := From(own, own)
	require.NoError(t, err)
	assert.Empty(t, same, "of a site that looks alike there is no look")
	none, err := From(site(nil), own)
	require.NoError(t, err)
	assert.Empty(t, none)
}

func TestASiteWithoutLooksHasNoneAndABrokenOneSaysSo(t *testing.T) {
	none, err := Of(site(map[string]string{"tokens/brand": brand}))
	require.NoError(t, err)
	assert.Empty(t, none)
	_, err = Of(site(map[string]string{"setting/looks": `["Night"]`}))
	assert.ErrorIs(t, err, ErrBroken)
}

// failing is a collection whose contents cannot be read just now.
type failing struct{ *item.Set }

var errDisk = errors.New("the disk does not answer")

func (failing) Open(item.Head) (io.ReadCloser, error) { return nil, errDisk }

// A failed read is not a look without values.
func TestWhatCannotBeReadIsNotMissing(t *testing.T) {
	good := site(map[string]string{"tokens/brand": brand, "setting/looks": "{}"})
	bad := failing{good}
	some := Look{"tokens/brand#color.ink": json.RawMessage(`"#000000"`)}
	for name, do := range map[string]func() error{
		"of":    func() error { _, err := Of(bad); return err },
		"now":   func() error { _, err := Now(bad); return err },
		"worn":  func() error { _, _, err := some.Worn(bad); return err },
		"sheet": func() error { _, err := some.Sheet(bad); return err },
		"whole": func() error { _, err := some.Whole(bad); return err },
		"from":  func() error { _, err := From(bad, good); return err },
		"to":    func() error { _, err := From(good, bad); return err },
	} {
		t.Run(name, func(t *testing.T) { assert.ErrorIs(t, do(), errDisk) })
	}
}
