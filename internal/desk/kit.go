package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"sort"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/store"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Kit states.
const (
	Making = "making"
	Sealed = "sealed"
)

// MakingWords is what a person says of a kit in the making.
type MakingWords struct {
	Title   string                `json:"title"`
	Summary string                `json:"summary"`
	Changes string                `json:"changes"`
	Terms   kit.Terms             `json:"terms"`
	Authors []kit.Author          `json:"authors"`
	Picks   []capture.Pick        `json:"picks"`
	Fillins map[string]kit.Fillin `json:"fillins"` // by name, in place of what was proposed
}

// KitInfo is one version of a kit.
type KitInfo struct {
	store.KitVersion
	Name   string
	Words  MakingWords
	Packs  *kit.PackingList // sealed: as sealed; making: as it would be
	Taken  []*capture.Taken // of a kit in the making
	Check  []kit.Finding
	Reason map[item.Address][]string
}

// kitVersion gives a version's row.
func (d *Desk) kitVersion(ctx context.Context, name, version string) (*store.KitVersion, error) {
	var v store.KitVersion
	err := d.Store.DB(ctx).Joins("JOIN kits ON kits.id = kit_versions.kit_id").Where("kits.name = ? AND kit_versions.version = ?", name, version).Take(&v).Error
	return &v, explain("kit "+name+"@"+version, err)
}

// NewKit begins a kit, or a new version of one.
func (d *Desk) NewKit(ctx context.Context, p Person, name, version string, words MakingWords) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	if _, _, err := kit.ParseName(name + "@" + version); err != nil {
		return nil, &Problem{Type: BadInput, What: what, Says: err.Error(), WayOut: "write NAME@VERSION, as in hut-basics@0.1.0", Err: err}
	}
	if words.Picks == nil {
		words.Picks = []capture.Pick{}
	}
	text, _ := json.Marshal(words)
	err := d.Store.Tx(ctx, func(tx *gorm.DB) error {
		k := store.KitName{Name: name, CreatedAt: d.Now()}
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&k).Error; err != nil {
			return err
		}
		if err := tx.Where("name = ?", name).Take(&k).Error; err != nil {
			return err
		}
		v := store.KitVersion{KitID: k.ID, Version: version, State: Making, Making: string(text), Etag: 1, ByUser: p.Name, CreatedAt: d.Now()}
		if err := tx.Create(&v).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "new-kit", name+"@"+version, words.Title)
	})
	if store.IsDuplicate(err) {
		return nil, problem(Exists, what, "choose the next version number", "there is this version already")
	}
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Kit(ctx, p, name, version)
}

// change edits a kit in the making under its ETag; 0 asks for no match.
func (d *Desk) change(ctx context.Context, p Person, name, version string, etag int, edit func(*MakingWords) error) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	err := d.Store.Tx(ctx, func(tx *gorm.DB) error {
		var v store.KitVersion
		err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Joins("JOIN kits ON kits.id = kit_versions.kit_id").Where("kits.name = ? AND kit_versions.version = ?", name, version).Take(&v).Error
		if err != nil {
			return err
		}
		if v.State != Making {
			return problem(Refused, what, "begin the next version: cparcel kit new "+name+"@…", "it is sealed and cannot change")
		}
		if etag != 0 && etag != v.Etag {
			return problem(Stale, what, "look at it again, and make the change anew", "somebody has changed it since you read it")
		}
		var words MakingWords
		if err := json.Unmarshal([]byte(v.Making), &words); err != nil {
			return err
		}
		if err := edit(&words); err != nil {
			return err
		}
		text, _ := json.Marshal(words)
		return tx.Model(&store.KitVersion{}).Where("id = ?", v.ID).Updates(map[string]any{"making": string(text), "etag": v.Etag + 1}).Error
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Kit(ctx, p, name, version)
}

// KitPut puts items of a site or the library into a kit in the making.
func (d *Desk) KitPut(ctx context.Context, p Person, name, version string, picks []capture.Pick) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	for _, pick := range picks {
		v, err := d.Look(ctx, p, pick.From, 0)
		if err != nil {
			return nil, err
		}
		if _, ok := v.Find(pick.Address); !ok {
			return nil, problem(NotFound, what, "look at what there is: cparcel site show "+pick.From, "%s has no %s", pick.From, pick.Address)
		}
	}
	return d.change(ctx, p, name, version, 0, func(w *MakingWords) error {
		for _, pick := range picks {
			have := false
			for _, x := range w.Picks {
				have = have || x == pick
			}
			if !have {
				w.Picks = append(w.Picks, pick)
			}
		}
		return nil
	})
}

