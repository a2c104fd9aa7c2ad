package test

import (
	"encoding/json"
	"fmt"
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

// Work in a draft: it has a name, its steps are listed, each person takes back their own, and an
// edit that was made for an older state is carried through what was done since.
func TestADraftIsWorkedInStepByStep(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	write := func(name, text string) string {
		p := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(p, []byte(text), 0o644))
		return p
	}
	const one = "<p>one</p>\n<p>two</p>\n<p>three</p>\n"
	s.Must("site", "put", "larch-saddle", "block/note", write("1", one), "--draft", "spring")
	assert.Contains(t, s.Must("draft", "list", "larch-saddle"), "spring")
	var first api.ItemDetail
	s.Call("GET", "/api/v1/sites/larch-saddle/item?address=block/note&draft=1", nil).Into(t, &first)
	s.Must("site", "put", "larch-saddle", "block/note", write("2", "<p>ONE</p>\n<p>two</p>\n<p>three</p>\n"),
		"--draft",
		"spring")
	// Somebody who has read the first state changes another place of it.
	late := s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=block/note&draft=1",
		m{"content": "<p>one</p>\n<p>two</p>\n<p>THREE</p>\n"}, "If-Match", `"`+string(first.Item.State)+`"`)
	require.Equal(t, 200, late.Status, "%s", late.Body)
	text := func() string {
		var d api.ItemDetail
		s.Call("GET", "/api/v1/sites/larch-saddle/item?address=block/note&draft=1", nil).Into(t, &d)
		return *d.Content
	}
	assert.Equal(t, "<p>ONE</p>\n<p>two</p>\n<p>THREE</p>\n", text(), "carried through what was done since")
	same := s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=block/note&draft=1",
		m{"content": "<p>uno</p>\n<p>two</p>\n<p>three</p>\n"}, "If-Match", `"`+string(first.Item.State)+`"`)
	assert.Equal(t, 412, same.Status, "both changed the same")

	assert.Contains(t, s.Must("draft", "undo", "larch-saddle", "spring"), "block/note")
	assert.Equal(t, "<p>ONE</p>\n<p>two</p>\n<p>three</p>\n", text())
	s.Must("draft", "undo", "larch-saddle", "spring")
	s.Must("draft", "undo", "larch-saddle", "spring")
	assert.Contains(t, s.Must("draft", "show", "larch-saddle", "spring"), "It changes nothing")
	assert.Contains(t, s.Client("draft", "undo", "larch-saddle", "spring").Err, "nothing of yours")
	s.Must("draft", "redo", "larch-saddle", "spring")
	assert.Equal(t, one, text())
	key := []string{"Idempotency-Key", "redo-once"}
	s.Call("POST", "/api/v1/sites/larch-saddle/drafts/1/redo", nil, key...)
	assert.Equal(t, 200, s.Call("POST", "/api/v1/sites/larch-saddle/drafts/1/redo", nil, key...).Status)
	assert.Equal(t, "<p>ONE</p>\n<p>two</p>\n<p>three</p>\n", text(), "sent twice, done once")
	said := s.Must("draft", "steps", "larch-saddle", "spring")
	for _, want := range []string{"added block/note", "changed block/note", "took back step 3", "did step 1 again"} {
		assert.Contains(t, said, want)
	}

	// Another person's steps are theirs.
	tomas := as(t, s, "tomas")
	assert.Equal(t, 403, tomas.Call("POST", "/api/v1/sites/larch-saddle/drafts/1/undo", nil).Status,
		"a librarian changes no site")
	warden := as(t, s, "warden")
	assert.Equal(t, 409, warden.Call("POST", "/api/v1/sites/larch-saddle/drafts/1/undo", nil).Status,
		"nothing of hers")

	s.Must("draft", "rename", "larch-saddle", "spring", "early summer")
	s.Must("site", "put", "larch-saddle", "block/other", write("3", "<p>x</p>"), "--draft", "other")
	taken := s.Client("draft", "rename", "larch-saddle", "other", "early summer")
	assert.Contains(t, taken.Err, "has this name already")
	assert.Contains(t, s.Client("draft", "show", "larch-saddle", "winter").Err, "early summer, other")
	s.Must("draft", "discard", "larch-saddle", "other")
	s.Must("site", "go-live", "larch-saddle", "early summer")
	assert.Contains(t, s.Must("site", "show", "larch-saddle", "block/note"), "ONE")
	assert.Contains(t, s.Client("draft", "undo", "larch-saddle", "1").Err, "live", "what is live is not undone here")
}

