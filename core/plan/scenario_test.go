package plan

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"testing"

	"compactparcel/core/blend"
	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
	"compactparcel/test/failing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
)

// A scenario is a text file in testdata that anyone can add without reading Go:
//
//	the comment at the top says what it shows
//	-- site/KIND/KEY --   an item of the site
//	-- kit/KIND/KEY --    an item of the kit
//	-- shelf/KIND/KEY --  an item of the library; -- shelf.json -- {"kit": version}
//	-- meta.json --       {"site/KIND/KEY": metadata, …}
//	-- list.json --       the rest of the packing list
//	-- ask.json --        what a person said so far
//	-- came.json --       [{"kit": address, "item": address, "version": …, "content": as delivered,
//	                        "meta": metadata as delivered, "forgotten": true when only its digest is known}, …]
//	-- before.json --     what was said at the last delivery: {"fills": …, "decisions": …};
//	                      before-kit.json: of which version, digest and format
//	-- want --            the plan in short lines, as short() writes it
//	-- want/KIND/KEY --   an item as the delivery would write it
//	-- error --           words that the error must hold, in place of want
func TestScenarios(t *testing.T) {
	files, err := filepath.Glob("testdata/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		t.Run(strings.TrimSuffix(filepath.Base(f), ".txt"), func(t *testing.T) { scenario(t, f) })
	}
}

type world struct {
	*closure.Small
	set    item.Collection
	came   []Origin
	before PriorDelivery
	bases  map[item.Digest][]byte
}

func (w *world) BaselineContent(o Origin) ([]byte, error)    { return w.bases[o.Doc], nil }
func (w *world) PriorDelivery(string) (PriorDelivery, error) { return w.before, nil }

func (w *world) UsedBy(a item.Address) ([]item.Address, error) {
	var out []item.Address
	for _, h := range w.set.Heads() {
		f, err := w.Facts(h)
		if err != nil {
			return nil, err
		}
		for _, u := range closure.Uses(w, h, f) {
			if u.To == a && u.Relation != closure.LinksTo {
				out = append(out, h.Address)
				break
			}
		}
	}
	return out, nil
}

func (w *world) of(kinds ...item.Kind) []item.Head {
	var out []item.Head
	for _, h := range w.set.Heads() {
		for _, k := range kinds {
			if h.Address.Kind == k {
				out = append(out, h)
			}
		}
	}
	return out
}

func (w *world) OfKind(kinds ...item.Kind) []item.Head { return w.of(kinds...) }
func (w *world) GeneratedPages() ([]render.GeneratedPage, error) {
	return render.New(w.set).GeneratedPages()
}
func (w *world) Pages() []item.Head                  { return w.of(item.Page) }
func (w *world) Parts() []item.Head                  { return w.of(item.Part) }
func (w *world) Sheets() []item.Head                 { return w.of(item.Stylesheet, item.Tokens) }
func (w *world) StyleOrder() ([]item.Address, error) { return render.StyleOrder(w.set) }
func (w *world) Origins(string) ([]Origin, error)    { return w.came, nil }
func (w *world) MediaWith(d item.Digest) (item.Address, bool) {
	for _, h := range w.of(item.Media) {
		if h.Doc == d {
			return h.Address, true
		}
	}
	return item.Address{}, false
}

func put(t *testing.T, s *item.Set, address string, meta item.Meta, content []byte) {
	t.Helper()
	a, err := item.ParseAddress(address)
	require.NoError(t, err)
	content = []byte(strings.TrimSuffix(string(content), "\n"))
	s.Put(item.Head{Address: a, Meta: meta,
		NormalizedDigest: facts.Extract(a.Kind, meta.Context, content).NormalizedDigest}, content)
}

// remembered is a memory of all blends.
type remembered map[item.Digest]*TextBlend

func (r remembered) Get(key item.Digest) (*TextBlend, bool) { b, ok := r[key]; return b, ok }
func (r remembered) Keep(key item.Digest, b *TextBlend)     { r[key] = b }

