package desk

import (
	"context"
	"slices"

	"compactparcel/core/font"
	"compactparcel/core/item"
)

// FontSource is where fonts are: the site itself, the library, or a kit.
type FontSource struct {
	From     string // empty: the site; else "library" or "kit NAME@VERSION"
	Families []font.Family
	// Chosen are the families that its tokens say, in pairs as for headings and text.
	Chosen []font.Choice
}

// Fonts lists the fonts of a site, then those that the library and the newest versions of kits have.
func (d *Desk) Fonts(ctx context.Context, p Person, site string, draft int64) ([]FontSource, error) {
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	out := []FontSource{{}}
	if out[0], err = fontsOf("", v); err != nil {
		return nil, explain("site "+site, err)
	}
	if _, err := d.library(ctx); err != nil {
		return nil, err
	}
	froms := []string{LibraryName}
	newest, err := d.newestKits(ctx)
	if err != nil {
		return nil, explain("the kits", err)
	}
	for name, version := range newest {
		froms = append(froms, fromKit+name+"@"+version)
	}
	slices.Sort(froms[1:])
	for _, from := range froms {
		src, err := d.source(ctx, p, from)
		if isNotFound(err) {
			continue // it was removed meanwhile
		}
		if err != nil {
			return nil, err
		}
		x, err := fontsOf(from, src.Items)
		if err != nil {
			return nil, explain(from, err)
		}
		if len(x.Families)+len(x.Chosen) > 0 {
			out = append(out, x)
		}
	}
	return out, nil
}

func fontsOf(from string, c item.Collection) (out FontSource, err error) {
	out.From = from
	if out.Families, err = font.Families(c); err != nil {
		return out, err
	}
	out.Chosen, err = font.Chosen(c)
	return out, err
}