// as gives the service as another person of the demo sees it.
func as(t *testing.T, s *harness.Service, name string) *harness.Service {
	t.Helper()
	other := *s
	other.Token = ""
	require.Zero(t, other.ClientIn("highmoor-demo\n", "sign-in", "--user", name, "--password-stdin").Code)
	file := filepath.Join(s.Data, "compact-parcel", "sign-in.json")
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	require.NoError(t, os.Remove(file))
	var kept struct{ Token string }
	require.NoError(t, json.Unmarshal(b, &kept))
	require.NotEmpty(t, kept.Token)
	other.Token = kept.Token
	return &other
}

// A draft goes live at its time, past an urgent fix of something else; where the same was changed it
// stays, and says why.
func TestADraftGoesLiveAtItsTime(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	put := func(text, address, draft string) {
		p := filepath.Join(dir, "x.html")
		require.NoError(t, os.WriteFile(p, []byte(text), 0o644))
		s.Must("site", "put", "kestrel-refuge", address, p, "--draft", draft)
	}
	var page api.ItemDetail
	s.JSON(&page, "site", "show", "kestrel-refuge", "page/contact")
	put("<p>Opens in May</p>", "block/spring", "spring")
	put(strings.Replace(*page.Content, "<h1>", "<h1>In spring: ", 1), "page/contact", "clash")
	assert.Contains(t, s.Client("site", "go-live", "kestrel-refuge", "spring", "--at", "2001-01-01 06:00").Err,
		"passed")
	assert.Equal(t, 2, s.Client("site", "go-live", "kestrel-refuge", "spring", "--at", "soon").Code)
	soon := time.Now().Add(4 * time.Second).UTC().Format(time.RFC3339Nano)
	for _, draft := range []string{"spring", "clash"} {
		assert.Contains(t, s.Must("site", "go-live", "kestrel-refuge", draft, "--at", soon), "goes live on")
	}
	put("<p>Never</p>", "block/never", "never")
	s.Must("site", "go-live", "kestrel-refuge", "never", "--at", soon)
	assert.Contains(t, s.Must("site", "go-live", "kestrel-refuge", "never", "--at", "never"),
		"only when somebody says so")
	put(strings.Replace(*page.Content, "<h1>", "<h1>Now urgent: ", 1), "page/contact", "urgent")
	s.Must("site", "go-live", "kestrel-refuge", "urgent")
	live := func(address string) bool {
		return s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address="+address, nil).Status == 200
	}
	require.Eventually(t, func() bool { return live("block/spring") }, 30*time.Second, 100*time.Millisecond)
	var stays api.DraftDetail
	require.Eventually(t, func() bool {
		s.JSON(&stays, "draft", "show", "kestrel-refuge", "clash")
		return stays.Draft.LiveSays != nil
	}, 30*time.Second, 100*time.Millisecond)
	assert.Contains(t, *stays.Draft.LiveSays, "the live site changed the same since: page/contact")
	assert.Equal(t, "page/contact", stays.Behind[0].String())
	assert.False(t, live("block/never"))
	asked := s.Client("draft", "rebase", "kestrel-refuge", "clash")
	assert.Equal(t, 3, asked.Code, "it is behind, and asks")
	assert.Contains(t, asked.Out, "page/contact: both changed the same")
	s.JSON(&page, "site", "show", "kestrel-refuge", "page/contact")
	assert.Contains(t, *page.Content, "urgent")
	assert.NotContains(t, *page.Content, "In spring")
	s.Must("draft", "rebase", "kestrel-refuge", "clash", "--decide", "page/contact=live")
	assert.Contains(t, s.Must("draft", "show", "kestrel-refuge", "clash"), "It changes nothing")
}

// An urgent fix in one place of a page passes a draft that changes another, which takes it in by itself.
func TestAnUrgentFixIsTakenIn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("site", "edit", "kestrel-refuge", "/", "text", "main h1", "--value", "Last light", "--draft",
		"spring")
	s.Must("site", "edit", "kestrel-refuge", "/", "alternative", ".card:first-child img", "--value",
		"The valley, mapped",
		"--draft", "urgent")
	s.Must("site", "go-live", "kestrel-refuge", "urgent")
	require.Eventually(t, func() bool {
		return strings.Contains(s.Must("draft", "steps", "kestrel-refuge", "spring"), "brought in what went live")
	}, 30*time.Second, 100*time.Millisecond)
	s.Must("site", "go-live", "kestrel-refuge", "spring")
	page := string(s.Visit(s.Live("kestrel-refuge") + "/").Body)
	assert.Contains(t, page, "Last light</h1>")
	assert.Contains(t, page, "The valley, mapped")
}

