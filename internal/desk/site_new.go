package desk

import (
	"context"
	"embed"
	"encoding/json"
	"errors"
	"io/fs"
	"strings"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/store"
)

// The folder of which an empty site is made: a page, a menu, a header and a footer, and a look.
//
//go:embed empty
var empty embed.FS

// checkSiteName tells why a site cannot be called so; nil when it can.
func (d *Desk) checkSiteName(ctx context.Context, name string) error {
	what := "site " + name
	if item.CheckKey(name) != nil || strings.ContainsAny(name, "/._") || strings.Contains(name, "--") ||
		len(name) > MaxSiteName || name == LibraryName {
		return problem(BadInput, what, Form("larch-saddle: up to 32 lower-case letters, digits and single dashes"),
			"this cannot be a site's name")
	}
	_, err := d.Store.Read(ctx).Collections().ByName(store.Site, name)
	switch {
	case err == nil:
		return problem(Exists, what, To(ChooseOtherName), "there is already a site of this name")
	case errors.Is(err, store.ErrNotFound):
		return nil
	}
	return explain(what, err)
}

// NewSite is a site to be made: empty, with a page, a menu and a look of its own; as a copy of another,
// with where its items came from; or of a kit, with the kits that it needs.
type NewSite struct {
	Name, Title string
	// CopyOf is the site that it is a copy of. What is that one's alone stays there: where it is
	// served, whether its scripts run.
	CopyOf string
	// Kit and Version are the kit that it is made of, and Answers what is said of its delivery.
	Kit, Version string
	Answers      plan.Request
}

// NewSite makes a site.
func (d *Desk) NewSite(ctx context.Context, p Person, in NewSite) (*SiteInfo, error) {
	what := "site " + in.Name
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	name, title := in.Name, strings.TrimSpace(in.Title)
	if title == "" {
		title = name
	}
	if err := d.checkSiteName(ctx, name); err != nil {
		return nil, err
	}
	switch {
	case in.CopyOf != "" && in.Kit != "":
		return nil, problem(BadInput, what, To(CheckOptions), "it is a copy of a site or made of a kit, not both")
	case in.CopyOf != "":
		return d.copySite(ctx, p, name, title, in.CopyOf)
	case in.Kit != "":
		return d.siteOfKit(ctx, p, in, title)
	}
	sub, err := fs.Sub(empty, "empty")
	if err != nil {
		return nil, err
	}
	set, _, err := folder.Read(sub)
	if err != nil {
		return nil, err
	}
	return d.makeSite(ctx, p, name, title, "made empty", func(tx *store.Tx) (changes []store.Change, _ []store.Origin,
		err error) {
		for _, h := range set.Heads() {
			b, err := item.Read(set, h)
			if err != nil {
				return nil, nil, err
			}
			h.ID = store.NewID()
			if h, err = d.keepOne(tx.Context(), h, b); err != nil {
				return nil, nil, err
			}
			changes = append(changes, store.Change{Head: h})
		}
		return changes, nil, nil
	})
}

// ownOnly are settings that a copy of a site does not get: what is said of the site itself.
var ownOnly = map[string]bool{"address": true, "scripts": true, "title": true}

func (d *Desk) copySite(ctx context.Context, p Person, name, title, from string) (*SiteInfo, error) {
	what := "site " + name
	v, err := d.Look(ctx, p, from, 0)
	if err != nil {
		return nil, err
	}
	if v.Collection.Kind != store.Site {
		return nil, problem(BadInput, what, To(CheckOptions), "%s is no site", from)
	}
	origins, err := v.OriginsOf()
	if err != nil {
		return nil, explain(what, err)
	}
	return d.makeSite(ctx, p, name, title, "made as a copy of "+from,
		func(*store.Tx) (changes []store.Change, rows []store.Origin, err error) {
			for _, h := range v.Heads() {
				if h.Address.Kind == item.Setting && ownOnly[h.Address.Key] {
					continue
				}
				o, came := origins[h.ID]
				h.ID = store.NewID()
				changes = append(changes, store.Change{Head: h})
				if came {
					o.ID, o.ItemID, o.DeliveryID = 0, h.ID, 0
					rows = append(rows, o)
				}
			}
			return changes, rows, nil
		})
}

// makeSite makes a site of what is given, and its title.
func (d *Desk) makeSite(
	ctx context.Context, p Person, name, title, says string,
	of func(tx *store.Tx) ([]store.Change, []store.Origin, error),
) (*SiteInfo, error) {
	what := "site " + name
	var c *store.Collection
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		var err error
		if c, err = tx.Collections().Create(store.Site, name, title, d.Now()); err != nil {
			return err
		}
		changes, origins, err := of(tx)
		if err != nil {
			return err
		}
		text, err := json.Marshal(title)
		if err != nil {
			return err
		}
		own, err := d.keepOne(tx.Context(),
			item.Head{ID: store.NewID(), Address: item.Address{Kind: item.Setting, Key: "title"}}, text)
		if err != nil {
			return err
		}
		note := store.Note{By: p.Name, Act: "adopt", Message: says, At: d.Now()}
		if _, err := tx.Write(c, append(changes, store.Change{Head: own}), note); err != nil {
			return err
		}
		for i := range origins {
			origins[i].CollectionID = c.ID
		}
		if err := tx.Origins().Put(origins); err != nil {
			return err
		}
		return d.audit(tx, p, "adopt", name, says)
	})
	if store.IsDuplicate(err) {
		return nil, problem(Exists, what, To(ChooseOtherName), "there is already a site of this name")
	}
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*SiteInfo, error) { return d.siteInfo(ctx, c) })
}
