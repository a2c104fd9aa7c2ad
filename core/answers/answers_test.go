package answers

import (
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAnswersAreReadAndHeldAgainstTheirForm(t *testing.T) {
	a, err := Parse(
		[]byte(
			"format: 1\nkit: hut-basics@1.1.0\nseats: kit\ndecisions:\n  menu/main: both\n  " +
				"form/booking: map:form/ask\nfills:\n  phone: 0123\n  hut-name: Larch Saddle\n",
		),
	)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"menu/main": "both", "form/booking": "map:form/ask"}, a.Decisions)
	assert.Equal(t, "0123", a.Fills["phone"], "a value is a text, whatever it looks like")
	assert.Equal(t, plan.SeatsKit, a.Seats)
	assert.NoError(t, a.For("hut-basics"))
	assert.ErrorContains(t, a.For("dusk"), "for the kit hut-basics, and this is dusk")
	_, err = Parse([]byte(`{"format": 1, "fills": {"a": "b"}}`))
	assert.NoError(t, err, "JSON is YAML")
	for text, says := range map[string]string{
		"": "empty", "decisions: {}": "no format", "format: 2": "format 2", "format: 1\ncolour: red": "line 2",
		"format: 1\nfills:\n  a: b\n  a: c":               "line 4",
		"format: 1\npolicy: bold":                         "policy",
		"format: 1\nseats: mine":                          "ask, site or kit",
		"format: 1\ndecisions:\n  menu/main: both:menu/x": "only map names an item",
		"format: 1\ndecisions:\n  a/b: map:nothing":       "not an address",
		"format: [": "cannot be read", "format: 1\n---\nformat: 1": "more than one",
		"format: 1\nfills: [a]":                              "cannot be read",
		"format: 1\nfills: " + strings.Repeat("x", maxBytes): "at most",
	} {
		t.Run(text, func(t *testing.T) {
			_, err := Parse([]byte(text))
			assert.ErrorContains(t, err, says, text[:min(len(text), 60)])
		})
	}
}

func TestATemplateIsAnswersToFillIn(t *testing.T) {
	p := &plan.Plan{Kit: "hut-basics", Version: "1.1.0", Policy: "careful", Questions: []plan.Question{
		{
			Key:     "menu/main",
			Kind:    "item",
			Message: "menu/main: the site has another.",
			Choices: []plan.Choice{{Decision: plan.Both, Effect: "it comes in beside"},
				{Decision: plan.Map, Effect: "you name another"}},
		},
		{
			Key:     "need:form/ask",
			Kind:    "need",
			Message: "form/ask is needed.",
			Choices: []plan.Choice{{Decision: plan.Map, Effect: "you name another"},
				{Decision: plan.Accept, Effect: "without"}},
		},
		{
			Key:     "seat:*",
			Kind:    "seat",
			Message: "Two places.",
			Choices: []plan.Choice{{Decision: plan.ForSite, Effect: "the site's"}},
		},
		{Key: "fill:hut-name", Kind: "fill", Message: "open"},
	}, Fills: []plan.FillRow{
		{Fillin: kit.Fillin{Name: "hut-name", Label: "Name", Type: "text", Sample: "Sample: Hut", Required: true}},
		{Fillin: kit.Fillin{Name: "note", Label: "Note", Type: "text"}, Value: "a: b # c\nd", Given: true},
	}}
	text := string(
		Template(
			p,
			"larch-saddle",
			plan.Request{
				Decisions: map[string]plan.Decided{
					"form/booking": {Decision: plan.Map, To: item.MustAddress("form/ask")},
					"class:hero":   {Decision: "rename"},
				},
			},
		),
	)
	a, err := Parse([]byte(text))
	require.NoError(t, err, text)
	assert.Equal(t, map[string]string{"form/booking": "map:form/ask", "class:hero": "rename"}, a.Decisions)
	assert.Equal(t, map[string]string{"note": "a: b # c\nd"}, a.Fills)
	assert.Contains(t, text, "# need:form/ask: map:form/NAME", "a key and a value that the reader takes")
	for _, l := range strings.Split(text, "\n") {
		if l, open := strings.CutPrefix(l, "  # "); open && strings.Count(l, ": ") == 1 && !strings.HasPrefix(l, " ") {
			_, err := Parse([]byte("format: 1\ndecisions:\n  " + strings.Replace(l, "NAME", "name", 1)))
			assert.NoError(t, err, l)
		}
	}
	filled := strings.Replace(strings.Replace(text, "  # menu/main: both", "  menu/main: both", 1), "  # hut-name: ",
		"  hut-name: ", 1)
	a, err = Parse([]byte(filled))
	require.NoError(t, err, filled)
	assert.Equal(t, "both", a.Decisions["menu/main"])
	assert.Equal(t, "Sample: Hut", a.Fills["hut-name"])
	assert.Contains(t, text, "map:menu/NAME: you name another")
}

func TestWhateverIsFilledInComesBackFromATemplate(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		value := rapid.String().Draw(t, "value")
		p := &plan.Plan{
			Kit:     "k",
			Version: "1.0.0",
			Policy:  "careful",
			Fills: []plan.FillRow{
				{
					Fillin: kit.Fillin{Name: "x", Label: rapid.String().Draw(t, "label"), Type: "text"},
					Value:  value, Given: true,
				},
			},
		}
		a, err := Parse(Template(p, "site", plan.Request{}))
		require.NoError(t, err)
		assert.Equal(t, value, a.Fills["x"])
	})
}
