package faults

import (
	"fmt"
	"runtime"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/workers"
)

// World is what is checked: a site, live or in a draft, a kit, a folder.
type World interface {
	item.Collection
	closure.World
}

// Options say what is known beside the items.
type Options struct {
	// Samples are the samples of blanks of the kits that were delivered.
	Samples []string
	// Others are what other sites call themselves; Foreign tells which items may hold such names,
	// having come from elsewhere.
	Others  []string
	Foreign func(item.Address) bool
	// Partial tells that it is a kit: what it links to and needs, its language and its places are the
	// receiving site's.
	Partial bool
	// Receives tells whether somebody gets what is sent with a form; nil: that is not known. Outlets
	// are those that send forms nowhere.
	Receives func(form string) bool
	Outlets  []string
	// Heavy is from how many bytes on a file is heavy.
	Heavy int64
}

// heavyFile is from how many bytes on a file is heavy, unless it is said.
const heavyFile = 1 << 20

// Check finds the faults of a collection, over all its pages.
func Check(w World, o Options) ([]Fault, error) {
	if o.Heavy == 0 {
		o.Heavy = heavyFile
	}
	c := &checker{w: w, o: o, found: newGather(), shownOn: map[item.Address]map[string]bool{}}
	if err := c.allPages(); err != nil {
		return nil, err
	}
	if err := c.allItems(); err != nil {
		return nil, err
	}
	list := c.found.list()
	if o.Partial {
		list = slices.DeleteFunc(list, func(f Fault) bool {
			return f.Kind == Link || f.Kind == Missing || f.Kind == Hidden || f.Kind == Unused || f.Address.IsZero()
		})
	}
	return list, nil
}

type checker struct {
	w     World
	o     Options
	found *gather
	// shownOn tells on which pages an item has a part.
	shownOn map[item.Address]map[string]bool
	ids     map[string]map[string]bool // what can be led to, by page
	slugs   map[string]bool
	kept    map[string]bool // addresses that files kept
}

// allPages looks at every page as it is shown, on all cores.
func (c *checker) allPages() error {
	rs := make([]*render.Renderer, runtime.GOMAXPROCS(0))
	cascades := make([]map[string]*css.Cascade, len(rs))
	for i := range rs {
		rs[i] = render.New(c.w)
		cascades[i] = map[string]*css.Cascade{}
	}
	slugs, err := slugsOf(rs[0])
	if err != nil {
		return err
	}
	c.ids, c.slugs = make(map[string]map[string]bool, len(slugs)), map[string]bool{}
	seen := make([]*seenPage, len(slugs))
	err = workers.Some(len(rs), len(slugs), func(worker, i int) (err error) {
		seen[i], err = look(rs[worker], slugs[i], c.o, cascades[worker])
		if err == nil {
			rs[worker].Forget(seen[i].page) // its text is not needed again
		}
		return err
	})
	if err != nil {
		return err
	}
	// again tells of the home page's own address: its faults are told where it is meant to be seen.
	again := func(i int) bool { return rs[0].Canonical(slugs[i]) != slugs[i] }
	for i, p := range seen {
		c.ids[slugs[i]], c.slugs[slugs[i]] = p.ids, true
		if again(i) {
			continue
		}
		for _, a := range p.reached {
			if c.shownOn[a] == nil {
				c.shownOn[a] = map[string]bool{}
			}
			c.shownOn[a][slugs[i]] = true
		}
		for _, f := range p.faults {
			c.found.add(f, slugs[i])
		}
	}
	for i, p := range seen {
		if again(i) {
			continue
		}
		for _, l := range p.links {
			ids, known := c.ids[l.slug]
			if known && !ids[l.fragment] {
				f := Fault{
					Kind: Anchor, Address: l.from, Line: l.line,
					Message: fmt.Sprintf("it links to %s#%s, and that page has no such anchor", l.slug, l.fragment),
					Remedy:  "give the target the id, or change the link",
				}
				if l.fragment == "!" { // as people write a link whose page is not made yet
					f.Message, f.Remedy = "a link leads nowhere yet: #!", "say where it leads, or take it out"
				}
				c.found.add(f, slugs[i])
			}
		}
	}
	return c.hiddenHome(rs[0])
}

// slugsOf lists the addresses of all documents.
func slugsOf(r *render.Renderer) ([]string, error) {
	var out []string
	for slug := range r.Pages() {
		out = append(out, slug)
	}
	made, err := r.GeneratedPages()
	if err != nil {
		return nil, err
	}
	for _, m := range made {
		if _, own := r.Pages()[m.Slug]; !own {
			out = append(out, m.Slug)
		}
	}
	sort.Strings(out)
	return out, nil
}

// hiddenHome tells of a page that stands at / where the setting home shows another.
func (c *checker) hiddenHome(r *render.Renderer) error {
	home, set, err := render.HomeOf(c.w)
	if err != nil || !set {
		return err
	}
	for _, h := range c.w.Heads() {
		if h.Address.Kind == item.Page && h.Meta.Slug == "/" && h.Address != home.Address {
			c.found.add(Fault{
				Kind: Hidden, Address: h.Address,
				Message: fmt.Sprintf("its address is /, where the setting home shows %s", home.Address),
				Remedy:  "give it another address, or change setting/home",
			}, "/")
		}
	}
	return nil
}

