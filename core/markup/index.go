package markup

import (
	"bytes"
	"strings"
	"sync"
)

// Index finds a tree's elements by tag, id and class.
type Index struct {
	Tags, IDs, Classes map[string][]*Node
}

type lazyIndex struct {
	once sync.Once
	Index
}

// Index lists the tree's elements; it is made once. A tree that changes its
// elements afterwards is not listed again.
func (t *Tree) Index() *Index {
	t.index.once.Do(func() {
		x := &t.index.Index
		x.Tags, x.IDs, x.Classes = map[string][]*Node{}, map[string][]*Node{}, map[string][]*Node{}
		for _, n := range t.All {
			x.Tags[n.Tag] = append(x.Tags[n.Tag], n)
			if id := n.Value("id"); id != "" {
				x.IDs[id] = append(x.IDs[id], n)
			}
			for _, c := range n.Classes() {
				x.Classes[c] = append(x.Classes[c], n)
			}
		}
	})
	return &t.index.Index
}

// Standards tells whether browsers show a document by the standards, and not in quirks
// mode: it begins with the doctype of HTML (HTML, section 13.2.6.4.1).
func (t *Tree) Standards() bool {
	rest := t.Source
	for {
		rest = bytes.TrimLeft(bytes.TrimPrefix(rest, []byte("\xef\xbb\xbf")), " \t\r\n\f")
		if !bytes.HasPrefix(rest, []byte("<!--")) {
			break
		}
		end := bytes.Index(rest, []byte("-->"))
		if end < 0 {
			return false
		}
		rest = rest[end+3:]
	}
	head := strings.ToLower(string(rest[:min(len(rest), 200)]))
	if !strings.HasPrefix(head, "<!doctype") {
		return false
	}
	name := strings.TrimLeft(head[len("<!doctype"):], " \t\r\n\f")
	return strings.HasPrefix(name, "html") && !strings.Contains(head, "transitional") &&
		!strings.Contains(head, "//dtd html 3") &&
		!strings.Contains(head, "//ietf")
}
