package item

import "strings"

// Meta is all that is known of an item beside its content. It is part of what a
// collection's digest covers. The JSON names are those of the packing list.
type Meta struct {
	Title string `json:"title,omitempty"`
	// Slug is a page's address on the site: see CheckSlug.
	Slug string `json:"slug,omitempty"`
	// Without lists the part roles that a page leaves out.
	Without []Role `json:"without,omitempty"`
	// AtHome says, by role, how a page had what surrounds it where it comes from: in a kit for
	// every role, on a site for the landmarks of its own that it was adopted with.
	AtHome map[Role]AtHome `json:"at-home,omitempty"`
	// Variant names, by role, the variant of a part that a page chose.
	Variant map[Role]string `json:"variant,omitempty"`
	Width   Width           `json:"width,omitempty"`
	// Styles are the stylesheets and tokens the item is shown with.
	Styles []Address `json:"styles,omitempty"`
	Role   Role      `json:"role,omitempty"`
	// Variants are the variants that a part offers.
	Variants  []string   `json:"variants,omitempty"`
	Placement *Placement `json:"placement,omitempty"`
	// Off switches a part off without forgetting where it was placed.
	Off bool `json:"off,omitempty"`
	// Trigger says what makes an overlay appear.
	Trigger *Trigger `json:"trigger,omitempty"`
	// TitleShown writes a page's title above its content when the page has no heading
	// of its own.
	TitleShown bool `json:"title-shown,omitempty"`
	// Context is the element in which a fragment is parsed; empty means body. Of a
	// script or a web manifest among the media it is the media type, by which its
	// references are read.
	Context string `json:"context,omitempty"`
	// Was lists addresses the item had in earlier versions of its kit.
	Was []Address `json:"was,omitempty"`
	// Type is the record type of a record.
	Type string `json:"type,omitempty"`
	// Version is a component's version (Semantic Versioning).
	Version string `json:"component-version,omitempty"`
	// MediaType is the media type of a media item.
	MediaType string `json:"media-type,omitempty"`
	// Kept lists root-relative addresses at which a media item is served, too: those
	// it had before it was adopted, when something may name it out of our sight.
	Kept []string `json:"kept,omitempty"`
	// Cut tells that a stylesheet is cut to the rules that the pieces of its kit use: it stands
	// for no whole one, and is known by its origin alone.
	Cut bool `json:"cut,omitempty"`
	// Portable overrides whether a setting may enter a kit.
	Portable *bool    `json:"portable,omitempty"`
	Tags     []string `json:"tags,omitempty"`
}

// Placement says where a part applies.
type Placement struct {
	Where  []string `json:"where"`
	Unless []string `json:"unless,omitempty"`
}

// Target is a parsed placement target.
type Target struct {
	Word     string // everywhere, home, page, under, records, listing, search, not-found
	Path     string // of page and under
	Type     string // of records and listing
	Category string
}

// TargetInfo is the one declaration of a kind of target, with its exactness: the
// higher wins.
type TargetInfo struct {
	Word        string `json:"word"`
	Form        string `json:"form"`
	Description string `json:"description"`
	Exact       int    `json:"exact"`
}

// Targets lists the placement targets from the least to the most exact.
var Targets = []TargetInfo{
	{"everywhere", "everywhere", "all pages", 0},
	{"records", "records:TYPE", "the page of each record of a type, or of a type and category", 20},
	{"listing", "listing:TYPE", "the listings of a type, or of a type and category", 20},
	{"under", "under:/path/", "all pages below a path; the longer path is the more exact", 40},
	{"search", "search", "the page of search results", 60},
	{"not-found", "not-found", "the not-found page", 60},
	{"home", "home", "the home page", 80},
	{"page", "page:/path/", "one page", 100},
}

// ParseTarget reads one placement target; ok is false when the grammar does not allow it.
func ParseTarget(s string) (Target, bool) {
	word, arg, has := strings.Cut(s, ":")
	t := Target{Word: word}
	switch word {
	case "everywhere", "home", "search", "not-found":
		return t, !has
	case "page", "under":
		t.Path = arg
		return t, CheckSlug(arg) == nil && (word == "page" || strings.HasSuffix(arg, "/"))
	case "records", "listing":
		typ, query, hasQuery := strings.Cut(arg, "?")
		t.Type = typ
		if hasQuery {
			c, ok := strings.CutPrefix(query, "category=")
			t.Category = c
			return t, ok && c != "" && CheckKey(typ) == nil
		}
		return t, CheckKey(typ) == nil
	}
	return t, false
}

// Exactness orders targets: the higher number is the more exact.
func (t Target) Exactness() int {
	for _, i := range Targets {
		if i.Word != t.Word {
			continue
		}
		n := i.Exact
		if t.Category != "" {
			n += 5
		}
		if t.Word == "under" {
			n += min(strings.Count(t.Path, "/"), 19)
		}
		return n
	}
	return -1
}

// Place gives where the part applies: what it says itself, or its role's default.
func (m Meta) Place() Placement {
	if m.Placement != nil {
		return *m.Placement
	}
	for _, r := range Roles {
		if r.Role == m.Role && r.Default != "" {
			return Placement{Where: []string{r.Default}}
		}
	}
	return Placement{}
}

// Renamed gives the metadata with every address in it moved as the map says.
func (m Meta) Renamed(moved map[Address]Address) Meta {
	if len(m.Styles) > 0 {
		styles := make([]Address, len(m.Styles))
		for i, a := range m.Styles {
			styles[i] = a
			if to, ok := moved[a]; ok {
				styles[i] = to
			}
		}
		m.Styles = styles
	}
	if to, ok := moved[Address{RecordType, m.Type}]; ok && m.Type != "" {
		m.Type = to.Key
	}
	if m.Placement != nil && len(moved) > 0 {
		move := func(list []string) []string {
			out := append([]string(nil), list...)
			for i, s := range out {
				if t, ok := ParseTarget(s); ok && t.Type != "" {
					if to, is := moved[Address{RecordType, t.Type}]; is && to.Key != t.Type {
						out[i] = t.Word + ":" + to.Key + strings.TrimPrefix(s, t.Word+":"+t.Type)
					}
				}
			}
			return out
		}
		p := Placement{Where: move(m.Placement.Where), Unless: move(m.Placement.Unless)}
		if p.Where == nil && m.Placement.Where != nil {
			p.Where = []string{}
		}
		m.Placement = &p
	}
	return m
}

// Moved gives the metadata with every page's address in it moved as the map of slugs says:
// the page's own, and those that a placement names.
func (m Meta) Moved(slugs map[string]string) Meta {
	if to, ok := slugs[m.Slug]; ok && m.Slug != "" {
		m.Slug = to
	}
	if m.Placement != nil && len(slugs) > 0 {
		move := func(list []string) []string {
			out := append([]string(nil), list...)
			for i, s := range out {
				if t, ok := ParseTarget(s); ok && t.Path != "" {
					if to, moved := slugs[t.Path]; moved {
						out[i] = t.Word + ":" + to
					}
				}
			}
			return out
		}
		p := Placement{Where: move(m.Placement.Where), Unless: move(m.Placement.Unless)}
		if m.Placement.Where != nil && p.Where == nil {
			p.Where = []string{}
		}
		m.Placement = &p
	}
	return m
}
