package edit_test

import (
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/look"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestLooksAreKeptAndWorn(t *testing.T) {
	s := hut(t)
	c := s.Collection.(*item.Set)
	c.Put(item.Head{Address: item.MustAddress("tokens/brand")},
		[]byte(`{"color":{"$type":"color","ink":{"$value":"#111"},`+
			`"paper":{"$value":"#fff"},"text":{"$value":"{color.ink}"}}}`))
	op := func(name edit.Name, value, property string) edit.Operation {
		return edit.Operation{Op: name, Value: value, Property: property}
	}
	got := after(t, s, op(edit.LookKeep, "day", ""), op(edit.Token, "#eee", "color.ink"),
		op(edit.Token, "#222", "--color-paper"), op(edit.LookKeep, "night", ""), op(edit.LookWear, "day", ""))
	assert.NotContains(t, got, "tokens/brand", "by day it is as it was")
	got = after(t, s, op(edit.LookKeep, "day", ""), op(edit.Token, "#eee", "color.ink"))
	assert.Contains(t, got["tokens/brand"], `"ink":{"$value":"#eee"}`)
	assert.Contains(t, got["setting/looks"], `"tokens/brand#color.ink": "#111"`)
	assert.NotContains(t, got["setting/looks"], "color.text", "an alias follows")
	refused(t, s, "no look", op(edit.LookWear, "dusk", ""))
	refused(t, s, "no look", op(edit.LookDrop, "dusk", ""))
	refused(t, s, "no token", op(edit.Token, "#000", "color.moss"))
	refused(t, s, "needs value", op(edit.LookKeep, "", ""))

	c.Put(item.Head{Address: look.Setting}, []byte(`{"night":{"tokens/brand#color.paper":"#000","tokens/gone#x":1}}`))
	all, err := look.Of(c)
	require.NoError(t, err)
	sheet, err := all["night"].Sheet(c)
	require.NoError(t, err)
	assert.Contains(t, string(sheet), "--color-paper: #000")
	worn := done(t, s, op(edit.LookWear, "night", ""))
	assert.Contains(t, worn.Says[0], "it has no tokens/gone#x any more")
	c.Put(item.Head{Address: look.Setting}, []byte(`[`))
	refused(t, s, "cannot be read", op(edit.LookWear, "night", ""))
}
