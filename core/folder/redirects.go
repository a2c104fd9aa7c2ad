package folder

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
)

// RedirectsFile lists, for servers that read it, the addresses that pages left: FROM TO 301 on each
// line.
const RedirectsFile = "_redirects"

// redirects writes a small page at each address that a page left, unless something else is published
// there, and the list of them.
func (p *publisher) redirects() error {
	list, err := p.r.Redirects()
	if err != nil {
		return err
	}
	var text strings.Builder
	for _, x := range list {
		file := item.SlugFile(x.From)
		if _, taken := p.release.Files[file]; taken || item.CheckSlug(x.From) != nil {
			continue
		}
		if err := p.text(file, item.Address{}, p.r.RedirectPage(x)); err != nil {
			return err
		}
		base := strings.TrimSuffix(p.o.Base, "/")
		fmt.Fprintf(&text, "%s%s %s%s 301\n", base, x.From, base, x.To)
	}
	if text.Len() == 0 || p.o.Links == FileLinks {
		return nil
	}
	return p.text(RedirectsFile, item.Address{}, []byte(text.String()))
}
