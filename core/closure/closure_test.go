package closure

import (
	"fmt"
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func world(files map[string]string, metas map[string]item.Meta) *Small {
	s := item.NewSet()
	for a, text := range files {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: metas[a]}, []byte(text))
	}
	return NewSmall(s)
}

var hut = world(map[string]string{
	"page/home": `<!doctype html><html><body><cp-section name="hours"></cp-section><a ` +
		`href="/contact">c</a></body></html>`,
	"page/contact": `<!doctype html><html><body></body></html>`,
	"section/hours": `<section><img src="/media/door.jpg"><cp-form name="book"></cp-form><cp-records ` +
		`type="room"></cp-records><x-clock></x-clock><a href="/gone/#a">g</a><cp-title></cp-title></section>`,
	"form/book":         `{"confirmation":{"page":"/contact/"}}`,
	"record-type/room":  `{"title":"Room"}`,
	"media/door.jpg":    "x",
	"stylesheet/base":   `@import "/stylesheets/more.css"; .a{background:url(/media/bg.png)}`,
	"stylesheet/more":   `.b{}`,
	"media/bg.png":      "y",
	"component/x-clock": `customElements.define("x-clock", class {})`,
	"setting/title":     `"Hut"`,
}, map[string]item.Meta{"page/home": {Slug: "/"}, "page/contact": {Slug: "/contact/"},
	"section/hours": {Styles: []item.Address{item.MustAddress("stylesheet/base")}}})

func names(r *Result) string {
	var out []string
	for _, e := range r.Items {
		out = append(out, e.Address.String())
	}
	return strings.Join(out, " ")
}

func nobody(item.Address) bool { return false }

func TestAllThatIsNeededComesAlongWithItsReason(t *testing.T) {
	r, err := Compute(hut, []item.Address{item.MustAddress("section/hours")}, nobody)
	require.NoError(t, err)
	assert.Equal(
		t,
		"section/hours stylesheet/base stylesheet/more media/bg.png media/door.jpg form/book record-type/room "+
			"component/x-clock",
		names(r),
	)
	for _, e := range r.Items {
		assert.Equal(t, e.Chosen, len(e.Reasons) == 0, "%s", e.Address)
	}
	var needs []string
	for _, n := range r.Needs {
		needs = append(needs, fmt.Sprintf("%s%s optional=%v known=%v", n.Address, n.Slug, n.Optional, n.Known))
	}
	assert.Equal(
		t,
		[]string{
			"page/contact/contact/ optional=true known=true",
			"setting/title optional=true known=true",
			"//gone/ optional=true known=false",
		},
		needs,
	)
}

func TestWhatIsLeftOutBecomesANeed(t *testing.T) {
	r, err := Compute(
		hut,
		[]item.Address{item.MustAddress("section/hours")},
		func(a item.Address) bool { return a.Kind == item.Form },
	)
	require.NoError(t, err)
	assert.NotContains(t, names(r), "form/book")
	found := false
	for _, n := range r.Needs {
		if n.Address == item.MustAddress("form/book") {
			found = true
			assert.False(t, n.Optional)
			assert.True(t, n.Known)
			assert.Equal(t, ShowsForm, n.Reasons[0].Relation)
		}
	}
	assert.True(t, found)
}

func TestLinksAreFoundWithAndWithoutTheSlash(t *testing.T) {
	h, _ := hut.Find(item.MustAddress("page/home"))
	f, err := hut.Facts(h)
	require.NoError(t, err)
	uses := Uses(hut, h, f)
	require.Len(t, uses, 2)
	assert.Equal(t, item.MustAddress("page/contact"), uses[1].To)
	assert.True(t, uses[1].Soft)
}

func TestCirclesEnd(t *testing.T) {
	w := world(
		map[string]string{
			"section/a": `<cp-section name="b"></cp-section>`,
			"section/b": `<cp-section name="a"></cp-section>`,
		},
		nil,
	)
	r, err := Compute(w, []item.Address{item.MustAddress("section/a")}, nobody)
	require.NoError(t, err)
	assert.Equal(t, "section/a section/b", names(r))
}

func TestWhatIsNotThereCannotBeChosen(t *testing.T) {
	_, err := Compute(hut, []item.Address{item.MustAddress("part/none")}, nobody)
	assert.ErrorContains(t, err, "there is no part/none here")
}
