package edit_test

import (
	"net/url"
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/form"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFormsAskWhatTheyAreToldTo(t *testing.T) {
	s := hut(t)
	of := item.MustAddress("form/bunk")
	s.Collection.(*item.Set).Put(item.Head{Address: of}, []byte(`{
  "schema": {"type": "object", "x-note": "kept", "properties": {
    "night": {"type": "string", "format": "date", "title": "Which night"}}},
  "more": [1, 2]
}`))
	op := func(name edit.Name, property, value string) edit.Operation {
		return edit.Operation{Op: name, Item: of, Property: property, Value: value}
	}
	field := op(edit.FormField, "mail", "mail")
	field.Label, field.Entry = "Your mail address", "1"
	move := op(edit.FormMove, "hut", "")
	move.Entry = "2"
	got := becomes(t, s, "form/bunk", field,
		op(edit.FormField, "hut", "one-of: Larch | Kestrel | Larch"), move,
		op(edit.FormSet, "mail.required", "yes"), op(edit.FormSet, "mail.hint", "We write once"),
		op(edit.FormSet, "mail.example", "you@hut.example"), op(edit.FormSet, "mail.width", "half"),
		op(edit.FormField, "beds", "whole"), op(edit.FormSet, "beds.least", "1"), op(edit.FormSet, "beds.most", "4"),
		op(edit.FormSet, "title", "A bunk"), op(edit.FormSet, "confirmation", "/rooms/"))
	f, err := form.Parse([]byte(got))
	require.NoError(t, err)
	assert.Equal(t, []string{"mail", "hut", "night", "beds"}, f.Names())
	assert.Contains(t, got, `"x-note": "kept"`)
	assert.Contains(t, got, `"more": [1, 2]`)
	assert.Equal(t, "A bunk", f.Title)
	assert.Equal(t, "/rooms/", f.Confirmation.Page)
	assert.Equal(t, map[string]string{"mail": "half"}, f.Widths)
	_, wrong := f.Check(url.Values{"mail": {"a@hut.example"}, "hut": {"Nowhere"}, "beds": {"9"}})
	assert.Len(t, wrong, 2, "answers and bounds hold")

	bare := becomes(t, s, "form/bunk", field, op(edit.FormSet, "mail.width", "third"),
		op(edit.FormSet, "mail.required", "yes"), op(edit.FormRemove, "mail", ""))
	f, err = form.Parse([]byte(bare))
	require.NoError(t, err)
	assert.Equal(t, []string{"night"}, f.Names())
	assert.Empty(t, f.Widths)
	assert.Empty(t, f.Schema.Required)

	fresh := op(edit.FormNew, "", "Write to us")
	fresh.Item = item.MustAddress("form/write")
	f, err = form.Parse([]byte(becomes(t, s, "form/write", fresh)))
	require.NoError(t, err)
	assert.Equal(t, []string{"name", "mail", "words"}, f.Names())

	for why, no := range map[string]edit.Operation{
		"already":                    op(edit.FormNew, "", "Again"),
		"cannot ask for":             op(edit.FormField, "x", "colour"),
		"cannot be a field's name":   op(edit.FormField, "2 b", "text"),
		"write the answers":          op(edit.FormField, "x", "one-of: yes"),
		"takes no answers":           op(edit.FormField, "x", "text: a | b"),
		"no field \"gone\"":          op(edit.FormSet, "gone.hint", "x"),
		"a field has no":             op(edit.FormSet, "night.colour", "x"),
		"a form has no":              op(edit.FormSet, "colour", "x"),
		"as wide as":                 op(edit.FormSet, "night.width", "7px"),
		"yes or no":                  op(edit.FormSet, "night.required", "maybe"),
		"nothing is at":              op(edit.FormSet, "confirmation", "/gone/"),
		"last field":                 op(edit.FormRemove, "night", ""),
		"places from 1 to 1":         {Op: edit.FormMove, Item: of, Property: "night", Entry: "7"},
		"from 1 to 10000":            op(edit.FormSet, "night.most", "-3"),
		"menu/main is no form":       {Op: edit.FormRemove, Item: item.MustAddress("menu/main"), Property: "x"},
		"there is no form/elsewhere": {Op: edit.FormRemove, Item: item.MustAddress("form/elsewhere"), Property: "x"},
	} {
		t.Run(why, func(t *testing.T) {
			refused(t, s, why, no)
		})
	}
}