// KitLeave takes an item out of a kit in the making.
func (d *Desk) KitLeave(ctx context.Context, p Person, name, version string, a item.Address) (*KitInfo, error) {
	return d.change(ctx, p, name, version, 0, func(w *MakingWords) error {
		var keep []capture.Pick
		for _, x := range w.Picks {
			if x.Address != a {
				keep = append(keep, x)
			}
		}
		if len(keep) == len(w.Picks) {
			return problem(NotFound, "kit "+name+"@"+version, "look at what was put in: cparcel kit show", "%s was not put in", a)
		}
		w.Picks = keep
		if w.Picks == nil {
			w.Picks = []capture.Pick{}
		}
		return nil
	})
}

// KitWords changes what is said of a kit in the making. etag is the one the
// person saw. Picks are left as they are.
func (d *Desk) KitWords(ctx context.Context, p Person, name, version string, etag int, words MakingWords) (*KitInfo, error) {
	for n, f := range words.Fillins {
		known := false
		for _, t := range kit.FillinTypes {
			known = known || t == f.Type
		}
		if !known || strings.TrimSpace(f.Label) == "" {
			return nil, problem(BadInput, "fill-in "+n, "types: "+strings.Join(kit.FillinTypes, ", "), "it needs a label and a known type")
		}
	}
	return d.change(ctx, p, name, version, etag, func(w *MakingWords) error {
		picks := w.Picks
		*w = words
		w.Picks = picks
		return nil
	})
}

// Kit gives one version of a kit: a sealed one as it is, one in the making as it
// would be sealed now, with its check.
func (d *Desk) Kit(ctx context.Context, p Person, name, version string) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, err
	}
	info := &KitInfo{KitVersion: *v, Name: name, Check: []kit.Finding{}}
	if err := json.Unmarshal([]byte(v.Making), &info.Words); err != nil {
		return nil, explain(what, err)
	}
	if v.State == Sealed {
		info.Packs = &kit.PackingList{}
		return info, explain(what, json.Unmarshal([]byte(v.List), info.Packs))
	}
	set, err := d.assemble(ctx, p, info)
	if err != nil {
		return nil, explain(what, err)
	}
	found, err := kit.Check(info.Packs, set)
	if err != nil {
		return nil, explain(what, err)
	}
	info.Check = append(info.Check, found...)
	kit.SortFindings(info.Check)
	return info, nil
}

