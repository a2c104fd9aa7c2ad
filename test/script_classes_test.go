package test

import (
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

// sliders is a site whose slides are made by a script, with names that no source has.
func sliders(t *testing.T, s *harness.Service, name string) {
	t.Helper()
	dir := filepath.Join(t.TempDir(), name)
	for file, text := range map[string]string{
		"index.html": `<!doctype html><html lang="en"><head><title>Cairn Slides</title><link rel="stylesheet" ` +
			`href="css/app.css?v=2"><link rel="stylesheet" href="css/forms.css"></head><body><main><h1>Views</h1>` +
			`<div class="views"><img src="dawn.svg" alt="Dawn"></div></main><script src="js/app.js"></script>` +
			`</body></html>`,
		"css/app.css": ".views { display: grid }\n.vw-frame > b { color: teal }\n.is-ready .views { gap: 1rem }\n" +
			".unheard-of { color: red }\n",
		"css/forms.css": ".field { border: 0 }\n",
		"js/app.js": "const v = document.querySelector('.views'), n = [118, 119, 45].map((c) => " +
			"String.fromCharCode(c)).join('') + ['fra', 'me'].join(''); " +
			"const f = document.createElement('div'); f.className = n; " +
			"f.append(document.createElement('b')); v.append(f)",
		"dawn.svg": `<svg xmlns="http://www.w3.org/2000/svg"/>`,
	} {
		at := filepath.Join(dir, filepath.FromSlash(file))
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	s.Must("site", "adopt", dir, "--name", name)
	var put api.Edited
	s.Call("PUT", "/api/v1/sites/"+name+"/item?address=setting/scripts", map[string]any{"content": `"approved"`}).
		Into(t, &put)
	s.Must("site", "go-live", name, fmt.Sprint(put.Draft))
}

// What scripts put on a page is known once the page was run: its rules travel, the kit says so, and sealing waits for
// it.
func TestRulesForWhatScriptsMakeTravelOnceThePageWasRun(t *testing.T) {
	t.Parallel()
	s := withBrowser(t, "--demo=sites")
	sliders(t, s, "cairn-slides")
	s.Must("kit", "new", "slides@1.0.0", "--license", "CC-BY-4.0", "--title", "Slides")
	s.Must("kit", "add", "slides@1.0.0", "page/home", "--from", "cairn-slides")
	var k api.Kit
	require.Eventually(t, func() bool {
		s.JSON(&k, "kit", "show", "slides@1.0.0")
		return len(k.Weights) > 0 && len(k.Weights[0].WhenRun) > 0
	}, time.Minute, 300*time.Millisecond)
	assert.Equal(t, []string{"vw-frame"}, k.Weights[0].WhenRun)
	shown := s.Must("kit", "show", "slides@1.0.0")
	assert.Contains(t, shown, "with rules for what was there when the page was run: vw-frame")
	s.Must("kit", "seal", "slides@1.0.0")
	file := filepath.Join(t.TempDir(), "slides.kit")
	s.Must("kit", "get", "slides@1.0.0", "--file", file)
	to := filepath.Join(t.TempDir(), "open")
	s.Must("file", "unpack", file, to)
	b, err := os.ReadFile(filepath.Join(to, "stylesheets", "css", "app.css"))
	require.NoError(t, err)
	assert.Contains(t, string(b), ".vw-frame > b")
	assert.NotContains(t, string(b), "unheard-of")
	assert.False(t, strings.Contains(string(b), ".is-ready"), "nothing puts it on")
	assert.NoFileExists(t, filepath.Join(to, "stylesheets", "css", "forms.css"), "nothing of it is used")
	b, err = os.ReadFile(filepath.Join(to, "pages", "home.html"))
	require.NoError(t, err)
	assert.NotContains(t, string(b), "forms.css")
}