func scenario(t *testing.T, file string) {
	ar, err := txtar.ParseFile(file)
	require.NoError(t, err)
	require.NotEmpty(t, ar.Comment, "say at the top what the scenario shows")
	files := map[string][]byte{}
	for _, f := range ar.Files {
		files[f.Name] = f.Data
	}
	read := func(name string, v any) {
		if b, ok := files[name]; ok {
			d := json.NewDecoder(bytes.NewReader(b))
			d.DisallowUnknownFields()
			require.NoError(t, d.Decode(v), name)
		}
	}
	metas := map[string]item.Meta{}
	read("meta.json", &metas)
	site, parcel := item.NewSet(), item.NewSet()
	list := &kit.PackingList{Kit: "hut-basics", Version: "1.0.0"}
	read("list.json", list)
	for _, f := range ar.Files {
		if a, ok := strings.CutPrefix(f.Name, "site/"); ok {
			put(t, site, a, metas[f.Name], f.Data)
		}
		if a, ok := strings.CutPrefix(f.Name, "kit/"); ok {
			put(t, parcel, a, metas[f.Name], f.Data)
		}
	}
	for _, h := range parcel.Heads() {
		list.Items = append(
			list.Items,
			kit.Entry{
				Kind:             h.Address.Kind,
				Key:              h.Address.Key,
				SHA256:           h.Doc,
				NormalizedDigest: h.NormalizedDigest,
				Bytes:            h.Bytes,
				Meta:             h.Meta,
			},
		)
		if (h.Address.Kind == item.Stylesheet || h.Address.Kind == item.Tokens) && len(list.StyleOrder) < 9 {
			list.StyleOrder = append(list.StyleOrder, h.Address)
		}
	}
	list.Settle()
	w := &world{Small: closure.NewSmall(site), set: site}
	var came []struct {
		Kit, Item, Version, Content string
		Meta                        *item.Meta
		Forgotten                   bool
	}
	read("came.json", &came)
	read("before.json", &w.before)
	var kitBefore struct {
		Version   string
		KitDigest item.Digest
		Format    int
	}
	read("before-kit.json", &kitBefore)
	w.before.Version, w.before.KitDigest, w.before.Format = kitBefore.Version, kitBefore.KitDigest, kitBefore.Format
	w.bases = map[item.Digest][]byte{}
	for _, c := range came {
		o := Origin{KitAddress: item.MustAddress(c.Kit), Version: c.Version, Copy: 1}
		o.NormalizedDigest = facts.Extract(o.KitAddress.Kind, "", []byte(c.Content)).NormalizedDigest
		if o.Meta = c.Meta; !c.Forgotten {
			o.Doc = item.DigestOf([]byte(c.Content))
			w.bases[o.Doc] = []byte(c.Content)
		}
		if c.Item != "" {
			o.Item = item.MustAddress(c.Item)
		}
		w.came = append(w.came, o)
	}
	var ask Request
	read("ask.json", &ask)
	digest, err := list.Digest()
	require.NoError(t, err)
	p := Parcel{List: list, Digest: digest, Collection: parcel}
	if on := shelfOf(t, ar, metas); on != nil {
		p.Shelf = on
	}
	got, err := Make(w, p, ask)
	if want, ok := files["error"]; ok {
		require.Error(t, err)
		assert.Contains(t, err.Error(), strings.TrimSpace(string(want)))
		return
	}
	require.NoError(t, err)
	if os.Getenv("UPDATE") != "" { // read what it writes before you keep it
		for i, f := range ar.Files {
			if f.Name == "want" {
				ar.Files[i].Data = []byte(short(got))
			}
		}
		require.NoError(t, os.WriteFile(file, txtar.Format(ar), 0o644))
		return
	}
	assert.Equal(t, strings.TrimSpace(string(files["want"])), strings.TrimSpace(short(got)))
	for _, f := range ar.Files {
		a, ok := strings.CutPrefix(f.Name, "want/")
		if !ok {
			continue
		}
		found := false
		for _, x := range got.Writes {
			if x.Head.Address.String() == a {
				found = true
				assert.Equal(t, strings.TrimSpace(string(f.Data)), strings.TrimSpace(string(textOf(t, parcel, x))), a)
			}
		}
		assert.True(t, found, "the delivery does not write %s", a)
	}
	p.Blends = remembered{}
	for _, when := range []string{"remembering", "from memory"} {
		known, err := Make(w, p, ask)
		require.NoError(t, err)
		assert.Equal(t, got, known, "%s, blends are the same", when)
	}
	p.Blends = nil
	again, err := Make(w, p, ask)
	require.NoError(t, err)
	assert.Equal(t, got.Plan.Digest(), again.Plan.Digest(), "the same input gives the same plan")

	// What cannot be read fails the plan, or plays no part in it.
	failing.AnyRead(t, site, func(c item.Collection) (any, error) {
		there := *w
		there.Small, there.set = closure.NewSmall(c), c
		return digestOf(Make(&there, p, ask))
	})
	failing.AnyRead(t, parcel, func(c item.Collection) (any, error) {
		there := p
		there.Collection = c
		return digestOf(Make(w, there, ask))
	})
}

