package schema

import (
	"bytes"
	"io/fs"
	"testing"

	"compactparcel/core/answers"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
)

func compiled(t *testing.T, name string) *jsonschema.Schema {
	t.Helper()
	b, err := fs.ReadFile(Files, name+".schema.json")
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource(name, doc))
	s, err := c.Compile(name)
	require.NoError(t, err)
	return s
}

func holds(t *testing.T, s *jsonschema.Schema, v any) error {
	t.Helper()
	b, err := kit.CanonicalJSON(v)
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	require.NoError(t, err)
	return s.Validate(doc)
}

// What the code writes holds against the schemas, and what the code refuses does not.
func TestTheSchemasAreThoseOfTheFormats(t *testing.T) {
	list := kit.PackingList{
		Kit:     "hut-basics",
		Version: "1.0.0-rc.1",
		Title:   "Hut basics",
		Terms:   kit.Terms{License: "CC-BY-4.0"},
		Authors: []kit.Author{{Name: "Highmoor web room"}},
		Needs: kit.Needs{
			Kits:       map[string]string{"winter-notices": "^0.3"},
			Components: map[string]kit.ComponentNeed{"x-weather-strip": {Range: ">=2.1 <4", Optional: true}},
			Items: []kit.ItemNeed{
				{Slug: "/x/", Why: "links", Optional: true},
				{Address: "menu/main", Why: "shows"},
			},
		},
		Items: []kit.Entry{
			{
				Kind:             item.Part,
				Key:              "top",
				SHA256:           item.DigestOf(nil),
				NormalizedDigest: item.DigestOf(nil),
				Meta: item.Meta{
					Title:     "Top",
					Role:      item.Overlay,
					Variants:  []string{"plain"},
					Placement: &item.Placement{Where: []string{"everywhere"}, Unless: []string{"home"}},
					Trigger:   &item.Trigger{On: item.OnDelay, Value: 3, Repeat: item.RepeatNever},
					Was:       []item.Address{item.MustAddress("part/old")},
				},
				Uses: []item.Address{item.MustAddress("menu/main")},
			},
			{
				Kind:             item.Page,
				Key:              "a/b",
				SHA256:           item.DigestOf(nil),
				NormalizedDigest: item.DigestOf(nil),
				Meta: item.Meta{
					Slug:       "/a/",
					Without:    []item.Role{item.Footer},
					Variant:    map[item.Role]string{item.Header: "plain"},
					Width:      item.WidthEdge,
					TitleShown: true,
					Styles:     []item.Address{item.MustAddress("stylesheet/base")},
				},
			},
		},
		Fillins: []kit.Fillin{
			{Name: "hut", Label: "Hut", Type: "choice", Choices: []string{"a"}},
		},
		LeavesOut:  []kit.LeftOut{{Address: "setting/x", Why: "site-only"}},
		Generated:  []kit.File{{Path: "views/a.html", SHA256: item.DigestOf(nil)}},
		Proposes:   map[string]any{"setting/home": "page/a/b"},
		StyleOrder: []item.Address{item.MustAddress("stylesheet/base")},
	}
	list.Settle()
	s := compiled(t, "packing-list")
	require.NoError(t, list.Validate())
	require.NoError(t, holds(t, s, list))
	for name, change := range map[string]func(*kit.PackingList){
		"a newer format": func(l *kit.PackingList) { l.Format = 2 },
		"no version":     func(l *kit.PackingList) { l.Version = "1.0" },
		"no name":        func(l *kit.PackingList) { l.Kit = "a/b" },
		"a digest": func(l *kit.PackingList) {
			l.Items = []kit.Entry{{Kind: item.Page, Key: "x", Path: "pages/x.html", SHA256: "x"}}
		}, "a role": func(l *kit.PackingList) {
			l.Items = []kit.Entry{{Kind: item.Part, Key: "x", Path: "surround/x.html", SHA256: item.DigestOf(nil),
				NormalizedDigest: item.DigestOf(nil), Meta: item.Meta{Role: "roof"}}}
		}, "a type": func(l *kit.PackingList) { l.Fillins = []kit.Fillin{{Name: "x", Type: "smell"}} },
	} {
		t.Run(name, func(t *testing.T) {
			bad := list
			change(&bad)
			assert.Error(t, bad.Validate(), name)
			assert.Error(t, holds(t, s, bad), name)
		})
	}
	priv, pub, err := kit.NewKey()
	require.NoError(t, err)
	key, err := kit.ParsePrivateKey(priv)
	require.NoError(t, err)
	seal, err := list.Sign(nil, key)
	require.NoError(t, err)
	assert.NoError(t, holds(t, compiled(t, "seal"), seal))
	trust, err := kit.ParseTrust(pub)
	require.NoError(t, err)
	assert.NoError(t, holds(t, compiled(t, "trust-list"), trust))
}

// Answers to fill in hold against their schema, and so do those that are read.
func TestTheSchemaOfAnswers(t *testing.T) {
	s := compiled(t, "answers")
	p := &plan.Plan{
		Kit:     "hut-basics",
		Version: "1.0.0",
		Policy:  "careful",
		Fills:   []plan.FillRow{{Fillin: kit.Fillin{Name: "a", Label: "A", Type: "text"}, Value: "b", Given: true}},
	}
	for text, good := range map[string]bool{
		string(answers.Template(p, "larch-saddle",
			plan.Request{Decisions: map[string]plan.Decided{"menu/main": {Decision: plan.Map,
				To: item.MustAddress("menu/top")}}})): true,
		"format: 1\ndecisions:\nfills:\n": true, "format: 2\n": false, "format: 1\ncolour: red\n": false,
		"format: 1\ndecisions:\n  a/b: map:x\n": false, "policy: careful\n": false,
	} {
		t.Run(text, func(t *testing.T) {
			var doc any
			require.NoError(t, yaml.Unmarshal([]byte(text), &doc))
			err := holds(t, s, doc)
			_, readErr := answers.Parse([]byte(text))
			assert.Equal(t, good, err == nil, "%s: %v", text, err)
			assert.Equal(t, good, readErr == nil, "what the schema says is what is read: %s: %v", text, readErr)
		})
	}
}
