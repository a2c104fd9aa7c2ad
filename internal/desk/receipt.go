package desk

import (
	"context"
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/store"
)

// Receipt is what a delivery did, and how it can be undone.
type Receipt struct {
	Renames   []plan.NameChange       `json:"renames"`
	Fills     map[string]string       `json:"fills"`
	Decisions map[string]plan.Decided `json:"decisions"`
	Wrote     []item.Address          `json:"wrote"`
	Removed   []item.Address          `json:"removed,omitempty"`
	Touched   []plan.TouchedPage      `json:"touched"`
	Checklist []string                `json:"checklist"`
	Before    item.Digest             `json:"before"`
	After     item.Digest             `json:"after,omitempty"`
	By        string                  `json:"by"`
	At        string                  `json:"at"`
	// Prior are the origins that the delivery replaced, for its undo.
	Prior []store.Origin `json:"prior,omitempty"`
	// Meanwhile are items that somebody edited between staging and going live; the edits
	// were blended in.
	Meanwhile []item.Address `json:"meanwhile,omitempty"`
	// Undone are items that were taken back one by one.
	Undone []item.Address `json:"undone,omitempty"`
	// Kept says what an undo left as it was.
	Kept []item.Address `json:"kept,omitempty"`
}

func (d *Desk) receipt(ctx context.Context, p Person, info *DeliveryInfo, r *plan.Result) (*Receipt, error) {
	out := &Receipt{
		Renames:   []plan.NameChange{},
		Fills:     map[string]string{},
		Decisions: r.Decisions,
		Wrote:     []item.Address{},
		Touched:   r.Plan.Touched,
		Checklist: []string{},
		By:        p.Name,
	}
	for name, value := range r.Fills { // carried on by every receipt
		if value != "" {
			out.Fills[name] = value
		}
	}
	for from, to := range r.Moved {
		if from != to {
			out.Renames = append(out.Renames, plan.NameChange{From: from, To: to})
		}
	}
	sort.Slice(out.Renames, func(i, j int) bool { return out.Renames[i].From.Less(out.Renames[j].From) })
	for _, h := range r.Deletions {
		out.Removed = append(out.Removed, h.Address)
	}
	for _, x := range r.Writes {
		out.Wrote = append(out.Wrote, x.Head.Address)
		if x.Head.Address.Kind == item.Media {
			continue
		}
		f, err := d.Store.Facts(ctx, x.Head)
		if err != nil {
			return nil, err
		}
		if f.NoAlt > 0 {
			out.Checklist = append(out.Checklist,
				fmt.Sprintf("%s: write an alternative text for %d pictures", x.Head.Address, f.NoAlt))
		}
		if x.Head.Address.Kind == item.Menu && len(f.Uses(facts.Address)) == 0 {
			out.Checklist = append(out.Checklist, fmt.Sprintf("%s: the menu is empty", x.Head.Address))
		}
	}
	for _, l := range r.Plan.Links {
		out.Checklist = append(out.Checklist,
			fmt.Sprintf("%s, line %d: the link to %s is %s: %s", l.From, l.Line, l.Slug, l.State, l.Message))
	}
	for _, c := range r.Plan.Contrasts {
		if c.As < plan.EnoughContrast {
			out.Checklist = append(
				out.Checklist,
				fmt.Sprintf("%s: %s on %s has a contrast of %.2f; texts want %.1f", c.Where, c.Text, c.Ground, c.As,
					plan.EnoughContrast),
			)
		}
	}
	for _, f := range r.Plan.Fills {
		if !f.Given && f.Sample != "" {
			out.Checklist = append(out.Checklist, fmt.Sprintf("%s still shows its sample (%q)", f.Label, f.Sample))
		}
	}
	for _, s := range r.Plan.Settings {
		if s.Decision != plan.Take && s.Site != s.Proposed {
			out.Checklist = append(out.Checklist,
				fmt.Sprintf("the kit proposes %s for %s; it was not taken (%s)", s.Proposed, s.Setting, s.Why))
		}
	}
	for _, n := range r.Plan.Needs {
		if n.State != plan.Met && n.State != plan.Inside && n.Decision != plan.Bring && n.Decision != plan.Raise &&
			!strings.HasPrefix(n.What, "/") &&
			n.Decision != plan.Map {
			out.Checklist = append(out.Checklist, fmt.Sprintf("%s is %s (%s)", n.What, n.State.Words(), n.Message))
		}
	}
	return out, nil
}