// digestOf gives the digest of a plan.
func digestOf(r *Result, err error) (item.Digest, error) {
	if err != nil {
		return "", err
	}
	return r.Plan.Digest(), nil
}

// shelfOf makes a shelf of the scenario's shelf/… items, and of kits named in it.
func shelfOf(t *testing.T, ar *txtar.Archive, metas map[string]item.Meta) *testShelf {
	s := &testShelf{Set: item.NewSet()}
	for _, f := range ar.Files {
		if f.Name == "shelf.json" {
			require.NoError(t, json.Unmarshal(f.Data, &s.kits))
		}
		if a, ok := strings.CutPrefix(f.Name, "shelf/"); ok {
			put(t, s.Set, a, metas[f.Name], f.Data)
		}
	}
	if s.kits == nil && len(s.Heads()) == 0 {
		return nil
	}
	return s
}

type testShelf struct {
	*item.Set
	kits map[string]string
}

func (s *testShelf) Component(name, _ string) (item.Head, string, bool, error) {
	h, ok := s.Find(item.Address{Kind: item.Component, Key: name})
	return h, "the library", ok, nil
}

func (s *testShelf) Kit(name, _ string) (string, error) { return s.kits[name], nil }

// textOf gives what a delivery writes of an item.
func textOf(t require.TestingT, parcel item.Collection, x PlannedWrite) []byte {
	h, ok := parcel.Find(x.KitAddress)
	if x.Content != nil || !ok {
		return x.Content
	}
	b, err := item.Read(parcel, h)
	require.NoError(t, err)
	return b
}

