package test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The generated files are those that make generate would write now.
func TestGeneratedFilesAreCurrent(t *testing.T) {
	root, out := harness.Root(t), t.TempDir()
	config, err := os.ReadFile(filepath.Join(root, "api", "oapi-codegen.yaml"))
	require.NoError(t, err)
	goFile, tsFile := filepath.Join(out, "api.gen.go"), filepath.Join(out, "schema.gen.ts")
	elsewhere := filepath.Join(out, "config.yaml")
	require.NoError(t,
		os.WriteFile(elsewhere, []byte(strings.Replace(string(config), "internal/api/api.gen.go", goFile, 1)), 0o644))
	run := func(dir, name string, args ...string) {
		cmd := exec.Command(name, args...)
		cmd.Dir = dir
		b, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", b)
	}
	run(root, "go", "tool", "oapi-codegen", "-config", elsewhere, "api/openapi.yaml")
	run(filepath.Join(root, "web"), "npx", "--no-install", "openapi-typescript", "../api/openapi.yaml", "-o", tsFile)
	for _, f := range [][2]string{{goFile, "internal/api/api.gen.go"}, {tsFile, "web/src/api/schema.gen.ts"}} {
		want, err := os.ReadFile(f[0])
		require.NoError(t, err)
		got, err := os.ReadFile(filepath.Join(root, f[1]))
		require.NoError(t, err)
		assert.True(t, string(want) == string(got), "%s is not current: run make generate", f[1])
	}
}
