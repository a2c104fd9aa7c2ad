package test

import (
	"encoding/csv"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sendForm sends a form as a browser does, and gives the answer's status and body.
func sendForm(t *testing.T, at string, fields url.Values) (int, string) {
	t.Helper()
	resp, err := http.PostForm(at, fields)
	require.NoError(t, err)
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return resp.StatusCode, string(b)
}

// mails waits for a number of mails in the stand-in's folder, and gives their texts.
func mails(t *testing.T, s *harness.Service, n int) string {
	t.Helper()
	var text strings.Builder
	require.Eventually(t, func() bool {
		files, err := filepath.Glob(filepath.Join(s.Data, "mails", "*.eml"))
		require.NoError(t, err)
		text.Reset()
		for _, f := range files {
			b, err := os.ReadFile(f)
			require.NoError(t, err)
			text.Write(b)
		}
		return len(files) >= n
	}, 30*time.Second, 100*time.Millisecond)
	return text.String()
}

// A visitor fills a form in on the published site: it is held against the form, kept, told to the team
// by mail, and answered; the keeper lists, searches, exports and deletes what came.
func TestAFormArrives(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	out := filepath.Join(t.TempDir(), "site")
	s.Must("site", "publish", "kestrel-refuge", out, "--forms", "here")
	page, err := os.ReadFile(filepath.Join(out, "contact", "index.html"))
	require.NoError(t, err)
	_, at, ok := strings.Cut(string(page), `<form class="cp-form" method="post" action="`)
	require.True(t, ok, "the form is sent to the service")
	at, _, _ = strings.Cut(at, `"`)
	require.True(t, strings.HasSuffix(at, "/kestrel-refuge/booking"), at)
	fields := url.Values{"name": {"Alva Stone"}, "mail": {"alva@highmoor.example"}, "night": {"2027-02-06"},
		"people": {"3"}, "words": {"=Two of us\nsnore"}, "website": {""}}
	status, body := sendForm(t, at, fields)
	assert.Equal(t, 200, status, body)
	assert.Contains(t, body, "The warden answers by the next radio hour")
	text := mails(t, s, 2)
	assert.Contains(t, text, "warden@kestrel.highmoor.example")
	assert.Contains(t, text, "A bunk for Alva Stone, 2027-02-06")
	assert.Contains(t, text, "Dear Alva Stone,")
	got := s.Must("form", "entries", "kestrel-refuge", "booking")
	assert.Contains(t, got, "Your name: Alva Stone")
	assert.Contains(t, got, "How many of you: 3")
	assert.Contains(t, s.Must("form", "list", "kestrel-refuge"), "warden@kestrel.highmoor.example")

	// What does not fit is told by the field's label, and not kept; nor is what programs fill in.
	bad := url.Values{"name": {""}, "mail": {"nowhere"}, "night": {"soon"}, "people": {"40"}, "more": {"x"}}
	status, body = sendForm(t, at, bad)
	assert.Equal(t, 422, status)
	for _, words := range []string{"Your name: please fill it in", "not a mail address", "not a date",
		"does not ask for it"} {
		assert.Contains(t, body, words)
	}
	fields.Set("website", "https://spam.example")
	status, _ = sendForm(t, at, fields)
	assert.Equal(t, 200, status)
	fields.Del("website")
	fields.Set("words", strings.Repeat("x", 300_000))
	status, _ = sendForm(t, at, fields)
	assert.Equal(t, 413, status)
	fields.Set("words", "short")
	status, _ = sendForm(t, strings.TrimSuffix(at, "booking")+"gone", fields)
	assert.Equal(t, 404, status)
	resp, err := http.Get(at)
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, 405, resp.StatusCode)
	assert.Regexp(t, "^default-src 'none'; style-src 'sha256-[^ ]+'; base-uri 'none'; frame-ancestors 'none'$",
		resp.Header.Get("Content-Security-Policy"))
	var list api.FormEntryList
	s.Call("GET", "/api/v1/sites/kestrel-refuge/forms/booking/entries", nil).Into(t, &list)
	assert.Len(t, list.Entries, 1)

	// Found by its words, exported so that no table program runs it, deleted.
	assert.Contains(t, s.Must("form", "entries", "kestrel-refuge", "booking", "--words", "ALVA snore"), "Alva")
	assert.Contains(t, s.Must("form", "entries", "kestrel-refuge", "booking", "--words", "50%"), "Nothing was sent")
	table := filepath.Join(t.TempDir(), "booking.csv")
	s.Must("form", "entries", "kestrel-refuge", "booking", "--csv", table)
	f, err := os.Open(table)
	require.NoError(t, err)
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Equal(t, []string{"number", "received", "Your name", "Your mail address", "Which night",
		"How many of you", "Anything we should know"}, rows[0])
	assert.Equal(t, "'=Two of us\nsnore", rows[1][6])
	tomas := as(t, s, "tomas") // entries are about people
	assert.Equal(t, 403, tomas.Call("GET", "/api/v1/sites/kestrel-refuge/forms/booking/entries", nil).Status)
	assert.Contains(t, s.Client("form", "delete", "kestrel-refuge", "booking").Err, "say which entry")
	s.Must("form", "delete", "kestrel-refuge", "booking", "--before", "2001-01-01")
	s.Must("form", "delete", "kestrel-refuge", "booking", "--entry", rows[1][0])
	assert.Contains(t, s.Must("form", "entries", "kestrel-refuge", "booking"), "Nothing was sent")

	// From one place not too much is taken.
	fields.Set("words", "again")
	seen := 0
	for range 14 {
		if seen, _ = sendForm(t, at, fields); seen == 429 {
			break
		}
	}
	assert.Equal(t, 429, seen)
}

