package outside

import (
	"path"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// inSources writes a part of an edited file as sources have it: its references by the addresses of
// the site, resolved through the release's list.
func (c *carrier) inSources(p *page, at span.Span) ([]byte, error) {
	if !p.resolved {
		p.resolved = true
		p.refs = p.references(func(ref facts.Ref) (string, bool) { return c.resolve(p, ref) })
		sort.Slice(p.refs, func(i, j int) bool { return p.refs[i].Start < p.refs[j].Start })
	}
	var edits []span.Edit
	first := sort.Search(len(p.refs), func(i int) bool { return p.refs[i].Start >= at.Start })
	for _, e := range p.refs[first:] {
		if e.End > at.End {
			break
		}
		edits = append(edits, span.Edit{Span: e.Span.Shift(-at.Start), New: e.New})
	}
	return span.Apply(at.Of(p.text), edits)
}

// references are the edits that write a file's references otherwise.
func (p *page) references(to func(facts.Ref) (string, bool)) []span.Edit {
	switch {
	case p.slug != "":
		return facts.RelinkEdits(item.Page, "", p.text, to)
	case strings.HasSuffix(p.path, ".css"):
		return facts.Extract(item.Stylesheet, "", p.text).Edits(to)
	}
	return nil
}

// resolve gives the address within the site for a reference as the file writes it.
func (c *carrier) resolve(p *page, ref facts.Ref) (string, bool) {
	target := path.Clean(ref.Name)
	switch ref.Space {
	case facts.Address:
		if base := c.Release.Base; base != "/" {
			rest, under := strings.CutPrefix(ref.Name, base)
			if !under {
				return "", false // beside the site
			}
			target = "/" + strings.TrimPrefix(path.Clean("/"+rest), "/")
		}
	case facts.Loose:
		target = path.Join("/", path.Dir(p.now), ref.Name)
	default:
		return "", false
	}
	if (strings.HasSuffix(ref.Name, "/") || ref.Name == "." || ref.Name == "..") && target != "/" {
		target += "/"
	}
	file, ok := c.fileAt(target)
	if !ok {
		return target, true
	}
	if slug, isPage := c.slugs[file]; isPage {
		if slug == render.NotFoundSlug {
			return target, true
		}
		return slug, true
	}
	if a := c.Release.Files[file].Item; strings.HasPrefix(file, "_cp/") && !a.IsZero() && a.Kind != item.Tokens {
		return "/" + a.Path(), true
	}
	return target, true
}

// fileAt gives the file of the release that answers an address, as servers of folders do.
func (c *carrier) fileAt(target string) (string, bool) {
	bare := strings.TrimSuffix(target, "/")
	for _, try := range []string{target, bare + "/index.html"} {
		file := strings.TrimPrefix(try, "/")
		if _, ok := c.Release.Files[file]; ok {
			return file, true
		}
	}
	return "", false
}
