package httpapi_test

import (
	"bytes"
	"crypto/ed25519"
	"crypto/x509"
	"encoding/pem"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"compactparcel/core/kit"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const kits = "/api/v1/kits"

// aKit makes and seals a kit of one page and one block of a site named hut.
func aKit(t *testing.T, srv *harness.Served) api.Kit {
	t.Helper()
	aSite(t, srv.Desk, "hut")
	title, licence := "Basics", "CC-BY-4.0"
	harness.JSON[api.Kit](srv, desk.Librarian, 201, "POST", kits,
		api.NewKit{Name: "basics", Version: "1.0.0", Title: &title, License: &licence})
	harness.JSON[api.Kit](srv, desk.Librarian, 200, "POST", kits+"/basics/1.0.0/picks",
		map[string]any{"picks": []map[string]string{{"from": "hut", "address": "page/home"},
			{"from": "hut", "address": "page/a"}}})
	return harness.JSON[api.Kit](srv, desk.Librarian, 200, "POST", kits+"/basics/1.0.0/seal", nil)
}

func TestAKitIsMadeDescribedAndSealed(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	sealed := aKit(t, srv)
	assert.Equal(t, api.KitStateSealed, sealed.State)
	list := harness.JSON[api.KitList](srv, desk.Viewer, 200, "GET", kits, nil)
	require.Len(t, list.Kits, 1)
	assert.Equal(t, 2, list.Kits[0].Items)
	assert.Equal(t, sealed.Digest, list.Kits[0].Digest)

	title := "Basics again"
	harness.JSON[api.Kit](srv, desk.Librarian, 201, "POST", kits,
		api.NewKit{Name: "basics", Version: "1.1.0", Title: &title})
	harness.JSON[api.Kit](srv, desk.Librarian, 200, "POST", kits+"/basics/1.1.0/picks",
		map[string]any{"picks": []map[string]string{{"from": "hut", "address": "page/home"},
			{"from": "hut", "address": "page/a"}}})
	one := srv.Do(desk.Librarian, "GET", kits+"/basics/1.1.0", nil)
	etag := func(r *http.Request) { r.Header.Set("If-Match", one.Header.Get("ETag")) }
	words := api.KitMetadata{Title: &title}
	edited := harness.JSON[api.Kit](srv, desk.Librarian, 200, "PATCH", kits+"/basics/1.1.0", words, etag)
	assert.Equal(t, title, edited.Title)
	p := harness.JSON[api.Problem](srv, desk.Librarian, 412, "PATCH", kits+"/basics/1.1.0", words, etag)
	assert.Equal(t, api.RemedyCodeRedo, p.Remedy.Code)
	p = harness.JSON[api.Problem](srv, desk.Librarian, 412, "PATCH", kits+"/basics/1.1.0", words,
		func(r *http.Request) { r.Header.Set("If-Match", `"nonsense"`) })
	assert.Equal(t, api.RemedyCodeReadAgain, p.Remedy.Code)

	left := harness.JSON[api.Kit](srv, desk.Librarian, 200, "DELETE", kits+"/basics/1.1.0/picks?address=page/a", nil)
	assert.Len(t, left.Items, 1)
	next := harness.JSON[kit.VersionAdvice](srv, desk.Viewer, 200, "GET", kits+"/basics/1.1.0/next-version", nil)
	assert.Equal(t, "2.0.0", next.Next, "a page is gone")
	p = harness.JSON[api.Problem](srv, desk.Librarian, 409, "POST", kits+"/basics/1.1.0/seal", nil)
	assert.Equal(t, "2.0.0", (*p.Remedy.Values)["version"])
	harness.JSON[api.Kit](srv, desk.Librarian, 200, "POST", kits+"/basics/1.1.0/seal?because=nobody+used+it", nil)
	p = harness.JSON[api.Problem](srv, desk.Librarian, 409, "PATCH", kits+"/basics/1.0.0", words)
	assert.Equal(t, api.RemedyCodeNextVersion, p.Remedy.Code)
}

func TestAKitFileLeavesAndComesBack(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	sealed := aKit(t, srv)
	r := srv.Do(desk.Viewer, "GET", kits+"/basics/1.0.0/file", nil)
	require.Equal(t, 200, r.StatusCode)
	assert.Equal(t, kit.MediaType, r.Header.Get("Content-Type"))
	file := []byte(harness.Text(t, r))
	cached := srv.Do(desk.Viewer, "GET", kits+"/basics/1.0.0/file", nil,
		func(q *http.Request) { q.Header.Set("If-None-Match", r.Header.Get("ETag")) })
	assert.Equal(t, http.StatusNotModified, cached.StatusCode)
	part := srv.Do(desk.Viewer, "GET", kits+"/basics/1.0.0/file", nil,
		func(q *http.Request) { q.Header.Set("Range", "bytes=0-3") })
	assert.Equal(t, http.StatusPartialContent, part.StatusCode)
	assert.Equal(t, "PK\x03\x04", harness.Text(t, part))
	pieces := srv.Do(desk.Viewer, "GET", kits+"/basics/1.0.0/pieces", nil)
	assert.Equal(t, 200, pieces.StatusCode)
	assert.Contains(t, harness.Text(t, pieces), "basics.page.a-1.0.0.cpkit")

	other := harness.Serve(t, harness.Records(t), nil)
	in := harness.JSON[api.Intake](other, desk.Librarian, 201, "POST", "/api/v1/kit-files?name=basics.cpkit",
		bytes.NewReader(file))
	require.Len(t, in.Kits, 1)
	assert.Equal(t, sealed.Digest, in.Kits[0].Digest)
	item := harness.JSON[api.ItemDetail](other, desk.Viewer, 200, "GET", kits+"/basics/1.0.0/item?address=page/a", nil)
	assert.Contains(t, *item.Content, "<p>a</p>")
	for _, c := range []struct {
		path   string
		status int
	}{{"/basics/1.0.0/item?address=page/none", 404}, {"/basics/1.0.0/item?address=x", 400},
		{"/basics/3.0.0/file", 404}, {"/basics/3.0.0/pieces", 404}, {"/none/1.0.0", 404}} {
		t.Run(c.path, func(t *testing.T) {
			harness.JSON[api.Problem](other, desk.Viewer, c.status, "GET", kits+c.path, nil)
		})
	}
	file[len(file)/2] ^= 1
	p := harness.JSON[api.Problem](other, desk.Librarian, 409, "POST", "/api/v1/kit-files?name=basics.cpkit",
		bytes.NewReader(file))
	assert.NotEmpty(t, p.Detail)
}

func TestADeliveryIsOpenedDecidedStagedLiveAndUndone(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	aKit(t, srv)
	aSite(t, srv.Desk, "other")
	fit := harness.JSON[api.KitResolution](srv, desk.Viewer, 200, "GET", kits+"/basics/1.0.0/resolution?site=other",
		nil)
	assert.True(t, fit.Fits)
	policy := api.Policy("careful")
	opened := harness.JSON[api.Delivery](srv, desk.Librarian, 201, "POST", "/api/v1/deliveries",
		api.OpenDelivery{Kit: "basics", Version: "1.0.0", Site: "other", Policy: &policy})
	at := fmt.Sprintf("/api/v1/deliveries/%d", opened.Id)
	rows := harness.JSON[api.DeliveryList](srv, desk.Viewer, 200, "GET", "/api/v1/deliveries", nil)
	require.Len(t, rows.Deliveries, 1)
	assert.Equal(t, opened.State, rows.Deliveries[0].State)
	read := srv.Do(desk.Viewer, "GET", at, nil)
	etag := func(r *http.Request) { r.Header.Set("If-Match", read.Header.Get("ETag")) }

	bad := map[string]string{"page/a": "perhaps"}
	p := harness.JSON[api.Problem](srv, desk.Librarian, 422, "PATCH", at, api.Answers{Decisions: &bad})
	assert.Equal(t, api.RemedyCodeChooseOneOf, p.Remedy.Code)
	nowhere := map[string]string{"page/none": "take"}
	p = harness.JSON[api.Problem](srv, desk.Librarian, 422, "PATCH", at, api.Answers{Decisions: &nowhere})
	assert.NotEmpty(t, p.Detail)
	only := []api.Address{{Kind: "page", Key: "a"}}
	decided := harness.JSON[api.Delivery](srv, desk.Librarian, 200, "PATCH", at, api.Answers{Only: &only}, etag)
	harness.JSON[api.Problem](srv, desk.Librarian, 412, "PATCH", at, api.Answers{Only: &only}, etag)
	require.NotNil(t, decided.Plan)

	sides := harness.JSON[api.ItemComparison](srv, desk.Viewer, 200, "GET", at+"/comparison/page/a", nil)
	assert.Contains(t, *sides.Kit, "<p>a</p>")
	harness.JSON[api.Problem](srv, desk.Viewer, 404, "GET", at+"/comparison/page/none", nil)
	harness.JSON[api.Problem](srv, desk.Librarian, 412, "POST", at+"/stage?plan="+strings.Repeat("0", 64), nil)
	again := harness.JSON[api.Delivery](srv, desk.Librarian, 200, "POST", at+"/plan", nil)
	assert.Equal(t, decided.PlanDigest, again.PlanDigest, "nothing changed")
	staged := harness.JSON[api.Delivery](srv, desk.Librarian, 200, "POST", at+"/stage?plan="+string(*again.PlanDigest),
		nil)
	assert.Equal(t, api.DeliveryStateStaged, staged.State)
	require.NotNil(t, staged.Draft)
	live := harness.JSON[api.Delivery](srv, desk.Keeper, 200, "POST", at+"/live", nil)
	require.NotNil(t, live.Receipt)
	assert.Equal(t, api.DeliveryStateLive, live.State)
	harness.JSON[api.Problem](srv, desk.Keeper, 409, "POST", at+"/live", nil)
	undone := harness.JSON[api.Delivery](srv, desk.Keeper, 200, "POST", at+"/undo", api.UndoRequest{})
	assert.Equal(t, api.DeliveryStateUndone, undone.State)
	harness.JSON[api.Problem](srv, desk.Viewer, 404, "GET", "/api/v1/deliveries/99", nil)
}

func TestKeysAreTrustedAndAsked(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	aKit(t, srv)
	public, private, err := ed25519.GenerateKey(nil)
	require.NoError(t, err)
	der, err := x509.MarshalPKIXPublicKey(public)
	require.NoError(t, err)
	key := string(pem.EncodeToMemory(&pem.Block{Type: "PUBLIC KEY", Bytes: der}))
	name := "ida"
	kept := harness.JSON[api.TrustKey](srv, desk.Admin, 201, "POST", "/api/v1/trust/keys",
		api.NewTrustKey{Team: "huts", Name: &name, Key: key})
	harness.JSON[api.Problem](srv, desk.Admin, 409, "POST", "/api/v1/trust/keys",
		api.NewTrustKey{Team: "huts", Name: &name, Key: key})
	der, err = x509.MarshalPKCS8PrivateKey(private)
	require.NoError(t, err)
	secret := string(pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: der}))
	p := harness.JSON[api.Problem](srv, desk.Admin, 400, "POST", "/api/v1/trust/keys",
		api.NewTrustKey{Team: "huts", Key: secret})
	assert.NotContains(t, fmt.Sprint(p), secret, "a private key is not repeated")
	list := harness.JSON[api.TrustKeyList](srv, desk.Viewer, 200, "GET", "/api/v1/trust/keys", nil)
	assert.Equal(t, []api.TrustKey{kept}, list.Keys)

	ask := harness.JSON[api.SiteTrust](srv, desk.Keeper, 200, "PUT", sites+"/hut/trust",
		api.SiteTrust{Policy: "require", Team: "huts"})
	assert.Equal(t, ask, harness.JSON[api.SiteTrust](srv, desk.Viewer, 200, "GET", sites+"/hut/trust", nil))
	p = harness.JSON[api.Problem](srv, desk.Librarian, 409, "POST", "/api/v1/deliveries",
		api.OpenDelivery{Kit: "basics", Version: "1.0.0", Site: "hut"})
	assert.Equal(t, api.RemedyCodeSignOrTrust, p.Remedy.Code, "the kit is not signed")
	harness.JSON[any](srv, desk.Admin, 204, "DELETE", fmt.Sprintf("/api/v1/trust/keys/%d", kept.Id), nil)
	harness.JSON[api.Problem](srv, desk.Admin, 404, "DELETE", fmt.Sprintf("/api/v1/trust/keys/%d", kept.Id), nil)
}