// assemble captures what was put in and makes the packing list as it would be.
func (d *Desk) assemble(ctx context.Context, p Person, info *KitInfo) (*item.Set, error) {
	w := info.Words
	list := &kit.PackingList{Kit: info.Name, Version: info.Version, Title: w.Title, Summary: w.Summary, Changes: w.Changes, Terms: w.Terms, Authors: w.Authors}
	set := item.NewSet()
	info.Reason = map[item.Address][]string{}
	from := map[string][]item.Address{}
	var sources []string
	for _, pick := range w.Picks {
		if from[pick.From] == nil {
			sources = append(sources, pick.From)
		}
		from[pick.From] = append(from[pick.From], pick.Address)
	}
	sort.Strings(sources)
	fills := map[string]bool{}
	needs := map[string]bool{}
	for _, s := range sources {
		v, err := d.Look(ctx, p, s, 0)
		if err != nil {
			return nil, err
		}
		t, err := capture.Take(v, capture.Order{Chosen: from[s]})
		if err != nil {
			info.Check = append(info.Check, kit.Finding{Stops: true, Says: s + ": " + err.Error(), WayOut: "take it out of the kit: it is gone from its source"})
			continue
		}
		info.Taken = append(info.Taken, t)
		info.Check = append(info.Check, t.Notes...)
		for _, h := range t.Items.Heads() {
			if old, ok := set.Find(h.Address); ok {
				if old.State() != h.State() {
					info.Check = append(info.Check, kit.Finding{Address: h.Address, Stops: true, Says: "two sources bring different items of this name", WayOut: "leave one of them, or rename it in its source"})
				}
				continue
			}
			b, err := item.Read(t.Items, h)
			if err != nil {
				return nil, err
			}
			set.Put(h, b)
			list.Items = append(list.Items, kit.Entry{Kind: h.Address.Kind, Key: h.Address.Key, SHA256: h.Doc, Sense: h.Sense, Bytes: h.Bytes, Meta: h.Meta, Uses: t.Uses[h.Address]})
		}
		for _, e := range t.Closure.Items {
			for _, r := range e.Reasons {
				info.Reason[e.Address] = append(info.Reason[e.Address], r.From.String()+" "+r.Why)
			}
		}
		for _, a := range t.StyleOrder {
			have := false
			for _, x := range list.StyleOrder {
				have = have || x == a
			}
			if !have {
				list.StyleOrder = append(list.StyleOrder, a)
			}
		}
		for _, n := range t.Needs {
			if !needs[n.Address+" "+n.Slug] {
				needs[n.Address+" "+n.Slug] = true
				list.Needs.Items = append(list.Needs.Items, n)
			}
		}
		for _, f := range t.Fillins {
			if !fills[f.Name] {
				fills[f.Name] = true
				if own, ok := w.Fillins[f.Name]; ok {
					own.Name = f.Name
					if own.Sample == "" {
						own.Sample = f.Sample
					}
					f = own
				}
				list.Fillins = append(list.Fillins, f)
			}
		}
		list.LeavesOut = append(list.LeavesOut, t.LeavesOut...)
	}
	list.Settle()
	info.Packs = list
	return set, nil
}

// Kits lists all versions of all kits, by name, the newest version first.
func (d *Desk) Kits(ctx context.Context, p Person) ([]KitInfo, error) {
	if err := p.may(Viewer, "kits"); err != nil {
		return nil, err
	}
	var rows []struct {
		store.KitVersion
		Name string
	}
	if err := d.Store.DB(ctx).Table("kit_versions").Select("kit_versions.*, kits.name AS name").Joins("JOIN kits ON kits.id = kit_versions.kit_id").Order("kits.name").Find(&rows).Error; err != nil {
		return nil, explain("kits", err)
	}
	out := make([]KitInfo, len(rows))
	for i, r := range rows {
		out[i] = KitInfo{KitVersion: r.KitVersion, Name: r.Name}
		if err := json.Unmarshal([]byte(r.Making), &out[i].Words); err != nil {
			return nil, explain("kits", err)
		}
		if r.State == Sealed {
			out[i].Packs = &kit.PackingList{}
			if err := json.Unmarshal([]byte(r.KitVersion.List), out[i].Packs); err != nil {
				return nil, explain("kits", err)
			}
		}
	}
	sort.SliceStable(out, func(i, j int) bool {
		if out[i].Name != out[j].Name {
			return out[i].Name < out[j].Name
		}
		return newer(out[i].Version, out[j].Version)
	})
	return out, nil
}

