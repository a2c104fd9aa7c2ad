package edit_test

import (
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func page(slug string, op edit.Name, value string) edit.Operation {
	return edit.Operation{Op: op, Page: slug, Value: value}
}

// metaOf does operations and gives the metadata of an item afterwards.
func metaOf(t *testing.T, s site, of string, list ...edit.Operation) item.Meta {
	t.Helper()
	got := done(t, s, list...)
	for _, c := range got.Changes {
		if c.Head.Address.String() == of {
			return c.Head.Meta
		}
	}
	require.Fail(t, "it did not change", of)
	return item.Meta{}
}

func TestPagesAreMadeAndMoved(t *testing.T) {
	s := hut(t)
	made := page("/walks/", edit.PageNew, "Walks & more")
	got := after(t, s, made)
	assert.Contains(t, got["page/walks"], "<title>Walks &amp; more</title>")
	m := metaOf(t, s, "page/walks", made)
	assert.Equal(t, "/walks/", m.Slug)
	assert.Equal(t, []item.Address{item.MustAddress("stylesheet/base")}, m.Styles, "in the site's look")
	made.Item = item.MustAddress("page/rooms")
	assert.Contains(t, after(t, s, made)["page/walks"], "<h1>Rooms</h1>")
	refused(t, s, "something is at", page("/rooms/", edit.PageNew, "Again"))
	refused(t, s, "needs value", page("/walks/", edit.PageNew, ""))

	assert.Equal(t, "The rooms", metaOf(t, s, "page/rooms", page("/rooms/", edit.PageTitle, "The rooms")).Title)
	got = after(t, s, page("/rooms/", edit.PageAddress, "/beds/"))
	assert.Contains(t, got["page/home"], `<a href="/beds/">`)
	assert.Contains(t, got["menu/main"], `"to":"/beds/"`)
	refused(t, s, "already at", page("/rooms/", edit.PageAddress, "/"))

	assert.Equal(t, []item.Role{item.Header},
		metaOf(t, s, "page/rooms", page("/rooms/", edit.PageWithout, "header")).Without)
	refused(t, s, "no role", page("/rooms/", edit.PageWithout, "hat"))
	assert.Equal(t, item.WidthEdge, metaOf(t, s, "page/rooms", page("/rooms/", edit.PageWidth, "edge")).Width)
	refused(t, s, "the width is", page("/rooms/", edit.PageWidth, "huge"))
	variant := page("/rooms/", edit.PageVariant, "dark")
	variant.Property = "header"
	refused(t, s, "has a variant", variant)

	hidden := page("/rooms/", edit.PageHidden, "yes")
	assert.Contains(t, becomes(t, s, "page/rooms", hidden), `<meta name="robots" content="noindex">`)
	done(t, s, hidden, page("/rooms/", edit.PageHidden, "no"))
	refused(t, s, "yes or no", page("/rooms/", edit.PageHidden, "perhaps"))

	// The former home page gets an address, or goes; links to / mean the home page as before.
	refused(t, s, "what becomes of page/home", page("/rooms/", edit.PageHome, ""))
	home := page("/rooms/", edit.PageHome, "/old/")
	assert.Equal(t, "/old/", metaOf(t, s, "page/home", home).Slug)
	got = after(t, s, home)
	assert.Equal(t, `"page/rooms"`, got["setting/home"])
	assert.NotContains(t, got, "menu/main")
	gone := after(t, s, page("/rooms/", edit.PageHome, "removed"))
	assert.Equal(t, "", gone["page/home"])
	refused(t, s, "home page already", page("/", edit.PageHome, "/old/"))

	removed := done(t, s, page("/rooms/", edit.PageRemove, ""))
	assert.Contains(t, removed.Says[0], "links to it stay in page/home")
	assert.NotContains(t, after(t, s, page("/rooms/", edit.PageRemove, ""))["menu/main"], "/rooms/")
	refused(t, s, "make another page that first", page("/", edit.PageRemove, ""))
}

func TestPagesAreFoldedAndSplit(t *testing.T) {
	s := hut(t)
	got := after(t, s, page("/", edit.PageFold, "/rooms/"))
	assert.Contains(t, got["page/home"], "<section id=\"rooms\">\n<h2>Rooms</h2>\n</section>\n</main>")
	assert.Contains(t, got["page/home"], `<a href="/#rooms">`, "links lead to its anchor")
	assert.Contains(t, got["menu/main"], `"to":"/#rooms"`)
	gone, there := got["page/rooms"]
	assert.True(t, there && gone == "", "it is a page no more")
	refused(t, s, "named twice", page("/", edit.PageFold, "/rooms/ /rooms/"))
	refused(t, s, "named twice", page("/", edit.PageFold, "/"))
	refused(t, s, "no page is at", page("/", edit.PageFold, "/gone/"))

	put := on("/", "h1", edit.Insert, `<section id="walks"><h2 id="top">Walks</h2><h3>Far</h3></section>`+
		`<p><a href="#walks">Walks</a></p>`)
	put.Place = edit.After
	split := on("/", "#walks", edit.PageSplit, "/walks/")
	got = after(t, s, put, split)
	assert.Contains(t, got["page/walks"],
		"<main>\n<section id=\"walks\"><h1 id=\"top\">Walks</h1><h2>Far</h2></section>\n</main>")
	assert.Contains(t, got["page/walks"], "<title>Walks</title>")
	assert.NotContains(t, got["page/home"], "<h3>Far</h3>")
	assert.Contains(t, got["page/home"], `<a href="/walks/#walks">`)
	refused(t, s, "something is at", on("/", "main ul", edit.PageSplit, "/rooms/"))
	refused(t, s, "no heading", on("/", "main ul", edit.PageSplit, "/list/"))
	refused(t, s, "main", on("/", "main", edit.PageSplit, "/all/"))
}

func TestPartsAppearWhereTheyAreTold(t *testing.T) {
	s := hut(t)
	part := func(op edit.Name, value string) edit.Operation {
		return edit.Operation{Op: op, Item: item.MustAddress("part/bar"), Value: value}
	}
	m := metaOf(t, s, "part/bar", part(edit.PartWhere, "everywhere except page:/rooms/ home"))
	assert.Equal(t, &item.Placement{Where: []string{"everywhere"}, Unless: []string{"page:/rooms/", "home"}},
		m.Placement)
	refused(t, s, "names no pages", part(edit.PartWhere, "somewhere"))
	a := done(t, s, part(edit.PartWhere, "page:/rooms/, page:/attic/"))
	assert.Equal(t, []string{"part/bar appears on page:/rooms/, page:/attic/; no page is at /attic/ yet"}, a.Says)
	assert.Equal(t, item.Footer, metaOf(t, s, "part/bar", part(edit.PartRole, "footer")).Role)
	refused(t, s, "no role", part(edit.PartRole, "hat"))
	assert.True(t, metaOf(t, s, "part/bar", part(edit.PartOff, "yes")).Off)
	refused(t, s, "yes or no", part(edit.PartOff, "maybe"))
	copied := metaOf(t, s, "part/bar-2", part(edit.PartCopy, "bar-2"))
	assert.Empty(t, copied.Place().Where, "it appears nowhere yet")
	refused(t, s, "already", part(edit.PartCopy, "bar"))
	refused(t, s, "no overlay", part(edit.PartTrigger, "delay 3"))
	c := s.Collection.(*item.Set)
	c.Put(item.Head{Address: item.MustAddress("part/note"), Meta: item.Meta{Role: item.Overlay}}, []byte("<p>Note</p>"))
	note := func(value string) edit.Operation {
		return edit.Operation{Op: edit.PartTrigger, Item: item.MustAddress("part/note"), Value: value}
	}
	assert.Equal(t, &item.Trigger{On: item.OnDelay, Value: 2.5, Repeat: item.RepeatSession},
		metaOf(t, s, "part/note", note("delay 2.5 session")).Trigger)
	assert.Equal(t, item.OnPointerOut, metaOf(t, s, "part/note", note("pointer-out")).Trigger.On)
	refused(t, s, "there is no trigger", note("blink"))
	refused(t, s, "from 0 to 1", note("scroll 40"))
	refused(t, s, "cannot repeat", note("click often"))
	gone := part(edit.PartOff, "yes")
	gone.Item = item.MustAddress("part/gone")
	refused(t, s, "no part", gone)
}

func TestRecordsAreEditedByFields(t *testing.T) {
	s := hut(t)
	c := s.Collection.(*item.Set)
	c.Put(item.Head{Address: item.MustAddress("record-type/room")}, []byte(`{"fields":{"beds":{"type":"number"},`+
		`"picture":{"type":"image"},"opens":{"type":"date"},"sort":{"type":"choice","choices":["bunk","bed"]}}}`))
	c.Put(item.Head{Address: item.MustAddress("record/room/attic"), Meta: item.Meta{Type: "room", Title: "Attic"}},
		[]byte(`<article><h1 data-value="text:title">Attic</h1><b data-value="text:beds">16</b><img `+
			`data-value="src:picture" src="/media/a.jpg" alt=""></article>`))
	field := func(name, value string) edit.Operation {
		return edit.Operation{Op: edit.Field, Item: item.MustAddress("record/room/attic"), Property: name,
			Value: value}
	}
	assert.Contains(t, becomes(t, s, "record/room/attic", field("beds", "14")), `<b data-value="text:beds">14</b>`)
	assert.Contains(t, becomes(t, s, "record/room/attic", field("picture", "/media/b.jpg")), `src="/media/b.jpg"`)
	assert.Equal(t, "The loft", metaOf(t, s, "record/room/attic", field("title", "The loft")).Title)
	for name, value := range map[string]string{"beds": "many", "picture": "media/gone.jpg", "opens": "soon",
		"sort": "hammock", "height": "3"} {
		t.Run(name, func(t *testing.T) {
			refused(t, s, map[string]string{"beds": "no number", "picture": "no media", "opens": "no date",
				"sort": "not one of", "height": "no field"}[name], field(name, value))
		})
	}
	refused(t, s, "does not show", field("opens", "2026-05-30"))
	made := edit.Operation{Op: edit.RecordNew, Item: item.MustAddress("record/room/attic"), Value: "room/loft",
		Label: "Loft"}
	assert.Contains(t, after(t, s, made)["record/room/loft"], `<h1 data-value="text:title">Loft</h1>`)
	made.Value = "room/attic"
	refused(t, s, "already", made)
}