// short writes a plan in the lines of a scenario.
func short(r *Result) string {
	var b strings.Builder
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	p := r.Plan
	line("version %s", p.VersionIs)
	for _, q := range p.Questions {
		var words []string
		for _, c := range q.Choices {
			words = append(words, c.Written())
		}
		line("? %s: %s", q.Key, strings.Join(words, " "))
	}
	for _, x := range p.Rows {
		decision := string(x.Decision)
		if decision == "" {
			decision = "?"
		}
		text := fmt.Sprintf("%s %s %s", x.Address, x.Standing, decision)
		if !x.Becomes.IsZero() && x.Becomes != x.Address {
			text += " as " + x.Becomes.String()
		}
		for i, c := range x.Candidates {
			if i > 0 || c.By != "address" && c.By != "origin" {
				text += fmt.Sprintf(", like %s by %s", c.Address, c.By)
			}
		}
		if x.Needed != "" {
			text += " (" + x.Needed + ")"
		}
		line("%s", text)
		for _, c := range x.Conflicts {
			line("  conflict %s %s %s: %s | %s | %s: %s", c.Key, c.Kind, c.Where, blend.Brief(c.Base),
				blend.Brief(c.Site), blend.Brief(c.Kit), or(c.Decision))
		}
	}
	for _, x := range p.Touched {
		line("touches %s by %s", x.Slug, strings.Join(x.Ways, "; "))
	}
	for _, g := range p.Groups {
		text := fmt.Sprintf("%s %s", g.Key, or(g.Decision))
		if g.Script != nil {
			text += ": " + g.Script.String()
		}
		line("%s", text)
	}
	for _, c := range p.Clashes {
		line("%s %s %s %s", c.Kind, c.Name, or(c.Decision), c.Becomes)
	}
	for _, s := range p.Seats {
		line("seat %s on %s: %s or %s: %s", s.Role, s.Target, s.Site, s.Kit, or(s.Decision))
	}
	for _, s := range p.Surrounds {
		line("surround %s: own %v, none %v: %s", s.Page, s.Own, s.None, s.Decision)
	}
	for _, n := range p.Needs {
		if !strings.HasPrefix(n.What, "engine") || n.State != "met" {
			text := fmt.Sprintf("need %s %s", n.What, n.State)
			if n.Decision != "" {
				text += ": " + Decided{Decision: n.Decision, To: n.To}.String()
			}
			line("%s", text)
		}
	}
	for _, f := range p.Fills {
		text := fmt.Sprintf("fill %s %q", f.Name, f.Value)
		if f.Before {
			text += " as before"
		}
		line("%s", text)
	}
	for _, x := range p.Tokens {
		line("token %s %s %s %.3f: %s %s", x.Property, or(x.Site), x.Kit, x.Distance, x.Decision, x.Nearest)
	}
	for _, l := range p.Links {
		line("%s link %s:%d %s", l.State, l.From, l.Line, l.Slug)
	}
	for _, s := range p.Scripts {
		line("code %s", s)
	}
	for _, h := range p.Hosts {
		line("host %s: %s by %s:%d", h.Host, h.Kind, h.From, h.Line)
	}
	for _, n := range p.Notes {
		line("note %s", n)
	}
	for _, x := range p.Fields {
		line("field %s %s: %s %s", x.Type, x.Kit, or(x.Decision), x.Site)
	}
	for _, x := range p.Contrasts {
		line("contrast %s: %s on %s: %.2f here, %.2f in the kit, %.2f after", x.Where, x.Text, x.Ground, x.Site, x.Kit,
			x.As)
	}
	for _, x := range p.Literals {
		line("literal %s", x)
	}
	for _, x := range p.StyleOverrides {
		line("override %s %s %s: %s, the kit's %s, by %s %s", x.Page, x.Element, x.Property, x.Value, or(x.Kit), x.By,
			x.When)
	}
	for _, x := range p.Settings {
		line("setting %s %s %s", x.Setting, x.Decision, x.Proposed)
	}
	if len(p.StyleOrder) > 0 {
		var order []string
		for _, a := range p.StyleOrder {
			order = append(order, a.String())
		}
		line("order %s", strings.Join(order, " "))
	}
	var puts []string
	for _, x := range r.Writes {
		text := x.Head.Address.String()
		if x.Head.Address.Kind == item.Setting {
			text += " " + string(x.Content)
		} else if x.KitAddress.IsZero() {
			if x.Head.Address.Kind != item.Part {
				text = strings.TrimSpace(text + " " + x.Head.Meta.Version)
				if x.Head.Address.Kind == item.Page {
					text += fmt.Sprintf(" (the site's own, without %v)", x.Head.Meta.Without)
				}
				puts = append(puts, strings.TrimSpace(text))
				continue
			}
			text += " (the site's own, placed on " + strings.Join(x.Head.Meta.Place().Where, ",") + ")"
		} else if x.Head.Address.Kind == item.Page && len(x.Head.Meta.Without) > 0 {
			text += fmt.Sprintf(" without %v", x.Head.Meta.Without)
		} else if x.Head.Meta.Placement != nil {
			text += " placed on " + strings.Join(x.Head.Meta.Placement.Where, ",")
		}
		puts = append(puts, text)
	}
	for _, h := range r.Deletions {
		puts = append(puts, h.Address.String()+" away")
	}
	sort.Strings(puts)
	for _, x := range puts {
		line("writes %s", x)
	}
	return strings.ReplaceAll(b.String(), " \n", "\n")
}

func or[S ~string](s S) string {
	if s == "" {
		return "?"
	}
	return string(s)
}
