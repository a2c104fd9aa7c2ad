// Package views writes the views of a kit: documents that open alone in a browser, from
// an unpacked folder or a mounted archive, and show each page, section, part and block
// as on its site. They are made from the items by the same engine that shows sites, and
// the packing list names them as generated.
package views

import (
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path"
	"slices"
	"strings"
	"sync"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
	"compactparcel/core/workers"
)

// Folder is where the views of a kit lie.
const Folder = "views/"

// Of gives the path of an item's view, as in views/page--home.html.
func Of(a item.Address) string {
	return Folder + string(a.Kind) + "--" + strings.ReplaceAll(a.Key, "/", "--") + ".html"
}

// Faces is where the pictures of a kit's items lie.
const Faces = "pictures/"

// FaceOf gives the path of an item's picture, as in pictures/page--home.webp.
func FaceOf(a item.Address) string {
	return Faces + string(a.Kind) + "--" + strings.ReplaceAll(a.Key, "/", "--") + ".webp"
}

// Shown tells whether items of a kind have views.
func Shown(k item.Kind) bool {
	return k == item.Page || k == item.Section || k == item.Part || k == item.Block
}

// View is one generated file.
type View struct {
	kit.File
	Content []byte
}

// Make writes the views of a kit's items: of every page, section, part and block, and the
// files that only views have — stylesheets as they are shown, tokens as CSS, the
// engine's scripts. Media and components are those of the kit itself. All links are
// relative; a link to a page of the kit leads to its view. Each file is given to put as
// soon as it is made, one at a time and in no order.
func Make(list *kit.PackingList, items item.Collection, put func(View) error) error {
	c := list.AsSite(items)
	var shown []item.Head
	for _, h := range c.Heads() {
		if Shown(h.Address.Kind) {
			shown = append(shown, h)
		}
	}
	// Several write at once, each with a renderer of its own; what they write is the same
	// whoever writes it.
	out := &once{put: put, taken: map[string]bool{}}
	writers := make([]*writer, max(1, min(workers.Count(), len(shown)/16)))
	for i := range writers {
		r := render.New(c)
		r.Static = true
		writers[i] = &writer{c: c, r: r, out: out, files: map[string]string{}, texts: map[string][]byte{}}
	}
	return workers.Some(len(writers), len(shown), func(worker, i int) error {
		w := writers[worker]
		if err := w.view(shown[i]); err != nil {
			return fmt.Errorf("writing the view of %s: %w", shown[i].Address, err)
		}
		w.r.Forget(shown[i].Address)
		return nil
	})
}

// once passes each file on once.
type once struct {
	mu    sync.Mutex
	put   func(View) error
	taken map[string]bool
}

func (o *once) give(p string, b []byte) error {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.taken[p] {
		return nil
	}
	o.taken[p] = true
	return o.put(View{kit.File{Path: p, SHA256: item.DigestOf(b), Bytes: int64(len(b))}, b})
}

type writer struct {
	c     item.Collection
	r     *render.Renderer
	out   *once
	files map[string]string // rendered address → path in the kit
	texts map[string][]byte // scripts that only views have
}

func (w *writer) put(p string, b []byte) error {
	if path.Ext(p) == ".js" {
		w.texts[p] = b
	}
	return w.out.give(p, b)
}

func (w *writer) view(h item.Head) error {
	o, err := w.r.Alone(h.Address)
	if err != nil {
		return err
	}
	at := Of(h.Address)
	body, err := w.relink(item.Page, "", o.Body, at)
	if err == nil {
		body, err = w.classic(body, at)
	}
	if err == nil {
		err = w.put(at, body)
	}
	return err
}

// relink writes rendered addresses as they lie in the kit, seen from a file of it.
func (w *writer) relink(kind item.Kind, context string, b []byte, from string) ([]byte, error) {
	var failed error
	out, err := facts.Relink(kind, context, b, func(ref facts.Ref) (string, bool) {
		to, err := w.target(ref.Name)
		if err != nil {
			failed = err
		}
		return relative(from, to), to != ""
	})
	if failed != nil {
		return nil, failed
	}
	return out, err
}

