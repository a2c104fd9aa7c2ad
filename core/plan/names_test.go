package plan

import (
	"fmt"
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var names = []string{"main", "main-2", "hours", "top", "a"}

// randomSet draws a small collection whose items refer to each other; every text
// holds its own address and whose it is, so that contents can be told apart.
func randomSet(t *rapid.T, whose string) *item.Set {
	s := item.NewSet()
	var have []item.Address
	for _, kind := range []item.Kind{item.Menu, item.Section, item.Media, item.Part, item.Form} {
		for _, n := range names {
			if !rapid.Bool().Draw(t, whose+string(kind)+n) {
				continue
			}
			if kind == item.Media {
				n += ".png"
			}
			have = append(have, item.Address{Kind: kind, Key: n})
		}
	}
	for _, a := range have {
		var b strings.Builder
		fmt.Fprintf(&b, "%s %s", whose, a)
		switch a.Kind {
		case item.Media:
		case item.Menu, item.Form:
			b.Reset()
			fmt.Fprintf(&b, `{"title":"%s %s"}`, whose, a)
		default:
			for i := range rapid.IntRange(0, 3).Draw(t, "refs") {
				to := have[rapid.IntRange(0, len(have)-1).Draw(t, fmt.Sprint("to", i))]
				switch to.Kind {
				case item.Menu:
					fmt.Fprintf(&b, `<cp-menu name="%s"></cp-menu>`, to.Key)
				case item.Section:
					fmt.Fprintf(&b, `<cp-section name='%s'></cp-section>`, to.Key)
				case item.Form:
					fmt.Fprintf(&b, `<cp-form name=%s></cp-form>`, to.Key)
				case item.Media:
					fmt.Fprintf(&b, `<img src="/media/%s" srcset="/media/%s 2x"><p style="background:url(/media/%s)">`,
						to.Key, to.Key, to.Key)
				}
			}
		}
		text := []byte(b.String())
		meta := item.Meta{}
		if a.Kind == item.Part {
			meta = item.Meta{Role: item.Header, Placement: &item.Placement{Where: []string{}}}
		}
		s.Put(item.Head{Address: a, Meta: meta, NormalizedDigest: facts.Extract(a.Kind, "", text).NormalizedDigest},
			text)
	}
	return s
}

// targets lists what an item refers to, in the order of its source.
func targets(t require.TestingT, w closure.World, h item.Head, text []byte) []item.Address {
	var out []item.Address
	for _, u := range closure.Uses(w, h, facts.Extract(h.Address.Kind, "", text)) {
		out = append(out, u.To)
	}
	return out
}

// After a delivery in which every clash was decided "both", and what came before "again",
// each reference of the delivery resolves to the content that it had in the kit, and each
// reference of the site to the content it had before.
func TestRenamesAreTotal(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		site, parcel := randomSet(t, "site"), randomSet(t, "kit")
		list := &kit.PackingList{Kit: "k", Version: "1.0.0"}
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
		list.Settle()
		w := &world{Small: closure.NewSmall(site), set: site}
		p := Parcel{List: list, Collection: parcel}
		ask := Request{Decisions: map[string]Decided{}}
		for _, h := range parcel.Heads() {
			if _, there := site.Find(h.Address); there && copies(h.Address.Kind) &&
				rapid.Bool().Draw(t, "came "+h.Address.String()) {
				w.came = append(
					w.came,
					Origin{
						KitAddress:       h.Address,
						Item:             h.Address,
						Version:          "0.9.0",
						Copy:             1,
						NormalizedDigest: item.DigestOf([]byte("as it was")),
					},
				)
				ask.Decisions[h.Address.String()] = Decided{Decision: Again}
			}
		}
		first, err := Make(w, p, ask)
		require.NoError(t, err)
		for _, q := range first.Plan.Questions {
			require.Equal(t, AboutItem, q.Kind)
			ask.Decisions[q.Key] = Decided{Decision: Both}
		}
		got, err := Make(w, p, ask)
		require.NoError(t, err)
		require.Empty(t, got.Plan.Questions)

		after := map[item.Address]string{}
		for _, h := range site.Heads() {
			b, err := item.Read(site, h)
			require.NoError(t, err)
			after[h.Address] = string(b)
		}
		for _, x := range got.Writes {
			_, taken := after[x.Head.Address]
			assert.False(t, taken, "%s would be written over the site's", x.Head.Address)
		}
		for _, x := range got.Writes {
			text := string(x.Content)
			if x.Content == nil {
				h, _ := parcel.Find(x.KitAddress)
				b, err := item.Read(parcel, h)
				require.NoError(t, err)
				text = string(b)
			}
			after[x.Head.Address] = text
		}
		mark := func(a item.Address, whose string) string { return whose + " " + a.String() }
		for _, x := range got.Writes {
			if x.KitAddress.Kind == item.Media {
				continue
			}
			h, _ := parcel.Find(x.KitAddress)
			src, err := item.Read(parcel, h)
			require.NoError(t, err)
			was := targets(t, closure.NewSmall(parcel), h, src)
			now := targets(t, w, x.Head, []byte(after[x.Head.Address]))
			require.Len(t, now, len(was))
			for i := range was {
				assert.Contains(t, after[now[i]], mark(was[i], "kit"), "%s refers to %s, which was %s in the kit",
					x.Head.Address, now[i], was[i])
			}
		}
		for _, h := range site.Heads() {
			for _, to := range targets(t, w, h, []byte(after[h.Address])) {
				assert.Contains(t, after[to], mark(to, "site"))
			}
		}
	})
}
