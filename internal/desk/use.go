package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/plan"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// Use puts one piece into a site in one act: what it leans on comes along, as in a delivery of that
// piece alone, into a draft, as one step.
type Use struct {
	Site  string
	Draft int64 // 0 makes a new one
	// From is "library", a sealed kit as "kit NAME@VERSION", or a site's name.
	From    string
	Piece   item.Address
	Element string // of the piece, by a CSS selector: only that comes, as the section As
	As      item.Address
	// Page and Beside name an element of a page of the site, and Place where by it the piece comes to
	// stand. Of a page that is used, Page is its address; a part stands where the plan says.
	Page, Beside string
	Place        edit.Place
	Title        string // of a page
	// OwnLook lets it keep the values that its source has for tokens of the site.
	OwnLook bool
	// Pages are several pages that come at once, in the place of Piece.
	Pages   []UsedPage
	Answers plan.Request
	Dry     bool // write nothing, and tell what it would come to
}

// UsedPage is one of several pages that come at once.
type UsedPage struct {
	Piece       item.Address
	Path, Title string // empty: as it has them
}

// Used is what using a piece did, or would do.
type Used struct {
	EditsDone
	Plan *plan.Plan
	// Piece is what the piece is on the site, and OwnLook the look of its own that it wears; empty: the site's.
	Piece   item.Address
	OwnLook string
	// Filled tells that the page had a place for the piece already, in which it stands now.
	Filled bool
}

// Use plans a piece into a draft and lays it there. What is open is a problem of its own, with the
// questions, and nothing is written.
func (d *Desk) Use(ctx context.Context, p Person, u Use) (*Used, error) {
	what := u.what() + " into " + u.Site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, u.Site)
	if err != nil {
		return nil, err
	}
	if err := u.check(what); err != nil {
		return nil, err
	}
	if len(u.Pages) > 0 {
		u.Piece = u.Pages[0].Piece
	}
	if _, err := d.library(ctx); err != nil { // it is looked at under the site's lock
		return nil, err
	}
	if u.Dry {
		view, err := d.Look(ctx, p, u.Site, u.Draft)
		if err != nil {
			return nil, err
		}
		parcel, err := d.pieceParcel(ctx, p, c, view, &u)
		if err != nil {
			return nil, explain(what, err)
		}
		used, _, err := d.used(ctx, view, parcel, u)
		if err != nil {
			return nil, explain(what, err)
		}
		return &used.Used, nil
	}
	var out *Used
	for try := 0; ; try++ {
		var w *workedUse
		if try < editTries {
			if w, err = d.workOutUse(ctx, p, c, u); err != nil {
				return nil, explain(what, err)
			}
		}
		if out, err = d.layUse(ctx, p, c, u, w); !errors.Is(err, errMovedOn) {
			return outcome(out, explain(what, err))
		}
	}
}

// workedUse is what using a piece comes to in a draft as it was.
type workedUse struct {
	moment
	used    *laidPiece
	changes []store.Change
}

// workOutUse works out what using a piece comes to, without a lock; nil where that can only be said under it.
func (d *Desk) workOutUse(ctx context.Context, p Person, c *store.Collection, u Use) (*workedUse, error) {
	on, err := d.unlocked(ctx, c, u.Draft)
	if on == nil || err != nil {
		return nil, err
	}
	w, err := d.useOn(ctx, p, on, u)
	if err != nil && d.isPast(ctx, momentOf(on, u.Draft)) {
		return nil, nil
	}
	return w, err
}

// useOn works out what using a piece comes to in a state.
func (d *Desk) useOn(ctx context.Context, p Person, on *editing, u Use) (*workedUse, error) {
	w := &workedUse{moment: momentOf(on, u.Draft)}
	parcel, err := d.pieceParcel(ctx, p, on.site, on.view, &u)
	if err != nil {
		return nil, err
	}
	w.used, w.changes, err = d.used(ctx, on.view, parcel, u)
	return w, err
}

// layUse lays a piece into a draft, as it was worked out, or by working it out under its lock. Its error is errMovedOn
// where the draft is no longer as it was worked out for.
func (d *Desk) layUse(ctx context.Context, p Person, c *store.Collection, u Use, w *workedUse) (*Used, error) {
	var out *Used
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		on, err := d.editing(tx, c.ID, p, Edit{Site: u.Site, Draft: u.Draft})
		if err != nil {
			return err
		}
		if on.again {
			out = &Used{EditsDone: EditsDone{Draft: on.draft, Says: []string{"done before"}}, Piece: u.Piece}
			return nil
		}
		now := w
		switch {
		case now != nil && !now.fits(on):
			return errMovedOn
		case now == nil:
			if now, err = d.useOn(tx.Context(), p, on, u); err != nil {
				return err
			}
		}
		used := now.used.Used
		out = &used
		if out.Draft = on.draft; len(now.changes) == 0 {
			return nil
		}
		if err := tx.PutDraftOrigins(on.draft, now.used.origins); err != nil {
			return err
		}
		out.Step, err = on.lay(steps.Step{Kind: steps.Do, By: p.Name}, strings.Join(out.Says, "; "), d.Now(),
			now.changes)
		return err
	})
	return out, err
}

