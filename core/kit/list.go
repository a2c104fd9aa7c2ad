// Package kit reads and writes kits: .cpkit files, format 1.
//
// A kit is a ZIP in the profile of ISO/IEC 21320-1 whose inside is a plain
// folder. Its table of contents, packing-list.json, names every other file but
// seal.json with its size and SHA-256. The rules, and why:
//
//   - The same items give the same bytes: entries are sorted, times fixed,
//     methods fixed by the kind of file, the list is canonical JSON (RFC 8785).
//   - A reader puts every file in exactly one of valid, aside and refused, each
//     with its reason, before it believes anything: see Open.
//   - Reading and writing hold one item and fixed buffers, whatever the size.
//   - A newer format is refused by name; see Format.
package kit

import (
	"errors"
	"fmt"
	"sort"
	"strings"
	"unicode/utf8"

	"compactparcel/core/item"

	"github.com/Masterminds/semver/v3"
)

// Format is the kit format that this package writes; it reads this and all older ones.
const Format = 1

// Limits of the format. They are generous for templates and mean to stop bombs.
const (
	MaxListBytes  = 32 << 20 // of packing-list.json
	MaxFiles      = 200_000
	MaxTotalBytes = 16 << 30 // of all files, unpacked
	MaxRatio      = 1_100    // of unpacked to packed size, near what deflate can reach
	MaxNameBytes  = 240
	// Of what is said of a kit.
	MaxVersionBytes = 60
	MaxTextChars    = 20_000 // characters of a summary, and of a list of changes
)

// MediaType is the kit's media type.
const MediaType = "application/vnd.compact-parcel.kit+zip"

// PackingList is the kit's table of contents.
type PackingList struct {
	Format     int            `json:"format"`
	Kit        string         `json:"kit"`
	Version    string         `json:"version"`
	Title      string         `json:"title,omitempty"`
	Summary    string         `json:"summary,omitempty"`
	Changes    string         `json:"changes,omitempty"`
	Terms      Terms          `json:"terms"`
	Authors    []Author       `json:"authors,omitempty"`
	Engine     string         `json:"engine"`
	Needs      Needs          `json:"needs,omitzero"`
	Items      []Entry        `json:"items"`
	StyleOrder []item.Address `json:"style-order,omitempty"`
	Fillins    []Fillin       `json:"fillins,omitempty"`
	Proposes   map[string]any `json:"proposes,omitempty"`
	LeavesOut  []LeftOut      `json:"leaves-out,omitempty"`
	// Face is the item by which the kit is known at sight; zero where its makers chose none.
	Face      item.Address `json:"face,omitzero"`
	Generated []File       `json:"generated,omitempty"`
}

// CanBeFace tells whether a kit can be known at sight by an item of a kind.
func CanBeFace(k item.Kind) bool {
	return k == item.Page || k == item.Section || k == item.Part || k == item.Block
}

// Terms say what a kit may be used for.
type Terms struct {
	License string `json:"license,omitempty"` // an SPDX expression
	Resale  bool   `json:"resale"`
	Sites   *int   `json:"sites"` // nil: as many as you like
	Credit  string `json:"credit,omitempty"`
}

// Author is who made it.
type Author struct {
	Name string `json:"name"`
}

// Needs are what the items lean on that is not inside.
type Needs struct {
	Kits       map[string]string        `json:"kits,omitempty"`
	Components map[string]ComponentNeed `json:"components,omitempty"`
	Items      []ItemNeed               `json:"items,omitempty"`
}

// IsZero tells that nothing is needed.
func (n Needs) IsZero() bool { return len(n.Kits) == 0 && len(n.Components) == 0 && len(n.Items) == 0 }

// ComponentNeed is a component at a version.
type ComponentNeed struct {
	Range    string `json:"range"`
	Optional bool   `json:"optional,omitempty"`
}

// ItemNeed is an item or a page that the receiving site has or may lack.
type ItemNeed struct {
	Address  string `json:"address,omitempty"`
	Slug     string `json:"slug,omitempty"`
	Optional bool   `json:"optional,omitempty"`
	Why      string `json:"why"`
}

