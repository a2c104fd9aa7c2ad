package main

import (
	"fmt"
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"time"
)

// kits measures packing, verifying and unpacking a kit of 320 MB beside plain tools on
// the same files: the median of seven each.
func kits(dir string) error {
	from := filepath.Join(dir, "kit")
	if err := makeKitFolder(from, sized(2000), sized(600), sized(320<<20)); err != nil {
		return err
	}
	file := filepath.Join(dir, "big.cpkit")
	zipped := filepath.Join(dir, "peer.zip")
	if err := exec.Command("bin/cparcel", "file", "pack", from, "-f", file, "--kit", "big@1.0.0", "--force").
		Run(); err != nil {
		return fmt.Errorf("packing: %w", err)
	}
	have := func(tool string) bool { _, err := exec.LookPath(tool); return err == nil }
	if have("zip") {
		if _, err := timed("sh", "-c", "cd "+from+" && zip -q -6 -r "+zipped+" ."); err != nil {
			return err
		}
	}
	median := func(before func() error, name string, args ...string) (time.Duration, error) {
		var times []time.Duration
		for range 7 {
			if before != nil {
				if err := before(); err != nil {
					return 0, err
				}
			}
			d, err := timed(name, args...)
			if err != nil {
				return 0, err
			}
			times = append(times, d)
		}
		slices.Sort(times)
		return times[3], nil
	}
	out, peerOut := filepath.Join(dir, "unpacked"), filepath.Join(dir, "unzipped")
	clear := func(p string) func() error { return func() error { return os.RemoveAll(p) } }
	for _, m := range []struct {
		what, aim, tool string
		ours            []string
		before          func() error
		peerBefore      func() error
		peer            []string
	}{
		{"pack 320 MB", "1×", "sha256sum", []string{"file", "pack", from, "-f", file, "--kit", "big@1.0.0", "--force"},
			nil, nil, []string{"-c", "find " + from + " -type f -print0 | xargs -0 sha256sum > /dev/null"}},
		{"pack 320 MB, the same", "none", "zip",
			[]string{"file", "pack", from, "-f", file, "--kit", "big@1.0.0", "--force"}, nil, clear(zipped),
			[]string{"-c", "cd " + from + " && zip -q -6 -r " + zipped + " ."}},
		{"verify", "0.6×", "unzip", []string{"file", "verify", file}, nil, nil,
			[]string{"-c", "unzip -tqq " + zipped}},
		{"unpack", "1×", "unzip", []string{"file", "unpack", file, out}, clear(out), clear(peerOut),
			[]string{"-c", "unzip -qq " + zipped + " -d " + peerOut}},
	} {
		d, err := median(m.before, "bin/cparcel", m.ours...)
		if err != nil {
			return err
		}
		if !have(m.tool) {
			fmt.Printf("| %s | %.2f s | %s is not installed | aim %s |\n", m.what, d.Seconds(), m.tool, m.aim)
			continue
		}
		peer, err := median(m.peerBefore, "sh", m.peer...)
		if err != nil {
			return err
		}
		fmt.Printf("| %s | %.2f s | %.2f s (%s) | %.2f× (aim %s) |\n", m.what, d.Seconds(), peer.Seconds(), m.tool,
			d.Seconds()/peer.Seconds(), m.aim)
	}
	return nil
}

// makeKitFolder writes a folder in our own layout: pages of text that link each other and show pictures of chance.
func makeKitFolder(dir string, pages, pictures, bytes int) error {
	r := rand.New(rand.NewSource(13))
	for _, d := range []string{"pages", "media"} {
		if err := os.MkdirAll(filepath.Join(dir, d), 0o755); err != nil {
			return err
		}
	}
	if err := os.WriteFile(filepath.Join(dir, "site.json"), []byte(`{"format":1}`), 0o644); err != nil {
		return err
	}
	text := 0
	for i := range pages {
		page := "<!doctype html><html><head><title>Page</title></head><body>"
		for range 30 {
			page += fmt.Sprintf("<p>%s <a href=\"/p%d/\">on</a></p>\n", sentence(r, 40), r.Intn(pages))
		}
		page += fmt.Sprintf("<img src=\"/media/p%d.jpg\" alt=\"\">", r.Intn(pictures))
		page += "</body></html>"
		text += len(page)
		if err := os.WriteFile(filepath.Join(dir, "pages", fmt.Sprintf("p%d.html", i)), []byte(page),
			0o644); err != nil {
			return err
		}
	}
	for i := range pictures {
		b := make([]byte, (bytes-text)/pictures)
		r.Read(b)
		if err := os.WriteFile(filepath.Join(dir, "media", fmt.Sprintf("p%d.jpg", i)), b, 0o644); err != nil {
			return err
		}
	}
	return nil
}
