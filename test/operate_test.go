package test

import (
	"bytes"
	"context"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// operate runs a command of the service's program.
func operate(t *testing.T, in string, args ...string) (out string, err error) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	cmd := exec.CommandContext(ctx, filepath.Join(harness.Binaries(t), "cparceld"), args...)
	cmd.Stdin = strings.NewReader(in)
	b, err := cmd.CombinedOutput()
	return string(b), err
}

// A backup is made while the service works, holds one moment, and is the same digest for
// digest when it is brought back elsewhere; what broke off cannot be used.
func TestBackupAndRestore(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	digests := func(s *harness.Service) map[string]string {
		var list api.SiteList
		s.JSON(&list, "site", "list")
		out := map[string]string{}
		for _, x := range list.Sites {
			out[x.Name] = string(x.Digest)
		}
		require.NotEmpty(t, out)
		return out
	}
	before := digests(s)
	dir := t.TempDir()
	file := filepath.Join(dir, "huts.backup")

	// Somebody edits meanwhile: the backup is of one moment all the same.
	stop := make(chan struct{})
	var busy sync.WaitGroup
	busy.Go(func() {
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			default:
				s.Client("library", "add", "kestrel-refuge", "section/opening-hours")
			}
		}
	})
	out, err := operate(t, "", "backup", file, "--data", s.Data)
	close(stop)
	busy.Wait()
	require.NoError(t, err, out)
	assert.Contains(t, out, "collections")
	out, err = operate(t, "", "backup", file, "--data", s.Data)
	require.Error(t, err)
	assert.Contains(t, out, "is there already", "no backup is written over")
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, fs.FileMode(0o600), info.Mode().Perm(), "it holds secrets")
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, left, 1, "nothing else is left beside it")

	// Brought back elsewhere, by an address of its own.
	data := filepath.Join(t.TempDir(), "data")
	out, err = operate(t, "", "restore", file, "--data", data)
	require.NoError(t, err, out)
	out, err = operate(t, "", "verify", "--data", data)
	require.NoError(t, err, out)
	assert.Contains(t, out, "0 wrong")
	again := harness.StartAt(t, data)
	again.Token = s.Token // the accounts and tokens are those of then
	assert.Equal(t, before, digests(again))
	kits := func(s *harness.Service) api.KitList {
		var list api.KitList
		s.JSON(&list, "kit", "list")
		for i := range list.Kits {
			list.Kits[i].Face = nil // it is at the service's own address
		}
		return list
	}
	assert.Equal(t, kits(s), kits(again))
	get := filepath.Join(t.TempDir(), "one.cpkit")
	again.Must("kit", "get", "hut-basics@1.1.0", "--file", get)
	again.Must("file", "verify", get)
	again.Stop()

	// Not into a folder that is in use, nor what broke off or was changed.
	out, err = operate(t, "", "restore", file, "--data", data)
	require.Error(t, err)
	assert.Contains(t, out, "is not empty")
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	for name, bad := range map[string][]byte{"cut": b[:len(b)-1000], "changed": flipped(b, len(b)/2), "empty": {},
		"other": []byte("not a backup")} {
		broken := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(broken, bad, 0o600))
		into := filepath.Join(t.TempDir(), "data")
		out, err := operate(t, "", "restore", broken, "--data", into)
		require.Error(t, err, "%s: %s", name, out)
		out, err = operate(t, "", "serve", "--data", into, "--listen", "127.0.0.1:0", "--previews", "127.0.0.1:0")
		require.Error(t, err, "%s: no service starts on half a backup", name)
		assert.Contains(t, out, "did not finish")
	}
}

func flipped(b []byte, at int) []byte {
	out := bytes.Clone(b)
	out[at] ^= 1
	return out
}

// A folder of something else is refused, and nothing is made in it.
func TestAFolderOfSomethingElseIsNoDataFolder(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "letter.txt"), []byte("Dear Ida"), 0o600))
	for _, args := range [][]string{{"verify"}, {"backup", filepath.Join(t.TempDir(), "x.backup")},
		{"reset-password", "ida"}} {
		out, err := operate(t, "a-long-password\n", append(args, "--data", dir)...)
		assert.Error(t, err, args)
		assert.Contains(t, out, "is not the data folder of a service", args)
	}
	inside, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, inside, 1)
}