// check tells why a piece cannot be used so; nil when it can.
func (u Use) check(what string) error {
	for i, p := range u.Pages {
		if p.Piece.Kind != item.Page {
			return problem(BadInput, what, Form("page/walks"), "%s is no page", p.Piece)
		}
		for _, o := range u.Pages[:i] {
			if o.Piece == p.Piece || o.Path == p.Path && p.Path != "" {
				return problem(BadInput, what, To(CheckOptions), "%s comes twice", p.Piece)
			}
		}
	}
	switch {
	case len(u.Pages) > 0 && (!u.Piece.IsZero() || u.Page != "" || u.Element != ""):
		return problem(BadInput, what, To(CheckOptions), "several pages come by themselves, beside no other piece")
	case len(u.Pages) > 0:
		return nil
	case u.Piece.IsZero():
		return problem(BadInput, what, Form("section/opening-hours"), "say which piece")
	case u.Piece.Kind == item.Page && u.Element == "" && u.Page == "":
		return problem(BadInput, what, Form("--page /walks/"), "say the address that the page gets")
	case u.Beside != "" && u.Page == "":
		return problem(BadInput, what, Form("--page /contact/ --after \"main h1\""),
			"say which page the element is on")
	case u.Element != "" && u.As.Kind != item.Section && u.As.Kind != item.Block:
		return problem(BadInput, what, Form("section/hours"), "say which section or block the element becomes")
	}
	return nil
}

// what names what is used, for messages.
func (u Use) what() string {
	switch len(u.Pages) {
	case 0:
		return fmt.Sprintf("%s of %s", u.Piece, u.From)
	case 1:
		return fmt.Sprintf("%s of %s", u.Pages[0].Piece, u.From)
	}
	return fmt.Sprintf("%d pages of %s", len(u.Pages), u.From)
}

// pieces are what comes because it was asked for.
func (u Use) pieces() []item.Address {
	if len(u.Pages) == 0 {
		return []item.Address{u.Piece}
	}
	out := make([]item.Address, len(u.Pages))
	for i, p := range u.Pages {
		out[i] = p.Piece
	}
	return out
}

// pieceParcel gives what is planned for a piece: its kit, or what a library item or a site's leans on.
func (d *Desk) pieceParcel(
	ctx context.Context, p Person, c *store.Collection, on *store.View, u *Use,
) (plan.Parcel, error) {
	what := u.what()
	if of, ok := strings.CutPrefix(u.From, fromKit); ok && u.Element == "" {
		name, version, err := kit.ParseName(of)
		if err != nil {
			return plan.Parcel{}, problem(BadInput, of, Form("hut-basics@0.1.0"), "%v", err)
		}
		v, err := d.sealed(ctx, p, name, version)
		if err != nil {
			return plan.Parcel{}, err
		}
		if _, err := d.checkTrust(ctx, c, v, what); err != nil {
			return plan.Parcel{}, err
		}
		list, view, err := d.parcelView(ctx, v)
		if err != nil {
			return plan.Parcel{}, err
		}
		for _, a := range u.pieces() {
			if _, there := view.Find(a); !there {
				return plan.Parcel{}, problem(NotFound, what, To(ShowKit, "kit", of), "%s has no %s", of, a)
			}
		}
		u.Answers.Only = u.pieces()
		return d.exactSheets(ctx, plan.Parcel{List: list, Digest: v.Digest, Collection: view, Blends: d.blends,
			Shelf: &shelf{d: d, ctx: ctx, kit: list.Kit, version: list.Version, site: c}}, on, of, u.pieces())
	}
	src, err := d.source(ctx, p, u.From)
	if err != nil {
		return plan.Parcel{}, err
	}
	var picks []making.Pick
	for _, a := range u.pieces() {
		if _, there := src.Items.Find(a); !there {
			return plan.Parcel{}, problem(NotFound, what, To(ShowItems, "site", u.From), "%s has no %s", u.From, a)
		}
		picks = append(picks, making.Pick{From: u.From, Address: a, Element: u.Element, As: u.As})
	}
	made, err := making.Assemble("piece", "0.0.0", making.Draft{Title: u.Piece.String(), Picks: picks},
		func(string) (*making.Source, error) { return src, nil })
	if err != nil {
		return plan.Parcel{}, err
	}
	for _, f := range made.Found {
		if f.Stops {
			return plan.Parcel{}, problem(Refused, what, To(NameElement), "%s", f.Message)
		}
	}
	u.Piece = picks[0].Named()
	made.List.Kit, made.List.Version = originName(u.From), "0.0.0"
	if v, ok := src.Items.(*store.View); ok {
		made.List.Version = pieceVersion(v.Rev)
	}
	var items item.Collection = made.Items
	if u.Element == "" {
		if items, err = sheetsAsHere(made.Items, src.Items, on, originName(u.From)); err != nil {
			return plan.Parcel{}, err
		}
	}
	if err := d.keepItems(ctx, items); err != nil {
		return plan.Parcel{}, err
	}
	digest, err := made.List.Digest()
	return plan.Parcel{List: made.List, Digest: digest, Collection: items, Blends: d.blends}, err
}