// A site is edited by operations: what is pointed at on the page is changed where it comes from, with
// the pages told that show it; a list is done all or not at all, and taken back as one step.
func TestASiteIsEditedByOperations(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dry := s.Must("site", "edit", "kestrel-refuge", "/contact/", "text", "main h1", "--value", "Write to us",
		"--dry-run")
	assert.Contains(t, dry, "page/contact, line")
	assert.Contains(t, dry, "It shows on one page, /contact/.")
	assert.Contains(t, s.Must("draft", "list", "kestrel-refuge"), "No open drafts", "nothing was written")
	s.Must("site", "edit", "kestrel-refuge", "/contact/", "text", "main h1", "--value", "Write to us", "--draft",
		"spring")
	shared := s.Must("site", "edit", "kestrel-refuge", "menu/main", "entry-add", "--label", "Ways up", "--value",
		"/getting-here/",
		"--draft", "spring")
	assert.Regexp(t, `It shows on \d+ pages`, shared)
	list := filepath.Join(t.TempDir(), "list.json")
	require.NoError(t, os.WriteFile(list, []byte(`[{"op":"set","item":"setting/strapline","value":"Open from May"},`+
		`{"op":"remove","page":"/contact/","element":"no-such-thing"}]`), 0o644))
	r := s.Client("site", "edit", "kestrel-refuge", "--operations", list, "--draft", "spring")
	assert.NotZero(t, r.Code)
	assert.Contains(t, r.Err, "operation 2 (remove)")
	lines := s.Must("draft", "show", "kestrel-refuge", "spring", "--lines")
	assert.Regexp(t, `\+ +<h1>Write to us</h1>`, lines)
	var d api.DraftDetail
	s.JSON(&d, "draft", "show", "kestrel-refuge", "spring")
	assert.Len(t, d.Changes, 2, "nothing of the list is done")
	page := string(s.Visit(d.Draft.Preview + "/contact/").Body)
	assert.Contains(t, page, "Write to us</h1>")
	assert.Contains(t, page, `>Ways up</a>`)
	b := harness.NewBrowser(t)
	b.Go(fmt.Sprintf("%s/sites/kestrel-refuge/go-live?draft=%d", s.Console, d.Draft.Id))
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("What changes")
	b.Click("main > div > details > summary")
	b.Sees("changed the entries of menu/main")
	b.Press("Go on editing")
	b.Shows("Ways up")
	b.Press("Undo")
	b.Sees("Undone")
	assert.NotContains(t, string(s.Visit(d.Draft.Preview+"/contact/").Body), `>Ways up</a>`)
	s.Must("site", "go-live", "kestrel-refuge", "spring")
	assert.Contains(t, string(s.Visit(s.Live("kestrel-refuge")+"/contact/").Body), "Write to us</h1>")
	assert.Contains(t, s.Client("site", "edit", "kestrel-refuge", "/contact/", "dance", "h1").Err, "no operation")
}

// Two moments of a site are compared, and one item or all of it is brought back as it was, in a draft.
func TestAnEarlierStateIsBroughtBack(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	item := func(address, query string) string {
		var d api.ItemDetail
		s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address="+address+query, nil).Into(t, &d)
		return text(d.Content)
	}
	was, home := item("page/contact", ""), item("page/home", "")
	s.Must("site", "edit", "kestrel-refuge", "/contact/", "text", "main h1", "--value", "Other words", "--draft",
		"one")
	s.Must("site", "edit", "kestrel-refuge", "/", "text", "main h1", "--value", "Other stove", "--draft", "one")
	file := filepath.Join(t.TempDir(), "new.html")
	require.NoError(t, os.WriteFile(file, []byte("<!doctype html><title>New</title><p>new"), 0o644))
	s.Must("site", "put", "kestrel-refuge", "page/new", file, "--path", "/new/", "--draft", "one")
	s.Must("site", "go-live", "kestrel-refuge", "one")
	assert.Equal(t, was, item("page/contact", "&revision=1"), "as it was")
	seen := s.Must("site", "differences", "kestrel-refuge", "--from", "1")
	assert.Regexp(t, `(?s)page/contact +changed.*page/home +changed.*page/new +added`, seen)
	assert.Contains(t, s.Must("site", "bring-back", "kestrel-refuge", "page/contact", "--revision", "1", "--draft",
		"back"),
		"page/contact")
	s.Must("site", "go-live", "kestrel-refuge", "back")
	assert.Equal(t, was, item("page/contact", ""))
	assert.Contains(t, item("page/home", ""), "Other stove", "what was not named stays")
	s.Must("site", "bring-back", "kestrel-refuge", "--revision", "1", "--draft", "all")
	s.Must("site", "go-live", "kestrel-refuge", "all")
	assert.Equal(t, home, item("page/home", ""))
	assert.Equal(t, 404, s.Visit(s.Live("kestrel-refuge")+"/new/").Status)
	assert.Contains(t, s.Must("site", "differences", "kestrel-refuge", "--from", "1"), "Nothing differs")
	assert.Contains(t, s.Client("site", "bring-back", "kestrel-refuge", "--revision", "99").Err, "revisions up to")
}

