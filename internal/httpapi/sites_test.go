package httpapi_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const sites = "/api/v1/sites"

// hutFolder is a small site as somebody left it: a header on each page, and a picture.
func hutFolder() map[string]string {
	page := func(title, words string) string {
		return "<!doctype html><html lang=\"en\"><head><title>" + title + "</title>" +
			"<link rel=\"stylesheet\" href=\"/hut.css\"></head><body>" +
			"<header class=\"top\"><a href=\"/\">Tarn Hut</a><a href=\"/stay/\">Stay</a></header>" +
			"<main><h1>" + title + "</h1><p>" + words + "</p></main></body></html>"
	}
	return map[string]string{
		"index.html":      page("Tarn Hut", "Two rooms above the water."),
		"stay/index.html": page("Stay", "Bring a sleeping bag."),
		"walks.html":      page("Walks", "Round the tarn in an hour."),
		"hut.css":         ".top { color: #234; } h1 { font-size: 2rem; }",
	}
}

func TestASiteIsAdoptedListedAndLookedAt(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	empty := harness.JSON[api.SiteList](srv, desk.Viewer, 200, "GET", sites, nil)
	assert.Empty(t, empty.Sites)

	got := harness.JSON[api.Adopted](srv, desk.Keeper, 201, "PUT", sites+"/tarn?parts=none",
		harness.Zipped(t, hutFolder()))
	assert.Equal(t, 3, got.Site.Pages)
	assert.NotNil(t, got.Took, "a list, not null")
	again := harness.JSON[api.Problem](srv, desk.Keeper, 409, "PUT", sites+"/tarn?parts=none",
		harness.Zipped(t, hutFolder()))
	assert.Equal(t, api.RemedyCodeChooseOtherName, again.Remedy.Code)

	all := harness.JSON[api.SiteList](srv, desk.Viewer, 200, "GET", sites, nil)
	require.Len(t, all.Sites, 1)
	one := harness.JSON[api.Site](srv, desk.Viewer, 200, "GET", sites+"/tarn", nil)
	assert.Equal(t, all.Sites[0], one, "the list and the site say the same")
	assert.Contains(t, one.Preview, "//tarn.localhost")

	items := harness.JSON[api.ItemList](srv, desk.Viewer, 200, "GET", sites+"/tarn/items", nil)
	assert.Equal(t, one.Digest, items.Digest)
	assert.Equal(t, one.Items, len(items.Items))
	stay := harness.JSON[api.ItemDetail](srv, desk.Viewer, 200, "GET", sites+"/tarn/item?address=page/stay", nil)
	assert.Contains(t, *stay.Content, "Bring a sleeping bag")
	assert.Contains(t, fmt.Sprint(stay.Uses), "hut")

	parts := harness.JSON[api.Surround](srv, desk.Viewer, 200, "GET", sites+"/tarn/surround?path=/stay/", nil)
	require.Len(t, parts.Parts, 4, "header, wrapper, aside, footer")
	assert.Empty(t, parts.Parts[0].Part, "nothing was made a part")
	past := harness.JSON[api.RevisionList](srv, desk.Viewer, 200, "GET", sites+"/tarn/revisions", nil)
	require.NotEmpty(t, past.Revisions)
	assert.Equal(t, one.Digest, past.Revisions[0].Digest, "the newest first")
}

func TestWhatCannotBeFoundOrReadIsSaid(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	aSite(t, srv.Desk, "hut")
	for _, c := range []struct {
		method, path string
		body         any
		status       int
		remedy       api.RemedyCode
	}{
		{"GET", sites + "/nowhere", nil, 404, api.RemedyCodeCheckName},
		{"GET", sites + "/nowhere/items", nil, 404, api.RemedyCodeCheckName},
		{"GET", sites + "/hut/item?address=page/none", nil, 404, api.RemedyCodeShowItems},
		{"GET", sites + "/hut/item?address=nonsense", nil, 400, api.RemedyCodeUseForm},
		{"GET", sites + "/hut/items?draft=99", nil, 404, api.RemedyCodeCheckName},
		{"PUT", sites + "/new?parts=none", strings.NewReader("no zip"), 409, api.RemedyCodePackFolder},
		{"PUT", sites + "/No?parts=none", strings.NewReader("no zip"), 409, api.RemedyCodePackFolder},
		{"PUT", sites + "/hut/item?address=block/x", strings.NewReader("{"), 400, api.RemedyCodeSeeInterface},
		{"PUT", sites + "/hut/item?address=block/x", map[string]any{"contents": "typed wrong"}, 400,
			api.RemedyCodeSeeInterface},
		{"PUT", sites + "/hut/media?address=page/home", strings.NewReader("x"), 400, api.RemedyCodeSeeInterface},
		{"DELETE", sites + "/hut/item?address=block/none", nil, 404, ""},
		{"DELETE", sites + "/hut/drafts/99", nil, 404, api.RemedyCodeCheckName},
		{"POST", sites + "/hut/drafts/99/live", nil, 404, api.RemedyCodeCheckName},
	} {
		t.Run(c.method, func(t *testing.T) {
			p := harness.JSON[api.Problem](srv, desk.Keeper, c.status, c.method, c.path, c.body)
			if c.remedy != "" {
				assert.Equal(t, c.remedy, p.Remedy.Code, "%s %s: %s", c.method, c.path, p.Detail)
			}
			assert.NotEmpty(t, p.Detail, "%s %s", c.method, c.path)
		})
	}
}

