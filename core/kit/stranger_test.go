package kit_test

import (
	"archive/zip"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"path"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A reader that knows nothing but docs/kit-format.md reads the golden file.
func TestAStrangerReadsAKitByItsDescription(t *testing.T) {
	z, err := zip.OpenReader("testdata/format-1.cpkit")
	require.NoError(t, err)
	defer z.Close()
	contents := map[string][]byte{}
	for _, f := range z.File {
		require.False(t, strings.HasPrefix(f.Name, "/") || strings.Contains(f.Name, ".."), f.Name)
		require.Contains(t, []uint16{0, 8}, f.Method, f.Name)
		r, err := f.Open()
		require.NoError(t, err)
		contents[f.Name], err = io.ReadAll(r)
		require.NoError(t, err)
	}
	var list struct {
		Format       int
		Kit, Version string
		Items        []struct {
			Kind, Key, Path, SHA256 string
			Bytes                   int
			Uses                    []string
		}
		Fillins   []struct{ Name, Type string }
		Generated []struct{ Path, SHA256 string }
	}
	require.NoError(t, json.Unmarshal(contents["packing-list.json"], &list))
	require.Equal(t, 1, list.Format)
	assert.Regexp(t, `^\d+\.\d+\.\d+`, list.Version)
	require.NotEmpty(t, list.Items)
	folders := map[string]string{
		"page":        "pages",
		"section":     "sections",
		"block":       "blocks",
		"part":        "surround",
		"stylesheet":  "stylesheets",
		"tokens":      "tokens",
		"media":       "media",
		"menu":        "menus",
		"form":        "forms",
		"record-type": "record-types",
		"record":      "records",
		"component":   "components",
		"setting":     "settings",
	}
	named := map[string]bool{"packing-list.json": true, "seal.json": true}
	addresses := map[string]bool{}
	for _, i := range list.Items {
		addresses[i.Kind+"/"+i.Key] = true
	}
	for _, i := range list.Items {
		named[i.Path] = true
		b, there := contents[i.Path]
		require.True(t, there, i.Path)
		sum := sha256.Sum256(b)
		assert.Equal(t, i.SHA256, hex.EncodeToString(sum[:]), i.Path)
		assert.Len(t, b, i.Bytes, i.Path)
		assert.True(t, strings.HasPrefix(i.Path, folders[i.Kind]+"/"+strings.TrimSuffix(i.Key, path.Ext(i.Key))),
			"%s lies at %s", i.Key, i.Path)
		for _, u := range i.Uses {
			assert.True(t, addresses[u], "%s uses %s", i.Path, u)
		}
	}
	for _, g := range list.Generated {
		named[g.Path] = true
	}
	for name := range contents {
		assert.True(t, named[name] || strings.HasSuffix(name, "/"), "the packing list does not name %s", name)
	}
}