// What is damaged on the disk is named and, where a kit on the shelf holds it, put right;
// a password is given anew; both while the service runs.
func TestVerifyAndResetPassword(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	out, err := operate(t, "", "verify", "--data", s.Data)
	require.NoError(t, err, out)
	assert.Contains(t, out, ": 0 wrong")
	// Every picture on the disk gets another byte.
	var kits api.KitList
	s.JSON(&kits, "kit", "list")
	n := 0
	require.NoError(
		t,
		filepath.WalkDir(filepath.Join(s.Data, "blobs"), func(p string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() {
				return err
			}
			b, err := os.ReadFile(p)
			if err != nil || len(b) == 0 || bytes.HasPrefix(b, []byte("PK")) {
				return err
			}
			n++
			return os.WriteFile(p, flipped(b, len(b)/2), 0o600)
		}),
	)
	require.Positive(t, n)
	out, err = operate(t, "", "verify", "--data", s.Data)
	require.Error(t, err, out)
	assert.Contains(t, out, "its bytes do not match its digest")
	assert.Contains(t, out, "site kestrel-refuge media/")
	r := s.Client("site", "publish", "kestrel-refuge", filepath.Join(t.TempDir(), "out"))
	assert.NotZero(t, r.Code, "what is damaged is published nowhere: %s", r.Out)
	assert.Equal(t, 503, s.Visit(s.Live("kestrel-refuge")+"/media/kestrel-mark.svg").Status, "and shown nowhere")
	out, err = operate(t, "", "verify", "--mend", "--data", s.Data)
	assert.Contains(t, out, "mended", "%v", err)
	assert.Contains(t, out, "was restored from there")

	out, err = operate(t, "a quite new one\n", "reset-password", "visitor", "--data", s.Data)
	require.NoError(t, err, out)
	assert.NotContains(t, out, "a quite new one")
	assert.Zero(t, s.ClientIn("a quite new one\n", "sign-in", "--user", "visitor", "--password-stdin").Code)
	out, err = operate(t, "short\n", "reset-password", "visitor", "--data", s.Data)
	require.Error(t, err)
	assert.Contains(t, out, "at least 10 characters")
	out, err = operate(t, "a quite new one\n", "reset-password", "nobody-here", "--data", s.Data)
	require.Error(t, err)
	assert.Contains(t, out, "does not exist")
	out, err = operate(t, "", "verify", "--data", filepath.Join(t.TempDir(), "none"))
	require.Error(t, err)
	assert.Contains(t, out, "is not the data folder of a service")
}

// A setting that is not understood stops the start; every flag reaches its setting.
func TestSettingsAreNotPassedOver(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	for text, want := range map[string]string{
		"listen: 127.0.0.1:0\nlistem: x\n": `there is no setting "listem"`,
		"secure-cookies: maybe\n":          `"maybe" cannot be read`,
		"console-origin: nowhere\n":        "is not an origin",
		"trusted-proxies: [proxy]\n":       "is neither an address nor a network",
		"preview-pattern: http://x\n":      "has no {host}",
		"data: {a: 1}\n":                   "has no value that can be read",
		"- a\n":                            "reading the configuration",
		"log: loud\n":                      "is none of debug",
		"demo: much\n":                     "is none of all, sites, lived",
	} {
		file := filepath.Join(dir, "config.yaml")
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		out, err := operate(t, "", "serve", "--config", file, "--data", filepath.Join(dir, "data"))
		require.Error(t, err, text)
		assert.Contains(t, out, want, text)
		assert.NoDirExists(t, filepath.Join(dir, "data"), "nothing was begun")
	}
	out, err := operate(t, "", "serve", "--config", filepath.Join(dir, "none.yaml"))
	require.Error(t, err)
	assert.Contains(t, out, "no such file")
	outlets := filepath.Join(dir, "elsewhere")
	s := harness.Start(t, "--demo=sites", "--outlets", outlets)
	s.Must("site", "outlet", "add", "larch-saddle", "main")
	assert.FileExists(t, filepath.Join(outlets, "larch-saddle", "main", "index.html"), "--outlets is where they are")
}