func TestADraftIsWrittenLookedAtDiscardedAndMadeLive(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	aSite(t, srv.Desk, "hut")
	item := func(address string, draft int64) string {
		if draft == 0 {
			return sites + "/hut/item?address=" + address
		}
		return fmt.Sprintf("%s/hut/item?address=%s&draft=%d", sites, address, draft)
	}
	text := func(s string) api.EditItem { return api.EditItem{Content: &s} }
	first := harness.JSON[api.Edited](srv, desk.Keeper, 200, "PUT", item("block/hello", 0), text("<p>hello</p>"))
	drafts := harness.JSON[api.DraftList](srv, desk.Viewer, 200, "GET", sites+"/hut/drafts", nil)
	require.Len(t, drafts.Drafts, 1)
	assert.Equal(t, first.Draft, drafts.Drafts[0].Id)
	assert.Equal(t, first.Preview, drafts.Drafts[0].Preview)

	stale := harness.JSON[api.Problem](srv, desk.Keeper, 412, "PUT", item("page/home", first.Draft),
		text("<!doctype html><title>x</title>"),
		func(r *http.Request) { r.Header.Set("If-Match", `"`+string(first.State)+`"`) })
	assert.Equal(t, api.RemedyCodeReadAgain, stale.Remedy.Code, "an ETag of something else")
	harness.JSON[api.Edited](srv, desk.Keeper, 200, "PUT",
		fmt.Sprintf("%s/hut/media?address=media/dot.png&draft=%d", sites, first.Draft),
		bytes.NewReader([]byte("\x89PNG")))
	p := harness.JSON[api.Problem](srv, desk.Keeper, 412, "DELETE", item("page/a", first.Draft), nil)
	assert.Equal(t, api.RemedyCodeReadAgain, p.Remedy.Code, "which state is to go was not said")
	a := srv.Do(desk.Viewer, "GET", item("page/a", 0), nil)
	harness.JSON[api.Edited](srv, desk.Keeper, 200, "DELETE", item("page/a", first.Draft), nil,
		func(r *http.Request) { r.Header.Set("If-Match", a.Header.Get("ETag")) })

	live := harness.JSON[api.ItemList](srv, desk.Viewer, 200, "GET", sites+"/hut/items", nil)
	drafted := harness.JSON[api.ItemList](srv, desk.Viewer, 200, "GET",
		fmt.Sprintf("%s/hut/items?draft=%d", sites, first.Draft), nil)
	assert.Len(t, drafted.Items, len(live.Items)+2-1, "two more, one less")
	assert.NotEqual(t, live.Preview, drafted.Preview)

	went := harness.JSON[api.GoLiveResponse](srv, desk.Keeper, 200, "POST",
		fmt.Sprintf("%s/hut/drafts/%d/live", sites, first.Draft), nil)
	assert.Equal(t, drafted.Digest, went.Digest, "what was looked at is what is live")
	gone := harness.JSON[api.Problem](srv, desk.Keeper, 409, "POST",
		fmt.Sprintf("%s/hut/drafts/%d/live", sites, first.Draft), nil)
	assert.NotEmpty(t, gone.Remedy.Code)

	second := harness.JSON[api.Edited](srv, desk.Keeper, 200, "PUT", item("block/bye", 0), text("<p>bye</p>"))
	harness.JSON[any](srv, desk.Keeper, 204, "DELETE", fmt.Sprintf("%s/hut/drafts/%d", sites, second.Draft), nil)
	assert.Empty(t, harness.JSON[api.DraftList](srv, desk.Viewer, 200, "GET", sites+"/hut/drafts", nil).Drafts)
}

