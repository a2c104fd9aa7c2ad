package client

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/core/says"
	"compactparcel/internal/api"
)

// plan prints a plan for people, questions first.
func (a *app) plan(d *api.Delivery) {
	p := d.Plan
	a.say("Delivery %d: %s@%s to %s", d.Id, p.Kit, p.Version, d.Site)
	if p.Terms.License != "" {
		a.say("Terms: %s", p.Terms.License)
	}
	for _, q := range p.Questions {
		a.question(p, q, d.Site)
	}
	a.say("")
	a.planRows(p)
	a.say("")
	a.touched(p)
	a.planDecided(p)
	a.planStyles(p)
	for _, l := range p.Links {
		a.say("%s %s, line %d: %s is %s: %s", a.mark("Link"), l.From, l.Line, l.Slug, l.State, l.Message)
	}
	for _, s := range p.Scripts {
		a.say("%s %s", a.mark("Code"), s)
	}
	for _, h := range p.Hosts {
		a.say("%s %s, line %d, loads from %s (%s)", a.mark("Host"), h.From, h.Line, h.Host, h.Kind)
	}
	for _, n := range p.Notes {
		a.say("Note: %s", n)
	}
	for _, l := range p.LeftOut {
		a.say("Left out: the answer %s=%s, since %s", l.Key, l.Answer, l.Why)
	}
}

// question prints one question with its choices as they are written behind --decide.
func (a *app) question(p *plan.Plan, q plan.Question, site string) {
	a.say("\n%s %s", a.mark("?"), q.Message)
	for _, n := range p.Needs {
		if n.Key == q.Key && n.Kit != "" {
			a.say("    cparcel deliver %s@%s %s", n.Kit, n.Version, site)
		}
	}
	kind, name := plan.ParseKey(q.Key)
	for _, c := range q.Choices {
		word := c.Written()
		if c.Decision == plan.Map {
			of, _, _ := strings.Cut(name, "/")
			word += ":" + of + "/NAME"
		}
		a.say("    --decide %s=%s   %s", q.Key, word, a.quiet(c.Effect))
	}
	if kind == plan.AboutFill {
		a.say("    --fill %s=…", name)
	}
	for _, r := range p.Rows {
		if r.Address.String() == q.Key && len(r.Conflicts) > 0 {
			a.say("    --decide %s=blend:kit   %s", q.Key,
				a.quiet("blended; where both changed the same thing, the kit's is used (blend:site: the site's)"))
			a.conflicts(r)
		}
		for _, c := range r.Conflicts {
			if plan.ConflictKey(r.Address, c.Key) == q.Key {
				a.conflict(c)
			}
		}
	}
}

// planRows prints the items.
func (a *app) planRows(p *plan.Plan) {
	var rows [][]any
	for _, r := range p.Rows {
		decision := string(r.Decision)
		if decision == "" {
			decision = a.mark("?")
		}
		about := ""
		if !r.Becomes.IsZero() && r.Becomes != r.Address && r.Decision != "" {
			about = "as " + r.Becomes.String() + "; "
		}
		if n := len(r.Candidates); n > 1 && r.Decision == "" {
			about += fmt.Sprintf("also resembles %s by its %s; ", r.Candidates[1].Address, r.Candidates[1].By)
		}
		if r.Needed != "" {
			about += "needed: " + r.Needed + "; "
		}
		if n := len(r.Conflicts); n > 0 && r.Decision == plan.Blend {
			about += fmt.Sprintf("%s decided; ", says.Count(n, "conflict"))
		}
		if r.Order != "" {
			about += "goes " + r.Order + "; "
		}
		rows = append(rows, []any{r.Address.String(), string(r.Standing), decision, about + r.Why})
	}
	a.table("The plan is empty.", []string{"item", "standing", "decision", "what and why"}, rows)
}

// touched prints the pages that the delivery reaches.
func (a *app) touched(p *plan.Plan) {
	for _, t := range p.Touched {
		way := t.Ways[0]
		if n := len(t.Ways) - 1; n > 0 {
			way += fmt.Sprintf(" and %d more", n)
		}
		where := t.Slug
		if where == render.NotFoundSlug {
			where = "the not-found page"
		}
		a.say("Touches %s, through %s", where, way)
	}
	if len(p.Touched) == 0 {
		a.say("It touches no page.")
	}
}

// planDecided prints what is decided or told beside the items.
func (a *app) planDecided(p *plan.Plan) {
	a.nameGroups(p)
	for _, s := range p.Seats {
		if s.Site.IsZero() {
			a.say("Place of the %s on %s with their own: %s claims it: %s", s.Role, says.Count(s.Pages, "page"), s.Kit,
				orOpen(s.Decision))
		} else {
			a.say("Place of the %s on %s: %s has it, %s claims it: %s", s.Role, s.Target, s.Site, s.Kit,
				orOpen(s.Decision))
		}
		a.otherwise(s.Key, s.Decision, s.Choices)
	}
	a.surrounds(p.Surrounds)
	a.needs(p.Needs)
	for _, f := range p.Fills {
		if f.Given {
			as := ""
			if f.Before {
				as = a.quiet("  (as at the last delivery)")
			}
			a.say("Fill-in %s: %s%s", f.Name, f.Value, as)
		}
	}
	for _, s := range p.Settings {
		a.say("%s proposed as %s: %s, %s", s.Setting, s.Proposed, s.Decision, s.Why)
		a.otherwise(s.Key, s.Decision, s.Choices)
	}
	for _, f := range p.Fields {
		a.say("Field %s of %s: %s %s", f.Kit, f.Type, orOpen(f.Decision), f.Site)
	}
	for _, t := range p.Tokens {
		here := "the site lacks it, its nearest is " + t.Nearest
		if t.Site != "" {
			here = "the site has " + t.Site
		}
		a.say("Token %s: %s, the kit %s (distance %.3f): %s", t.Property, here, t.Kit, t.Distance, t.Decision)
		a.otherwise(t.Key, t.Decision, t.Choices)
	}
}