// target gives the path in the kit of what a rendered address names, and sees to it that
// it lies there; "" for what is not in the kit.
func (w *writer) target(address string) (string, error) {
	if p, ok := w.files[address]; ok {
		return p, nil
	}
	if a, ok := w.r.PageAt(address); ok {
		return Of(a), nil
	}
	if address == "/" {
		o, err := w.r.Page(render.PageRequest{Slug: "/"})
		var failed *item.ReadError
		switch {
		case errors.As(err, &failed):
			return "", err
		case err == nil && o.Page.Kind == item.Page:
			return Of(o.Page), nil
		}
	}
	x, ok, err := w.r.AssetAt(address)
	if err != nil || !ok {
		return "", err
	}
	content, made := x.Rendered()
	if !x.Head.Address.IsZero() && (!made || item.DigestOf(content) == x.Head.Doc) {
		w.files[address] = x.Head.Address.Path()
		return x.Head.Address.Path(), nil
	}
	p := Folder + "shown/" + path.Base(path.Dir(address)) + "-" + path.Base(address)
	w.files[address] = p // before its own references: they may go round
	kind, context := item.Stylesheet, ""
	switch {
	case strings.HasPrefix(x.MediaType, "text/css"):
	case x.Head.Address.Kind == item.Media:
		kind, context = item.Media, x.Head.Meta.Context
	default:
		return p, w.put(p, content)
	}
	if content, err = w.relink(kind, context, content, p); err == nil {
		err = w.put(p, content)
	}
	return p, err
}

// Add puts the views of items into their packing list, and gives items and views to whoever
// writes the kit. Views lie in a scratch file meanwhile; done takes it away.
func Add(list *kit.PackingList, items item.Collection, faces map[item.Address][]byte) (
	open kit.Opener, done func(), err error,
) {
	scratch, err := os.CreateTemp("", "cparcel-views-")
	if err != nil {
		return nil, nil, err
	}
	done = func() { scratch.Close(); os.Remove(scratch.Name()) }
	at := map[string]int64{}
	end := int64(0)
	list.Generated = nil
	put := func(v View) error {
		list.Generated = append(list.Generated, v.File)
		at[v.Path] = end
		end += v.Bytes
		_, err := scratch.Write(v.Content)
		return err
	}
	err = Make(list, items, put)
	for _, a := range slices.SortedFunc(maps.Keys(faces), func(a, b item.Address) int {
		return strings.Compare(a.String(), b.String())
	}) {
		if err == nil {
			b := faces[a]
			err = put(View{kit.File{Path: FaceOf(a), SHA256: item.DigestOf(b), Bytes: int64(len(b))}, b})
		}
	}
	if err != nil {
		done()
		return nil, nil, err
	}
	list.Settle()
	byDoc := map[item.Digest]item.Head{}
	for _, h := range items.Heads() {
		byDoc[h.Doc] = h
	}
	sizes := map[string]int64{}
	for _, g := range list.Generated {
		sizes[g.Path] = g.Bytes
	}
	return func(p string, d item.Digest) (io.ReadCloser, error) {
		if from, ok := at[p]; ok {
			return item.Sure{ReadCloser: io.NopCloser(io.NewSectionReader(scratch, from, sizes[p]))}, nil
		}
		return items.Open(byDoc[d])
	}, done, nil
}

// Own tells whether the views that a kit brings are those that its items give here. Others
// may show what the items do not, and run what nobody checked.
func Own(list *kit.PackingList, items item.Collection) (bool, error) {
	brought := map[string]item.Digest{}
	for _, g := range list.Generated {
		if strings.HasPrefix(g.Path, Folder) {
			brought[g.Path] = g.SHA256
		}
	}
	if len(brought) == 0 {
		return true, nil
	}
	made := 0
	err := Make(list, items, func(v View) error {
		if brought[v.Path] == v.SHA256 {
			made++
		}
		return nil
	})
	return made == len(brought), err
}

// Strange is what is said of a kit whose views are not its own.
const Strange = "its views are not those that its items give here: they come from another version, or were " +
	"changed; open them only if you trust who made them"

// relative gives the way from a file to another; both lie in the kit.
func relative(from, to string) string {
	up := strings.Count(path.Dir(from)+"/", "/")
	dir, rest := strings.Split(path.Dir(from), "/"), strings.Split(to, "/")
	n := 0
	for n < len(dir) && n < len(rest)-1 && dir[n] == rest[n] {
		n++
	}
	return strings.Repeat("../", up-n) + strings.Join(rest[n:], "/")
}
