package outside

import (
	"bytes"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/folder"
	"compactparcel/core/item"
)

// moved takes a page whose file is at another path now: it keeps its identity, and its address
// follows the file.
func (c *carrier) moved(name, now string) error {
	x := c.Release.Files[name]
	if x.Item.Kind != item.Page {
		return nil
	}
	slug := strings.TrimSuffix("/"+now, "index.html")
	c.out.Slugs[x.Item] = slug
	c.say(Line{Path: now, Item: x.Item, State: Taken, Before: name, After: now,
		Why: "the page moved to " + slug + "; links to it follow"})
	return c.changed(name, now)
}

// Moves finds pages of a release that are gone from their paths and stand at new ones: with the
// same content, or with most of their lines. It gives new paths by old ones.
func Moves(rel *folder.Release, gone, added []string, then, now func(path string) ([]byte, error)) (map[string]string,
	error) {
	isPage := func(p string) bool { return strings.HasSuffix(p, ".html") || strings.HasSuffix(p, ".htm") }
	type pair struct {
		from, to string
		alike    float64
	}
	var pairs []pair
	texts := map[string][]byte{}
	for _, to := range added {
		if !isPage(to) {
			continue
		}
		b, err := now(to)
		if err != nil {
			return nil, err
		}
		texts[to] = b
	}
	for _, from := range gone {
		if rel.Files[from].Item.Kind != item.Page {
			continue
		}
		was, err := then(from)
		if err != nil {
			return nil, err
		}
		for to, is := range texts {
			if a := alike(was, is); a >= 0.6 {
				pairs = append(pairs, pair{from, to, a})
			}
		}
	}
	sort.Slice(pairs, func(i, j int) bool {
		a, b := pairs[i], pairs[j]
		if a.alike != b.alike {
			return a.alike > b.alike
		}
		return a.from+" "+a.to < b.from+" "+b.to
	})
	out := map[string]string{}
	var taken []string
	for _, p := range pairs {
		if _, done := out[p.from]; !done && !slices.Contains(taken, p.to) {
			out[p.from], taken = p.to, append(taken, p.to)
		}
	}
	return out, nil
}

// alike is the share of lines that two texts have in common, from 0 to 1.
func alike(a, b []byte) float64 {
	if bytes.Equal(a, b) {
		return 1
	}
	count := map[string]int{}
	all := 0
	for _, l := range bytes.Split(a, []byte("\n")) {
		count[string(bytes.TrimSpace(l))]++
		all++
	}
	same := 0
	for _, l := range bytes.Split(b, []byte("\n")) {
		if t := string(bytes.TrimSpace(l)); count[t] > 0 {
			count[t]--
			same++
		}
		all++
	}
	return 2 * float64(same) / float64(all)
}