// A form that reaches nobody is a fault, told before it goes live; a mail that cannot be sent is kept,
// says why, and is tried again.
func TestAFormThatReachesNobodyIsTold(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites", "--smtp", "127.0.0.1:1", "--mail-from", "forms@highmoor.example")
	assert.NotContains(t, s.Client("site", "check", "kestrel-refuge").Out, "nobody is told")
	s.Must("site", "outlet", "add", "kestrel-refuge", "main")
	assert.Contains(t, s.Client("site", "check", "kestrel-refuge").Out, "sends it nowhere")
	s.Must("site", "edit", "kestrel-refuge", "setting/forms", "set", "--value", `{}`, "--draft", "spring")
	assert.Contains(t, s.Client("site", "check", "kestrel-refuge", "--draft", "spring").Out, "nobody is told")
	s.Must("site", "edit", "kestrel-refuge", "setting/forms", "set", "--value", `{"booking":{"to":["no address"]}}`,
		"--draft", "spring")
	assert.Contains(t, s.Client("site", "check", "kestrel-refuge", "--draft", "spring").Out, "no mail address")

	var forms api.SiteFormList
	s.Call("GET", "/api/v1/sites/kestrel-refuge/forms", nil).Into(t, &forms)
	require.Len(t, forms.Forms, 1)
	status, body := sendForm(t, *forms.Forms[0].Address,
		url.Values{"name": {"Alva"}, "mail": {"alva@highmoor.example"},
			"night": {"2027-02-06"}})
	assert.Equal(t, 200, status, body)
	require.Eventually(t, func() bool {
		got := s.Must("form", "entries", "kestrel-refuge", "booking")
		return strings.Contains(got, "mail to the team waiting") && strings.Contains(got, "refused")
	}, 30*time.Second, 200*time.Millisecond)

	// Where the setting cannot be read, the mail waits until it can.
	s.Must("site", "go-live", "kestrel-refuge", "spring")
	status, body = sendForm(t, *forms.Forms[0].Address,
		url.Values{"name": {"Ben"}, "mail": {"ben@highmoor.example"}, "night": {"2027-02-07"}})
	assert.Equal(t, 200, status, body)
	require.Eventually(t, func() bool {
		return strings.Contains(s.Must("form", "entries", "kestrel-refuge", "booking", "--words", "Ben"),
			"no mail address")
	}, 30*time.Second, 200*time.Millisecond)
}

// A keeper makes a form by operations, tries it in a draft by client and preview, and nothing is kept.
func TestAFormIsMadeAndTriedInADraft(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	edit := func(args ...string) {
		s.Must(append([]string{"site", "edit", "kestrel-refuge"}, append(args, "--draft", "winter")...)...)
	}
	edit("form/walk", "form-new", "--value", "Walk with us")
	edit("form/walk", "form-field", "--property", "day", "--value", "one-of: Friday | Sunday", "--entry", "1",
		"--label", "Which day")
	edit("form/walk", "form-set", "--property", "day.required", "--value", "yes")
	edit("/contact/", "show", "main h1", "--item", "form/walk", "--place", "after")
	out := s.Must("form", "try", "kestrel-refuge", "walk", "name=Una", "mail=una", "day=Monday", "--draft", "winter")
	assert.Contains(t, out, "Which day: please choose one of the answers")
	assert.Contains(t, out, "Your mail address: this is not a mail address")
	out = s.Must("form", "try", "kestrel-refuge", "walk", "name=Una", "mail=una@hut.example", "day=Sunday",
		"--draft", "winter")
	assert.Contains(t, out, "Thank you. We have it.")
	assert.Contains(t, out, "Nobody would be told")
	assert.NotZero(t, s.Client("form", "try", "kestrel-refuge", "walk", "name=Una").Code, "live, there is no such form")

	var drafts api.DraftList
	s.JSON(&drafts, "draft", "list", "kestrel-refuge")
	b := harness.NewBrowser(t)
	b.Go(drafts.Drafts[0].Preview + "/contact/")
	b.Type(`form[aria-label="Walk with us"] input[name=name]`, "Una")
	b.Type(`form[aria-label="Walk with us"] input[name=mail]`, "una@hut.example")
	b.Click(`form[aria-label="Walk with us"] button`)
	b.Sees("Thank you. We have it.")
	b.Sees("Nobody would be told")
	assert.NotContains(t, s.Must("form", "entries", "kestrel-refuge", "booking"), "Una")
}