// Bringing a moment back takes back what was changed up to another; what came later stays, and is asked for where
// it touches the same.
func TestLaterEditsStayWhenAMomentComesBack(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	edit := func(page, element, words string) {
		s.Must("site", "edit", "kestrel-refuge", page, "text", element, "--value", words, "--draft", "d")
		s.Must("site", "go-live", "kestrel-refuge", "d")
	}
	edit("/", "main h1", "Mistaken")          // revision 2
	edit("/contact/", "main h1", "Mistaken")  // revision 3
	edit("/contact/", ".lead", "Later words") // revision 4, in the same item
	edit("/", "main h1", "Later stove")       // revision 5, in the same words
	back := []string{"site", "bring-back", "kestrel-refuge", "--revision", "1", "--since", "3", "--draft", "back"}
	asked := s.Client(back...)
	assert.Contains(t, asked.Err, "one question is open")
	assert.Contains(t, asked.Err, "page/home was changed since")
	assert.NotContains(t, asked.Err, "page/contact")
	assert.NotContains(t, s.Must("draft", "list", "kestrel-refuge"), "back", "nothing is half done")
	assert.Contains(t, s.Client(append(back, "--decide", "page/rooms=keep", "--decide", "page/home=keep")...).Err,
		"nothing to decide about page/rooms")
	assert.Contains(t, s.Client(append(back, "--decide", "page/home=maybe")...).Err, "cannot be decided")
	s.Must(append(back, "--decide", "page/home=keep")...)
	s.Must("site", "go-live", "kestrel-refuge", "back")
	live := s.Live("kestrel-refuge")
	home, contact := string(s.Visit(live+"/").Body), string(s.Visit(live+"/contact/").Body)
	assert.Contains(t, home, "Later stove")
	assert.Contains(t, contact, "Later words")
	assert.NotContains(t, contact, "Mistaken")
	s.Must("site", "bring-back", "kestrel-refuge", "--revision", "1", "--since", "3", "--decide", "page/home=take",
		"--draft", "again")
	s.Must("site", "go-live", "kestrel-refuge", "again")
	assert.NotContains(t, string(s.Visit(live+"/").Body), "Later stove")
}

// Typing that goes on is one step; commands are steps of their own. A person's own draft is continued.
func TestTypingIsOneStep(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	assert.Contains(t, s.Must("draft", "new", "larch-saddle"), "edits by ida")
	s.Must("site", "edit", "larch-saddle", "/", "text", "main h1", "--value", "Larch", "--draft", "mine")
	s.Must("site", "edit", "larch-saddle", "/", "text", "main h1", "--value", "Larch S", "--draft", "mine")
	var steps api.DraftStepList
	s.Call("GET", "/api/v1/sites/larch-saddle/drafts/1/steps", nil).Into(t, &steps)
	assert.Len(t, steps.Steps, 2, "two commands, in one draft")
	s.Must("draft", "new", "larch-saddle", "other")
	assert.Contains(t, s.Client("draft", "new", "larch-saddle", "other").Err, "already")

	b := harness.NewBrowser(t) // a sign-in, by which typing is known
	b.Go(s.Console + "/sites/larch-saddle")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("Larch Saddle")
	typed := harness.Eval[int](b, `(async () => {
		let n = 0
		for (const words of ["Larch Sa", "Larch Sad", "Larch Saddle!"]) {
			const r = await fetch("/api/v1/sites/larch-saddle/edits", {method: "POST", headers: {"Content-Type":
				"application/json"}, body: JSON.stringify({draft: 1, operations: [{op: "text", page: "/", `+
		`element: "main h1",
				value: words}]})})
			n += r.status === 200 ? 1 : 0
		}
		return n
	})()`)
	assert.Equal(t, 3, typed)
	s.Call("GET", "/api/v1/sites/larch-saddle/drafts/1/steps", nil).Into(t, &steps)
	assert.Len(t, steps.Steps, 3, "what was typed is one step")
	s.Must("draft", "undo", "larch-saddle", "1")
	assert.Contains(t, s.Must("site", "show", "larch-saddle", "page/home", "--draft", "1"), "Larch S<")
}