// sheetsAsHere gives the items of a piece with those stylesheets whole that the site has just as the piece's source
// does: the piece looks there as it does at home, and no second sheet comes.
func sheetsAsHere(piece, source item.Collection, on *store.View, of string) (item.Collection, error) {
	origins, err := on.OriginsOf()
	if err != nil {
		return nil, err
	}
	here := sheetsHere(source, on, origins, of)
	over := item.NewOver(piece)
	for _, h := range over.OfKind(item.Stylesheet) {
		if whole, ok := here[h.Address]; ok && h.Meta.Cut {
			over.Lay(whole, source, whole)
		}
	}
	return over, nil
}

// sheetsHere are the stylesheets of a source that a site has just so under their names, but for those that came from
// this source under another.
func sheetsHere(
	source item.Collection, on *store.View, origins map[string]store.Origin, of string,
) map[item.Address]item.Head {
	out := map[item.Address]item.Head{}
	for _, h := range source.Heads() {
		if h.Address.Kind != item.Stylesheet || h.Meta.Cut {
			continue
		}
		if here, ok := on.Find(h.Address); ok && here.NormalizedDigest == h.NormalizedDigest {
			out[h.Address] = h
		}
	}
	for id, o := range origins {
		if h, there := on.ByID(id); there && o.Kit == of && h.Address != o.Address() {
			delete(out, o.Address())
		}
	}
	return out
}

// keepItems keeps the contents of items that are only in memory; what nothing names later is swept.
func (d *Desk) keepItems(ctx context.Context, c item.Collection) error {
	for _, h := range c.Heads() {
		if isFile(h) {
			r, err := c.Open(h)
			if err != nil {
				return &item.ReadError{Address: h.Address, Err: err}
			}
			_, _, err = d.Store.PutBlob(ctx, r, d.Now())
			r.Close()
			if err != nil {
				return err
			}
			continue
		}
		b, err := item.Read(c, h)
		if err != nil {
			return err
		}
		if _, err := d.keepOne(ctx, h, b); err != nil {
			return err
		}
	}
	return nil
}

// originName is the name under which origins are kept of what came from the library or a site.
func originName(from string) string {
	if from == LibraryName {
		return "library:" + LibraryName
	}
	return "site:" + strings.ReplaceAll(from, " ", ":")
}

// pieceVersion is the version that a piece of the library or a site has: the revision it came from.
func pieceVersion(rev int64) string { return fmt.Sprintf("0.0.%d", rev) }

// laidPiece is a used piece with what is written beside its items.
type laidPiece struct {
	Used
	origins []store.Origin
}

