package outside

import (
	"fmt"
	"html"
	"slices"

	"compactparcel/core/blend"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// maxProofs bounds how often what was taken is published again, until it gives the edited files.
const maxProofs = 8

// prove publishes the changed pages again with what was taken. An edit whose place then shows
// something else is not taken after all; what is written otherwise elsewhere follows from an edit,
// and is told.
func (c *carrier) prove() error {
	for n := 0; ; n++ {
		r, err := c.again()
		if err != nil {
			return err
		}
		rejected := false
		for _, p := range c.pages {
			if p.slug == "" || p.path != p.now {
				continue
			}
			o, err := r.Page(render.PageRequest{Slug: p.slug})
			if err != nil {
				return err
			}
			for _, h := range align(o.Body, p.text) {
				if p.isRest(h.New) {
					continue
				}
				if p.reject(h, o.Body, n >= maxProofs) {
					rejected = true
				} else if !rejected && !c.asked(p, h.New) {
					p.derived = append(p.derived, derived{h, blend.Brief(string(h.Old.Of(o.Body)))})
				}
			}
		}
		if !rejected {
			break
		}
		for _, p := range c.pages {
			p.derived = nil
		}
		c.together()
		if err := c.apply(); err != nil {
			return err
		}
	}
	for _, p := range c.pages {
		c.tell(p)
	}
	return nil
}

// asked tells that a difference of a page is an edit of another, which was to be made everywhere.
func (c *carrier) asked(p *page, at span.Span) bool {
	if c.Shared != Everywhere {
		return false
	}
	offset := at.Start
	for _, h := range p.hunks {
		if h.New.End <= at.Start {
			offset += h.Old.Len() - h.New.Len()
		}
	}
	s, ok := p.from.At(offset)
	if !ok {
		return false
	}
	a, _ := p.from.Item(s)
	_, edited := c.out.Texts[a]
	return edited
}

// derived is what publishing writes otherwise, since something else was edited.
type derived struct {
	Hunk
	writes string
}

// again shows the site with what was taken.
func (c *carrier) again() (*render.Renderer, error) {
	over := item.NewOver(c.Then)
	for a, text := range c.out.Texts {
		h, _ := c.Then.Find(a)
		if title, ok := c.out.Titles[a]; ok {
			h.Meta.Title = title
		}
		over.Set(h, text)
	}
	for a, title := range c.out.Titles {
		if _, done := c.out.Texts[a]; done {
			continue
		}
		h, _ := c.Then.Find(a)
		h.Meta.Title = title
		its, _ := c.Then.Find(a)
		over.Lay(h, c.Then, its)
	}
	return folder.Renderer(over, c.Release.Base, c.Release.Links, c.Release.Forms), nil
}

// isRest tells that a difference is one that was not taken, and no part of one that was.
func (p *page) isRest(at span.Span) bool {
	for _, e := range p.edits {
		if e.state == Taken && e.hunk.New.Start < at.End && at.Start < e.hunk.New.End {
			return false
		}
	}
	touches := func(s span.Span) bool { return s.Start <= at.End && at.Start <= s.End }
	for _, h := range p.rest {
		if touches(h.New) {
			return true
		}
	}
	for _, e := range p.edits {
		if e.state == NotTaken && touches(e.hunk.New) {
			return true
		}
	}
	return false
}

// reject gives up the edits at whose place publishing writes something else; with all, every edit
// of the page.
func (p *page) reject(h Hunk, body []byte, all bool) (any bool) {
	for _, e := range p.edits {
		near := !sameText(h, body, p.text) && e.hunk.New.Start <= h.New.End && h.New.Start <= e.hunk.New.End
		if e.state == Taken && (near || all) {
			e.state, any = NotTaken, true
			e.why = fmt.Sprintf("publishing would write %q here", blend.Brief(string(h.Old.Of(body))))
		}
	}
	return any
}

// sameText tells that a difference is one of writing: both sides say the same characters.
func sameText(h Hunk, body, text []byte) bool {
	return html.UnescapeString(string(h.Old.Of(body))) == html.UnescapeString(string(h.New.Of(text)))
}

// together gives up an edit at all of its places when it is given up at one.
func (c *carrier) together() {
	for _, g := range c.groups {
		i := slices.IndexFunc(g.edits, func(e *edit) bool { return e.state == NotTaken })
		if i < 0 {
			continue
		}
		for _, e := range g.edits {
			if e.state == Taken && !e.copied {
				e.state, e.why = NotTaken, g.edits[i].why
			}
		}
	}
}

// tell reports what became of a page's edits.
func (c *carrier) tell(p *page) {
	for _, e := range p.edits {
		why := e.why
		if e.state == Taken {
			why = ""
			if e.copied {
				why = "for this place alone"
			}
		}
		c.say(c.line(p, e.hunk, e.item, e.state, why))
	}
	for _, d := range p.derived {
		c.say(Line{Path: p.now, Line: p.line(d.New.Start), End: p.line(d.New.End), State: Told, Before: d.writes,
			After: blend.Brief(string(d.New.Of(p.text))),
			Why:   "publishing writes this anew, since something else was edited"})
	}
}
