package outside

import (
	"bytes"
	"path"
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
	c.out.Slugs[x.Item] = strings.TrimSuffix("/"+now, "index.html")
	return c.changed(name, now)
}

// maxPairs bounds how many pairs of files are compared line by line to find what moved.
const maxPairs = 2000

// Moves finds pages of a release that are gone from their paths and stand at new ones: with the
// same content, or with most of their lines. It gives new paths by old ones. Where a whole tree
// moved and was edited, only files of the same name are compared. A file that cannot be read as a
// text, for which now gives nil, is no page that moved.
func Moves(rel *folder.Release, gone, added []string, then, now func(path string) ([]byte, error)) (map[string]string,
	error) {
	m := &mover{out: map[string]string{}, taken: map[string]bool{}}
	texts := map[string][]byte{}
	same := map[item.Digest]string{}
	for _, to := range added {
		if !strings.HasSuffix(to, ".html") && !strings.HasSuffix(to, ".htm") {
			continue
		}
		b, err := now(to)
		if err != nil {
			return nil, err
		}
		if b == nil {
			continue
		}
		texts[to], same[item.DigestOf(b)] = b, to
	}
	var pages []string
	for _, from := range gone {
		x := rel.Files[from]
		if x.Item.Kind != item.Page {
			continue
		}
		if to, ok := same[x.Digest]; ok && !m.taken[to] {
			m.take(from, to)
			continue
		}
		pages = append(pages, from)
	}
	named := len(pages)*len(texts) > maxPairs
	for _, from := range pages {
		was, err := then(from)
		if err != nil {
			return nil, err
		}
		for to, is := range texts {
			if m.taken[to] || named && tail(from) != tail(to) {
				continue
			}
			if a := alike(was, is); a >= 0.6 {
				m.pairs = append(m.pairs, pair{from, to, a})
			}
		}
	}
	m.settle()
	return m.out, nil
}

// tail is the end of a path by which a file is known when its tree moved: its last folder and name.
func tail(p string) string { return path.Join(path.Base(path.Dir(p)), path.Base(p)) }

// pair is a page that is gone, and a file that is like it.
type pair struct {
	from, to string
	alike    float64
}

// mover pairs what is gone with what came.
type mover struct {
	pairs []pair
	out   map[string]string
	taken map[string]bool
}

func (m *mover) take(from, to string) { m.out[from], m.taken[to] = to, true }

// settle takes the pairs that are most alike first, each file once.
func (m *mover) settle() {
	sort.Slice(m.pairs, func(i, j int) bool {
		a, b := m.pairs[i], m.pairs[j]
		if a.alike != b.alike {
			return a.alike > b.alike
		}
		return a.from+" "+a.to < b.from+" "+b.to
	})
	for _, p := range m.pairs {
		if _, done := m.out[p.from]; !done && !m.taken[p.to] {
			m.take(p.from, p.to)
		}
	}
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
