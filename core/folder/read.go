// Package folder keeps a collection as plain files: it reads a folder in our own
// layout or a static site as somebody left it, and writes a site out for
// visitors.
package folder

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"path"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// Limits of what is adopted from one folder.
const (
	MaxFiles     = 200_000
	MaxTextBytes = 16 << 20  // of one HTML, CSS or JSON file
	MaxFileBytes = 512 << 20 // of one file
)

// ManifestName and SettingsName are the layout's own files.
const (
	ManifestName = "site.json"
	SettingsName = "settings.json"
)

// Manifest is site.json: what a site kept as a folder says of itself.
type Manifest struct {
	Format int    `json:"format"`
	Site   string `json:"site"`
	Items  []struct {
		Kind item.Kind `json:"kind"`
		Key  string    `json:"key"`
		item.Meta
	} `json:"items"`
	StyleOrder []item.Address `json:"style-order"`
}

// Left is a file that was not taken, and why.
type Left struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

// Report says what reading a folder took and what it left.
type Report struct {
	Layout string         `json:"layout"` // "ours" or "static site"
	Taken  []item.Address `json:"taken"`
	Left   []Left         `json:"left"`
	// Notes are findings about what was taken, for people.
	Notes []Left `json:"notes"`
}

// Read reads a folder. A folder with a site.json is in our own layout; any other
// is taken as a static site. Links out of the folder and links of the file
// system are left, never followed.
func Read(fsys fs.FS) (*item.Set, *Report, error) {
	r := &reader{fsys: fsys, set: item.NewSet(), report: &Report{Taken: []item.Address{}, Left: []Left{}, Notes: []Left{}}}
	files, err := r.walk()
	if err != nil {
		return nil, nil, err
	}
	if len(files) == 0 {
		return nil, nil, fmt.Errorf("there are no files in this folder: name a folder with a %s or with HTML pages in it", ManifestName)
	}
	if _, err := fs.Stat(fsys, ManifestName); err == nil {
		r.report.Layout = "ours"
		err = r.ours(files)
		return r.set, r.report, err
	}
	r.report.Layout = "static site"
	if err := r.static(files); err != nil {
		return nil, nil, err
	}
	return r.set, r.report, nil
}

type reader struct {
	fsys   fs.FS
	set    *item.Set
	report *Report
}

func (r *reader) left(p, why string) { r.report.Left = append(r.report.Left, Left{p, why}) }

func (r *reader) walk() ([]string, error) {
	var files []string
	err := fs.WalkDir(r.fsys, ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return fmt.Errorf("reading %s: %w", p, err)
		}
		base := path.Base(p)
		switch {
		case d.IsDir():
			if p != "." && strings.HasPrefix(base, ".") {
				r.left(p+"/", "a hidden folder")
				return fs.SkipDir
			}
			return nil
		case d.Type()&fs.ModeSymlink != 0:
			r.left(p, "a symbolic link; links are not followed")
		case !d.Type().IsRegular():
			r.left(p, "no regular file")
		case strings.HasPrefix(base, "."):
			r.left(p, "a hidden file")
		default:
			files = append(files, p)
		}
		if len(files) > MaxFiles {
			return fmt.Errorf("the folder holds more than %d files; adopt it in parts", MaxFiles)
		}
		return nil
	})
	sort.Strings(files)
	return files, err
}

// load reads one file within its limit; ok is false when it was left.
func (r *reader) load(p string, limit int64) ([]byte, bool) {
	f, err := r.fsys.Open(p)
	if err != nil {
		r.left(p, "it cannot be opened: "+err.Error())
		return nil, false
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, limit+1))
	if err != nil {
		r.left(p, "it cannot be read: "+err.Error())
		return nil, false
	}
	if int64(len(b)) > limit {
		r.left(p, fmt.Sprintf("it is larger than %d MB", limit>>20))
		return nil, false
	}
	return b, true
}

func (r *reader) put(a item.Address, m item.Meta, b []byte) {
	if a.Kind == item.Media && m.MediaType == "" {
		m.MediaType = MediaTypeOf(a.Key)
	}
	f := facts.Of(a.Kind, m.Context, b)
	if f.Broken != "" {
		r.report.Notes = append(r.report.Notes, Left{a.String(), f.Broken})
	}
	if f.Opaque {
		r.report.Notes = append(r.report.Notes, Left{a.String(), "nested too deeply to be read; kept whole"})
	}
	if a.Kind == item.Page && m.Title == "" {
		m.Title = f.Title
	}
	r.set.Put(item.Head{Address: a, Meta: m, Sense: f.Sense}, b)
	r.report.Taken = append(r.report.Taken, a)
}

