package desk

import (
	"context"
	"fmt"
	"strings"
	"unicode/utf8"

	"compactparcel/internal/store"
)

// OpenDraft makes a draft of a name; without one it continues the last that the person works in, or
// makes one. Those of deliveries and those that go live at a time are nobody's to continue.
func (d *Desk) OpenDraft(ctx context.Context, p Person, site, name string) (dr *store.Draft, err error) {
	what := "a draft of " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if name = strings.TrimSpace(name); utf8.RuneCountInString(name) > 100 || name != "" && isNumber(name) {
		return nil, problem(BadInput, what, Form("spring: up to 100 characters, and no number"),
			"this cannot be a name")
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		dr = nil // a try before this one made none
		locked, err := tx.Collections().Lock(c.ID)
		if err != nil {
			return err
		}
		if subject, again := store.Repeated(ctx); again {
			var id int64
			if _, err := fmt.Sscanf(subject, "draft %d", &id); err != nil {
				return err
			}
			dr, err = d.Store.FindDraft(tx.Context(), id)
			return err
		}
		open, err := tx.Collections().OpenDrafts(locked.ID)
		if err != nil {
			return err
		}
		for i, o := range open {
			switch {
			case name != "" && o.Name == name:
				return problem(Exists, what, To(ChooseOtherName), "draft %d has this name already", o.ID)
			case name != "" || o.ByUser != p.Name || o.LiveAt != nil || dr != nil && dr.ID > o.ID:
				continue
			}
			_, err := tx.Deliveries().OfDraft(o.ID)
			if isNotFound(err) {
				dr = &open[i]
			} else if err != nil {
				return err
			}
		}
		if dr == nil {
			if name == "" {
				name = "edits by " + p.Name
			}
			if dr, err = tx.NewDraft(locked, name, p.Name, d.Now()); err != nil {
				return err
			}
		}
		return tx.NoteSubject(fmt.Sprintf("draft %d", dr.ID))
	})
	return outcome(dr, explain(what, err))
}
