package form

import (
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const booking = `{"title":"Ask","order":["name","mail","gone"],"schema":{"type":"object","required":["name","mail"],
"properties":{"name":{"type":"string","title":"Your name","maxLength":8},"mail":{"type":"string","format":"email"},
"people":{"type":"integer","minimum":1,"maximum":12},"night":{"type":"string","format":"date"},
"room":{"type":"string","enum":["attic","hall"]},"food":{"type":"array","items":{"enum":["soup","bread"]}},
"quiet":{"type":"boolean"},"price":{"type":"number"},"website":{"type":"string"},"long":{"type":"string"}}}}`

func TestWhatIsSentIsHeldAgainstTheForm(t *testing.T) {
	f, err := Parse([]byte(booking))
	require.NoError(t, err)
	assert.Equal(t, []string{"name", "mail"}, f.Names())
	assert.Equal(t, "Your name", f.Label("name"))
	assert.Equal(t, "website-2", f.Trap(), "the form asks for website itself")
	good := url.Values{"name": {" Ida "}, "mail": {"ida@highmoor.example"}, "people": {"3"}, "night": {"2026-05-30"},
		"room": {"attic"}, "food": {"soup", "bread"}, "quiet": {"on"}, "price": {"2.5"}, "website-2": {""}}
	entry, wrong := f.Check(good)
	assert.Empty(t, wrong)
	assert.Equal(t, Entry{"name": "Ida", "mail": "ida@highmoor.example", "people": 3.0, "night": "2026-05-30",
		"room": "attic", "food": []any{"soup", "bread"}, "quiet": true, "price": 2.5}, entry)
	for field, value := range map[string]string{"name": "", "mail": "ida", "people": "13", "night": "soon",
		"room": "cellar", "food": "cake", "price": "much", "more": "x", "long": strings.Repeat("x", 10_001),
		"website": "a\x00b"} {
		t.Run(field, func(t *testing.T) {
			sent := url.Values{"name": {"Ida"}, "mail": {"ida@highmoor.example"}}
			sent.Set(field, value)
			_, wrong := f.Check(sent)
			require.Len(t, wrong, 1, field)
			assert.Equal(t, field, wrong[0].Field)
			assert.NotEmpty(t, wrong[0].Message)
		})
	}
	_, wrong = f.Check(url.Values{"name": {"Ida", "Ida"}, "mail": {"ida@highmoor.example"}})
	assert.Len(t, wrong, 1, "sent twice")
	_, wrong = f.Check(url.Values{"name": {"A name that is long"}, "mail": {"ida@highmoor.example"}})
	assert.Equal(t, []Wrong{{"name", "please write at most 8 characters"}}, wrong)
	_, err = Parse([]byte("no form"))
	require.Error(t, err)
	elsewhere, err := Parse([]byte(`{"schema":{"$ref":"https://elsewhere.example/schema.json"}}`))
	require.NoError(t, err)
	_, wrong = elsewhere.Check(url.Values{})
	assert.Equal(t, []Wrong{{"", "the form cannot be read"}}, wrong)
}

// What is sent has bounds of its own, whatever the schema says; and a page that is none of the site leads nowhere.
func TestWhatIsSentIsBounded(t *testing.T) {
	f, err := Parse([]byte(`{"title":"Ask","schema":{"type":"object","properties":{"days":{"type":"array",` +
		`"items":{"type":"string"}},"a":{"type":"string"},"b":{"type":"string"},"c":{"type":"string"},` +
		`"d":{"type":"string"}}}}`))
	require.NoError(t, err)
	_, wrong := f.Check(url.Values{"days": strings.Split(strings.Repeat("x ", MaxValues+1), " ")})
	require.Len(t, wrong, 1)
	assert.Contains(t, wrong[0].Message, "more than")
	long := []string{strings.Repeat("x", MaxFieldBytes-1)}
	entry, wrong := f.Check(url.Values{"a": long, "b": long, "c": long, "d": long})
	require.Len(t, wrong, 1)
	assert.Contains(t, wrong[0].Message, "all of it together")
	assert.Empty(t, entry)
	_, wrong = f.Check(url.Values{"a": long, "b": long})
	assert.Empty(t, wrong)
	for page, leads := range map[string]bool{"/thanks/": true, "@host/": false, "//host/": false, "": false,
		"https://host/": false, "\\\\host/": false} {
		t.Run(page, func(t *testing.T) {
			f.Confirmation.Page = page
			assert.Equal(t, leads, f.LeadsTo() != "", page)
		})
	}
}
