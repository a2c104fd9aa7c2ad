package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"compactparcel/core/archive"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/memory"
	"compactparcel/internal/store"
)

// maxPass bounds a pass phrase, in bytes.
const maxPass = 1000

// Archive writes a site as it is live into one file and lends it to use. Without a pass phrase what is the
// site's own is left out.
func (d *Desk) Archive(ctx context.Context, p Person, site, pass string,
	use func(*os.File, archive.About) error) error {
	what := "site " + site
	if err := p.may(Keeper, what); err != nil {
		return err
	}
	if len(pass) > maxPass {
		return problem(BadInput, what, To(Shorten), "a pass phrase can have at most %d bytes", maxPass)
	}
	v, err := d.Look(ctx, p, site, 0)
	if err != nil {
		return err
	}
	defer memory.Work()()
	about := archive.About{Site: site, Title: v.Collection.Title, Revision: v.Rev, At: d.Now()}
	return d.inFile(func(f *os.File) error {
		if err := archive.Write(f, item.Until(v, ctx.Err), about, pass, d.Scratch.With); err != nil {
			return explain(what, err)
		}
		if _, err := f.Seek(0, 0); err != nil {
			return explain(what, err)
		}
		return use(f, about)
	})
}

// Restored is a site that an archive was brought back as.
type Restored struct {
	Site  *SiteInfo
	About archive.About
	// LeftOut lists what was the site's own and did not come.
	LeftOut []item.Address
}

// Restore makes a site of an archive. leave leaves out what is sealed; else the pass phrase opens it.
func (d *Desk) Restore(
	ctx context.Context, p Person, name string, f *os.File, size int64, pass string, leave bool,
) (*Restored, error) {
	what := "site " + name
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if err := d.checkSiteName(ctx, name); err != nil {
		return nil, err
	}
	defer memory.Work()()
	a, err := archive.Read(f, size, pass, leave)
	switch {
	case errors.Is(err, archive.ErrPass), errors.Is(err, archive.ErrNeedsPass):
		return nil, problem(Refused, what, To(GivePass), "%v", err)
	case errors.Is(err, archive.ErrNotArchive), errors.Is(err, archive.ErrNewer), errors.Is(err, kit.ErrNotKit):
		return nil, problem(Refused, what, To(GetFileAgain), "%v", err)
	case err != nil:
		return nil, explain(what, err)
	}
	changes, err := d.keep(ctx, a.Kit)
	if err != nil {
		return nil, explain(what, err)
	}
	out := &Restored{About: a.About}
	own := map[item.Address]json.RawMessage{}
	for at, b := range a.Own {
		own[at] = b
	}
	if len(a.Kit.List.StyleOrder) > 0 {
		if own[item.StyleOrder], err = json.Marshal(a.Kit.List.StyleOrder); err != nil {
			return nil, err
		}
	}
	for _, at := range a.About.Own {
		if _, there := own[at]; !there && at.Key != "title" {
			out.LeftOut = append(out.LeftOut, at)
		}
	}
	changes = slices.DeleteFunc(changes, func(ch store.Change) bool { // of what is in both, the site's own counts
		_, too := own[ch.Head.Address]
		return too
	})
	for at, b := range own {
		if at.Kind != item.Setting || at.Key == "title" {
			continue
		}
		h, err := d.keepOne(ctx, item.Head{ID: store.NewID(), Address: at}, b)
		if err != nil {
			return nil, explain(what, err)
		}
		changes = append(changes, store.Change{Head: h})
	}
	title := strings.TrimSpace(a.About.Title)
	if title == "" {
		title = name
	}
	says := fmt.Sprintf("brought back from an archive of %s, as it was on %s", a.About.Site,
		a.About.At.UTC().Format("2006-01-02"))
	out.Site, err = d.makeSite(ctx, p, name, title, says, func(*store.Tx) ([]store.Change, []store.Origin, error) {
		return changes, nil, nil
	})
	return out, err
}
