package client

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// command is a call of the client within a text, up to what a person fills in.
var command = regexp.MustCompile(`cparcel((?: [a-z][a-z-]*[a-z])+)`)

// named tells whether words begin with a command of the client: whatever has commands below
// it is followed by one of them.
func named(root *cobra.Command, words []string) bool {
	at := root
	for _, w := range words {
		if !at.HasSubCommands() {
			return true // arguments
		}
		next := (*cobra.Command)(nil)
		for _, c := range at.Commands() {
			if c.Name() == w || c.HasAlias(w) {
				next = c
			}
		}
		if next == nil {
			return false
		}
		at = next
	}
	return true
}

// Every command that a message, a remedy or a page of the documents names is one.
func TestCommandsThatAreNamedExist(t *testing.T) {
	root := (&app{}).root()
	root.InitDefaultCompletionCmd()
	require.True(t, named(root, []string{"site", "show", "larch"}))
	require.False(t, named(root, []string{"site", "nonsense"}))
	top := filepath.Join("..", "..")
	seen := 0
	for _, dir := range []string{"core", "internal", "cmd", "demo", "docs", "README.md"} {
		t.Run(dir, func(t *testing.T) {
			err := filepath.WalkDir(filepath.Join(top, dir), func(path string, d fs.DirEntry, err error) error {
				if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") ||
					!strings.HasSuffix(path, ".go") && !strings.HasSuffix(path, ".md") {
					return err
				}
				text, err := os.ReadFile(path)
				if err != nil {
					return err
				}
				for _, m := range command.FindAllStringSubmatch(string(text), -1) {
					words := strings.Fields(m[1])
					if words[0] == "on" || words[0] == "is" || words[0] == "and" { // "cparcel on HOST", prose
						continue
					}
					seen++
					assert.True(t, named(root, words), "%s names cparcel%s", path, m[1])
				}
				return nil
			})
			require.NoError(t, err)
		})
	}
	assert.Greater(t, seen, 100)
}
