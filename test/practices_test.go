package test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// docs/practices.md names a way to each practice; each command, view, operation and test that it names is there.
func TestPracticesAreWalked(t *testing.T) {
	t.Parallel()
	read := func(path string) string {
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		return string(b)
	}
	doc, described, router := read("../docs/practices.md"), read("../api/openapi.yaml"), read("../web/src/router.ts")
	files, err := filepath.Glob("*_test.go")
	require.NoError(t, err)
	tests := ""
	for _, f := range files {
		tests += read(f)
	}
	client := filepath.Join(harness.Binaries(t), "cparcel")
	rows := map[string][]string{}
	for _, line := range strings.Split(doc, "\n") {
		if cells := strings.Split(line, " | "); len(cells) == 6 {
			rows[strings.Trim(cells[0], "|* ")] = cells
		}
	}
	all := "F1 F2 F3 F4 K1 K2 K3 K4 K5 K6 D1 D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 S1 S2 S3 S4 S5"
	code := regexp.MustCompile("`([^`]+)`")
	for _, id := range strings.Fields(all) {
		cells, there := rows[id]
		if !assert.True(t, there, "%s has a row of six cells", id) {
			continue
		}
		commands, named := 0, 0
		for _, c := range code.FindAllStringSubmatch(cells[2], -1) {
			if words, is := strings.CutPrefix(c[1], "cparcel "); is {
				commands++
				out, err := exec.Command(client, append(strings.Fields(words), "--help")...).CombinedOutput()
				assert.NoError(t, err, "%s: %s", id, c[1])
				assert.Contains(t, string(out), "cparcel "+words, "%s: %s", id, c[1])
			}
		}
		assert.NotZero(t, commands, "%s names a command", id)
		for _, c := range code.FindAllStringSubmatch(cells[3], -1) {
			assert.Contains(t, router, `path: "`+c[1]+`"`, "%s: %s", id, c[1])
		}
		for _, c := range code.FindAllStringSubmatch(cells[4], -1) {
			assert.Contains(t, described, "operationId: "+c[1]+"\n", id)
		}
		for _, name := range regexp.MustCompile(`Test\w+`).FindAllString(cells[5], -1) {
			named++
			assert.Contains(t, tests, "func "+name+"(t *testing.T)", id)
		}
		assert.NotZero(t, named, "%s names a test", id)
	}
}