// used works out what using a piece changes in a state.
func (d *Desk) used(ctx context.Context, view *store.View, parcel plan.Parcel, u Use) (*laidPiece, []store.Change,
	error) {
	ask := u.Answers
	switch {
	case len(u.Pages) > 0:
		ask.Pages = map[string]plan.PageRequest{}
		for _, p := range u.Pages {
			ask.Pages[p.Piece.String()] = plan.PageRequest{Title: p.Title, Slug: p.Path}
		}
	case u.Piece.Kind == item.Page:
		ask.Pages = map[string]plan.PageRequest{u.Piece.String(): {Title: u.Title, Slug: u.Page}}
	}
	result, err := plan.Make(view, parcel, ask)
	if err != nil {
		return nil, nil, err
	}
	if n := len(result.Plan.Questions); n > 0 {
		pr := problem(Waits, u.what(), To(AnswerHere), "%s", areOpen(n))
		pr.Details = result.Plan.Questions
		return nil, nil, pr
	}
	changes, err := d.changesOf(ctx, view, result)
	if err != nil {
		return nil, nil, err
	}
	after := view.Laid(changes)
	if err := d.checkUntouched(view, after, result.Plan.Touched); err != nil {
		return nil, nil, err
	}
	out := &laidPiece{Used: Used{Plan: &result.Plan, Piece: moved(result.Moved, u.Piece)}}
	out.Says = []string{"used " + u.what()}
	if u.Page != "" && u.Piece.Kind != item.Page && u.Piece.Kind != item.Part {
		placed, err := d.placed(ctx, view, after, out, u)
		if err != nil {
			return nil, nil, err
		}
		changes = append(changes, placed...)
	}
	if u.OwnLook {
		worn, err := d.ownLook(ctx, view.Laid(changes), parcel, out, u)
		if err != nil {
			return nil, nil, err
		}
		changes = append(changes, worn...)
	}
	return out, changes, d.told(view, out, result, parcel, changes)
}

// placed shows a piece that the site has by now where it was asked for. The place is the one that was seen before
// the piece came: what stood in a section's place until then may be no more. A page that waits for exactly this
// section has a place for it already, and gets no second one.
func (d *Desk) placed(ctx context.Context, was, after *store.View, out *laidPiece, u Use) ([]store.Change, error) {
	waits, err := edit.Waits(was, u.Page, out.Piece)
	if err != nil {
		return nil, err
	}
	if waits {
		out.Says = append(out.Says, fmt.Sprintf("%s fills the place that %s had for it", out.Piece, u.Page))
		out.Filled = true
		return nil, nil
	}
	op := edit.Operation{Op: edit.Show, Page: u.Page, Element: u.Beside, Place: u.Place, Item: out.Piece}
	if op.Element == "" {
		op.Element, op.Place, err = edit.EndOf(was, u.Page)
	}
	if op.Place == "" {
		op.Place = edit.After
	}
	now, same := "", false
	if err == nil {
		now, same, err = edit.Follow(was, after, u.Page, op.Element)
	}
	var refused *edit.RefusedError
	if errors.As(err, &refused) {
		return nil, problem(Refused, u.Page+" "+op.Element, To(CheckOptions), "%s", refused.Why).seen()
	}
	if err != nil {
		return nil, err
	}
	if op.Element = now; !same {
		op.Place = edit.After // what is around it stays
	}
	return d.operated(ctx, after, out, []edit.Operation{op})
}

// operated does operations on what is laid so far.
func (d *Desk) operated(ctx context.Context, after *store.View, out *laidPiece, list []edit.Operation) ([]store.Change,
	error) {
	a, err := edit.Apply(after, list)
	var refused *edit.RefusedError
	if errors.As(err, &refused) {
		op := list[refused.N-1]
		return nil, problem(Refused, op.Page+" "+op.Element, To(CheckOptions), "%s", refused.Why).seen()
	}
	if err != nil {
		return nil, err
	}
	out.Says = append(out.Says, a.Says...)
	var changes []store.Change
	for _, ch := range a.Changes {
		if ch.Head.ID == "" {
			ch.Head.ID = store.NewID()
		}
		h, err := d.keepOne(ctx, ch.Head, ch.Content)
		if err != nil {
			return nil, err
		}
		changes = append(changes, store.Change{Head: h})
	}
	return changes, nil
}

// told fills in which items change, which pages, and where the items came from.
func (d *Desk) told(
	view *store.View, out *laidPiece, result *plan.Result, parcel plan.Parcel, changes []store.Change,
) error {
	final := view.Laid(changes)
	var heads []item.Head
	seen := map[item.Address]bool{}
	for _, ch := range changes {
		h, stays := final.Find(ch.Head.Address)
		if seen[ch.Head.Address] {
			continue
		}
		seen[ch.Head.Address] = true
		if !stays {
			h = ch.Head
		}
		out.Items = append(out.Items, EditedItem{Head: h, Gone: !stays})
		heads = append(heads, h)
	}
	for _, o := range originsOf(result, parcel.List.Kit, parcel.List.Version) {
		if h, there := final.Find(o.At); there {
			o.ItemID = h.ID
			out.origins = append(out.origins, o.Origin)
		}
	}
	var err error
	out.Touched, err = plan.PagesTouched(final, heads)
	return err
}

// areOpen tells how many questions are open.
func areOpen(n int) string {
	if n == 1 {
		return "one question is open"
	}
	return fmt.Sprintf("%d questions are open", n)
}
