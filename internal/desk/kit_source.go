package desk

import (
	"context"
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/internal/store"
)

// Sources of a kit in the making that are no site: a sealed kit of the shelf, and what
// was read from a file that is no kit.
const (
	fromKit  = "kit "
	fromFile = "file "
)

// source opens what picks come from.
func (d *Desk) source(ctx context.Context, p Person, name string) (*making.Source, error) {
	if of, ok := strings.CutPrefix(name, fromKit); ok {
		return d.kitSource(ctx, of)
	}
	if of, ok := strings.CutPrefix(name, fromFile); ok {
		c, err := d.Store.Read(ctx).Collections().ByName(store.Loose, of)
		if err != nil {
			return nil, explain("the file that "+of+" came from", err)
		}
		v, err := d.Store.Live(ctx, c)
		return &making.Source{Items: v}, explain(name, err)
	}
	v, err := d.Look(ctx, p, name, 0)
	if err != nil {
		return nil, err
	}
	src := &making.Source{Items: v, Site: name != LibraryName, Origins: map[item.Address]string{}, Stop: ctx.Err}
	scripts, err := textSetting(v, item.Scripts.Key)
	if err != nil {
		return nil, explain(name, err)
	}
	if d.RunPage != nil && src.Site && scripts == "approved" { // elsewhere none runs
		src.Ran = func(slug string) ([][]byte, error) {
			docs, waiting, err := d.RunPage(ctx, name, slug)
			src.Waiting += waiting
			return docs, err
		}
	}
	return src, d.came(ctx, v, src)
}

// came says which items were delivered by a kit whose terms go with them.
func (d *Desk) came(ctx context.Context, v *store.View, src *making.Source) error {
	origins, err := v.OriginsOf()
	if err != nil {
		return explain("where items came from", err)
	}
	terms := map[string]string{}
	for id, o := range origins {
		if strings.Contains(o.Kit, ":") || o.Kit == "" {
			continue
		}
		of := o.Kit + "@" + o.Version
		if _, known := terms[of]; !known {
			terms[of] = ""
			kv, err := d.kitVersion(ctx, o.Kit, o.Version)
			if err != nil && !isNotFound(err) {
				return err
			}
			if err == nil && kv.State == Sealed {
				list, _, err := d.parcelView(ctx, kv)
				if err != nil {
					return err
				}
				terms[of] = saysTerms(list.Terms)
			}
		}
		if h, ok := v.ByID(id); ok {
			src.Origins[h.Address] = fmt.Sprintf("the kit %s (%s)", of, terms[of])
		}
	}
	return nil
}

// kitSource opens a sealed kit to pick from.
func (d *Desk) kitSource(ctx context.Context, of string) (*making.Source, error) {
	name, version, err := kit.ParseName(of)
	if err != nil {
		return nil, problem(BadInput, of, Form("kit hut-basics@0.1.0"), "%v", err)
	}
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, err
	}
	if v.State != Sealed {
		return nil, problem(Refused, "kit "+of, To(SealKit, "kit", of), "it is not sealed yet")
	}
	list, view, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, explain("kit "+of, err)
	}
	src := &making.Source{Items: list.AsSite(view), Origins: map[item.Address]string{}, Stop: ctx.Err}
	for _, h := range view.Heads() {
		src.Origins[h.Address] = fmt.Sprintf("the kit %s (%s)", of, saysTerms(list.Terms))
	}
	return src, nil
}

// saysTerms tells terms in a few words.
func saysTerms(t kit.Terms) string {
	says := t.License
	if says == "" {
		says = "no licence named"
	}
	if t.Credit != "" {
		says += ", credit to " + t.Credit
	}
	if t.Sites != nil {
		says += fmt.Sprintf(", for %d sites", *t.Sites)
	}
	return says
}
