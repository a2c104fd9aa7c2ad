package main

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/demo"
	"compactparcel/test/triples"
)

// tally counts what became of some triples.
type tally struct {
	triples, clean, conflicts, wrong int
	took                             time.Duration
}

func (t *tally) add(other tally) {
	t.triples, t.clean, t.conflicts = t.triples+other.triples, t.clean+other.clean, t.conflicts+other.conflicts
	t.wrong, t.took = t.wrong+other.wrong, t.took+other.took
}

// blends measures the blend beside git merge-file on the same triples: pages with edits as
// people make them, and what the demo's sites and kits really became.
func blends(dir string) error {
	var ours, git tally
	for seed := range uint64(sized(400)) {
		x := triples.Make(seed, 6)
		got, beside, err := blendOne(dir, item.Page, x)
		if err != nil {
			return err
		}
		ours.add(got)
		git.add(beside)
	}
	blendRow(fmt.Sprintf("%d generated triples, up to 6 edits on each side", sized(400)), ours, git)
	ours, git = tally{}, tally{}
	real, err := histories()
	if err != nil {
		return err
	}
	for _, h := range real {
		got, beside, err := blendOne(dir, h.kind, h.Triple)
		if err != nil {
			return err
		}
		ours.add(got)
		git.add(beside)
	}
	blendRow(fmt.Sprintf("%d triples of the demo: an item in three versions of its kit", len(real)), ours, git)
	return nil
}

func blendRow(what string, ours, git tally) {
	ratio := "none beside none"
	if git.conflicts > 0 {
		ratio = fmt.Sprintf("%.2f×", float64(ours.conflicts)/float64(git.conflicts))
	}
	fmt.Printf("| blend %s: conflicts | %d (%d without any) | git merge-file: %d (%d) | %s (aim 0.1×) |\n", what,
		ours.conflicts, ours.clean, git.conflicts, git.clean, ratio)
	fmt.Printf("| … edits lost, doubled or undone without a word | %d | git merge-file: %d | (aim 0) |\n", ours.wrong,
		git.wrong)
	fmt.Printf("| … time | %.2f s | %.2f s | %.1f× |\n", ours.took.Seconds(), git.took.Seconds(),
		ours.took.Seconds()/git.took.Seconds())
}

func blendOne(dir string, kind item.Kind, x triples.Triple) (ours, git tally, err error) {
	start := time.Now()
	r := blend.Merge(kind, []byte(x.Base), []byte(x.Site), []byte(x.Kit), nil)
	ours = tally{triples: 1, conflicts: len(r.Conflicts), took: time.Since(start)}
	var told []string
	for _, c := range r.Conflicts {
		told = append(told, c.Base, c.Site, c.Kit)
	}
	ours.wrong = len(x.Wrong(string(r.Text), told))
	if ours.conflicts == 0 {
		ours.clean = 1
	}
	for name, text := range map[string]string{"base": x.Base, "site": x.Site, "kit": x.Kit} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644); err != nil {
			return ours, git, err
		}
	}
	start = time.Now()
	cmd := exec.Command("git", "merge-file", "-p", "-q", "site", "base", "kit")
	cmd.Dir = dir
	out, err := cmd.Output()
	git = tally{triples: 1, took: time.Since(start)}
	if failed := new(exec.ExitError); err != nil && !errors.As(err, &failed) {
		return ours, git, err
	}
	// Between the marks stand both sides' lines; they are told, and count for neither.
	var plain, within strings.Builder
	in := false
	for _, line := range bytes.SplitAfter(out, []byte("\n")) {
		switch {
		case bytes.HasPrefix(line, []byte("<<<<<<<")):
			git.conflicts++
			in = true
		case bytes.HasPrefix(line, []byte(">>>>>>>")):
			in = false
		case in:
			within.Write(line)
		default:
			plain.Write(line)
		}
	}
	git.wrong = len(x.Wrong(plain.String(), []string{within.String()}))
	if git.conflicts == 0 {
		git.clean = 1
	}
	return ours, git, nil
}

type history struct {
	triples.Triple
	kind item.Kind
}

// histories gives what items of the demo really became: two of hut-basics' three versions
// as the sides, and the third, where they come from, as the base.
func histories() ([]history, error) {
	var versions []fs.FS
	for _, v := range []string{"1.0.0", "1.1.0", "2.0.0"} {
		files, err := demo.KitFolder("hut-basics/" + v)
		if err != nil {
			return nil, err
		}
		versions = append(versions, files)
	}
	var out []history
	err := fs.WalkDir(versions[0], ".", func(path string, d fs.DirEntry, err error) error {
		a, ok := item.AddressOfPath("/" + path)
		if err != nil || d.IsDir() || !ok || a.Kind == item.Media {
			return err
		}
		var texts []string
		for _, v := range versions {
			b, err := fs.ReadFile(v, path)
			if err != nil {
				return nil //nolint:nilerr // not in every version
			}
			texts = append(texts, string(b))
		}
		if texts[0] != texts[1] && texts[1] != texts[2] {
			for _, o := range [][3]int{{0, 1, 2}, {1, 0, 2}, {2, 0, 1}} {
				out = append(out,
					history{triples.Triple{Base: texts[o[0]], Site: texts[o[1]], Kit: texts[o[2]]}, a.Kind})
			}
		}
		return nil
	})
	return out, err
}
