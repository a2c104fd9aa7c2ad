package client

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/plan"
	"compactparcel/core/render"
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
		a.say("\n%s %s", a.mark("?"), q.Message)
		for _, c := range q.Choices {
			word := string(c.Decision)
			if c.Decision == plan.Map {
				kind, _, _ := strings.Cut(strings.TrimPrefix(q.Key, "need:"), "/")
				word += ":" + kind + "/NAME"
			}
			a.say("    --decide %s=%s   %s", q.Key, word, a.quiet(c.Effect))
		}
		if q.Kind == "fill" {
			a.say("    --fill %s=…", strings.TrimPrefix(q.Key, "fill:"))
		}
		for _, r := range p.Rows {
			if r.Address.String() == q.Key && len(r.Conflicts) > 0 {
				a.say(
					"    --decide %s=blend:kit   %s",
					q.Key,
					a.quiet("blended, and where both changed the same thing the kit's holds (blend:site: the site's)"),
				)
				a.conflicts(r)
			}
			for _, c := range r.Conflicts {
				if plan.ConflictKey(r.Address, c.Key) == q.Key {
					a.conflict(c)
				}
			}
		}
	}
	a.say("")
	var rows [][]any
	for _, r := range p.Rows {
		decision := string(r.Decision)
		if decision == "" {
			decision = a.mark("?")
		}
		becomes := ""
		if !r.Becomes.IsZero() && r.Becomes != r.Address && r.Decision != "" {
			becomes = "as " + r.Becomes.String() + "; "
		}
		if n := len(r.Candidates); n > 1 && r.Decision == "" {
			becomes += fmt.Sprintf("also like %s by %s; ", r.Candidates[1].Address, r.Candidates[1].By)
		}
		if r.Needed != "" {
			becomes += "needed: " + r.Needed + "; "
		}
		if n := len(r.Conflicts); n > 0 && r.Decision == plan.Blend {
			becomes += fmt.Sprintf("%s decided; ", count(n, "conflict"))
		}
		if r.Order != "" {
			becomes += "goes " + r.Order + "; "
		}
		rows = append(rows, []any{r.Address.String(), string(r.Standing), decision, becomes + r.Why})
	}
	a.table("The plan is empty.", []string{"item", "standing", "decision", "what and why"}, rows)
	a.say("")
	for _, t := range p.Touched {
		way := t.Ways[0]
		if n := len(t.Ways) - 1; n > 0 {
			way += fmt.Sprintf(" and %d more", n)
		}
		where := t.Slug
		if where == render.NotFoundSlug {
			where = "the answer to unknown addresses"
		}
		a.say("Touches %s, through %s", where, way)
	}
	if len(p.Touched) == 0 {
		a.say("It touches no page.")
	}
	for _, c := range p.Clashes {
		what := "Class"
		if strings.HasPrefix(c.Key, "property:") {
			what = "Custom property"
		}
		a.say("%s %q is defined on both sides: %s", what, c.Class, orOpen(c.Decision))
		a.otherwise(c.Key, c.Decision, c.Choices)
	}
	for _, s := range p.Seats {
		a.say("Seat %s on %s: %s has it, %s wants it: %s", s.Role, s.Target, s.Site, s.Kit, orOpen(s.Decision))
		a.otherwise(fmt.Sprintf("seat:%s:%s", s.Role, s.Target), s.Decision, s.Choices)
	}
	for _, n := range p.Needs {
		if n.State != "met" {
			kind := "Need"
			if n.Optional {
				kind = "Optional"
			}
			text := fmt.Sprintf("%s %s is %s (%s)", kind, n.What, n.State, n.Message)
			if n.Decision != "" {
				text += ": " + n.Decision
			}
			a.say("%s", text)
			if n.Decision != "" || n.Optional {
				a.otherwise(n.Key, n.Decision, n.Choices)
			}
		}
	}
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
		a.otherwise("propose:"+s.Setting.String(), string(s.Decision), s.Choices)
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
		a.otherwise("token:"+t.Property, string(t.Decision), t.Choices)
	}
	hit := map[string][]string{}
	for _, h := range p.StyleOverrides {
		key := fmt.Sprintf("%s, by %s", h.Page, h.By)
		if text := h.Property + ": " + h.Value; !slices.Contains(hit[key], text) {
			hit[key] = append(hit[key], text)
		}
	}
	for _, key := range slices.Sorted(maps.Keys(hit)) {
		a.say("The site's rules hit %s: %s", key, strings.Join(hit[key], "; "))
	}
	for _, c := range p.Contrasts {
		if c.As < plan.EnoughContrast {
			a.say(
				"%s %s: %s on %s has %.2f (with the site's tokens %.2f, with the kit's %.2f); texts want 4.5",
				a.mark("Contrast"),
				c.Where,
				c.Text,
				c.Ground,
				c.As,
				c.Site,
				c.Kit,
			)
		}
	}
	if n := len(p.Literals); n > 0 {
		a.say("%d colours and fonts pass the tokens by, the first: %s", n, p.Literals[0])
	}
	for _, l := range p.Links {
		a.say("%s %s, line %d: %s is %s: %s", a.mark("Link"), l.From, l.Line, l.Slug, l.State, l.Message)
	}
	for _, s := range p.Scripts {
		a.say("%s %s", a.mark("Code"), s)
	}
	for _, n := range p.Notes {
		a.say("Note: %s", n)
	}
}

func orOpen(s string) string {
	if s == "" {
		return "open"
	}
	return s
}

// otherwise lists what could be decided instead.
func (a *app) otherwise(about, decided string, choices []plan.Choice) {
	if decided == "" {
		return // it is among the questions
	}
	for _, c := range choices {
		if string(c.Decision) != decided {
			a.say("    --decide %s=%s   %s", about, c.Decision, a.quiet(c.Effect))
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