// Entry is one item of the kit.
type Entry struct {
	Kind             item.Kind   `json:"kind"`
	Key              string      `json:"key"`
	Path             string      `json:"path"`
	SHA256           item.Digest `json:"sha256"`
	NormalizedDigest item.Digest `json:"normalizedDigest"`
	Bytes            int64       `json:"bytes"`
	item.Meta
	Uses []item.Address `json:"uses,omitempty"`
}

// Address is the entry's kind and key.
func (e Entry) Address() item.Address { return item.Address{Kind: e.Kind, Key: e.Key} }

// Head gives the entry as an item's head.
func (e Entry) Head() item.Head {
	return item.Head{Address: e.Address(), Meta: e.Meta, Doc: e.SHA256, NormalizedDigest: e.NormalizedDigest,
		Bytes: e.Bytes}
}

// File is a generated file: content that can be made again from the items.
type File struct {
	Path   string      `json:"path"`
	SHA256 item.Digest `json:"sha256"`
	Bytes  int64       `json:"bytes"`
}

// LeftOut says what stayed behind and why.
type LeftOut struct {
	Address string `json:"address"`
	Why     string `json:"why"`
	// Script is a script in the head of the page at Address that is its site's own, by its address
	// or the digest of its text.
	Script string `json:"script,omitempty"`
	// Names are classes and ids of the page that the script names, with spaces between: without it
	// the page may look different. "*" stands for a script that was not read.
	Names string `json:"names,omitempty"`
}

// ErrNewer is a kit in a format that this version does not read.
var ErrNewer = errors.New("the kit is in a newer format")

// Canonical gives the packing list as canonical JSON, as it is written and signed.
func (l *PackingList) Canonical() ([]byte, error) { return CanonicalJSON(l) }

// Digest is the kit's identity: the SHA-256 of the canonical packing list without what
// was generated. Views and pictures can be made anew, by a newer engine otherwise, and
// the kit stays the same.
func (l *PackingList) Digest() (item.Digest, error) {
	own := *l
	own.Generated = nil
	b, err := own.Canonical()
	if err != nil {
		return "", err
	}
	return item.DigestOf(b), nil
}

// Settle sorts what has no order of its own and fills in the fixed fields, so
// that the same items give the same list.
func (l *PackingList) Settle() {
	l.Format = Format
	if l.Engine == "" {
		l.Engine = ">=1.0 <3"
	}
	sort.Slice(l.Items, func(i, j int) bool { return l.Items[i].Address().Less(l.Items[j].Address()) })
	for i := range l.Items {
		l.Items[i].Path = l.Items[i].Address().Path()
		u := l.Items[i].Uses
		sort.Slice(u, func(a, b int) bool { return u[a].Less(u[b]) })
	}
	sort.Slice(l.Fillins, func(i, j int) bool { return l.Fillins[i].Name < l.Fillins[j].Name })
	sort.Slice(l.LeavesOut, func(i, j int) bool { return l.LeavesOut[i].Address < l.LeavesOut[j].Address })
	sort.Slice(l.Generated, func(i, j int) bool { return l.Generated[i].Path < l.Generated[j].Path })
	sort.Slice(l.Needs.Items, func(i, j int) bool {
		a, b := l.Needs.Items[i], l.Needs.Items[j]
		return a.Address+a.Slug < b.Address+b.Slug
	})
	if l.Items == nil {
		l.Items = []Entry{}
	}
}

// CheckName holds a kit's name against the grammar.
func CheckName(name string) error {
	if len(name) > item.MaxKey {
		return fmt.Errorf("%.40q… cannot be a kit's name: it can have %d bytes", name, item.MaxKey)
	}
	if strings.Contains(name, "/") || strings.Contains(name, "..") {
		return fmt.Errorf("%q cannot be a kit's name: no / or .. in it", name)
	}
	if err := item.CheckKey(name); err != nil {
		return fmt.Errorf("%q cannot be a kit's name: %w", name, err)
	}
	return nil
}

