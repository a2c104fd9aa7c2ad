package test

import (
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	fenced  = regexp.MustCompile("(?ms)^```.*?^```[ \t]*$|`[^`\n]*`")
	leads   = regexp.MustCompile(`\]\(([^)\s]+)[^)]*\)|^\[[^\]]+\]:\s+(\S+)`)
	heading = regexp.MustCompile(`(?m)^#{1,6}\s+(.+?)\s*$`)
	dropped = regexp.MustCompile(`[^\p{L}\p{N}\s_-]`)
)

// anchors gives the fragments by which the headings of a document can be linked to.
func anchors(text string) map[string]bool {
	out := map[string]bool{}
	for _, m := range heading.FindAllStringSubmatch(text, -1) {
		plain := dropped.ReplaceAllString(strings.ToLower(m[1]), "")
		out[strings.ReplaceAll(plain, " ", "-")] = true
	}
	return out
}

// deadLinks gives the links of a document that lead to no file or to no heading. Addresses elsewhere are not asked for.
func deadLinks(t *testing.T, name, text string) []string {
	t.Helper()
	var dead []string
	for _, line := range strings.Split(fenced.ReplaceAllString(text, ""), "\n") {
		for _, m := range leads.FindAllStringSubmatch(line, -1) {
			to, err := url.Parse(m[1] + m[2])
			if err != nil {
				dead = append(dead, m[1]+m[2])
				continue
			}
			if to.Scheme != "" || to.Host != "" {
				continue
			}
			file := name
			if to.Path != "" {
				file = filepath.Join(filepath.Dir(name), to.Path)
			}
			info, err := os.Stat(file)
			if err != nil || to.Fragment != "" && info.IsDir() {
				dead = append(dead, to.String())
				continue
			}
			if to.Fragment == "" {
				continue
			}
			there, err := os.ReadFile(file)
			require.NoError(t, err)
			if !anchors(string(there))[to.Fragment] {
				dead = append(dead, to.String())
			}
		}
	}
	return dead
}

// Every link of the documents leads to a file that is there, and to a heading of it.
func TestNoLinkOfTheDocumentsIsDead(t *testing.T) {
	t.Parallel()
	root := harness.Root(t)
	seen := 0
	for _, pattern := range []string{"*.md", "docs/*.md", "*/*/*.md"} {
		all, err := filepath.Glob(filepath.Join(root, pattern))
		require.NoError(t, err)
		for _, name := range all {
			if strings.Contains(name, "node_modules") {
				continue
			}
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			seen++
			assert.Empty(t, deadLinks(t, name, string(text)), "of %s", name)
		}
	}
	assert.Greater(t, seen, 8)
	here := filepath.Join(root, "README.md")
	assert.Equal(t, []string{"docs/nowhere.md", "docs/testing.md#no-such-heading", "#nor-this"}, deadLinks(t, here,
		"[a](docs/nowhere.md) [b](docs/testing.md#no-such-heading) [c](docs/testing.md#running-one) [d](#nor-this) "+
			"`[e](gone.md)` [f](https://elsewhere.example/x)\n"))
}