// KitSeal makes a version final. etag is the one the person checked, or 0.
func (d *Desk) KitSeal(ctx context.Context, p Person, name, version string, etag int) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	info, err := d.Kit(ctx, p, name, version)
	if err != nil {
		return nil, err
	}
	if info.State == Sealed {
		return nil, problem(Refused, what, "begin the next version", "it is sealed already")
	}
	if etag != 0 && etag != info.Etag {
		return nil, problem(Stale, what, "check it again", "somebody has changed it since you checked it")
	}
	var stops []kit.Finding
	for _, f := range info.Check {
		if f.Stops {
			stops = append(stops, f)
		}
	}
	if len(stops) > 0 {
		pr := problem(NotClean, what, "mend what the check names, then seal", "%d findings stop it: %s", len(stops), stops[0].Says)
		pr.Details = stops
		return nil, pr
	}
	scratch := *info
	scratch.Check = nil
	set, err := d.assemble(ctx, p, &scratch)
	if err != nil {
		return nil, explain(what, err)
	}
	list := scratch.Packs
	if a, b := digestOf(list), digestOf(info.Packs); a != b {
		return nil, problem(Stale, what, "check it again", "its sources changed while it was checked")
	}
	err = d.inFile(func(f *os.File) error {
		byDoc := map[item.Digest]item.Head{}
		for _, h := range set.Heads() {
			byDoc[h.Doc] = h
		}
		if _, err := kit.Write(f, list, func(_ string, doc item.Digest) (io.ReadCloser, error) { return set.Open(byDoc[doc]) }); err != nil {
			return err
		}
		return d.shelve(ctx, p, f, "seal", info.KitVersion.ID)
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Kit(ctx, p, name, version)
}

func digestOf(l *kit.PackingList) item.Digest {
	d, err := l.Digest()
	if err != nil {
		return ""
	}
	return d
}

// inFile runs f with a scratch file that is gone afterwards.
func (d *Desk) inFile(f func(*os.File) error) error {
	t, err := os.CreateTemp("", "cparcel-")
	if err != nil {
		return err
	}
	defer func() { t.Close(); os.Remove(t.Name()) }()
	return f(t)
}

// shelve checks a kit file whole and puts it on the shelf: its file, its items as
// a collection, its version as sealed. making is the version it seals, or 0 when
// the file came from elsewhere.
func (d *Desk) shelve(ctx context.Context, p Person, f *os.File, act string, making int64) error {
	size, err := f.Seek(0, io.SeekEnd)
	if err != nil {
		return err
	}
	k, err := kit.Open(f, size)
	if err != nil {
		return err
	}
	if err := k.Verify(); err != nil {
		return err
	}
	what := k.List.Kit + "@" + k.List.Version
	if making == 0 {
		if v, err := d.kitVersion(ctx, k.List.Kit, k.List.Version); err == nil {
			if v.State == Sealed && v.Digest == k.Digest {
				return nil // the very same kit is on the shelf
			}
			if v.State == Sealed {
				return problem(Refused, "kit "+what, "ask who made it for a new version number", "it was rebuilt: the shelf has the same version with other contents (%s, the file has %s)", v.Digest.Short(), k.Digest.Short())
			}
			return problem(Exists, "kit "+what, "seal or finish that one first", "this version is being made here")
		}
	}
	changes, err := d.keep(ctx, k)
	if err != nil {
		return err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	file, n, err := d.Store.PutBlob(ctx, f, d.Now())
	if err != nil {
		return err
	}
	text, err := k.List.Canonical()
	if err != nil {
		return err
	}
	now := d.Now()
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if making == 0 {
			name := store.KitName{Name: k.List.Kit, CreatedAt: now}
			if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&name).Error; err != nil {
				return err
			}
			if err := tx.Where("name = ?", k.List.Kit).Take(&name).Error; err != nil {
				return err
			}
			words, _ := json.Marshal(MakingWords{Title: k.List.Title, Summary: k.List.Summary, Changes: k.List.Changes, Terms: k.List.Terms, Authors: k.List.Authors, Picks: []capture.Pick{}})
			v := store.KitVersion{KitID: name.ID, Version: k.List.Version, State: Making, Making: string(words), Etag: 1, ByUser: p.Name, CreatedAt: now}
			if err := tx.Create(&v).Error; err != nil {
				return err
			}
			making = v.ID
		}
		c, err := d.Store.NewCollection(tx, store.Kit, what, k.List.Title, now)
		if err != nil {
			return err
		}
		if _, err := d.Store.Write(tx, c, changes, store.Note{By: p.Name, Act: act, Says: what, At: now}); err != nil {
			return err
		}
		r := tx.Model(&store.KitVersion{}).Where("id = ? AND state = ?", making, Making).Updates(map[string]any{"state": Sealed, "collection_id": c.ID, "list": string(text),
			"digest": k.Digest, "file": file, "file_bytes": n, "sealed_at": now, "etag": gorm.Expr("etag + 1")})
		if r.Error == nil && r.RowsAffected == 0 {
			return problem(Refused, "kit "+what, "look at it again", "somebody sealed it meanwhile")
		}
		if r.Error != nil {
			return r.Error
		}
		return d.audit(tx, p, act, what, string(k.Digest))
	})
	if store.IsDuplicate(err) {
		return problem(Exists, "kit "+what, "look at the list of kits", "it came in twice at the same time; one of them is there")
	}
	return err
}

