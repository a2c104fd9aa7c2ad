package edit_test

import (
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// after does operations and gives what items come to be; what is taken out is "".
func after(t *testing.T, s site, list ...edit.Operation) map[string]string {
	t.Helper()
	got := done(t, s, list...)
	out := map[string]string{}
	for _, c := range got.Changes {
		if out[c.Head.Address.String()] = string(c.Content); c.Gone {
			out[c.Head.Address.String()] = ""
		}
	}
	return out
}

func TestSectionsAreLinkedOrOwn(t *testing.T) {
	s := hut(t)
	got := after(t, s, on("/", ".hours h2", edit.OwnCopy, ""))
	require.Len(t, got, 1)
	assert.Contains(t, got["page/home"],
		`<section class="hours"><h2>Hours</h2><p data-fill="text:day">Friday &amp; Saturday</p></section>`,
		"with the page's own value")
	assert.NotContains(t, got["page/home"], "cp-section")

	value := on("/", ".hours", edit.OwnValue, "Sunday")
	value.Property = "day"
	assert.Contains(t, becomes(t, s, "page/home", value), `<cp-value for="day">Sunday</cp-value>`)
	value.Value = ""
	assert.Contains(t, becomes(t, s, "page/home", value), `<cp-section name="hours"></cp-section>`,
		"the section's again")
	value.Property = "night"
	refused(t, s, "no blank", value)
	refused(t, s, "no section", on("/", "h1", edit.OwnCopy, ""))

	share := on("/", "main ul", edit.Share, "")
	share.Item, share.Label = item.MustAddress("section/list"), "A list"
	got = after(t, s, share)
	assert.Contains(t, got["page/home"], `<cp-section name="list"></cp-section>`)
	assert.Equal(t, "<ul>\n  <li>One</li>\n  <li>Two</li>\n</ul>\n", got["section/list"])
	share.Element = "main li:first-child"
	refused(t, s, "cannot stand in <ul>", share)
	share.Item = item.MustAddress("section/hours")
	refused(t, s, "already", share)

	// Who takes a linked section off a page, copies or moves it, means its place there.
	assert.NotContains(t, becomes(t, s, "page/home", on("/", ".hours", edit.Remove, "")), "cp-section")
	move := on("/", ".hours", edit.MoveElement, "")
	move.Beside, move.Place = "h1", edit.Before
	assert.Contains(t, becomes(t, s, "page/home", move), "</cp-section>\n<h1")
	put := on("/", ".hours", edit.Insert, "<p>New</p>")
	put.Place = edit.After
	assert.Contains(t, becomes(t, s, "page/home", put), "</cp-section><p>New</p>")
	put.Place = edit.Inside
	assert.Contains(t, becomes(t, s, "section/hours", put), "<p>New</p></section>", "within it, it is for all pages")
}

func TestItemsOfTheSiteAreShown(t *testing.T) {
	s := hut(t)
	show := func(a string) edit.Operation {
		return edit.Operation{Op: edit.Show, Page: "/rooms/", Element: "main", Place: edit.Inside,
			Item: item.MustAddress(a)}
	}
	assert.Contains(t, becomes(t, s, "page/rooms", show("section/hours")),
		`<cp-section name="hours"></cp-section></main>`)
	assert.Contains(t, becomes(t, s, "page/rooms", show("menu/main")), `<cp-menu name="main"></cp-menu>`)
	assert.Contains(t, becomes(t, s, "page/rooms", show("media/a.jpg")), `<img src="/media/a.jpg" alt="">`)
	refused(t, s, "cannot stand", show("part/bar"))
	refused(t, s, "no section/gone", show("section/gone"))
	s.Collection.(*item.Set).Put(item.Head{Address: item.MustAddress("block/call"),
		Meta: item.Meta{Styles: []item.Address{item.MustAddress("stylesheet/base")}}}, []byte("<p>Call us</p>\n"))
	assert.Contains(t, becomes(t, s, "page/rooms", show("block/call")), "<p>Call us</p></main>")
	assert.Equal(t, []item.Address{item.MustAddress("stylesheet/base")},
		metaOf(t, s, "page/rooms", show("block/call")).Styles)
}

func TestEmptyElementsAreWhole(t *testing.T) {
	s := hut(t)
	values := map[string]string{"heading": "Walks & more", "text": "x", "picture": "media/a.jpg",
		"button": "Book", "icon": "media/a.jpg", "list": "One\nTwo", "columns": "3", "video": "media/a.jpg",
		"map": "https://maps.highmoor.example/hut", "strip": "media/a.jpg media/b.jpg", "questions": "When?",
		"number": "42", "menu": "main", "html": "<p>Own</p>", "search": "", "profiles": "", "line": "", "space": ""}
	for _, name := range edit.EmptyElements {
		v, ok := values[name]
		if !ok {
			continue // needs a form or a record type, which the hut has not
		}
		op := on("/", "h1", edit.Empty, v)
		op.Property, op.Place = name, edit.After
		assert.NotEmpty(t, becomes(t, s, "page/home", op), name)
	}
	bad := func(name, value, why string) {
		t.Helper()
		op := on("/", "h1", edit.Empty, value)
		op.Property, op.Place = name, edit.After
		refused(t, s, why, op)
	}
	bad("carousel", "", "no empty element")
	bad("picture", "media/gone.jpg", "no media")
	bad("columns", "many", "how many")
	bad("map", "javascript:x", "https://")
	bad("form", "contact", "no form/contact")
	bad("html", `<p onclick="x()">x</p>`, "would run")
}

func TestComponentsHaveAttributes(t *testing.T) {
	s := hut(t)
	c := s.Collection.(*item.Set)
	c.Put(item.Head{Address: item.MustAddress("component/x-weather")}, []byte(`class X extends HTMLElement {
		static get observedAttributes() { return ["place", 'units'] } }`))
	c.Put(item.Head{Address: item.MustAddress("page/rooms"), Meta: item.Meta{Slug: "/rooms/"}},
		[]byte(`<!doctype html><main><x-weather place="ridge" mode="wide">Weather</x-weather><p>x</p></main>`))
	op := func(element, name, value string) edit.Operation {
		return edit.Operation{Op: edit.Attribute, Page: "/rooms/", Element: element, Property: name, Value: value}
	}
	assert.Contains(t, becomes(t, s, "page/rooms", op("x-weather", "place", `the "ridge"`)),
		`place="the &quot;ridge&quot;"`)
	assert.Contains(t, becomes(t, s, "page/rooms", op("x-weather", "units", "C")), `units="C"`)
	assert.Contains(t, becomes(t, s, "page/rooms", op("x-weather", "mode", "")), `<x-weather place="ridge">`)
	refused(t, s, "no attribute", op("x-weather", "days", "3"))
	c.Put(item.Head{Address: item.MustAddress("media/custom-elements.json"),
		Meta: item.Meta{MediaType: "application/json"}},
		[]byte(`{"schemaVersion":"1.0.0","modules":[{"declarations":[{"tagName":"x-weather",`+
			`"attributes":[{"name":"days"}]}]}]}`))
	assert.Contains(t, becomes(t, s, "page/rooms", op("x-weather", "days", "3")), `days="3"`)
	refused(t, s, "would run", op("x-weather", "place", "javascript:x"))
	refused(t, s, "would run", op("x-weather", "place", " java\tscript:x"))
	refused(t, s, "is no component", op("p", "place", "x"))
}

func TestFormattedWordsAreCleaned(t *testing.T) {
	s := hut(t)
	for pasted, want := range map[string]string{
		`Open <b>all</b> <em>year</em><br>and <a href="/rooms/" onclick="x()">more</a>`: `Open <b>all</b> ` +
			`<em>year</em><br>` +
			`and <a href="/rooms/">more</a>`,
		"<style>p{}</style><p class=\"MsoNormal\" style=\"color:red\">One &amp; <span " +
			"lang=EN>two</span></p><p>Three</p>": "One " +
			"&amp; two<br>Three",
		"<script>alert(1)</script>Safe <i>and sound": "Safe <i>and sound</i>",
		"<b>over<i>lap</b>ping</i>":                  "<b>over<i>lapping</i></b>",
		"1 < 2":                                      "1 &lt; 2",
	} {
		assert.Contains(t, becomes(t, s, "page/home", on("/", "h1", edit.Formatted, pasted)),
			`<h1 class="big">`+want+`</h1>`)
	}
	refused(t, s, "nothing is at", on("/", "h1", edit.Formatted, `<a href="/gone/">x</a>`))
	refused(t, s, "would run", on("/", "h1", edit.Formatted, `<a href="javascript:x">x</a>`))
	refused(t, s, "holds <li>", on("/", "main ul", edit.Formatted, "x"))
	refused(t, s, "no words", on("/", "img", edit.Formatted, "x"))
}
