package test

import (
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
)

// The demo that a newcomer starts holds what a week of work leaves behind.
func TestTheDemoIsLivedIn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=lived")
	var kept api.ItemList
	s.Call("GET", "/api/v1/library", nil).Into(t, &kept)
	pieces := 0
	for _, i := range kept.Items {
		switch i.Address.Kind {
		case "page", "section", "part":
			pieces++
		}
	}
	assert.GreaterOrEqual(t, pieces, 12)
	assert.Contains(t, s.Must("draft", "list", "kestrel-refuge"), "summer at Kestrel")
	assert.Contains(t, s.Must("delivery", "list"), "planned")
	assert.Contains(t, s.Must("form", "entries", "kestrel-refuge", "booking"), "Mara Quill")
	faults := s.Client("site", "check", "kestrel-refuge", "--draft", "summer at Kestrel")
	assert.Contains(t, faults.Out+faults.Err, "orem ipsum")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/")
	b.Sees("Opening hours")
}