// MaxKitFile is the largest kit file that is taken over the network.
const MaxKitFile = 4 << 30

// KitUpload takes a kit file in, after checking it whole.
func (d *Desk) KitUpload(ctx context.Context, p Person, r io.Reader) (*KitInfo, error) {
	what := "the uploaded kit"
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	var list kit.PackingList
	err := d.inFile(func(f *os.File) error {
		n, err := io.Copy(f, io.LimitReader(r, MaxKitFile+1))
		if err != nil {
			return problem(BadInput, what, "send it again; nothing was kept", "it broke off after %d bytes", n)
		}
		if n > MaxKitFile {
			return problem(TooLarge, what, "make it lighter", "a kit file has at most %d GB", MaxKitFile>>30)
		}
		k, err := kit.Open(f, n)
		if err != nil {
			if !errors.Is(err, kit.ErrNotKit) && !errors.Is(err, kit.ErrNewer) && !isRefused(err) {
				return &Problem{Type: Refused, What: what, Says: err.Error(), WayOut: "get the file again from who made it; nothing of it was kept", Err: err}
			}
			return err
		}
		list = k.List
		return d.shelve(ctx, p, f, "upload", 0)
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Kit(ctx, p, list.Kit, list.Version)
}

func isRefused(err error) bool { var r *kit.RefusedError; return errors.As(err, &r) }

// KitFile opens a sealed kit's file.
func (d *Desk) KitFile(ctx context.Context, p Person, name, version string) (*os.File, *store.KitVersion, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, nil, err
	}
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, nil, err
	}
	if v.State != Sealed {
		return nil, nil, problem(Refused, what, "seal it first: cparcel kit seal "+name+"@"+version, "it is not sealed yet")
	}
	f, err := d.Store.Blobs.File(v.File)
	return f, v, explain(what, err)
}

// KitItem gives one item of a sealed kit.
func (d *Desk) KitItem(ctx context.Context, p Person, name, version string, a item.Address) (*ItemInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, err
	}
	if v.State != Sealed {
		return nil, problem(Refused, what, "look at its source", "it is not sealed yet")
	}
	_, view, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, explain(what, err)
	}
	return itemOf(view, what, a)
}

// parcelView gives a sealed kit as planning wants it.
func (d *Desk) parcelView(ctx context.Context, v *store.KitVersion) (*kit.PackingList, *store.View, error) {
	list := &kit.PackingList{}
	if err := json.NewDecoder(strings.NewReader(v.List)).Decode(list); err != nil {
		return nil, nil, fmt.Errorf("reading the packing list: %w", err)
	}
	var c store.Collection
	if err := d.Store.DB(ctx).Where("id = ?", v.CollectionID).Take(&c).Error; err != nil {
		return nil, nil, err
	}
	view, err := d.Store.Live(ctx, &c)
	return list, view, err
}
