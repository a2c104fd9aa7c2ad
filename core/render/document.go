package render

import (
	"bytes"
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// PageRequest says what a page is rendered for.
type PageRequest struct {
	Slug  string
	Query string // of the search page
	// Mapped makes the map from the page to its sources.
	Mapped bool
	// Bare leaves head and addresses as they are: the document is only for comparing.
	Bare bool
}

// Page renders what answers a slug: a page, a record, a listing, the search
// results, or else the not-found part with status 404.
func (r *Renderer) Page(ask PageRequest) (*Output, error) {
	slug := ask.Slug
	if r.homeErr != nil {
		if r.findHome(); r.homeErr != nil {
			return nil, r.homeErr
		}
	}
	if h, ok := r.page(slug); ok {
		return r.document(h, PageContext{Slug: slug, Own: h.Meta.Slug, Home: r.Canonical(slug) == "/"}, 200, ask)
	}
	for _, h := range r.records {
		if recordSlug(h) == slug {
			spot, err := r.recordContext(h)
			if err != nil {
				return nil, err
			}
			return r.roleDocument(item.RecordRole, spot, 200, ask, h)
		}
	}
	for _, p := range r.parts {
		switch p.Meta.Role {
		case item.Listing:
			spot, ok, err := r.listingContext(p, slug)
			if err != nil {
				return nil, err
			}
			if ok {
				return r.roleDocument(item.Listing, spot, 200, ask, item.Head{})
			}
		case item.Search:
			if slug == SearchSlug {
				return r.roleDocument(item.Search, PageContext{Slug: slug, Search: true}, 200, ask, item.Head{})
			}
		default:
		}
	}
	return r.roleDocument(item.NotFound, PageContext{Slug: slug, NotFound: true}, 404, ask, item.Head{})
}

// roleDocument renders a part that is the page itself.
func (r *Renderer) roleDocument(role item.Role, spot PageContext, status int, ask PageRequest,
	record item.Head) (*Output, error) {
	h, st := AssignPart(r.parts, role, spot)
	var src []byte
	if h.Address.IsZero() {
		text := "There is no page at this address."
		if status == 200 {
			text = "This site has no part that shows this page."
		}
		src, status = []byte("<main><h1>Not found</h1><p>"+text+"</p></main>"), 404
	} else {
		var err error
		if src, err = r.read(h.Address); err != nil {
			return nil, err
		}
	}
	if h.Meta.Title == "" && status == 404 {
		h.Meta.Title = "Not found"
	}
	if !record.Address.IsZero() {
		h.Meta.Title = record.Meta.Title
	}
	out, err := r.compose(h, src, spot, status, ask, record)
	if out != nil {
		out.Around = append(out.Around, st)
	}
	return out, err
}

func (r *Renderer) document(h item.Head, spot PageContext, status int, ask PageRequest) (*Output, error) {
	src, err := r.read(h.Address)
	if err != nil {
		return nil, err
	}
	return r.compose(h, src, spot, status, ask, item.Head{})
}

// Surround says which parts stand around a page and why.
func (r *Renderer) Surround(slug string) ([]PartAssignment, error) {
	out, err := r.Page(PageRequest{Slug: slug})
	if err != nil {
		return nil, err
	}
	return out.Around, nil
}

var aroundRoles = []item.Role{item.Header, item.Wrapper, item.Aside, item.Footer}

// shell is the document around a fragment that is shown as a page.
const shell = "<!doctype html>\n<html>\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" " +
	"content=\"width=device-width, initial-scale=1\">\n</head>\n<body>\n%s\n</body>\n</html>\n"

func (r *Renderer) compose(
	h item.Head,
	src []byte,
	spot PageContext,
	status int,
	ask PageRequest,
	record item.Head,
) (*Output, error) {
	s := &stage{
		r:       r,
		spot:    spot,
		ask:     ask,
		record:  record,
		reached: map[item.Address]bool{},
		placed:  map[item.Role]bool{},
		taken:   map[string]bool{},
	}
	if ask.Mapped {
		s.rec = &sourcemap.Recorder{}
	}
	text, err := s.fillings(s.whole(h, src))
	if err != nil {
		return nil, fmt.Errorf("rendering %s: %w", h.Address, err)
	}
	out := &Output{Status: status, Page: h.Address}
	if !h.Address.IsZero() {
		s.reach(h)
	}
	without := map[item.Role]bool{}
	for _, role := range h.Meta.Without {
		without[role] = true
	}
	s.standing = map[item.Role]item.Head{}
	for _, role := range aroundRoles {
		if without[role] {
			out.Around = append(out.Around, PartAssignment{Role: role, Why: "the page leaves it out"})
			continue
		}
		part, st := AssignPart(r.parts, role, spot)
		out.Around = append(out.Around, st)
		if !part.Address.IsZero() {
			s.standing[role] = part
			s.variant = h.Meta.Variant
		}
	}
	if !without[item.Overlay] {
		var over []PartAssignment
		s.overlays, over = overlays(r.parts, spot)
		out.Around = append(out.Around, over...)
	}
	body, err := s.expand(text, "")
	if err != nil {
		return nil, fmt.Errorf("rendering %s: %w", h.Address, err)
	}
	if ask.Bare && s.allPlaced() {
		out.Body = body.Bytes
		return out, nil
	}
	tree := markup.Frame(body.Bytes)
	if tree.Opaque { // nobody knows where in it something could be put: it is shown as it is
		out.Around = nil
		return out, s.finish(out, body)
	}
	around, err := s.surround(tree, h)
	if err != nil {
		return nil, fmt.Errorf("rendering %s: %w", h.Address, err)
	}
	head, err := s.head(tree, h) // after the parts, whose styles it names
	if err != nil {
		return nil, fmt.Errorf("rendering %s: %w", h.Address, err)
	}
	if body, err = body.Apply(append(head, around...)); err != nil {
		return nil, fmt.Errorf("rendering %s: %w", h.Address, err)
	}
	if err := s.finish(out, body); err != nil {
		return nil, err
	}
	out.Unfilled = s.unfilled()
	for a := range s.reached {
		out.Reached = append(out.Reached, a)
	}
	sort.Slice(out.Reached, func(i, j int) bool { return out.Reached[i].Less(out.Reached[j]) })
	return out, nil
}

// whole is the source of what a document shows, a fragment within a document's shell.
func (s *stage) whole(h item.Head, src []byte) sourcemap.Text {
	text := s.rec.Made(string(src), "no part shows this page")
	if !h.Address.IsZero() {
		text = s.rec.Source(src, s.use(h.Address, none, nil, 0))
	}
	if markup.IsDocument(src) {
		return text
	}
	before, behind, _ := strings.Cut(shell, "%s")
	return sourcemap.Concat(s.rec.Made(before, "shell"), text, s.rec.Made(behind, "shell"))
}

// finish writes the references as visitors get them, and the map.
func (s *stage) finish(out *Output, body sourcemap.Text) error {
	body, err := s.relinked(body)
	if err != nil {
		return fmt.Errorf("rendering %s: %w", out.Page, err)
	}
	out.Body, out.Map = body.Bytes, s.rec.Map(body)
	return nil
}

// allPlaced tells that no part is left to stand around the content.
func (s *stage) allPlaced() bool {
	for role := range s.standing {
		if !s.placed[role] {
			return false
		}
	}
	return len(s.overlays) == 0
}

// surround puts the parts that have no mark of their own around the content.
func (s *stage) surround(tree *markup.Tree, page item.Head) ([]sourcemap.Edit, error) {
	inner := bodyInner(tree)
	before, after := s.rec.Build("surround"), s.rec.Build("surround")
	edits := s.made(bodyMarks(tree, page), "width", page.Address)
	for _, role := range []item.Role{item.Header, item.Wrapper, item.Aside, item.Footer} {
		part, ok := s.standing[role]
		if !ok || s.placed[role] {
			continue
		}
		text, err := s.part(part, none, nil)
		if err != nil {
			return nil, err
		}
		switch role {
		case item.Header:
			before.Made("\n").Add(text)
		case item.Wrapper:
			at := bytes.Index(text.Bytes, []byte(contentMark))
			if at < 0 {
				continue
			}
			before.Made("\n").Add(text.Slice(span.Span{End: at}))
			after.Add(text.Slice(span.Span{Start: at + len(contentMark), End: len(text.Bytes)}))
		default:
			after.Add(text).Made("\n")
		}
	}
	for _, h := range s.overlays {
		text, err := s.overlay(h)
		if err != nil {
			return nil, err
		}
		after.Add(text).Made("\n")
	}
	if page.Meta.TitleShown && page.Meta.Title != "" &&
		tree.Find(func(n *markup.Node) bool { return n.Tag == "h1" }) == nil {
		before.Made("\n<h1 class=\"cp-page-title\">").Add(s.titleOf(page)).Made("</h1>")
	}
	return append(edits,
		sourcemap.Edit{Span: span.Span{Start: inner.Start, End: inner.Start}, New: before.Text()},
		sourcemap.Edit{Span: span.Span{Start: inner.End, End: inner.End}, New: after.Text()},
	), nil
}

// titleOf is an item's title as the text of an element.
func (s *stage) titleOf(h item.Head) sourcemap.Text {
	text := markup.EscapeText(h.Meta.Title)
	if !s.record.Address.IsZero() {
		h = s.record // whose title the document has
	}
	if h.Address.IsZero() || h.Meta.Title == "" {
		return s.rec.Made(text, "title")
	}
	return s.rec.Encoded(text, sourcemap.Place{Occurrence: s.use(h.Address, none, nil, 0), Field: "title"},
		sourcemap.PlainToText)
}

// bodyInner is the place of the body's content, also where its tag is implied.
func bodyInner(t *markup.Tree) span.Span {
	at := span.Span{Start: 0, End: len(t.Source)}
	for _, n := range t.All {
		switch {
		case n.Tag == "html" && n.Own:
			at = n.Inner
		case n.Tag == "head" && n.Own:
			at.Start = n.End.End
		case n.Tag == "body":
			if n.Own {
				return n.Inner
			}
			if len(n.Children) > 0 && n.Children[0].Own && !n.HasText {
				at.Start = n.Children[0].Start.Start
			}
			return at
		}
	}
	return at
}

// styles gives the union of what the page, its parts and its sections list, in
// the collection's order; what the order does not name comes last, by address.
func (s *stage) styles() ([]item.Address, error) {
	order, err := s.r.styleOrder()
	if err != nil {
		return nil, err
	}
	var out []item.Address
	for a := range s.styled {
		if _, ok := s.r.c.Find(a); ok {
			out = append(out, a)
			s.reached[a] = true
		}
	}
	sort.Slice(out, func(i, j int) bool {
		x, okX := order[out[i]]
		y, okY := order[out[j]]
		if okX != okY {
			return okX
		}
		if okX && x != y {
			return x < y
		}
		if (out[i].Kind == item.Tokens) != (out[j].Kind == item.Tokens) {
			return out[i].Kind == item.Tokens
		}
		return out[i].Less(out[j])
	})
	return out, nil
}

// Alone renders one piece in a bare document, with its own styles.
func (r *Renderer) Alone(a item.Address) (*Output, error) { return r.AloneAs(a, As{}) }

// As says how a piece is shown alone.
type As struct {
	// Variant is one of those that a part offers.
	Variant string
	// Record is shown by a part that shows records.
	Record item.Address
	// On is the address of a page whose stylesheets are there, too: as the piece would look on it.
	On string
}

// dressAs lets a document wear what a page wears.
func (s *stage) dressAs(slug string) error {
	page, err := s.r.Page(PageRequest{Slug: slug})
	if err != nil {
		return err
	}
	for _, a := range page.Reached {
		if h, ok := s.r.c.Find(a); ok {
			for _, sheet := range h.Meta.Styles {
				s.styled[sheet] = true
			}
		}
	}
	return nil
}

// AloneAs is Alone for one variant of a part, and with a record in it.
func (r *Renderer) AloneAs(a item.Address, as As) (*Output, error) {
	h, ok := r.c.Find(a)
	if !ok {
		return nil, fmt.Errorf("there is no %s", a)
	}
	if a.Kind == item.Page {
		return r.document(h, PageContext{Slug: h.Meta.Slug}, 200, PageRequest{})
	}
	var src []byte
	var err error
	switch {
	case a.Kind.IsMarkup():
		if src, err = r.read(a); err != nil {
			return nil, err
		}
	case a.Kind == item.Menu:
		src = []byte(`<cp-menu name="` + markup.EscapeAttr(a.Key) + `"></cp-menu>`)
	case a.Kind == item.Form:
		src = []byte(`<cp-form name="` + markup.EscapeAttr(a.Key) + `"></cp-form>`)
	case a.Kind == item.Media:
		src = []byte(`<img alt="" style="max-width:100%" src="/` + markup.EscapeAttr(a.Path()) + `">`)
	default:
		return nil, fmt.Errorf("a %s cannot be shown as a page", a.Kind)
	}
	spot := PageContext{Slug: "/_alone/"}
	s := &stage{
		r:        r,
		spot:     spot,
		reached:  map[item.Address]bool{},
		placed:   map[item.Role]bool{},
		standing: map[item.Role]item.Head{},
	}
	if !as.Record.IsZero() {
		if s.record, ok = r.c.Find(as.Record); !ok {
			return nil, fmt.Errorf("there is no %s", as.Record)
		}
	}
	s.reach(h)
	if as.On != "" {
		if err := s.dressAs(as.On); err != nil {
			return nil, err
		}
	}
	text := sourcemap.Text{Bytes: src}
	if as.Variant != "" {
		if text, err = s.varied(text, h.Meta.Context, as.Variant); err != nil {
			return nil, err
		}
	}
	body, err := s.expand(text, h.Meta.Context)
	if err != nil {
		return nil, err
	}
	out := &Output{Status: 200, Page: a}
	bare := strings.Replace(shell, "<body>", `<body style="margin:0">`, 1)
	doc := sourcemap.Text{Bytes: fmt.Appendf(nil, bare, body.Bytes)}
	edits, err := s.head(markup.Frame(doc.Bytes), h)
	if err != nil {
		return nil, err
	}
	if doc, err = doc.Apply(edits); err != nil {
		return nil, err
	}
	return out, s.finish(out, doc)
}

// Fragment gives a piece with its cp- elements written out, without a document
// around it: the elements that its stylesheets meet.
func (r *Renderer) Fragment(a item.Address) ([]byte, error) {
	h, ok := r.c.Find(a)
	if !ok {
		return nil, fmt.Errorf("there is no %s", a)
	}
	src, err := r.read(a)
	if err != nil {
		return nil, err
	}
	s := &stage{
		r:        r,
		reached:  map[item.Address]bool{},
		placed:   map[item.Role]bool{},
		standing: map[item.Role]item.Head{},
	}
	s.reach(h)
	t, err := s.expand(sourcemap.Text{Bytes: src}, h.Meta.Context)
	return t.Bytes, err
}

// GeneratedPage is a document that no page item stands for.
type GeneratedPage struct {
	Slug string
	Spot PageContext
}

// NotFoundSlug is where the not-found page is published, and stands
// for all of them.
const NotFoundSlug = "/404.html"

// SearchSlug is where what a search found is shown.
const SearchSlug = "/search/"

// GeneratedPages lists the documents that no page item stands for: records' pages, listings,
// the search page and, last, the not-found page.
func (r *Renderer) GeneratedPages() ([]GeneratedPage, error) {
	var out []GeneratedPage
	for _, h := range r.records {
		spot, err := r.recordContext(h)
		if err != nil {
			return nil, err
		}
		if part, _ := AssignPart(r.parts, item.RecordRole, spot); !part.Address.IsZero() {
			out = append(out, GeneratedPage{spot.Slug, spot})
		}
	}
	for _, p := range r.parts {
		for _, t := range p.Meta.Place().Where {
			target, ok := item.ParseTarget(t)
			switch {
			case !ok || p.Meta.Off:
			case target.Word == "listing" && p.Meta.Role == item.Listing && target.Category == "":
				pages, err := r.listings(p, target.Type)
				if err != nil {
					return nil, err
				}
				out = append(out, pages...)
			case target.Word == "search" && p.Meta.Role == item.Search:
				out = append(out, GeneratedPage{SearchSlug, PageContext{Slug: SearchSlug, Search: true}})
			}
		}
	}
	return append(out, GeneratedPage{NotFoundSlug, PageContext{Slug: NotFoundSlug, NotFound: true}}), nil
}
