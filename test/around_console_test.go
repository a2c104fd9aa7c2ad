package test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// liveNow puts what was done in a panel beside the pages live.
func liveNow(b *harness.Browser) {
	b.Press("Go live…")
	b.Press("Go live now")
	b.Confirm()
	b.Sees("It is live")
}

// written writes into a field, and leaves it.
func written(b *harness.Browser, selector, text string) {
	b.Type(selector, text)
	b.Do(chromedp.SendKeys(selector, "\t"))
}

// A footer is copied and stands on the pages of all rooms but one; which pages it comes to, and instead of whom, is
// told before.
func TestAFooterForAllRoomsButOneInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge")
	b.Click(`a[href="/sites/kestrel-refuge/appears/site-footer"]`)
	b.Sees("Where “Site footer” appears")
	b.Press("Make a copy")
	b.Sees("appears nowhere")
	b.Sees("No page shows it then")
	other := filepath.Join(t.TempDir(), "footer.html")
	require.NoError(t, os.WriteFile(other, []byte("<footer><p>Quiet from ten</p></footer>\n"), 0o644))
	s.Must("site", "put", "kestrel-refuge", "part/site-footer-copy", other, "--draft", draftOf(t, s, "kestrel-refuge"))

	b.Click(`[data-target="records:room"]`)
	b.Sees("appears on every room")
	b.Sees("It comes to The attic (instead of Site footer), East bunks")
	b.Click(`[data-appears="/room/attic/"] button[aria-pressed=true]`)
	b.Sees("appears on every room except on “The attic”")
	b.Shot("console-appears")
	b.Press("Let it appear so")
	b.Sees("It is in your draft")
	page := func(slug string) string { return string(s.Visit(s.Live("kestrel-refuge") + slug).Body) }
	assert.NotContains(t, page("/room/east-bunks/"), "Quiet from ten", "nothing is live yet")
	liveNow(b)
	for _, room := range []string{"east-bunks", "larder-side"} {
		assert.Contains(t, page("/room/"+room+"/"), "Quiet from ten")
	}
	for _, slug := range []string{"/room/attic/", "/", "/contact/"} {
		assert.NotContains(t, page(slug), "Quiet from ten", slug)
	}
	said := s.Must("site", "placement", "kestrel-refuge", "part/site-footer-copy", "--where", "home")
	assert.Contains(t, said, "It gains / from part/site-footer.")
	assert.Contains(t, said, "It loses /room/east-bunks/ to part/site-footer.")
	fails(t, s.Call("GET", "/api/v1/sites/kestrel-refuge/placement?part=part/none", nil), 404, "not-found", "no part")
	fails(t, s.Call("GET", "/api/v1/sites/kestrel-refuge/placement?part=part/site-footer&where=rooms", nil), 409,
		"refused", "names no pages")
}

// Three looks are kept, tried on a page and one is worn; visitors see none before it goes live.
func TestLooksAreTriedInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/looks")
	brand := func() string { return s.Must("site", "show", "kestrel-refuge", "tokens/brand") }
	was := brand()
	for name, colour := range map[string]string{"Night": "#112233", "Moss": "#335522", "Dawn": "#b5432f"} {
		written(b, `[data-token="color.dawn"] input.addr`, colour)
		b.Type(`[aria-label="Name of the look"]`, name)
		b.Press("Keep this look")
		b.Sees("Kept the look as " + name)
	}
	for _, name := range []string{"Dawn", "Moss", "Night"} {
		b.Do(chromedp.WaitVisible(`[data-look="` + name + `"]`))
	}
	b.Painted()
	for _, name := range []string{"Dawn", "Moss", "Night"} {
		b.Click(`[data-look="` + name + `"] button[aria-pressed]`)
		b.Sees("In the look " + name + "; nothing is changed by trying")
		assert.Contains(t, harness.Eval[string](b, `document.querySelector("figure iframe").src`), "try=look%3A"+name)
	}
	b.Shot("console-looks")
	assert.Equal(t, was, brand(), "none is live")
	b.Click(`[aria-label="Wear Night"]`)
	b.Sees("The site wears the look Night")
	assert.Equal(t, was, brand(), "it is in the draft")
	liveNow(b)
	assert.Contains(t, brand(), "#112233")

	// The look goes along as a kit.
	b.Go(s.Console + "/sites/kestrel-refuge/looks")
	b.Click("[data-look-along]")
	b.Sees("kestrel-refuge-look 0.1.0")
	assert.Contains(t, s.Must("kit", "show", "kestrel-refuge-look@0.1.0"), "tokens/brand")
}

// The logo is one setting with a size at each width, as visitors see it.
func TestTheLogoHasASizeAtEachWidthInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/pictures")
	b.Sees("Where it stands")
	sizes := map[string]float64{"390": 60, "768": 72, "1280": 96}
	for at, px := range sizes {
		written(b, `[data-logo-at="`+at+`"]`, strconv.Itoa(int(px)))
		b.Sees("Set setting/logo")
	}
	liveNow(b)
	for at, px := range sizes {
		width, _ := strconv.ParseInt(at, 10, 64)
		b.Size(width, 800)
		b.Go(s.Live("kestrel-refuge") + "/")
		b.Sees("First light")
		shown := harness.Eval[float64](b, `document.querySelector("img.cp-logo").getBoundingClientRect().width`)
		assert.InDelta(t, px, shown, 1, "at %s px", at)
	}
}