// allItems looks at what needs no page: sources, links, files.
func (c *checker) allItems() error {
	used, bySheet := map[item.Address]bool{}, []closure.Use{}
	c.kept = map[string]bool{}
	for _, h := range c.w.Heads() {
		for _, at := range h.Meta.Kept {
			c.kept[at] = true
		}
	}
	for _, h := range c.w.Heads() {
		f, err := c.w.Facts(h)
		if err != nil {
			return err
		}
		c.source(h, f)
		for _, u := range closure.Uses(c.w, h, f) {
			used[u.To] = true
			switch {
			case u.To.Kind == item.Media && h.Address.Kind == item.Stylesheet:
				bySheet = append(bySheet, u)
			case u.To.Kind == item.Media || u.To.Kind == item.Stylesheet:
				c.shows(u.To, c.shownOn[h.Address])
			default:
			}
			c.use(h, u)
		}
		for _, l := range f.Loads() {
			c.add(h, Fault{Kind: Outside, Line: l.Line,
				Message: fmt.Sprintf("it loads from %s (%s)", l.Host, l.Kind),
				Remedy:  "visitors' browsers ask there; keep the file here if it need not"})
		}
	}
	for _, u := range bySheet { // what pages show of it is known by now
		c.shows(u.To, c.shownOn[u.From])
	}
	for _, h := range c.w.Heads() {
		c.file(h, used)
		c.form(h)
		if h.Address.Kind == item.Part && !h.Meta.Off && len(c.shownOn[h.Address]) == 0 {
			c.add(h, Fault{Kind: Hidden, Message: "the part stands on no page",
				Remedy: "place it, or remove it"})
		}
	}
	return nil
}

// shows notes that pages show a file, by what names it.
func (c *checker) shows(a item.Address, pages map[string]bool) {
	if len(pages) > 0 && c.shownOn[a] == nil {
		c.shownOn[a] = map[string]bool{}
	}
	for p := range pages {
		c.shownOn[a][p] = true
	}
}

// add notes a fault of an item for all pages that show it.
func (c *checker) add(h item.Head, f Fault) {
	f.Address = h.Address
	var pages []string
	for p := range c.shownOn[h.Address] {
		pages = append(pages, p)
	}
	c.found.add(f, pages...)
}

func (c *checker) source(h item.Head, f *facts.Facts) {
	if f.Broken != "" {
		c.add(h, Fault{Kind: Unreadable, Message: f.Broken, Remedy: "correct its source"})
	}
	if f.Opaque {
		c.add(h, Fault{Kind: Unreadable, Message: "it is too deep or too long to be read element by element",
			Remedy: "make it smaller or flatter"})
	}
	for _, r := range f.Refs {
		if r.Space == facts.Loose && h.Address.Kind != item.Media {
			c.add(h, Fault{Kind: Missing, Line: r.Line,
				Message: fmt.Sprintf("the relative address %q in %s means nothing here", r.Name, r.Where),
				Remedy:  "write it from the root, as in /media/NAME"})
		}
	}
}

// use tells of a link or a need that is not met.
func (c *checker) use(h item.Head, u closure.Use) {
	switch {
	case u.Found || u.Relation == closure.StandsBelow:
	case u.Relation == closure.LinksTo:
		if bare := strings.TrimSuffix(u.Slug, "/"); c.slugs[u.Slug] || c.slugs[bare] || c.kept[bare] {
			return // a page that no item stands for, or a file
		}
		c.add(h, Fault{Kind: Link, Line: u.Line,
			Message: fmt.Sprintf("it links to %s, where no page is", u.Slug),
			Remedy:  "change the link, or make the page"})
	case !u.Soft && !u.To.IsZero():
		c.add(h, Fault{Kind: Missing, Line: u.Line,
			Message: fmt.Sprintf("it %s, which is not there", u.Relation.Sentence(u.To.String(), u.Where)),
			Remedy:  "bring it, or take it out"})
	}
}

// form tells of a form that pages show, and what is sent with it reaches nobody.
func (c *checker) form(h item.Head) {
	if h.Address.Kind != item.Form || len(c.shownOn[h.Address]) == 0 || c.o.Receives == nil {
		return
	}
	if !c.o.Receives(h.Address.Key) {
		c.add(h, Fault{Kind: Form, Message: "nobody is told of what is sent with it",
			Remedy: "say with the form to whom it goes"})
	}
	for _, o := range c.o.Outlets {
		c.add(h, Fault{Kind: Form, Message: "the outlet " + o + " sends it nowhere",
			Remedy: "publish there with --forms here, or with an address that receives it"})
	}
}

// file tells of media that nothing uses, or that are slow to load.
func (c *checker) file(h item.Head, used map[item.Address]bool) {
	if h.Address.Kind != item.Media {
		return
	}
	if h.Bytes > c.o.Heavy {
		c.add(h, Fault{Kind: Heavy, Message: fmt.Sprintf("it weighs %.1f MB", float64(h.Bytes)/(1<<20)),
			Remedy: "make it lighter"})
	}
	if !used[h.Address] && len(c.shownOn[h.Address]) == 0 && len(h.Meta.Kept) == 0 {
		c.add(h, Fault{Kind: Unused, Message: "nothing uses it", Remedy: "remove it, or leave it for later"})
	}
}