// CheckVersion holds a version against Semantic Versioning 2.0.
func CheckVersion(v string) error {
	if len(v) > MaxVersionBytes {
		return fmt.Errorf("%.20q… is not a version: it can have %d bytes", v, MaxVersionBytes)
	}
	if _, err := semver.StrictNewVersion(v); err != nil {
		return fmt.Errorf("%q is not a version: write three numbers, as in 1.0.0 (Semantic Versioning 2.0)", v)
	}
	return nil
}

// CheckTexts holds what is said of a kit against its limits.
func CheckTexts(title, summary, changes string) error {
	var errs []error
	for _, x := range []struct {
		what, text string
		limit      int
	}{{"title", title, item.MaxTitle}, {"summary", summary, MaxTextChars},
		{"list of changes", changes, MaxTextChars}} {
		if n := utf8.RuneCountInString(x.text); n > x.limit {
			errs = append(errs, fmt.Errorf("its %s has %d characters; it can have %d", x.what, n, x.limit))
		}
	}
	return errors.Join(errs...)
}

// ParseName reads NAME@VERSION.
func ParseName(s string) (name, version string, err error) {
	name, version, ok := strings.Cut(s, "@")
	if !ok {
		return "", "", fmt.Errorf("%q is not a version", s)
	}
	if err := CheckName(name); err != nil {
		return "", "", err
	}
	return name, version, CheckVersion(version)
}

// Validate holds the list against the format. All that is wrong is in the error.
func (l *PackingList) Validate() error {
	var errs []error
	bad := func(format string, args ...any) { errs = append(errs, fmt.Errorf(format, args...)) }
	if l.Format > Format {
		return fmt.Errorf("%w: format %d; this version reads up to %d. Use a newer Compact Parcel", ErrNewer, l.Format,
			Format)
	}
	if l.Format < 1 {
		bad("there is no format %d", l.Format)
	}
	if err := CheckName(l.Kit); err != nil {
		errs = append(errs, err)
	}
	if err := CheckVersion(l.Version); err != nil {
		errs = append(errs, err)
	}
	if l.Engine != "" {
		if _, err := semver.NewConstraint(l.Engine); err != nil {
			bad("engine range %q is not readable", l.Engine)
		}
	}
	seen := map[item.Address]bool{}
	for _, e := range l.Items {
		a := e.Address()
		if _, err := item.ParseAddress(a.String()); err != nil {
			errs = append(errs, err)
			continue
		}
		if seen[a] {
			bad("%s is in the packing list twice", a)
		}
		seen[a] = true
		if e.Path != a.Path() {
			bad("%s is at %q; it belongs at %q", a, e.Path, a.Path())
		}
		if !e.SHA256.Valid() || !e.NormalizedDigest.Valid() || e.Bytes < 0 {
			bad("%s has no valid digests or size", a)
		}
		if e.Kind == item.Setting && item.SiteOnly(e.Key) {
			bad("%s is each site's own and cannot be in a kit", a)
		}
		if err := item.CheckHead(e.Head()); err != nil {
			errs = append(errs, err)
		}
		if e.Role != "" && !item.ValidRole(e.Role) {
			bad("%s has the role %q, which does not exist", a, e.Role)
		}
		if e.Placement != nil {
			for _, t := range append(append([]string{}, e.Placement.Where...), e.Placement.Unless...) {
				if _, ok := item.ParseTarget(t); !ok {
					bad("%s is placed on %q, which is not a target", a, t)
				}
			}
		}
	}
	for key := range l.Proposes {
		if a, err := item.ParseAddress(key); err == nil && a.Kind == item.Setting && item.SiteOnly(a.Key) {
			bad("it proposes %s, which is each site's own", a)
		}
	}
	if err := CheckTexts(l.Title, l.Summary, l.Changes); err != nil {
		errs = append(errs, err)
	}
	for _, f := range l.Fillins {
		known := false
		for _, t := range FillinTypes {
			known = known || t == f.Type
		}
		if !known {
			bad("fill-in %q has the type %q, which does not exist", f.Name, f.Type)
		}
	}
	return errors.Join(errs...)
}
