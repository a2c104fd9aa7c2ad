package kit

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// golden is a kit in which every member of the packing list's metadata stands once.
func golden(t *testing.T) []byte {
	l, open := listOf(map[string]string{
		"page/home":        `<!doctype html><body><cp-section name="hours"></cp-section></body>`,
		"section/hours":    contents["section/hours"],
		"part/site-header": `<header><cp-title></cp-title><cp-strapline></cp-strapline></header>`,
		"part/snow":        `<p>Snow on the pass.</p>`,
		"media/door.jpg":   contents["media/door.jpg"],
		"menu/main":        contents["menu/main"],
		"tokens/brand":     `{"ink":{"$type":"color","$value":"#222"}}`,
	})
	metas := map[string]item.Meta{
		"page/home": {Title: "Home", Slug: "/", Width: item.WidthEdge, Variant: map[item.Role]string{
			item.Header: "over-picture"}, Styles: []item.Address{item.MustAddress("tokens/brand")}},
		"part/site-header": {Role: item.Header, Variants: []string{"plain", "over-picture"},
			Placement: &item.Placement{Where: []string{"everywhere"}, Unless: []string{"page:/quiet/"}},
			Was:       []item.Address{item.MustAddress("part/top-bar")}},
		"part/snow": {Role: item.Overlay, Placement: &item.Placement{Where: []string{"home"}},
			Trigger: &item.Trigger{On: item.OnScroll, Value: 0.5, Repeat: item.RepeatSession}},
		"media/door.jpg": {MediaType: "image/jpeg"},
	}
	for i := range l.Items {
		l.Items[i].Meta = metas[l.Items[i].Address().String()]
	}
	l.Summary, l.Changes = "A page with its surround.", "The first one."
	l.Authors = []Author{{Name: "Highmoor web room"}}
	l.Fillins = []Fillin{{Name: "hut-name", Label: "Name of the hut", Type: FillText, Sample: "Sample Hut",
		Required: true}}
	l.Proposes = map[string]any{"setting/home": "page/home"}
	l.LeavesOut = []LeftOut{{Address: "setting/title", Why: "site-only"}}
	l.StyleOrder = []item.Address{item.MustAddress("tokens/brand")}
	var b bytes.Buffer
	_, err := Write(&b, l, open)
	require.NoError(t, err)
	return b.Bytes()
}

// The golden file of format 1 is read for ever, and still written the same.
func TestGoldenFile(t *testing.T) {
	p := filepath.Join("testdata", "format-1.cpkit")
	if os.Getenv("RENEW") != "" {
		require.NoError(t, os.WriteFile(p, golden(t), 0o644))
	}
	b, err := os.ReadFile(p)
	require.NoError(t, err)
	k, err := open(b)
	require.NoError(t, err)
	require.NoError(t, k.Verify())
	assert.Equal(t, "hut-basics", k.List.Kit)
	header, ok := k.Find(item.MustAddress("part/site-header"))
	require.True(t, ok)
	assert.Equal(t, []string{"page:/quiet/"}, header.Meta.Placement.Unless)
	again, err := open(golden(t))
	require.NoError(t, err)
	assert.Equal(t, again.Digest, k.Digest)
}
