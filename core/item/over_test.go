package item

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func held(t *testing.T, c Collection, address string) string {
	t.Helper()
	h, ok := c.Find(MustAddress(address))
	if !ok {
		return ""
	}
	b, err := Read(c, h)
	require.NoError(t, err)
	return string(b)
}

func TestWhatIsLaidOverACollectionLeavesItAsItIs(t *testing.T) {
	s := NewSet()
	s.Put(Head{Address: MustAddress("page/a")}, []byte("a"))
	s.Put(Head{Address: MustAddress("page/c")}, []byte("c"))
	o := NewOver(s)
	o.Set(Head{Address: MustAddress("page/a")}, []byte("other"))
	o.Set(Head{Address: MustAddress("page/b")}, []byte("new"))
	assert.Equal(t, []string{"other", "new", "c"},
		[]string{held(t, o, "page/a"), held(t, o, "page/b"), held(t, o, "page/c")})
	assert.Equal(t, "a", held(t, s, "page/a"))
	var names []string
	for _, h := range o.Heads() {
		names = append(names, h.Address.Key)
	}
	assert.Equal(t, []string{"a", "b", "c"}, names, "sorted by address, each once")
	_, changed := o.Changed(MustAddress("page/c"))
	assert.False(t, changed)
}

func TestOfTwoCollectionsTheFirstOnesItemIsShown(t *testing.T) {
	one, two := NewSet(), NewSet()
	one.Put(Head{Address: MustAddress("page/a")}, []byte("one"))
	two.Put(Head{Address: MustAddress("page/a")}, []byte("two"))
	two.Put(Head{Address: MustAddress("page/b")}, []byte("b"))
	u := NewUnion(one, two)
	assert.Equal(t, []string{"one", "b", ""},
		[]string{held(t, u, "page/a"), held(t, u, "page/b"), held(t, u, "page/c")})
	assert.Len(t, u.Heads(), 2)
	assert.Len(t, one.Heads(), 1)
}

func TestMetadataFollowsPagesThatMove(t *testing.T) {
	slugs := map[string]string{"/contact/": "/contact-2/", "/a/": "/b/"}
	assert.Equal(t, "/contact-2/", Meta{Slug: "/contact/"}.Moved(slugs).Slug)
	m := Meta{
		Placement: &Placement{
			Where:  []string{"page:/contact/", "under:/a/", "home", "records:room"},
			Unless: []string{"page:/x/"},
		},
	}
	got := m.Moved(slugs)
	assert.Equal(t, []string{"page:/contact-2/", "under:/b/", "home", "records:room"}, got.Placement.Where)
	assert.Equal(t, []string{"page:/x/"}, got.Placement.Unless)
	assert.Equal(t, "page:/contact/", m.Placement.Where[0], "what it was made of stays")
	assert.NotNil(t, Meta{Placement: &Placement{Where: []string{}}}.Moved(slugs).Placement.Where,
		"placed nowhere is a decision")
}

// What is done with an item one after the other: the last holds, in each way of asking.
func TestChangedThenRemovedIsRemoved(t *testing.T) {
	a, b := MustAddress("page/a"), MustAddress("page/b")
	s := NewSet()
	s.Put(Head{Address: a, Meta: Meta{Slug: "/a/"}}, []byte("a"))
	set := func(o *Over, at Address, slug string) { o.Set(Head{Address: at, Meta: Meta{Slug: slug}}, []byte(slug)) }
	type pages = map[string]Address // by slug
	for name, c := range map[string]struct {
		do   func(o *Over)
		want pages
	}{
		"changed, then removed":   {func(o *Over) { set(o, a, "/a/"); o.Drop(a) }, nil},
		"removed, then put again": {func(o *Over) { o.Drop(a); set(o, a, "/x/") }, pages{"/x/": a}},
		"added, then removed":     {func(o *Over) { o.Drop(a); set(o, b, "/b/"); o.Drop(b) }, nil},
		"moved twice":             {func(o *Over) { set(o, a, "/x/"); set(o, a, "/y/") }, pages{"/y/": a}},
		"its address given to another": {func(o *Over) { set(o, a, "/x/"); set(o, b, "/a/") },
			pages{"/x/": a, "/a/": b}},
		"looked at, then changed": {func(o *Over) { o.Heads(); set(o, b, "/b/") }, pages{"/a/": a, "/b/": b}},
	} {
		t.Run(name, func(t *testing.T) {
			o := NewOver(s)
			c.do(o)
			for _, slug := range []string{"/a/", "/b/", "/x/", "/y/"} {
				at, ok := o.PageAt(slug)
				assert.Equal(t, c.want[slug], at, "%s: %s", name, slug)
				assert.Equal(t, c.want[slug] != Address{}, ok, "%s: %s", name, slug)
				_, ok = o.Find(at)
				assert.Equal(t, at != Address{}, ok, name)
			}
			assert.Len(t, o.Heads(), len(c.want), name)
			assert.Len(t, o.OfKind(Page, Part), len(c.want), name)
		})
	}
}
