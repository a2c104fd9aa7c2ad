// Shots tells which pictures in docs/screenshots are older than what they show: beside each lies a digest of the
// sources that docs/screenshots/sources.txt names for it. With -write it puts down the digests of today; make shots
// does that when it has made the pictures.
package main

import (
	"bufio"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

// place is where the pictures lie.
const place = "docs/screenshots"

func main() {
	write := flag.Bool("write", false, "put down the digests of today")
	flag.Parse()
	if err := run(os.DirFS("."), *write); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(root fs.FS, write bool) error {
	shows, err := sources(root)
	if err != nil {
		return err
	}
	var bad []error
	for _, picture := range pictures(root) {
		files, ok := shows[picture]
		if !ok {
			bad = append(bad, fmt.Errorf("%s/sources.txt does not tell what %s.png shows", place, picture))
			continue
		}
		digest, err := digestOf(root, files)
		if err != nil {
			return err
		}
		beside := place + "/" + picture + ".sha256"
		if write {
			if err := os.WriteFile(beside, []byte(digest+"\n"), 0o644); err != nil {
				return err
			}
			continue
		}
		if was, _ := fs.ReadFile(root, beside); strings.TrimSpace(string(was)) != digest {
			bad = append(bad, fmt.Errorf("%s.png is older than what it shows (%s)", picture, strings.Join(files, ", ")))
		}
	}
	if len(bad) > 0 {
		bad = append(bad, errors.New("look at the pictures that make shots makes, and commit them"))
	}
	return errors.Join(bad...)
}

// pictures gives the names of the pictures.
func pictures(root fs.FS) (list []string) {
	files, _ := fs.Glob(root, place+"/*.png")
	for _, f := range files {
		list = append(list, strings.TrimSuffix(filepath.Base(f), ".png"))
	}
	return list
}

// sources reads what each picture shows.
func sources(root fs.FS) (map[string][]string, error) {
	f, err := root.Open(place + "/sources.txt")
	if err != nil {
		return nil, err
	}
	defer f.Close()
	out := map[string][]string{}
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		if words := strings.Fields(lines.Text()); len(words) > 1 && words[0] != "#" {
			out[words[0]] = words[1:]
		}
	}
	return out, lines.Err()
}

var component = regexp.MustCompile(`from "(\.[^"]+\.vue)"|import\("(\.[^"]+\.vue)"\)`)

// digestOf digests sources, and the components that they are made of.
func digestOf(root fs.FS, files []string) (string, error) {
	all := slices.Clone(files)
	for i := 0; i < len(all); i++ {
		b, err := fs.ReadFile(root, all[i])
		if err != nil {
			return "", err
		}
		for _, m := range component.FindAllStringSubmatch(string(b), -1) {
			at := filepath.ToSlash(filepath.Join(filepath.Dir(all[i]), m[1]+m[2]))
			if !slices.Contains(all, at) {
				all = append(all, at)
			}
		}
	}
	slices.Sort(all)
	sum := sha256.New()
	for _, name := range all {
		b, err := fs.ReadFile(root, name)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(sum, "%s %d\n%s", name, len(b), b)
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}