func TestWhatRepeatsIsProposedAndAccepted(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	harness.JSON[api.Adopted](srv, desk.Keeper, 201, "PUT", sites+"/tarn?parts=none", harness.Zipped(t, hutFolder()))
	found := harness.JSON[api.ProposalList](srv, desk.Viewer, 200, "GET", sites+"/tarn/proposals", nil)
	require.NotEmpty(t, found.Proposals)
	header := found.Proposals[0].Address
	took := harness.JSON[api.AcceptedProposals](srv, desk.Keeper, 200, "POST", sites+"/tarn/proposals",
		api.AcceptProposals{Accept: &[]api.Address{header}})
	require.NotNil(t, took.Draft)
	assert.Contains(t, took.Took, header)
	in := harness.JSON[api.ItemList](srv, desk.Viewer, 200, "GET",
		fmt.Sprintf("%s/tarn/items?draft=%d", sites, *took.Draft), nil)
	assert.Contains(t, fmt.Sprint(in.Items), header.Key)
	p := harness.JSON[api.Problem](srv, desk.Keeper, 400, "POST", sites+"/tarn/proposals",
		api.AcceptProposals{Accept: &[]api.Address{{Kind: "part", Key: "nothing"}}})
	assert.NotEmpty(t, p.Remedy.Code)
}

func TestPiecesAreKeptInTheLibrary(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	aSite(t, srv.Desk, "hut")
	aSite(t, srv.Desk, "other")
	keep := func(from string, address api.Address) api.Saved {
		return harness.JSON[api.Saved](srv, desk.Librarian, 200, "POST", "/api/v1/library",
			api.AddToLibrary{From: from, Addresses: []api.Address{address}})
	}
	home := api.Address{Kind: "page", Key: "home"}
	assert.Equal(t, []api.Address{home}, keep("hut", home).Added)
	assert.Empty(t, keep("hut", home).Added, "it was there already")
	list := func(query string) []api.Item {
		return harness.JSON[api.ItemList](srv, desk.Viewer, 200, "GET", "/api/v1/library"+query, nil).Items
	}
	assert.Len(t, list(""), 1)
	assert.Len(t, list("?q=home"), 1)
	assert.Empty(t, list("?q=snow"))
	assert.Len(t, list("?q=h"), 1, "a beginning of one letter")
	assert.Empty(t, list("?kind=part"))
	assert.Empty(t, list("?q="+strings.Repeat("x", 300)), "no word is so long")
	assert.Empty(t, list("?q=--"), "no word at all")
	for _, long := range []string{strings.Repeat("x", 5000), strings.Repeat("x+", 50)} {
		t.Run(long, func(t *testing.T) {
			p := harness.JSON[api.Problem](srv, desk.Viewer, 400, "GET", "/api/v1/library?q="+long, nil)
			assert.Equal(t, api.RemedyCodeShorten, p.Remedy.Code)
		})
	}
}

func TestASiteIsPublishedAndItsFolderComesHome(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	harness.JSON[api.Adopted](srv, desk.Keeper, 201, "PUT", sites+"/tarn?parts=none", harness.Zipped(t, hutFolder()))
	whole := srv.Do(desk.Viewer, "GET", sites+"/tarn/published", nil)
	require.Equal(t, 200, whole.StatusCode)
	body := []byte(harness.Text(t, whole))
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	for _, want := range []string{"index.html", "stay/index.html", "walks.html"} {
		assert.Contains(t, names, want)
	}

	outlets := sites + "/tarn/outlets"
	made := harness.JSON[api.Outlet](srv, desk.Keeper, 201, "PUT", outlets+"/main", api.NewOutlet{})
	assert.Equal(t, "tarn/main", made.Folder)
	p := harness.JSON[api.Problem](srv, desk.Keeper, 409, "PUT", outlets+"/main", api.NewOutlet{})
	assert.NotEmpty(t, p.Remedy.Code)
	out := harness.JSON[api.OutletPublished](srv, desk.Keeper, 200, "POST", outlets+"/main", api.PublishOutlet{})
	assert.Positive(t, out.Files)
	assert.False(t, out.Outlet.Behind)
	level := harness.JSON[api.OutletPublished](srv, desk.Keeper, 200, "POST", outlets+"/main", api.PublishOutlet{})
	assert.True(t, level.Same)
	back := 99
	harness.JSON[api.Problem](srv, desk.Keeper, 404, "POST", outlets+"/main", api.PublishOutlet{Back: &back})
	listed := harness.JSON[api.OutletList](srv, desk.Viewer, 200, "GET", outlets, nil)
	require.Len(t, listed.Outlets, 1)
	harness.JSON[any](srv, desk.Keeper, 204, "DELETE", outlets+"/main", nil)
	harness.JSON[api.Problem](srv, desk.Keeper, 404, "DELETE", outlets+"/main", nil)

	files := hutFolder()
	files["stay/index.html"] = strings.ReplaceAll(files["stay/index.html"], "a sleeping bag", "two blankets")
	delete(files, "walks.html")
	home := harness.JSON[api.AdoptedAgain](srv, desk.Keeper, 200, "POST", sites+"/tarn/folder",
		harness.Zipped(t, files))
	require.NotNil(t, home.Draft)
	assert.Len(t, home.Changes, 2, "one edited, one deleted: %+v", home.Changes)
}
