package plan

import (
	"fmt"
	"regexp"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var linkTo = regexp.MustCompile(`<a href="([^"]*)">([^<]*)</a>`)

// Whatever is decided about pages that want the same addresses: afterwards no two pages of
// the site have one, the site's own stay where they were, and every link of a page that
// came in leads where it led in the kit.
func TestNoTwoPagesHaveOneAddress(t *testing.T) {
	slugs := []string{"/", "/a/", "/a-2/", "/b.html", "/a/b/", "/home/"}
	rapid.Check(t, func(t *rapid.T) {
		site, parcel := item.NewSet(), item.NewSet()
		keys := []string{"home", "a", "b", "a-2"}
		fill := func(set *item.Set, whose string) map[string]string {
			out := map[string]string{}
			free := rapid.Permutation(slugs).Draw(t, whose+" slugs")
			for i, k := range keys[:rapid.IntRange(1, len(keys)).Draw(t, whose+" pages")] {
				out[free[i]] = k
				set.Put(item.Head{Address: item.Address{Kind: item.Page, Key: k}, Meta: item.Meta{Slug: free[i]}}, nil)
			}
			for slug, k := range out {
				text := "<!doctype html><html><body>" + whose + k
				for to := range out {
					text += fmt.Sprintf(`<a href="%s">%s</a>`, to, out[to])
				}
				body := []byte(text + "</body></html>")
				set.Put(
					item.Head{
						Address:          item.Address{Kind: item.Page, Key: k},
						Meta:             item.Meta{Slug: slug},
						NormalizedDigest: facts.Extract(item.Page, "", body).NormalizedDigest,
					},
					body,
				)
			}
			return out
		}
		before := fill(site, "site")
		fill(parcel, "kit")
		list := &kit.PackingList{Kit: "pages", Version: "1.0.0"}
		for _, h := range parcel.Heads() {
			list.Items = append(
				list.Items,
				kit.Entry{
					Kind:             h.Address.Kind,
					Key:              h.Address.Key,
					SHA256:           h.Doc,
					NormalizedDigest: h.NormalizedDigest,
					Bytes:            h.Bytes,
					Meta:             h.Meta,
				},
			)
		}
		ask := Request{Decisions: map[string]Decided{}}
		first, err := Make(&world{Small: closure.NewSmall(site), set: site}, Parcel{List: list, Collection: parcel},
			ask)
		require.NoError(t, err)
		for _, r := range first.Plan.Rows {
			if len(r.Choices) > 0 && r.Decision == "" {
				ask.Decisions[r.Address.String()] = Decided{
					Decision: rapid.SampledFrom([]Decision{Both, Keep, Take, Skip}).Draw(t, "decision "+r.Address.Key),
				}
			}
		}
		got, err := Make(&world{Small: closure.NewSmall(site), set: site}, Parcel{List: list, Collection: parcel}, ask)
		require.NoError(t, err)
		after := item.NewOver(site)
		for _, x := range got.Writes {
			after.Set(x.Head, textOf(t, parcel, x))
		}
		at := map[string]item.Address{}
		for _, h := range after.Heads() {
			other, twice := at[h.Meta.Slug]
			require.False(t, twice, "%s and %s are both at %s", other, h.Address, h.Meta.Slug)
			at[h.Meta.Slug] = h.Address
		}
		for slug, k := range before {
			assert.Equal(t, k, at[slug].Key, "the site's page stays at %s, whatever its content", slug)
		}
		rows := map[string]Row{}
		for _, r := range got.Plan.Rows {
			rows[r.Address.Key] = r
		}
		for _, x := range got.Writes {
			for _, link := range linkTo.FindAllStringSubmatch(string(textOf(t, parcel, x)), -1) {
				row := rows[link[2]]
				if row.Decision == Skip {
					continue
				}
				assert.Equal(t, row.Becomes, at[link[1]], "%s links to what is %s in the kit", x.Head.Address, link[2])
			}
		}
	})
}