// need prints a need that the site does not meet by itself.
// needs prints the needs that are not met; what is optional and undecided in one line.
func (a *app) needs(list []plan.NeedRow) {
	var without []string
	for _, n := range list {
		switch {
		case n.State == plan.Met:
		case n.Optional && n.State != plan.Inside && n.Decision == "":
			without = append(without, fmt.Sprintf("%s (%s)", n.What, n.State.Words()))
		default:
			a.need(n)
		}
	}
	if len(without) > 0 {
		a.say("Goes on without %s: %s", says.Count(len(without), "optional need"), strings.Join(without, ", "))
		if len(without) < 4 {
			for _, n := range list {
				if n.Optional && n.State != plan.Met && n.State != plan.Inside && n.Decision == "" {
					a.otherwise(n.Key, n.Decision, n.Choices)
				}
			}
		}
	}
}

func (a *app) need(n plan.NeedRow) {
	kind := "Need"
	if n.Optional {
		kind = "Optional"
	}
	text := fmt.Sprintf("%s %s is %s (%s)", kind, n.What, n.State.Words(), n.Message)
	if n.Decision != "" {
		text += ": " + plan.Decided{Decision: n.Decision, To: n.To}.String()
	}
	a.say("%s", text)
	if n.Decision != "" || n.Optional {
		a.otherwise(n.Key, n.Decision, n.Choices)
	}
}

// planStyles prints where styles of the two sides meet.
func (a *app) planStyles(p *plan.Plan) {
	overrides := map[string][]string{}
	for _, o := range p.StyleOverrides {
		key := fmt.Sprintf("%s, by %s", o.Page, o.By)
		if text := o.Property + ": " + o.Value; !slices.Contains(overrides[key], text) {
			overrides[key] = append(overrides[key], text)
		}
	}
	for _, key := range slices.Sorted(maps.Keys(overrides)) {
		a.say("The site's rules override the kit's on %s: %s", key, strings.Join(overrides[key], "; "))
	}
	a.planContrasts(p)
	if n := len(p.Literals); n > 0 {
		a.say("%d colours and fonts do not use the tokens, the first: %s", n, p.Literals[0])
	}
}

// contrastsShown is how many pairs of colours are told one by one.
const contrastsShown = 8

// planContrasts tells of texts that are hard to read, each pair of colours once, the worst first.
func (a *app) planContrasts(p *plan.Plan) {
	type pair struct{ text, ground string }
	var order []pair
	rows := map[pair][]plan.ContrastRow{}
	for _, c := range p.Contrasts {
		if c.As >= plan.EnoughContrast {
			continue
		}
		k := pair{c.Text, c.Ground}
		if rows[k] == nil {
			order = append(order, k)
		}
		rows[k] = append(rows[k], c)
	}
	for i, k := range order {
		if i == contrastsShown {
			a.say("%s %d more pairs of colours have less than %.1f: see them with -o json", a.mark("Contrast"),
				len(order)-i, plan.EnoughContrast)
			return
		}
		c, where := rows[k][0], rows[k][0].Where
		if n := len(rows[k]) - 1; n > 0 {
			where += fmt.Sprintf(" and %d more rules", n)
		}
		a.say("%s %s: %s on %s has %.2f (with the site's tokens %.2f, with the kit's %.2f); text needs %.1f",
			a.mark("Contrast"), where, c.Text, c.Ground, c.As, c.Site, c.Kit, plan.EnoughContrast)
	}
}

func orOpen(d plan.Decision) string {
	if d == "" {
		return "open"
	}
	return string(d)
}

// otherwise lists what could be decided instead.
func (a *app) otherwise(key string, decided plan.Decision, choices []plan.Choice) {
	if decided == "" {
		return // it is among the questions
	}
	for _, c := range choices {
		if c.Decision != decided {
			a.say("    --decide %s=%s   %s", key, c.Written(), a.quiet(c.Effect))
		}
	}
}

// conflicts shows a blend's conflicts, those that are open.
func (a *app) conflicts(r plan.Row) {
	for _, c := range r.Conflicts {
		if c.Decision == "" {
			a.conflict(c)
			a.say("      --decide %s=site, or =kit", plan.ConflictKey(r.Address, c.Key))
		}
	}
}

// conflict shows what three sides say.
func (a *app) conflict(c blend.Conflict) {
	a.say("    %s, line %d (%s)", c.Where, c.Line, c.Kind)
	for _, x := range []struct{ side, text string }{{"was", c.Base}, {"site", c.Site}, {"kit", c.Kit}} {
		text := blend.Brief(x.text)
		if r := []rune(strings.Join(strings.Fields(x.text), " ")); len(r) > 60 && len(r) <= 400 {
			text = "“" + string(r) + "”"
		}
		a.say("      %-5s %s", x.side, text)
	}
}
