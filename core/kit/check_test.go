package kit

import (
	"fmt"
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// checked gives what the check says of some items, one finding a line.
func checkedTexts(t *testing.T, texts map[string]string, fillins ...Fillin) string {
	t.Helper()
	set, list := item.NewSet(), &PackingList{Terms: Terms{License: "CC0-1.0"}, Fillins: fillins}
	for a, text := range texts {
		h := item.Head{Address: item.MustAddress(a)}
		set.Put(h, []byte(text))
		list.Items = append(list.Items, Entry{Kind: h.Address.Kind, Key: h.Address.Key})
	}
	found, err := Check(list, set)
	require.NoError(t, err)
	var out []string
	for _, f := range found {
		out = append(out, fmt.Sprintf("%s line %d: %s", f.Address, f.Line, f.Message))
	}
	return strings.Join(out, "\n")
}

func TestTheCheckFindsWhatBelongsToSomebodyOrWasNeverMeantToStay(t *testing.T) {
	said := checkedTexts(t, map[string]string{"section/a": `<section>
<p>Lorem ipsum dolor sit amet</p>
<p>Welcome to Sample Hut</p>
<p>Write to ida@highmoor.example or call +44 1234 567890</p>
<a href="mailto:post@highmoor.example">us</a><a href="tel:+441234567890">phone</a>
<h2 data-fill="text:hut">Sample Hut</h2><p data-fill="html:words">Lorem ipsum <b>x@y.example</b></p>
<script>var m = "a@b.example"</script><p>Prices from 18 a night, room 12-14</p>
<cp-title>Sample Hut</cp-title></section>`}, Fillin{Name: "hut", Type: "text", Label: "Hut", Sample: "Sample Hut"},
		Fillin{Name: "words", Type: "rich-text", Label: "Words", Sample: "abc"})
	for _, want := range []string{`line 2: it holds filler: "Lorem ipsum"`,
		`line 3: the sample "Sample Hut" of the fill-in hut stands here as text`,
		"line 4: it names ida@highmoor.example", "line 4: it names +44 1234 567890",
		"line 5: it links to the mail address post@highmoor.example",
		"line 5: it links to the phone number +441234567890"} {
		assert.Contains(t, said, want)
	}
	assert.NotContains(t, said, "line 6", "what stands in a blank is replaced")
	assert.NotContains(t, said, "line 8: the sample", "what an element of the engine shows meanwhile is no text")
	assert.NotContains(t, said, "line 7", "prices and rooms are no phones, and a script is no text")
}

// An anchor of a section that a page shows is within the page; one of a section that it does not show is not.
func TestAnAnchorLiesInWhatAPageShows(t *testing.T) {
	said := checkedTexts(t, map[string]string{
		"page/home":        `<main><a href="#services">To it</a><cp-section name="services"></cp-section></main>`,
		"page/other":       `<main><a href="#services">To it</a></main>`,
		"section/services": `<section id="services"><a href="#elsewhere">x</a></section>`,
	})
	assert.NotContains(t, said, "page/home line 1: the anchor")
	assert.Contains(t, said, "page/other line 1: the anchor #services leads nowhere")
	assert.Contains(t, said, "section/services line 1: the anchor #elsewhere leads nowhere")
}

func TestABlankThatBrowsersWouldRunStopsSealing(t *testing.T) {
	said := checkedTexts(
		t,
		map[string]string{
			"section/a": `<p data-fill="onclick:x">a</p><a data-fill="href:javascript:{x}" href="#">b</a><a ` +
				`data-fill="href:tel:{x}" href="#">c</a>`,
		},
		Fillin{Name: "x", Type: "text", Label: "X"},
	)
	assert.Equal(t, 2, strings.Count(said, "browsers would run what is filled in"), said)
}

func TestTheCheckFindsColoursThatPassTheTokensBy(t *testing.T) {
	sheet := "@layer cp-frame { :where(.a) { color: #111 } }\n:root { --ink: #222 }\n.a { color: var(--ink); " +
		"border: 1px solid #ccc }\n.b { background: rgb(1 2 3) url(#x) }"
	tokens := map[string]string{
		"stylesheet/base": sheet,
		"tokens/brand":    `{"ink":{"$type":"color","$value":"#222222"}}`,
	}
	assert.Contains(t, checkedTexts(t, tokens), "stylesheet/base line 3: 2 colours are written out")
	delete(tokens, "tokens/brand")
	assert.NotContains(t, checkedTexts(t, tokens), "colour", "without tokens there is nothing to pass by")
}