// A form is made, tried to the words that confirm it, and received.
func TestAFormIsMadeTriedAndReceivedInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/forms")
	b.Type("#new-form", "Ask about dogs")
	b.Press("Make the form")
	b.Sees("Ask about dogs")
	b.Type("[data-receiver-to]", "dogs at the hut")
	b.Press("Keep it")
	b.Sees("is no mail address")
	b.Type("[data-receiver-to]", "dogs@kestrel.highmoor.example")
	b.Press("Keep it")
	b.Sees("Set setting/forms")
	b.Press("Try it")
	b.Sees("It does not fit yet")
	fields := harness.Eval[[]string](b,
		`[...document.querySelectorAll("[data-trial-field]")].map((f) => f.dataset.trialField)`)
	require.Len(t, fields, 3)
	values := url.Values{fields[0]: {"Ida"}, fields[1]: {"ida@highmoor.example"}, fields[2]: {"May Moss come?"}}
	for name := range values {
		b.Type(`[data-trial-field="`+name+`"]`, values.Get(name))
	}
	b.Press("Try it")
	b.Sees("It fits")
	b.Sees("dogs@kestrel.highmoor.example")
	s.Must("site", "edit", "kestrel-refuge", "/contact/", "show", "main h1", "--item", "form/ask-about-dogs", "--place",
		"after", "--draft", draftOf(t, s, "kestrel-refuge"))
	liveNow(b)

	var forms struct {
		Forms []struct{ Name, Address string }
	}
	s.Call("GET", "/api/v1/sites/kestrel-refuge/forms", nil).Into(t, &forms)
	at := ""
	for _, f := range forms.Forms {
		if f.Name == "ask-about-dogs" {
			at = f.Address
		}
	}
	status, _ := sendForm(t, at, values)
	assert.Equal(t, 200, status)
	b.Go(s.Console + "/sites/kestrel-refuge/forms/ask-about-dogs")
	b.Sees("May Moss come?")
	b.Type(`[aria-label="Search what has come"]`, "nothing like it")
	b.Sees("Nothing holds")
}

// Yesterday's page comes back, and today's edit of another stays; both moments are seen beside each other.
func TestYesterdayComesBackInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	for _, e := range [][]string{{"/", "Up here, all is well"}, {"/contact/", "Write to the warden"}} {
		s.Must("site", "edit", "kestrel-refuge", e[0], "text", "main h1", "--value", e[1], "--draft", "words")
		s.Must("site", "go-live", "kestrel-refuge", "words")
	}
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/history")
	b.Click(`[data-revision="1"] input[name=from]`)
	b.Sees("Bring back from revision 1")
	b.Do(chromedp.WaitVisible(`[data-page-differs="/"]`), chromedp.WaitVisible(`[data-page-differs="/contact/"]`))
	past := harness.Eval[string](b, `document.querySelector('[data-page-differs="/"] a').href`)
	assert.Contains(t, string(s.Visit(past).Body), "First light, last stove", "as it was")
	b.Click(`[data-bring="page/home"]`)
	b.Press("Bring back one item")
	b.Sees("1 item is in your draft as in revision 1")
	liveNow(b)
	live := s.Live("kestrel-refuge")
	assert.Contains(t, string(s.Visit(live+"/").Body), "First light, last stove")
	assert.Contains(t, string(s.Visit(live+"/contact/").Body), "Write to the warden")
}

// A fault leads to its place in the page view, is mended there, and is gone from the list.
func TestAFaultIsMendedWhereItIsInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/faults")
	b.Sees("heading of level 3 follows one of level 1")
	b.Click("[data-mend]")
	b.Sees("Level of the heading")
	b.Choose(`select[id^="level-"]`, "h2")
	b.Saved()
	b.Go(s.Console + "/sites/kestrel-refuge/faults")
	b.Press("Of my draft")
	b.Sees("No faults found")
	b.Go(s.Console + "/work")
	b.Sees("My drafts")
	b.Click("[data-my-draft] a")
	b.Shows("Kestrel Refuge")
	goLive(b)
	assert.NotContains(t, s.Must("site", "check", "kestrel-refuge"), "heading of level 3")
}

// Records are written by their fields, pictures chosen by looking.
func TestARecordIsWrittenByItsFieldsInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/records")
	b.Press("room")
	b.Click(`[data-record-row="record/room/attic"]`)
	written(b, `[data-field="beds"]`, "18")
	b.Sees("It is in your draft")
	b.Click(`[data-record] [data-media-pick] button`)
	b.Click(`[data-pick="media/valley-path.jpg"]`)
	b.Sees("valley-path.jpg")
	b.Type(`[aria-label="Title of a new one"]`, "The loft")
	b.Press("Make it like The attic")
	b.Click(`[data-record-row="record/room/the-loft"]`)
	b.Press("Open it as its page shows it")
	b.Shows("The loft")
	b.Shows("18")
}

// A record of 400 fields shows some first and all by a press; the last is written as the first is.
func TestARecordOfManyFieldsInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	var kind, record strings.Builder
	kind.WriteString(`{"title": "Room", "fields": {`)
	record.WriteString("<article>\n")
	for n := 1; n <= 400; n++ {
		fmt.Fprintf(&kind, `%s"bed-%d": {"type": "text", "label": "Bed %d"}`, map[bool]string{true: ", "}[n > 1], n, n)
		fmt.Fprintf(&record, "<p data-value=\"text:bed-%d\">free</p>\n", n)
	}
	kind.WriteString("}}")
	record.WriteString("</article>")
	for address, text := range map[string]string{
		"record-type/room": kind.String(), "record/room/attic": record.String(),
	} {
		file := filepath.Join(t.TempDir(), "item")
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		s.Must("site", "put", "kestrel-refuge", address, file, "--draft", "beds")
	}
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/records")
	b.Press("room")
	b.Click(`[data-record-row="record/room/attic"]`)
	b.Sees("Bed 40")
	b.Press("360 more fields")
	written(b, `[data-field="bed-400"]`, "taken")
	b.Sees("It is in your draft")
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "record/room/attic", "--draft", "beds"),
		`bed-400">taken`)
}