var mediaTypes = map[string]string{".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".png": "image/png", ".webp": "image/webp", ".svg": "image/svg+xml",
	".gif": "image/gif", ".avif": "image/avif", ".ico": "image/x-icon", ".mp4": "video/mp4", ".webm": "video/webm", ".woff": "font/woff", ".woff2": "font/woff2",
	".ttf": "font/ttf", ".pdf": "application/pdf", ".js": "text/javascript", ".mjs": "text/javascript", ".json": "application/json", ".webmanifest": "application/manifest+json",
	".txt": "text/plain; charset=utf-8", ".xml": "application/xml"}

// MediaTypeOf names a file's media type by its ending, the same on every machine.
func MediaTypeOf(name string) string {
	ext := strings.ToLower(path.Ext(name))
	if t, ok := mediaTypes[ext]; ok {
		return t
	}
	if t := mime.TypeByExtension(ext); t != "" {
		return t
	}
	return "application/octet-stream"
}

// ours reads our own layout.
func (r *reader) ours(files []string) error {
	b, ok := r.load(ManifestName, MaxTextBytes)
	if !ok {
		return fmt.Errorf("%s cannot be read", ManifestName)
	}
	var m Manifest
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&m); err != nil {
		return fmt.Errorf("%s is not in order: %w", ManifestName, err)
	}
	if m.Format > 1 {
		return fmt.Errorf("%s is in format %d; this version reads format 1", ManifestName, m.Format)
	}
	metas := map[item.Address]item.Meta{}
	for _, e := range m.Items {
		a, err := item.ParseAddress(string(e.Kind) + "/" + e.Key)
		if err != nil {
			return fmt.Errorf("%s: %w", ManifestName, err)
		}
		metas[a] = e.Meta
	}
	have := map[item.Address]bool{}
	for _, p := range files {
		switch p {
		case ManifestName:
			continue
		case SettingsName:
			if err := r.settings(); err != nil {
				return err
			}
			continue
		}
		a, ok := item.AddressOfPath(p)
		if !ok {
			r.left(p, "it lies in no folder of the layout, or its name is no key")
			continue
		}
		limit := int64(MaxTextBytes)
		if a.Kind == item.Media {
			limit = MaxFileBytes
		}
		b, ok := r.load(p, limit)
		if !ok {
			continue
		}
		meta := metas[a]
		if a.Kind == item.Page && meta.Slug == "" {
			meta.Slug = "/" + a.Key + "/"
			if a.Key == "home" || a.Key == "index" {
				meta.Slug = "/"
			}
		}
		have[a] = true
		r.put(a, meta, b)
	}
	for a := range metas {
		if !have[a] {
			return fmt.Errorf("%s names %s, and %s is missing", ManifestName, a, a.Path())
		}
	}
	if len(m.StyleOrder) > 0 {
		b, _ := json.Marshal(m.StyleOrder)
		r.put(item.StyleOrder, item.Meta{}, b)
	}
	return r.oneSlug()
}

// oneSlug makes sure that no two pages claim one address.
func (r *reader) oneSlug() error {
	seen := map[string]item.Address{}
	for _, h := range r.set.Heads() {
		if h.Address.Kind != item.Page {
			continue
		}
		if other, dup := seen[h.Meta.Slug]; dup {
			return fmt.Errorf("%s and %s both claim the address %s", other, h.Address, h.Meta.Slug)
		}
		seen[h.Meta.Slug] = h.Address
	}
	return nil
}

// settings reads settings.json: each member a setting, its value as it stands or
// as {"value": …, "portable": true}.
func (r *reader) settings() error {
	b, ok := r.load(SettingsName, MaxTextBytes)
	if !ok {
		return nil
	}
	var m map[string]json.RawMessage
	if err := json.Unmarshal(b, &m); err != nil {
		return fmt.Errorf("%s is not in order: %w", SettingsName, err)
	}
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		if err := item.CheckKey(k); err != nil {
			return fmt.Errorf("%s: %w", SettingsName, err)
		}
		var full struct {
			Value    json.RawMessage `json:"value"`
			Portable *bool           `json:"portable"`
		}
		value := m[k]
		if json.Unmarshal(value, &full) == nil && full.Value != nil {
			value = full.Value
		}
		r.put(item.Address{Kind: item.Setting, Key: k}, item.Meta{Portable: full.Portable}, value)
	}
	return nil
}

