package test

import (
	"fmt"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// An edit that names the step which its author saw means the page as it was then: it is carried through what others
// did since, refused where they changed the same, and done once however often it is sent.
func TestEditsAreCarriedThroughWhatCameSince(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	var d api.Draft
	s.Call("POST", "/api/v1/sites/kestrel-refuge/drafts", m{"name": "carried"}).Into(t, &d)
	edit := func(more m, operations ...m) harness.Reply {
		more["draft"], more["operations"] = d.Id, operations
		return s.Call("POST", "/api/v1/sites/kestrel-refuge/edits", more)
	}
	page := func() string { return string(s.Visit(d.Preview + "/").Body) }
	second := "main > section:nth-of-type(2) > h2"
	text := func(element, value string) m {
		return m{"op": "text", "page": "/", "element": element, "value": value}
	}

	var outline api.PageOutline
	seen := func() string {
		s.Call("GET", fmt.Sprintf("/api/v1/sites/kestrel-refuge/outline?path=/&draft=%d", d.Id), nil).Into(t, &outline)
		return outline.Seen
	}
	first := seen()
	require.Equal(t, 200, edit(m{}, m{"op": "duplicate", "page": "/",
		"element": "main > section:nth-of-type(1)"}).Status)
	then := seen()
	assert.Equal(t, 1, outline.Step)
	fails(t, edit(m{"seen": "1"}, text(second, "Why we come")), 400, "bad-input", "its outline has one")

	// By then the second section is another.
	r := edit(m{"seen": first}, text(second, "Why we come"))
	require.Equal(t, 200, r.Status, string(r.Body))
	assert.Contains(t, page(), "<h2>Why we come</h2>")

	// What its author wrote there before goes before it; sent twice, it is there once.
	more := m{"op": "text", "page": "/", "element": second, "run": 1, "from": 11, "to": 11, "value": " up"}
	for range 2 {
		r = edit(m{"seen": first, "done": []m{text(second, "Why we come")}}, more)
		require.Equal(t, 200, r.Status, string(r.Body))
		assert.Contains(t, page(), "<h2>Why we come up</h2>")
	}

	// The same words, by somebody who did not see that.
	fails(
		t,
		edit(m{"seen": then}, text("main > section:nth-of-type(3) > h2", "Why they come")),
		412,
		"stale",
		"meanwhile",
	)
	assert.Contains(t, page(), "<h2>Why we come up</h2>")

	// Two pages cannot come to one address.
	require.Equal(t, 200, edit(m{}, m{"op": "page-new", "page": "/winter/", "value": "Winter"}).Status)
	moved := m{"op": "page-address", "page": "/getting-here/", "value": "/winter/"}
	fails(t, edit(m{"seen": then}, moved), 412, "stale", "came to /winter/ meanwhile")

	// What is gone cannot be written in.
	require.Equal(t, 200, edit(m{}, m{"op": "page-remove", "page": "/contact/"}).Status)
	gone := m{"op": "text", "page": "/contact/", "element": "main h1", "value": "Write"}
	fails(t, edit(m{"seen": then}, gone), 412, "stale", "taken out meanwhile")
}
