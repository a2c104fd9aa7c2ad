package test

import (
	"bufio"
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Reading a document twice as large takes twice the steps and twice the memory at most,
// whatever the document. Steps are counted, not timed: the reader is built so that it counts
// how often each of its statements is executed.
func TestReadersAreLinear(t *testing.T) {
	dir := t.TempDir()
	bin := filepath.Join(dir, "steps")
	build := exec.Command(
		"go",
		"build",
		"-cover",
		"-covermode=count",
		"-coverpkg=compactparcel/test/steps,compactparcel/core/...,golang.org/x/net/html,github.com/tdewolff/"+
			"parse/v2/...",
		"-o",
		bin,
		"compactparcel/test/steps",
	)
	out, err := build.CombinedOutput()
	require.NoError(t, err, string(out))
	list, err := exec.Command(bin).Output()
	require.NoError(t, err)
	var names []string
	sizes := map[string]int{}
	for _, line := range strings.Split(strings.TrimSpace(string(list)), "\n") {
		name, size, _ := strings.Cut(line, "\t")
		names = append(names, name)
		n := 0
		_, err := fmt.Sscan(size, &n)
		require.NoError(t, err)
		sizes[name] = n
	}
	if os.Getenv("CPARCEL_SOAK") != "" {
		for name := range sizes {
			sizes[name] *= 4
		}
	}
	sort.Strings(names)
	require.Greater(t, len(names), 50)
	for _, name := range names {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			one, two := counted(t, bin, name, sizes[name]), counted(t, bin, name, 2*sizes[name])
			factor := map[string]float64{"steps": 2.3, "bytes": 2.6, "allocations": 2.3} // slices grow in leaps
			for what, x := range map[string][2]float64{"steps": {one.steps, two.steps},
				"bytes": {one.bytes, two.bytes}, "allocations": {one.allocs, two.allocs}} {
				slack := map[string]float64{"steps": 20_000, "bytes": 2 << 20, "allocations": 2000}[what]
				assert.LessOrEqual(t, x[1], factor[what]*x[0]+slack, "%s of twice the size: %.0f beside %.0f", what,
					x[1], x[0])
			}
		})
	}
}

type count struct{ steps, bytes, allocs float64 }

func counted(t *testing.T, bin, name string, n int) (c count) {
	t.Helper()
	dir := t.TempDir()
	cmd := exec.Command(bin, name, fmt.Sprint(n))
	cmd.Env = append(os.Environ(), "GOCOVERDIR="+dir, "GOMEMLIMIT=2GiB")
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	_, err = fmt.Sscan(string(out), &c.bytes, &c.allocs)
	require.NoError(t, err)
	text := filepath.Join(dir, "steps.txt")
	out, err = exec.Command("go", "tool", "covdata", "textfmt", "-i="+dir, "-o="+text).CombinedOutput()
	require.NoError(t, err, string(out))
	b, err := os.ReadFile(text)
	require.NoError(t, err)
	lines := bufio.NewScanner(bytes.NewReader(b))
	for lines.Scan() { // file:from,to STATEMENTS COUNT
		f := strings.Fields(lines.Text())
		var statements, times float64
		if len(f) != 3 {
			continue
		}
		fmt.Sscan(f[1], &statements)
		fmt.Sscan(f[2], &times)
		c.steps += statements * times
	}
	require.Positive(t, c.steps)
	return c
}
