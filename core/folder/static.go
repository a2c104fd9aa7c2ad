package folder

import (
	"bytes"
	"fmt"
	"net/http"
	"path"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// static is the reading of a folder as somebody left it: HTML, CSS and other files
// that know nothing of items.
type static struct {
	*reader
	moved   map[string]item.Address // file → item
	taken   map[item.Address]bool
	slugs   map[string]string // page file → slug
	present map[string]bool   // all files
}

// static takes a folder of HTML, CSS and other files as somebody left it. Pages
// keep their addresses: about.html is the page at /about.html.
func (r *reader) static(files []string) error {
	s := &static{
		reader:  r,
		moved:   map[string]item.Address{},
		taken:   map[item.Address]bool{},
		slugs:   map[string]string{},
		present: map[string]bool{},
	}
	if err := s.name(files); err != nil {
		return err
	}
	var media, texts []string
	for _, p := range files {
		if s.moved[p].Kind == item.Media && (!isRead(p) || s.sizes[p] > 0) {
			media = append(media, p)
		} else {
			texts = append(texts, p)
		}
	}
	if err := inOrder(texts, s.take, s.putDown); err != nil {
		return err
	}
	if err := r.files(
		media,
		func(p string) (item.Address, item.Meta) { return s.moved[p], item.Meta{Kept: ownAddress(p)} },
	); err != nil {
		return err
	}
	s.circles()
	if err := s.settleScripts(); err != nil {
		return err
	}
	return r.oneSlug()
}

// taking is what reading one text found.
type taking struct {
	text        *kept
	digest      item.Digest // of the file
	left, notes []string
	scripts     []facts.HeadScript
	binary      []byte // of a file that is named as a text and is none
}

// putDown puts down what reading one text found.
func (s *static) putDown(p string, t taking) error {
	for _, why := range t.left {
		s.left(p, why)
	}
	for _, n := range t.notes {
		s.note(p, n)
	}
	for _, x := range t.scripts {
		s.countScript(x)
	}
	if t.binary != nil {
		s.note(p, "its name says text and it holds other bytes; kept as it is")
		key := s.asMedia(p)
		s.report.Files[p] = File{t.digest, s.moved[p]}
		return s.put(item.Address{Kind: item.Media, Key: key}, item.Meta{Kept: ownAddress(p)}, t.binary)
	}
	if t.text != nil {
		s.report.Files[p] = File{t.digest, s.moved[p]}
		s.add(*t.text)
	}
	return nil
}

// name gives every file its item and every page its slug.
func (s *static) name(files []string) error {
	pages, claimed := 0, map[string]bool{}
	for _, p := range files {
		s.present[p] = true
	}
	for _, p := range files {
		key := item.MakeKey(strings.TrimSuffix(p, path.Ext(p)))
		switch strings.ToLower(path.Ext(p)) {
		case ".html", ".htm", ".xhtml":
			pages++
			if strings.EqualFold(p, "404.html") {
				s.claim(p, item.Address{Kind: item.Part, Key: "not-found"})
				continue
			}
			slug := "/" + p
			if b := strings.TrimSuffix(path.Base(p), path.Ext(p)); strings.EqualFold(b, "index") {
				at := strings.TrimSuffix("/"+path.Dir(p), "/.") + "/"
				if !claimed[at] && (path.Ext(p) == ".html" || !s.present[path.Join(path.Dir(p), "index.html")]) {
					slug, key = at, item.MakeKey(path.Dir(p))
				}
				if at == "/" && slug == at {
					key = "home"
				}
			}
			claimed[slug] = true
			s.claim(p, item.Address{Kind: item.Page, Key: key})
			s.slugs[p] = slug
		case ".css":
			if s.sizes[p] > 0 {
				s.note(p, tooLargeToRead)
				s.claim(p, item.Address{Kind: item.Media, Key: item.MakeKey(p)})
				continue
			}
			s.claim(p, item.Address{Kind: item.Stylesheet, Key: key})
		default:
			if does, ok := serversOwn[p]; ok {
				s.note(p, does)
			}
			if s.sizes[p] > 0 && isRead(p) {
				s.note(p, tooLargeToRead)
			}
			s.claim(p, item.Address{Kind: item.Media, Key: item.MakeKey(p)})
		}
	}
	if pages == 0 {
		return fmt.Errorf("there is no HTML page in this folder, and no %s", ManifestName)
	}
	return nil
}

// claim gives a file the address, or the next free one like it: one whose path is not the own address of another file,
// so that a path means one thing.
func (s *static) claim(p string, a item.Address) {
	base := a
	for n := 2; s.taken[a] || s.present[a.Path()] && a.Path() != p; n++ {
		ext := path.Ext(base.Key)
		if base.Kind != item.Media {
			ext = ""
		}
		a.Key = fmt.Sprintf("%s-%d%s", strings.TrimSuffix(base.Key, ext), n, ext)
	}
	s.taken[a], s.moved[p] = true, a
}

// take reads one text and makes its references root-relative. It changes nothing of
// the reading as a whole.
func (s *static) take(p string) (t taking, err error) {
	a := s.moved[p]
	b, why := s.bytes(p, MaxTextBytes)
	if why != "" {
		t.left = []string{why}
		return t, nil
	}
	t.digest = item.DigestOf(b)
	as, was := b, ""
	if a.Kind.IsMarkup() || a.Kind == item.Stylesheet {
		as, was = ToUTF8(b)
	}
	if packed(b) || !textual(as) {
		t.binary = b
		return t, nil
	}
	if b = as; was != "" {
		t.notes = append(t.notes, "written in "+was+"; kept as UTF-8")
	}
	if lie := lieOf(MediaTypeOf(p), b[:min(len(b), 2048)]); lie != "" && !a.Kind.IsMarkup() {
		t.notes = append(t.notes, lie)
	} else if len(b) == 0 {
		t.notes = append(t.notes, "it is empty")
	}
	meta := item.Meta{Slug: s.slugs[p]}
	if meta.Slug == "" {
		meta.Kept = ownAddress(p)
	}
	if a.Kind == item.Part {
		meta = item.Meta{Role: item.NotFound}
	}
	if a.Kind == item.Media {
		meta.Context = facts.ReadsAs(MediaTypeOf(p))
	}
	base := "/" + p
	if a.Kind.IsMarkup() {
		base = baseOf(b, base)
	}
	f, tree := facts.Read(a.Kind, meta.Context, b)
	if tree != nil && a.Kind.IsMarkup() {
		s.headScripts(&t, tree, base)
	}
	out, f, err := f.Rewritten(
		a.Kind,
		meta.Context,
		b,
		func(ref facts.Ref) (string, bool) { return s.resolve(&t, base, ref) },
	)
	if err != nil {
		return t, err
	}
	if a.Kind == item.Page && len(f.Landmarks) > 0 { // its own stay alone when a part comes
		own := map[item.Role]bool{}
		meta.AtHome = map[item.Role]item.AtHome{}
		for _, r := range f.Landmarks {
			own[r], meta.AtHome[r] = true, item.HadOwn
		}
		meta = meta.LeavingOut(own)
	}
	text, err := s.text(a, meta, out, f)
	t.text = &text
	return t, err
}

// asMedia gives a key among the media to a file that was named as something else.
func (s *static) asMedia(p string) string {
	s.claim(p, item.Address{Kind: item.Media, Key: item.MakeKey(p)})
	delete(s.slugs, p)
	return s.moved[p].Key
}

func (s *static) note(p, says string) { s.report.Notes = append(s.report.Notes, Left{p, says}) }

// resolve gives the address within the site for a reference of a file.
func (s *static) resolve(t *taking, base string, ref facts.Ref) (string, bool) {
	if ref.Space != facts.Address && ref.Space != facts.Loose {
		return "", false
	}
	target := path.Clean(ref.Name)
	if strings.HasSuffix(ref.Name, "/") && target != "/" {
		target += "/"
	}
	if ref.Space == facts.Loose {
		target = path.Join(path.Dir(base), ref.Name)
		if strings.HasSuffix(ref.Name, "/") || ref.Name == "." || ref.Name == ".." {
			target = strings.TrimSuffix(target, "/") + "/"
		}
	}
	file, ok := s.find(target)
	if !ok {
		t.notes = append(t.notes,
			fmt.Sprintf("line %d: %s leads to %s, which is not in the folder", ref.Line, ref.Where, target))
		return target, true
	}
	if slug, isPage := s.slugs[file]; isPage {
		return slug, true
	}
	if s.moved[file].Kind == item.Part {
		return "/404.html", true
	}
	return "/" + s.moved[file].Path(), true
}

// find gives the file that answers an address, as servers of folders do.
func (s *static) find(target string) (string, bool) {
	bare := strings.TrimSuffix(target, "/")
	for _, try := range []string{target, bare + "/index.html", bare + "/index.htm", bare + ".html", bare + ".htm"} {
		file := strings.TrimPrefix(path.Clean("/"+try), "/")
		if _, ok := s.moved[file]; ok {
			return file, true
		}
	}
	return "", false
}

var tooLargeToRead = fmt.Sprintf("it is larger than %d MB: kept as it is at its address, and nothing is read in it",
	MaxTextBytes>>20)

// ownAddress gives the addresses at which a file goes on being served: its own. Mails, feeds, other sites and search
// engines may name any of them.
func ownAddress(p string) []string { return []string{"/" + p} }

// holds tells whether a document holds a tag's beginning, in any case.
func holds(src []byte, tag string) bool {
	for at := 0; ; at++ {
		i := bytes.IndexByte(src[at:], '<')
		if i < 0 || at+i+len(tag) > len(src) {
			return false
		}
		if at += i; bytes.EqualFold(src[at:at+len(tag)], []byte(tag)) {
			return true
		}
	}
}

// packed tells whether bytes begin as a picture or a packed file does.
func packed(b []byte) bool {
	is := http.DetectContentType(b)
	return sniffed[is] || is == "application/zip" || is == "application/x-gzip"
}

// textual tells whether bytes can be a text: they hold no NUL.
func textual(b []byte) bool {
	for _, c := range b[:min(len(b), 4096)] {
		if c == 0 {
			return false
		}
	}
	return true
}

// baseOf gives the address against which a page's relative links are read: its
// own, or that of its <base>.
func baseOf(src []byte, own string) string {
	if !holds(src, "<base") {
		return own
	}
	for _, n := range markup.Parse(src, "").ByTag("base") {
		if h := n.Value("href"); h != "" && !strings.Contains(h, ":") && !strings.HasPrefix(h, "//") {
			if strings.HasPrefix(h, "/") {
				return path.Clean(h + "x")
			}
			return path.Join(path.Dir(own), h, "x")
		}
	}
	return own
}

// headScripts counts what runs from a page's head.
func (s *static) headScripts(t *taking, tree *markup.Tree, base string) {
	src := tree.Source
	for _, n := range tree.ByTag("script") {
		if n.Parent == nil || n.Parent.Tag != "head" || !facts.Runs(n) {
			continue
		}
		name := facts.HeadScriptName(n, src)
		if from := n.Value("src"); from != "" && !strings.Contains(from, "//") {
			if !strings.HasPrefix(from, "/") {
				from = path.Join(path.Dir(base), from)
			}
			from, _, _ = strings.Cut(from, "?")
			name = from
			if file, ok := s.find(from); ok {
				name = "/" + s.moved[file].Path()
			}
		}
		begins := ""
		if n.Value("src") == "" {
			begins = strings.Join(strings.Fields(string(n.Inner.Of(src))), " ")
			if len(begins) > 60 {
				begins = strings.ToValidUTF8(begins[:57], "") + "…"
			}
		}
		t.scripts = append(t.scripts, facts.HeadScript{Script: name, Begins: begins})
	}
}

func (s *static) countScript(h facts.HeadScript) {
	for i := range s.report.HeadScripts {
		if s.report.HeadScripts[i].Script == h.Script {
			s.report.HeadScripts[i].Pages++
			return
		}
	}
	s.report.HeadScripts = append(s.report.HeadScripts, facts.HeadScript{Script: h.Script, Begins: h.Begins, Pages: 1})
}

// settleScripts lists the head scripts in the site's own setting.
func (s *static) settleScripts() error {
	list := s.report.HeadScripts
	if len(list) == 0 {
		return nil
	}
	sort.Slice(list, func(i, j int) bool { return list[i].Script < list[j].Script })
	return s.put(facts.HeadScripts, item.Meta{}, jsonText(list))
}
