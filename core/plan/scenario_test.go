package plan

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
)

// A scenario is a text file in testdata that anyone can add without reading Go:
//
//	the comment at the top says what it shows
//	-- site/KIND/KEY --   an item of the site
//	-- kit/KIND/KEY --    an item of the kit
//	-- meta.json --       {"site/KIND/KEY": metadata, …}
//	-- list.json --       the rest of the packing list
//	-- ask.json --        what a person said so far
//	-- came.json --       [{"kit": address, "item": address, "version": …, "content": as delivered}, …]
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
	set  *item.Set
	came []Origin
}

func (w *world) UsedBy(a item.Address) ([]item.Address, error) {
	var out []item.Address
	for _, h := range w.set.Heads() {
		f, err := w.Facts(h)
		if err != nil {
			return nil, err
		}
		for _, u := range closure.Uses(w, h, f) {
			if u.To == a && u.Why != "links to it" {
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

func (w *world) Made() []render.Made           { return render.New(w.set).Made() }
func (w *world) Pages() []item.Head            { return w.of(item.Page) }
func (w *world) Parts() []item.Head            { return w.of(item.Part) }
func (w *world) Sheets() []item.Head           { return w.of(item.Stylesheet, item.Tokens) }
func (w *world) StyleOrder() []item.Address    { return render.StyleOrder(w.set) }
func (w *world) Came(string) ([]Origin, error) { return w.came, nil }
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
	s.Put(item.Head{Address: a, Meta: meta, Sense: facts.Of(a.Kind, meta.Context, content).Sense}, content)
}

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
			require.NoError(t, json.Unmarshal(b, v), name)
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
		list.Items = append(list.Items, kit.Entry{Kind: h.Address.Kind, Key: h.Address.Key, SHA256: h.Doc, Sense: h.Sense, Bytes: h.Bytes, Meta: h.Meta})
		if (h.Address.Kind == item.Stylesheet || h.Address.Kind == item.Tokens) && len(list.StyleOrder) < 9 {
			list.StyleOrder = append(list.StyleOrder, h.Address)
		}
	}
	list.Settle()
	w := &world{Small: closure.NewSmall(site), set: site}
	var came []struct {
		Kit, Item, Version, Content string
	}
	read("came.json", &came)
	for _, c := range came {
		o := Origin{KitAddress: item.MustAddress(c.Kit), Version: c.Version, Copy: 1}
		o.Sense = facts.Of(o.KitAddress.Kind, "", []byte(c.Content)).Sense
		if c.Item != "" {
			o.Item = item.MustAddress(c.Item)
		}
		w.came = append(w.came, o)
	}
	var ask Ask
	read("ask.json", &ask)
	digest, err := list.Digest()
	require.NoError(t, err)
	p := Parcel{List: list, Digest: digest, Collection: parcel}
	got, err := Make(w, p, ask)
	if want, ok := files["error"]; ok {
		require.Error(t, err)
		assert.Contains(t, err.Error(), strings.TrimSpace(string(want)))
		return
	}
	require.NoError(t, err)
	if os.Getenv("SHOW") != "" {
		t.Logf("\n%s", short(got))
	}
	assert.Equal(t, strings.TrimSpace(string(files["want"])), strings.TrimSpace(short(got)))
	for _, f := range ar.Files {
		a, ok := strings.CutPrefix(f.Name, "want/")
		if !ok {
			continue
		}
		found := false
		for _, x := range got.Puts {
			if x.Head.Address.String() == a {
				found = true
				assert.Equal(t, strings.TrimSpace(string(f.Data)), string(x.Content), a)
			}
		}
		assert.True(t, found, "the delivery does not write %s", a)
	}
	again, err := Make(w, p, ask)
	require.NoError(t, err)
	assert.Equal(t, got.Plan.Digest(), again.Plan.Digest(), "the same input gives the same plan")
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
			words = append(words, string(c.Decision))
		}
		line("? %s: %s", q.About, strings.Join(words, " "))
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
		line("%s", text)
	}
	for _, x := range p.Touched {
		line("touches %s by %s", x.Slug, strings.Join(x.Ways, "; "))
	}
	for _, c := range p.Clashes {
		line("class %s %s %s", c.Class, or(c.Decision), c.Becomes)
	}
	for _, s := range p.Seats {
		line("seat %s on %s: %s or %s: %s", s.Role, s.Target, s.Site, s.Kit, or(s.Decision))
	}
	for _, n := range p.Needs {
		if !strings.HasPrefix(n.What, "engine") || n.State != "met" {
			line("need %s %s", n.What, n.State)
		}
	}
	for _, f := range p.Fills {
		line("fill %s %q", f.Name, f.Value)
	}
	for _, x := range p.Tokens {
		line("token %s %s %s", x.Property, x.Site, x.Kit)
	}
	for _, l := range p.Links {
		line("link %s:%d %s", l.From, l.Line, l.Slug)
	}
	for _, s := range p.Scripts {
		line("code %s", s)
	}
	for _, n := range p.Notes {
		line("note %s", n)
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
	for _, x := range r.Puts {
		text := x.Head.Address.String()
		if x.Head.Address.Kind == item.Setting {
			text += " " + string(x.Content)
		} else if x.KitAddress.IsZero() {
			text += " (the site's own, placed on " + strings.Join(x.Head.Meta.Place().On, ",") + ")"
		} else if x.Head.Meta.Placement != nil {
			text += " placed on " + strings.Join(x.Head.Meta.Placement.On, ",")
		}
		puts = append(puts, text)
	}
	sort.Strings(puts)
	for _, x := range puts {
		line("writes %s", x)
	}
	return strings.ReplaceAll(b.String(), " \n", "\n")
}

func or(s string) string {
	if s == "" {
		return "?"
	}
	return s
}
