package folder

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io/fs"
	"sort"
	"strings"

	"compactparcel/core/item"
)

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
	return r.items(m, files)
}

// InOurLayout tells whether a folder without a manifest lies in our own layout all the
// same: it has one of the folders that nobody else names so.
func InOurLayout(fsys fs.FS) bool {
	if _, err := fs.Stat(fsys, ManifestName); err == nil {
		return false // then that says so
	}
	for _, k := range []item.Kind{item.Part, item.Section, item.RecordType} {
		i, _ := k.Info()
		files, err := fs.Glob(fsys, i.Folder+"/*"+i.Ext)
		if err == nil && len(files) > 0 {
			return true
		}
	}
	return false
}

// ReadItems reads a folder in our own layout whose manifest is at hand: for what is
// kept beside another table of contents. Files under the prefixes are passed over.
func ReadItems(fsys fs.FS, m Manifest, beside ...string) (*item.Set, *Report, error) {
	r := newReader(fsys, nil)
	r.report.Layout = LayoutOurs
	all, err := r.walk()
	if err != nil {
		return nil, nil, err
	}
	var files []string
	for _, p := range all {
		other := false
		for _, b := range beside {
			other = other || p == b || strings.HasPrefix(p, b+"/")
		}
		if !other {
			files = append(files, p)
		}
	}
	return r.set, r.report, r.items(m, files)
}

// items reads the items of our own layout.
func (r *reader) items(m Manifest, files []string) error {
	metas := map[item.Address]item.Meta{}
	for _, e := range m.Items {
		a, err := item.ParseAddress(string(e.Kind) + "/" + e.Key)
		if err != nil {
			return fmt.Errorf("%s: %w", ManifestName, err)
		}
		metas[a] = e.Meta
	}
	have := map[item.Address]bool{}
	var media, texts []string
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
			r.left(p, "it is in no folder of the layout, or its name is not a key")
			continue
		}
		meta := metas[a]
		if a.Kind == item.Media && !isRead(a.Key) {
			media, have[a] = append(media, p), true
			continue
		}
		if a.Kind == item.Page && meta.Slug == "" {
			meta.Slug = "/" + a.Key + "/"
			if a.Key == "home" || a.Key == "index" {
				meta.Slug = "/"
			}
			metas[a], have[a] = meta, false
		}
		texts = append(texts, p)
	}
	if err := r.texts(texts, metas, have); err != nil {
		return err
	}
	if err := r.files(
		media,
		func(p string) (item.Address, item.Meta) { a, _ := item.AddressOfPath(p); return a, metas[a] },
	); err != nil {
		return err
	}
	r.circles()
	for _, e := range m.Items {
		if a := (item.Address{Kind: e.Kind, Key: e.Key}); !have[a] {
			return fmt.Errorf("%s names %s, and %s is missing", ManifestName, a, a.Path())
		}
	}
	if len(m.StyleOrder) > 0 {
		b, _ := json.Marshal(m.StyleOrder)
		if err := r.put(item.StyleOrder, item.Meta{}, b); err != nil {
			return err
		}
	}
	return r.oneSlug()
}

// texts reads the texts of our own layout, several at once.
func (r *reader) texts(paths []string, metas map[item.Address]item.Meta, have map[item.Address]bool) error {
	return inOrder(paths, func(p string) (fileTaken, error) {
		b, why := r.bytes(p, MaxTextBytes)
		if why != "" {
			return fileTaken{why: why}, nil
		}
		a, _ := item.AddressOfPath(p)
		t, err := r.text(a, metas[a], b, nil)
		if info, stat := fs.Stat(r.fsys, p); stat == nil && t.open == nil { // it stays where it is
			t.open, t.content = r.again(p, info), nil
		}
		return fileTaken{t, ""}, err
	}, func(p string, t fileTaken) error {
		if t.why != "" {
			r.left(p, t.why)
			return nil
		}
		r.add(t.kept)
		r.report.Files[p] = File{t.head.Doc, t.head.Address}
		have[t.head.Address] = true
		return nil
	})
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
		if err := r.put(item.Address{Kind: item.Setting, Key: k}, item.Meta{Portable: full.Portable},
			value); err != nil {
			return err
		}
	}
	return nil
}
