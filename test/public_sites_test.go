package test

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/require"
)

// publicSite is a site that somebody else made, as strangers.json lists it: of a package of npm's or of Debian's, or a
// folder beside the list.
type publicSite struct {
	Name, NPM, Debian, Folder string
	Within                    string      // where the site lies in it
	Pieces                    [][2]string // two pieces of it: page and selector
	Tree                      bool        // many pages of it travel, and are edited outside
}

// listed gives the sites of the long tests. CPARCEL_STRANGERS names a folder with a strangers.json and folders of
// its own, in the place of the public ones.
func listed(t *testing.T) []publicSite {
	t.Helper()
	if !soaking() {
		t.Skip("public sites are fetched by make soak only")
	}
	beside := filepath.Join(harness.Root(t), "test")
	if dir := os.Getenv("CPARCEL_STRANGERS"); dir != "" {
		beside = dir
	}
	b, err := os.ReadFile(filepath.Join(beside, "strangers.json"))
	require.NoError(t, err)
	var list []publicSite
	require.NoError(t, json.Unmarshal(b, &list))
	for i, x := range list {
		switch {
		case x.NPM != "":
			list[i].Folder = published(t, x.NPM)
		case x.Debian != "":
			list[i].Folder = documentation(t, x.Debian)
		default:
			list[i].Folder = filepath.Join(beside, x.Folder)
		}
		list[i].Folder = filepath.Join(list[i].Folder, x.Within)
		require.DirExists(t, list[i].Folder, x.Name)
	}
	return list
}

// publicSites gives those of which pieces are taken.
func publicSites(t *testing.T) []stranger {
	t.Helper()
	var list []stranger
	for _, x := range listed(t) {
		if len(x.Pieces) == 2 {
			list = append(list, stranger{x.Name, x.Folder, [2][2]string(x.Pieces)})
		}
	}
	return list
}

// publicTrees gives those of which many pages travel.
func publicTrees(t *testing.T) []stranger {
	t.Helper()
	var list []stranger
	for _, x := range listed(t) {
		if x.Tree {
			list = append(list, stranger{name: x.Name, folder: x.Folder})
		}
	}
	return list
}

// cached gives a folder that fetch fills when it is not there yet; where that cannot be, the test is skipped.
func cached(t *testing.T, name string, fetch func(to string) error) string {
	t.Helper()
	cache, err := os.UserCacheDir()
	require.NoError(t, err)
	dir := filepath.Join(cache, "cparcel-tests", name)
	if _, err := os.Stat(dir); err == nil {
		return dir
	}
	require.NoError(t, os.MkdirAll(filepath.Dir(dir), 0o755))
	half, err := os.MkdirTemp(filepath.Dir(dir), "half-")
	require.NoError(t, err)
	if err := fetch(half); err != nil {
		os.RemoveAll(half)
		t.Skipf("%s cannot be fetched: %v", name, err)
	}
	require.NoError(t, os.Rename(half, dir))
	return dir
}

// published fetches a public package of npm's.
func published(t *testing.T, name string) string {
	t.Helper()
	return cached(t, strings.ReplaceAll(name, "@", "-"), func(to string) error {
		work := t.TempDir()
		out, err := exec.Command("npm", "pack", name, "--silent", "--pack-destination", work).Output()
		if err != nil {
			return err
		}
		file := filepath.Join(work, strings.TrimSpace(string(out)))
		return exec.Command("tar", "xzf", file, "-C", to, "--strip-components=1").Run()
	})
}

// documentation fetches a package of Debian's. Links of the file system, which lead into other packages, are left
// behind.
func documentation(t *testing.T, name string) string {
	t.Helper()
	return cached(t, name, func(to string) error {
		work := t.TempDir()
		fetch := exec.Command("apt-get", "download", name)
		fetch.Dir = work
		if out, err := fetch.CombinedOutput(); err != nil {
			return fmt.Errorf("%w: %s", err, out)
		}
		return exec.Command("sh", "-c", fmt.Sprintf("dpkg-deb -x %s/*.deb %s && find %[2]s -type l -delete", work, to)).
			Run()
	})
}