// static takes a folder of HTML, CSS and other files as somebody left it.
func (r *reader) static(files []string) error {
	moved := map[string]item.Address{} // file → item
	taken := map[item.Address]string{}
	slugs := map[string]string{} // page file → slug
	claim := func(p string, a item.Address) item.Address {
		base := a
		for n := 2; taken[a] != ""; n++ {
			ext := path.Ext(base.Key)
			if base.Kind != item.Media {
				ext = ""
			}
			a.Key = fmt.Sprintf("%s-%d%s", strings.TrimSuffix(base.Key, ext), n, ext)
		}
		taken[a], moved[p] = p, a
		return a
	}
	pages := 0
	for _, p := range files {
		key := item.MakeKey(strings.TrimSuffix(p, path.Ext(p)))
		switch strings.ToLower(path.Ext(p)) {
		case ".html", ".htm", ".xhtml":
			pages++
			if strings.EqualFold(p, "404.html") {
				claim(p, item.Address{Kind: item.Part, Key: "not-found"})
				continue
			}
			slug := "/" + strings.TrimSuffix(p, path.Ext(p)) + "/"
			if b := strings.TrimSuffix(path.Base(p), path.Ext(p)); strings.EqualFold(b, "index") {
				slug = "/" + path.Dir(p) + "/"
				key = item.MakeKey(path.Dir(p))
				if path.Dir(p) == "." {
					slug, key = "/", "home"
				}
			}
			claim(p, item.Address{Kind: item.Page, Key: key})
			slugs[p] = slug
		case ".css":
			claim(p, item.Address{Kind: item.Stylesheet, Key: key})
		default:
			claim(p, item.Address{Kind: item.Media, Key: item.MakeKey(p)})
		}
	}
	if pages == 0 {
		return fmt.Errorf("there is no HTML page in this folder, and no %s", ManifestName)
	}
	for _, p := range files {
		a := moved[p]
		limit := int64(MaxTextBytes)
		if a.Kind == item.Media {
			limit = MaxFileBytes
		}
		b, ok := r.load(p, limit)
		if !ok {
			continue
		}
		if a.Kind.IsMarkup() {
			var was string
			if b, was = toUTF8(b); was != "" {
				r.report.Notes = append(r.report.Notes, Left{p, "written in " + was + "; kept as UTF-8"})
			}
		}
		meta := item.Meta{Slug: slugs[p]}
		if a.Kind == item.Part {
			meta = item.Meta{Role: item.NotFound}
		}
		base := "/" + p
		if a.Kind.IsMarkup() {
			base = baseOf(b, base)
		}
		out, err := facts.Replace(a.Kind, "", b, func(ref facts.Ref) (string, bool) {
			if ref.Space != facts.Address && ref.Space != facts.Loose {
				return "", false
			}
			target := ref.Name
			if ref.Space == facts.Loose {
				target = path.Join(path.Dir(base), ref.Name)
				if strings.HasSuffix(ref.Name, "/") {
					target += "/"
				}
			}
			for _, try := range []string{target, strings.TrimSuffix(target, "/") + "/index.html", strings.TrimSuffix(target, "/") + ".html"} {
				file := strings.TrimPrefix(path.Clean(try), "/")
				if to, ok := moved[file]; ok {
					if s, isPage := slugs[file]; isPage {
						return s, true
					}
					return "/" + to.Path(), true
				}
			}
			r.report.Notes = append(r.report.Notes, Left{p, fmt.Sprintf("line %d: %s leads to %s, which is not in the folder", ref.Line, ref.Where, target)})
			return target, true
		})
		if err != nil {
			return fmt.Errorf("reading %s: %w", p, err)
		}
		r.put(a, meta, out)
	}
	return r.oneSlug()
}

// baseOf gives the address against which a page's relative links are read: its
// own, or that of its <base>.
func baseOf(src []byte, own string) string {
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
