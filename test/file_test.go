package test

import (
	"os"
	"path/filepath"
	"testing"

	"compactparcel/demo"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Kit files alone, without any service: packed from a folder, looked into, signed,
// verified, unpacked, edited, packed again and compared.
func TestKitFilesWithoutAService(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	at := func(name string) string { return filepath.Join(dir, name) }
	s.Must("kit", "new", "hut-basics@1.0.0", "--title", "Hut basics", "--license", "CC-BY-4.0")
	s.Must("kit", "add", "hut-basics@1.0.0", "section/opening-hours", "part/site-header", "--from", "kestrel-refuge")
	s.Must("kit", "seal", "hut-basics@1.0.0")
	s.Must("kit", "get", "hut-basics@1.0.0", "-f", at("one.cpkit"))
	offline := func(args ...string) harness.Ran {
		return s.Client(append([]string{"file"}, append(args, "--server", "http://127.0.0.1:9")...)...)
	}
	must := func(args ...string) string {
		t.Helper()
		r := offline(args...)
		require.Equal(t, 0, r.Code, "%v\n%s%s", args, r.Out, r.Err)
		return r.Out
	}
	said := must("inspect", at("one.cpkit"))
	for _, want := range []string{"hut-basics@1.0.0 “Hut basics”", "Terms:   CC-BY-4.0", "part/site-header",
		"Fill-in  hut-name", "Signed:  no"} {
		assert.Contains(t, said, want)
	}
	assert.Contains(t, must("verify", at("one.cpkit")), "match its packing list")
	must("unpack", at("one.cpkit"), at("folder"))
	must("pack", at("folder"), "-f", at("same.cpkit"))
	one, err := os.ReadFile(at("one.cpkit"))
	require.NoError(t, err)
	same, err := os.ReadFile(at("same.cpkit"))
	require.NoError(t, err)
	assert.Equal(t, one, same, "unpacked and packed again it is the same file, byte for byte")
	assert.Contains(t, offline("unpack", at("one.cpkit"), at("folder")).Err, "is not empty")

	section := filepath.Join(at("folder"), "sections", "opening-hours.html")
	edit(t, section, "Supper is at half past six", "Supper is at seven")
	must("pack", at("folder"), "-f", at("two.cpkit"), "--kit", "hut-basics@1.0.1")
	said = must("compare", at("one.cpkit"), at("two.cpkit"))
	assert.Contains(t, said, "section/opening-hours")
	assert.Contains(t, said, "ask for the next version to be 1.0.1 (patch)")

	must("keys", "new", at("key"))
	assert.Contains(t, offline("keys", "new", at("key")).Err, "nothing is written over")
	must("sign", at("two.cpkit"), "--key", at("key"))
	assert.Contains(t, must("verify", at("two.cpkit"), "--keys", at("key.pub")), "Signed")
	r := offline("verify", at("one.cpkit"), "--keys", at("key.pub"))
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Err, "it is unsigned")
	b, err := os.ReadFile(at("two.cpkit"))
	require.NoError(t, err)
	b[len(b)/2] ^= 1
	require.NoError(t, os.WriteFile(at("bad.cpkit"), b, 0o644))
	assert.Equal(t, 5, offline("verify", at("bad.cpkit"), "--keys", at("key.pub")).Code)
	s.Must("kit", "import", at("two.cpkit"))

	r = offline("pack", filepath.Join(s.Data, demo.Loose), "-f", at("loose.cpkit"), "--kit", "x@1.0.0")
	assert.Zero(t, r.Code, "loose HTML and CSS are packed as well: %s", r.Err)
	for _, args := range [][]string{{"pack", at("folder")}, {"sign", at("two.cpkit")}, {"verify", section},
		{"inspect", at("none")}} {
		assert.NotZero(t, offline(args...).Code, args)
	}
}
