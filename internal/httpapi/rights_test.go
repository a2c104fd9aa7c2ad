package httpapi_test

import (
	"context"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	description "compactparcel/api"
	"compactparcel/internal/desk"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// needed is the least role of every operation: who may do what, for a person to read. An
// operation that is new has to be put here by somebody who has thought about it.
var needed = map[string]desk.Role{
	"signIn":            "",
	"setUp":             "",
	"getVocabulary":     "",
	"getSession":        desk.Viewer,
	"signOut":           desk.Viewer,
	"listTokens":        desk.Viewer,
	"makeToken":         desk.Viewer,
	"dropToken":         desk.Viewer,
	"changePassword":    desk.Viewer,
	"listSessions":      desk.Viewer,
	"endSession":        desk.Viewer,
	"endSessions":       desk.Viewer,
	"listLibrary":       desk.Viewer,
	"listSites":         desk.Viewer,
	"watchEvents":       desk.Viewer,
	"getSite":           desk.Viewer,
	"listProposals":     desk.Viewer,
	"listOutlets":       desk.Viewer,
	"listItems":         desk.Viewer,
	"getItem":           desk.Viewer,
	"getPlacement":      desk.Viewer,
	"getSurround":       desk.Viewer,
	"getOutline":        desk.Viewer,
	"getPageSource":     desk.Viewer,
	"getSiteFaults":     desk.Viewer,
	"listRevisions":     desk.Viewer,
	"publishSite":       desk.Viewer,
	"publishChanges":    desk.Viewer,
	"listDrafts":        desk.Viewer,
	"getDraft":          desk.Viewer,
	"listDraftSteps":    desk.Viewer,
	"renameDraft":       desk.Keeper,
	"newSite":           desk.Keeper,
	"bringBack":         desk.Keeper,
	"compareRevisions":  desk.Viewer,
	"editSite":          desk.Keeper,
	"listPieceSources":  desk.Viewer,
	"usePiece":          desk.Keeper,
	"getFormTable":      desk.Keeper,
	"deleteFormEntries": desk.Keeper,
	"listFormEntries":   desk.Keeper,
	"listForms":         desk.Keeper,
	"tryForm":           desk.Keeper,
	"timeDraft":         desk.Keeper,
	"beginUpload":       desk.Viewer, "lookAtUpload": desk.Viewer, "continueUpload": desk.Viewer,
	"endUpload": desk.Viewer, "wantPictures": desk.Viewer, "getPicture": desk.Viewer, "draftBeforeAfter": desk.Viewer,
	"deliveryBeforeAfter": desk.Viewer, "deliveryStands": desk.Viewer, "listJobs": desk.Keeper, "getJob": desk.Keeper,
	"stopJob":         desk.Keeper,
	"goOnWithJob":     desk.Keeper,
	"untimeDraft":     desk.Keeper,
	"undoDraftStep":   desk.Keeper,
	"redoDraftStep":   desk.Keeper,
	"listMedia":       desk.Viewer,
	"sizeMedia":       desk.Keeper,
	"setIcon":         desk.Keeper,
	"listFonts":       desk.Viewer,
	"cropMedia":       desk.Keeper,
	"listMediaTexts":  desk.Viewer,
	"writeMediaText":  desk.Keeper,
	"takeFont":        desk.Keeper,
	"addFont":         desk.Keeper,
	"archiveSite":     desk.Keeper,
	"restoreSite":     desk.Keeper,
	"openDraft":       desk.Keeper,
	"rebaseDraft":     desk.Keeper,
	"listKits":        desk.Viewer,
	"getKit":          desk.Viewer,
	"getKitFaults":    desk.Viewer,
	"getKitItem":      desk.Viewer,
	"getNextVersion":  desk.Viewer,
	"getKitFile":      desk.Viewer,
	"resolveKit":      desk.Viewer,
	"getKitPieces":    desk.Viewer,
	"listTrustKeys":   desk.Viewer,
	"getSiteTrust":    desk.Viewer,
	"listDeliveries":  desk.Viewer,
	"getDelivery":     desk.Viewer,
	"compareDelivery": desk.Viewer,
	"addToLibrary":    desk.Librarian,
	"newKit":          desk.Librarian,
	"importKit":       desk.Librarian,
	"editKit":         desk.Librarian,
	"addToKit":        desk.Librarian,
	"excludeFromKit":  desk.Librarian,
	"sealKit":         desk.Librarian,
	"openDelivery":    desk.Librarian,
	"decideDelivery":  desk.Librarian,
	"planDelivery":    desk.Librarian,
	"stageDelivery":   desk.Librarian,
	"adoptSite":       desk.Keeper,
	"adoptAgain":      desk.Keeper,
	"acceptProposals": desk.Keeper,
	"addOutlet":       desk.Keeper,
	"publishOutlet":   desk.Keeper,
	"removeOutlet":    desk.Keeper,
	"editItem":        desk.Keeper,
	"deleteItem":      desk.Keeper,
	"editMedia":       desk.Keeper,
	"discardDraft":    desk.Keeper,
	"goLive":          desk.Keeper,
	"trustKey":        desk.Keeper,
	"distrustKey":     desk.Keeper,
	"setSiteTrust":    desk.Keeper,
	"goLiveDelivery":  desk.Keeper,
	"undoDelivery":    desk.Keeper,
	"listUsers":       desk.Admin,
	"makeUser":        desk.Admin,
	"changeUser":      desk.Admin,
}

// at fills a path with names of things that are not there.
var at = strings.NewReplacer("{id}", "999999", "{user}", "nobody", "{site}", "nowhere", "{kit}", "none", "{version}",
	"1.0.0", "{outlet}", "none", "{kind}", "page", "{key}", "none", "{name}", "none", "{upload}", "0", "{picture}",
	strings.Repeat("0", 64))

// endless is a body that never ends: whoever reads it waits.
type endless struct{ stop <-chan struct{} }

func (e endless) Read([]byte) (int, error) { <-e.stop; return 0, io.EOF }

func TestWhoMayDoWhat(t *testing.T) {
	s := harness.Serve(t, harness.Records(t), nil)
	ops, err := description.Operations()
	require.NoError(t, err)
	require.Len(t, ops, len(needed), "every operation has its row, and no other")
	rank := map[desk.Role]int{"": 0}
	for i, r := range desk.Roles {
		rank[r] = i + 1
	}
	stop := make(chan struct{})
	defer close(stop)
	for _, op := range ops {
		role, known := needed[op.ID]
		require.True(t, known, "who may %s?", op.ID)
		want := op.Role
		if want == description.Open {
			want = ""
		}
		require.Equal(t, string(role), want, "%s: the description says another role", op.ID)
		path := at.Replace(op.Path) + "?" + url.Values{
			"address": {"page/none"},
			"path":    {"/none/"},
			"site":    {"nowhere"},
			"kind":    {"none"}, // a stream would never end
		}.Encode()
		for _, who := range append([]desk.Role{""}, desk.Roles...) {
			ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
			refused := rank[who] < rank[role]
			var body io.Reader = strings.NewReader("{}")
			if refused {
				body = endless{stop} // nobody who may not do it makes the service read
			}
			if op.Method == http.MethodGet {
				body = nil
			}
			r, err := http.NewRequestWithContext(ctx, op.Method, s.URL+path, body)
			require.NoError(t, err)
			if who != "" {
				r.Header.Set("Authorization", "Bearer "+s.Tokens[who])
			}
			answer, err := (&http.Client{Transport: &http.Transport{DisableKeepAlives: true}}).Do(r)
			require.NoError(t, err, "%s as %q", op.ID, who)
			text := harness.Text(t, answer)
			cancel()
			switch {
			case refused && who == "":
				assert.Equal(t, 401, answer.StatusCode, "%s without a sign-in: %s", op.ID, text)
			case refused:
				assert.Equal(t, 403, answer.StatusCode, "%s as a %s: %s", op.ID, who, text)
			default:
				if role != "" {
					assert.NotEqual(t, 401, answer.StatusCode, "%s as %q: %s", op.ID, who, text)
					assert.NotEqual(t, 403, answer.StatusCode, "%s as a %s: %s", op.ID, who, text)
				}
				assert.Less(t, answer.StatusCode, 500, "%s as %q: %s", op.ID, who, text)
			}
		}
	}
}

// Sizes come before contents: a body that says it is too large is not read.
func TestSizesAreLookedAtBeforeBodies(t *testing.T) {
	s := harness.Serve(t, harness.Records(t), nil)
	ops, err := description.Operations()
	require.NoError(t, err)
	u, err := url.Parse(s.URL)
	require.NoError(t, err)
	for _, op := range ops {
		if op.Method == http.MethodGet {
			continue
		}
		c, err := net.Dial("tcp", u.Host)
		require.NoError(t, err)
		c.SetDeadline(time.Now().Add(10 * time.Second))
		_, err = io.WriteString(
			c,
			op.Method+" "+at.Replace(
				op.Path,
			)+" HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer "+s.Tokens[desk.Admin]+"\r\nContent-Length: "+
				"9000000000\r\n\r\n{",
		)
		require.NoError(t, err)
		head := make([]byte, 20)
		_, err = io.ReadFull(c, head)
		require.NoError(t, err, op.ID)
		assert.Contains(t, string(head), " 413", op.ID)
		c.Close()
	}
	// An open route takes four kilobytes, told or not.
	long := strings.Repeat("x", 15<<20)
	for range 24 {
		answer := s.Do("", "POST", "/api/v1/session", struct{ io.Reader }{strings.NewReader(`{"name":"` + long)})
		assert.Equal(t, 413, answer.StatusCode)
	}
}
