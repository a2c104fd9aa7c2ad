package markup

import "sync"

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
