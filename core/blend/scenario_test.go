package blend

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
)

// A scenario is a text file in testdata that anyone can add without reading Go:
//
//	the comment at the top says what it shows; its first word is the item's kind
//	-- base --       as it was delivered
//	-- site --       what the site made of it
//	-- kit --        what the kit made of it
//	-- want --       the blend; left out: the site's text
//	-- conflicts --  one for each line: KIND WHERE: BASE | SITE | KIT
//	-- want kit --   the blend when each conflict is decided for the kit
func TestScenarios(t *testing.T) {
	files, err := filepath.Glob("testdata/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		t.Run(strings.TrimSuffix(filepath.Base(f), ".txt"), func(t *testing.T) { scenario(t, f) })
	}
}

func scenario(t *testing.T, file string) {
	ar, err := txtar.ParseFile(file)
	require.NoError(t, err)
	word, _, _ := strings.Cut(string(ar.Comment), " ")
	kind := item.Kind(strings.ToLower(strings.TrimSuffix(word, ":")))
	files := map[string]string{}
	for _, f := range ar.Files {
		files[f.Name] = string(f.Data)
	}
	base, site, kit := files["base"], files["site"], files["kit"]
	got := Merge(kind, []byte(base), []byte(site), []byte(kit), nil)
	want, ok := files["want"]
	if !ok {
		want = site
	}
	if os.Getenv("SHOW") != "" {
		t.Logf("\n%s\n%s", got.Text, inLines(got))
	}
	assert.Equal(t, want, string(got.Text))
	assert.Equal(t, files["conflicts"], inLines(got))
	all := Merge(kind, []byte(base), []byte(site), []byte(kit), func(*Conflict) Decision { return "kit" })
	if kitWant, ok := files["want kit"]; ok {
		assert.Equal(t, kitWant, string(all.Text))
		assert.Zero(t, all.Open())
	}
	// The sides swapped: the same conflicts with the sides named the other way round.
	swapped := Merge(kind, []byte(base), []byte(kit), []byte(site), nil)
	require.Len(t, swapped.Conflicts, len(got.Conflicts), inLines(swapped))
	if len(got.Conflicts) == 0 {
		assert.Equal(t, meaning(kind, got.Text), meaning(kind, swapped.Text))
	}
}

func inLines(r *Result) string {
	var b strings.Builder
	brief := func(s string) string {
		if s = strings.Join(strings.Fields(s), " "); s == "" {
			return "nothing"
		}
		return s
	}
	for _, c := range r.Conflicts {
		fmt.Fprintf(&b, "%s %s: %s | %s | %s\n", c.Kind, c.Where, brief(c.Base), brief(c.Site), brief(c.Kit))
	}
	return b.String()
}
