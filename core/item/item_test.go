package item

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAddresses(t *testing.T) {
	for _, good := range []string{"part/site-header", "media/2024/ridge.dawn_1.jpg", "record/room/attic",
		"component/x-clock"} {
		t.Run(good, func(t *testing.T) {
			a, err := ParseAddress(good)
			require.NoError(t, err)
			assert.Equal(t, good, a.String())
			back, ok := AddressOfPath(a.Path())
			assert.True(t, ok, a.Path())
			assert.Equal(t, a, back)
		})
	}
	for _, bad := range []string{"", "part", "part/", "thing/x", "part/Upper", "part/a//b", "part/../x", "part/a b",
		"part/é", "media/" + string(make([]byte, 200))} {
		t.Run(bad, func(t *testing.T) {
			_, err := ParseAddress(bad)
			assert.Error(t, err, bad)
		})
	}
	for _, p := range []string{"pages/home.htm", "media", "pages/Home.html", "elsewhere/x.html", "components/x.js",
		"tokens/brand.json"} {
		t.Run(p, func(t *testing.T) {
			_, ok := AddressOfPath(p)
			assert.False(t, ok, p)
		})
	}
	var a Address
	require.NoError(t, json.Unmarshal([]byte(`"menu/main"`), &a))
	assert.Equal(t, MustAddress("menu/main"), a)
	assert.Error(t, json.Unmarshal([]byte(`"menu"`), &a))
	require.NoError(t, json.Unmarshal([]byte(`""`), &a))
	assert.True(t, a.IsZero())
}

func TestAnyNameBecomesAKey(t *testing.T) {
	assert.Equal(t, "uber-uns/fruhling-2024.jpg", MakeKey("Über uns/Frühling  2024.JPG"))
	rapid.Check(t, func(t *rapid.T) {
		key := MakeKey(rapid.String().Draw(t, "name"))
		assert.NoError(t, CheckKey(key))
		assert.Equal(t, key, MakeKey(key), "a key stays itself")
	})
}

func TestTargets(t *testing.T) {
	for s, exact := range map[string]int{"everywhere": 0, "records:room": 20, "records:room?category=attic": 25,
		"under:/a/": 42, "under:/a/b/": 43, "search": 60, "home": 80, "page:/a/": 100} {
		t.Run(s, func(t *testing.T) {
			target, ok := ParseTarget(s)
			require.True(t, ok, s)
			assert.Equal(t, exact, target.Exactness(), s)
		})
	}
	for _, s := range []string{"", "nowhere", "page", "page:a", "page:/a", "records:", "records:A B",
		"records:room?x=y", "records:room?category=", "home:/"} {
		t.Run(s, func(t *testing.T) {
			_, ok := ParseTarget(s)
			assert.False(t, ok, s)
		})
	}
	last := -1
	for _, i := range Targets {
		assert.GreaterOrEqual(t, i.Exact, last, "listed from the least to the most exact")
		last = i.Exact
	}
}

func TestStateCoversContentAndMetadata(t *testing.T) {
	h := Head{
		Address: MustAddress("part/x"),
		Meta:    Meta{Role: Header, Variant: map[Role]string{"b": "1", "a": "2"}},
		Doc:     DigestOf([]byte("x")),
	}
	same := h
	same.ID, same.NormalizedDigest, same.Bytes = "other", "other", 99
	assert.Equal(t, h.State(), same.State(), "ids and what follows from the content do not count")
	for name, change := range map[string]func(*Head){
		"content": func(h *Head) { h.Doc = DigestOf([]byte("y")) }, "address": func(h *Head) { h.Address.Key = "y" },
		"metadata": func(h *Head) { h.Meta.Off = true },
	} {
		t.Run(name, func(t *testing.T) {
			other := h
			change(&other)
			assert.NotEqual(t, h.State(), other.State(), name)
		})
	}
	a, b := Head{Address: MustAddress("page/a")}, Head{Address: MustAddress("page/b")}
	assert.Equal(t, CollectionDigest([]Head{a, b}), CollectionDigest([]Head{b, a}), "the order does not count")
	assert.NotEqual(t, CollectionDigest([]Head{a}), CollectionDigest([]Head{a, b}))
}

func TestSettingsThatMayTravel(t *testing.T) {
	yes, no := true, false
	assert.True(t, Meta{}.IsPortable("logo"))
	assert.False(t, Meta{}.IsPortable("head-scripts"))
	assert.False(t, Meta{}.IsPortable("visit-counter"), "what nobody knows stays")
	assert.True(t, Meta{Portable: &yes}.IsPortable("visit-counter"))
	assert.False(t, Meta{Portable: &no}.IsPortable("logo"))
}

func TestPlaceComesFromTheRole(t *testing.T) {
	assert.Equal(t, []string{"everywhere"}, Meta{Role: Footer}.Place().Where)
	assert.Equal(t, []string{"not-found"}, Meta{Role: NotFound}.Place().Where)
	assert.Empty(t, Meta{Role: Footer, Placement: &Placement{Where: []string{}}}.Place().Where,
		"an empty placement is a decision")
}

func TestSetsAreCollections(t *testing.T) {
	s := NewSet()
	s.Put(Head{Address: MustAddress("menu/b")}, []byte("b"))
	h := s.Put(Head{Address: MustAddress("page/a")}, []byte("a"))
	assert.Equal(t, []Address{MustAddress("page/a"), MustAddress("menu/b")},
		[]Address{s.Heads()[0].Address, s.Heads()[1].Address})
	b, err := Read(s, h)
	require.NoError(t, err)
	assert.Equal(t, "a", string(b))
	_, err = Read(s, Head{Address: MustAddress("page/c"), Doc: DigestOf([]byte("c"))})
	assert.ErrorContains(t, err, "page/c")
	s.Drop(h.Address)
	_, ok := s.Find(h.Address)
	assert.False(t, ok)
}
