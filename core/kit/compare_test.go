package kit

import (
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func told(t *testing.T, a, b map[string]string) map[string]Change {
	t.Helper()
	c, err := Compare(opened(t, made(t, "1.0.0", a)).Contents(), opened(t, made(t, "1.1.0", b)).Contents())
	require.NoError(t, err)
	out := map[string]Change{}
	for _, x := range c.Changes {
		out[x.Address.String()] = x
	}
	return out
}

func TestWhatChangedBetweenTwoVersions(t *testing.T) {
	got := told(t, map[string]string{
		"page/home":       `<main><h1>Hut</h1><a href="/old/" class="x">Way</a><p>gone</p></main>`,
		"stylesheet/base": `.h{color:red;top:0} .gone{left:0} @media print{.h{top:1px}}`,
		"menu/main":       `{"title":"Main","entries":[{"label":"Home","to":"/"}]}`,
		"media/a.png":     "png", "section/same": "<p>same</p>", "section/old": "<p>old</p>", "form/book": "{",
	}, map[string]string{
		"page/home": `<main><h1>Hut on the ridge</h1><a href="/new/" class="x" ` +
			`rel="next">Way</a><figure>new</figure></main>`,
		"stylesheet/base": `.h{color:blue} .new{left:0} @media print{.h{top:2px}}`,
		"menu/main":       `{"title":"Main","entries":[{"label":"Start","to":"/"}]}`,
		"media/a.png":     "pngs",
		"section/same":    "<p>same</p>",
		"section/young":   "<p>young</p>",
		"form/book":       "{}",
	})
	for address, want := range map[string][]string{
		"page/home": {`line 1 <h1>: the text "Hut" → "Hut on the ridge"`, `line 1 <a.x>: href "/old/" → "/new/"`,
			`line 1 <a.x>: rel="next" added`, `line 1 <p>: removed "gone"`, `line 1 <figure>: added "new"`},
		"stylesheet/base": {"the rule .gone: removed", "the rule .h: color: red → blue", "the rule .h: top: 0 removed",
			"the rule .new: added", "the rule @media print .h: top: 1px → 2px"},
		"menu/main":   {`entries[1].label: "Home" → "Start"`},
		"media/a.png": {"3 bytes → 4 bytes"},
		"form/book":   {"1 bytes → 2 bytes"},
	} {
		t.Run(address, func(t *testing.T) {
			assert.EqualValues(t, "changed", got[address].What, address)
			assert.ElementsMatch(t, want, got[address].Details, address)
		})
	}
	assert.EqualValues(t, "removed", got["section/old"].What)
	assert.EqualValues(t, "added", got["section/young"].What)
	assert.NotContains(t, got, "section/same")
	large := strings.Repeat("<p>x</p>", 3000)
	assert.Equal(t, []string{"3000 elements → 3001 elements"},
		told(t, map[string]string{"page/a": large}, map[string]string{"page/a": large + "<p>y</p>"})["page/a"].Details,
		"too much to align")
}

func TestRenamesReformatsAndWords(t *testing.T) {
	a := opened(t, made(t, "1.0.0", map[string]string{"part/top": "<p>a</p>", "part/end": "<p>e</p>"}))
	b := opened(t, made(t, "2.0.0", map[string]string{"part/site-header": "<p>b</p>", "part/end": "<p >e</p>"}))
	for i := range b.List.Items {
		if b.List.Items[i].Key == "site-header" {
			b.List.Items[i].Was = []item.Address{item.MustAddress("part/top")}
		} else {
			b.List.Items[i].NormalizedDigest = a.List.Items[0].NormalizedDigest
		}
	}
	b.List.Terms.License = "CC0-1.0"
	b.List.Fillins = []Fillin{{Name: "hut-name", Label: "Name", Type: "text"}}
	c, err := Compare(a.Contents(), b.Contents())
	require.NoError(t, err)
	require.Len(t, c.Changes, 2)
	assert.EqualValues(t, "reformatted", c.Changes[0].What)
	assert.EqualValues(t, "renamed", c.Changes[1].What)
	assert.Equal(t, "part/top", c.Changes[1].Was.String())
	assert.Contains(t, strings.Join(c.Metadata, "\n"), `terms.license: "CC-BY-4.0" → "CC0-1.0"`)
	assert.Contains(t, strings.Join(c.Metadata, "\n"), "fill-in.hut-name: ")
}

func TestWhichVersionComesNext(t *testing.T) {
	offers := func(texts map[string]string) map[string]bool {
		k := opened(t, made(t, "1.2.3", texts))
		o, err := Offers(&k.List, k)
		require.NoError(t, err)
		return o
	}
	base := map[string]string{
		"section/a":        "<p>a",
		"record-type/room": `{"schema":{"properties":{"beds":{}}}}`,
		"tokens/brand":     `{"ink":{"$type":"color","$value":"#123456"}}`,
	}
	with := func(extra map[string]string, without ...string) map[string]string {
		out := map[string]string{}
		for k, v := range base {
			out[k] = v
		}
		for k, v := range extra {
			out[k] = v
		}
		for _, w := range without {
			delete(out, w)
		}
		return out
	}
	last := &PackingList{Version: "1.2.3"}
	for name, c := range map[string]struct {
		texts   map[string]string
		changed bool
		next    string
		reason  string
	}{
		"nothing":  {base, false, "1.2.3", "nothing changed"},
		"contents": {with(map[string]string{"section/a": "<p>b"}), true, "1.2.4", "contents changed"},
		"new item": {with(map[string]string{"section/b": "<p>b"}), true, "1.3.0", "section/b is new"},
		"gone":     {with(nil, "section/a"), true, "2.0.0", "section/a is gone"},
		"field renamed": {with(map[string]string{"record-type/room": `{"schema":{"properties":{"places":{}}}}`}), true,
			"2.0.0", "the field beds of record-type/room is gone"},
		"token added": {with(map[string]string{"tokens/brand": `{"ink":{"$type":"color","$value":"#123456"},` +
			`"paper":{"$type":"color","$value":"#ffffff"}}`}), true, "1.3.0",
			"the token paper of tokens/brand is new"},
	} {
		t.Run(name, func(t *testing.T) {
			a, err := Advise(last, offers(base), offers(c.texts), c.changed)
			require.NoError(t, err)
			assert.Equal(t, c.next, a.Next, name)
			assert.Contains(t, strings.Join(a.Reasons, "\n"), c.reason, name)
			assert.True(t, a.Enough(c.next), name)
			assert.False(t, a.Enough("1.2.2"), name)
		})
	}
	early, err := Advise(&PackingList{Version: "0.3.1"}, offers(base), offers(with(nil, "section/a")), true)
	require.NoError(t, err)
	assert.Equal(t, "0.4.0", early.Next, "before 1.0.0 nothing is promised")
	_, err = Advise(&PackingList{Version: "one"}, nil, nil, true)
	assert.Error(t, err)
}
