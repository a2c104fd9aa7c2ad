package desk

import (
	"context"
	"encoding/json"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/store"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

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
		v, err := d.Store.FindKit(tx.Clauses(clause.Locking{Strength: "UPDATE"}), name, version)
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
