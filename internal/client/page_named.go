package client

import (
	"context"
	"path"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/api"
)

// pageNamed gives the address on the site of a page that somebody names: as the site writes it, without its slashes,
// with its index file, or as the item that the page is. Where nothing answers to it, the service says so.
func (a *app) pageNamed(
	ctx context.Context, c *api.ClientWithResponses, site string, draft int64, said string,
) (string, error) {
	if isPageAddress(said) {
		return said, nil
	}
	list, err := result(c.ListItemsWithResponse(ctx, site, &api.ListItemsParams{Draft: some(draft)}))
	if err != nil {
		return "", err
	}
	slugs, keys := map[string]bool{}, map[string]string{"not-found": render.NotFoundSlug}
	for _, h := range list.Items {
		if h.Address.Kind == item.Part && h.Address.String() == said {
			return pageOfPart(h)
		}
		if h.Address.Kind != item.Page {
			continue
		}
		slugs[h.Meta.Slug], keys[h.Address.Key] = true, h.Meta.Slug
		if list.Home != nil && *list.Home == h.Address {
			keys[h.Address.Key] = "/"
		}
	}
	below := "/" + strings.Trim(strings.TrimSuffix(said, "index.html"), "/")
	written := strings.TrimSuffix(below, "/") + "/"
	for _, slug := range []string{written, below, below + ".html"} {
		if slugs[slug] {
			return slug, nil
		}
	}
	if slug, ok := keys[strings.TrimPrefix(said, string(item.Page)+"/")]; ok && !strings.HasPrefix(said, "/") {
		return slug, nil
	}
	return written, nil // a record's page, say, or nothing
}

// pageOfPart gives the address of the page that a part makes. Most parts stand around pages, and make none.
func pageOfPart(part api.Item) (string, error) {
	if part.Meta.Role == item.NotFound {
		return render.NotFoundSlug, nil
	}
	if part.Meta.Role == item.Search {
		return render.SearchSlug, nil
	}
	return "", usage("%[1]s is no page: it stands on pages. Name one of them, as /;"+
		" where it stands: cparcel site placement SITE %[1]s", part.Address)
}

// isPageAddress tells whether somebody wrote an address as sites have them: /contact/, or /contact.html.
func isPageAddress(said string) bool {
	file := path.Base(said)
	isFile := path.Ext(file) != "" && file != "index.html"
	return strings.HasPrefix(said, "/") && (strings.HasSuffix(said, "/") || isFile)
}
