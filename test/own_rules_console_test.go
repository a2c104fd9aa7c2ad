package test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The rules that a section carries in itself are offered to the whole site; of one that has none nothing is offered.
func TestOwnRulesAreMovedInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	var d api.ItemDetail
	s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address=section/latest-notices", nil).Into(t, &d)
	file := filepath.Join(t.TempDir(), "notices.html")
	text := strings.Replace(*d.Content, ">", "><style>.notices-own { letter-spacing: .02em }</style>", 1)
	require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	s.Must("site", "put", "kestrel-refuge", "section/latest-notices", file, "--draft", "own")
	b := signedIn(t, s, "ida")
	offered := `document.querySelector("[data-styles-move]") !== null`
	b.Go(s.Console + "/sites/kestrel-refuge/edit/getting-here/?draft=1")
	b.PointAt("section.hours")
	b.Sees("Section “Opening hours”")
	assert.False(t, harness.Eval[bool](b, offered))
	b.Go(s.Console + "/sites/kestrel-refuge/edit/?draft=1")
	b.PointAt("section:has(> style)")
	b.Sees("Its own rules")
	b.Click(`//summary[contains(., "Its own rules")]`)
	b.Click("[data-styles-move]")
	b.Saved()
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "stylesheet/latest-notices", "--draft", "own"),
		"letter-spacing")
}
