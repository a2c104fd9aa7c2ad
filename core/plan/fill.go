package plan

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/kit"
	"compactparcel/core/markup"
)

// listFills lists the fill-ins that what comes in uses.
func listFills(g given, rows rowList) ([]FillRow, error) {
	var out []FillRow
	used := map[string]bool{}
	for _, row := range rows.list {
		h, ok := g.parcel.Find(row.Address)
		if !ok || !comesIn(row) && row.Decision != "" {
			continue
		}
		f, err := g.facts(h)
		if err != nil {
			return nil, err
		}
		for _, p := range f.Fills {
			used[p.Name] = true
		}
	}
	declared := map[string]bool{}
	for _, f := range g.parcel.List.Fillins {
		declared[f.Name] = true
		v, given := g.values[f.Name], g.values[f.Name] != ""
		asked := g.ask.Fills[f.Name] != ""
		if !used[f.Name] && !asked {
			continue
		}
		if given {
			if why := checkFill(f, v); why != "" {
				return nil, &DecisionError{Key: Key(AboutFill, f.Name), Message: why}
			}
		}
		out = append(out,
			FillRow{Fillin: f, Key: Key(AboutFill, f.Name), Value: v, Given: given, Before: given && !asked})
		hint := fmt.Sprintf("the kit's sample is %q", f.Sample)
		if last := g.prior.Fills[f.Name]; g.ask.Next && last != "" && !given {
			out[len(out)-1].Hint = last
			hint = fmt.Sprintf("the last time it was %q", last)
		}
		if !given && f.Required {
			g.question(Key(AboutFill, f.Name), AboutFill,
				fmt.Sprintf("%s is to be filled in (%s; %s).", f.Label, f.Type, hint),
				[]Choice{})
		}
	}
	for name := range g.ask.Fills {
		if !declared[name] {
			var names []string
			for n := range declared {
				names = append(names, n)
			}
			sort.Strings(names)
			return nil, &DecisionError{
				Key:     Key(AboutFill, name),
				Message: fmt.Sprintf("the kit has no fill-in of this name (it has: %s)", strings.Join(names, ", ")),
			}
		}
	}
	return out, nil
}

// checkFill gives the reason for which a value does not fit its type, or "".
func checkFill(f kit.Fillin, v string) string {
	switch f.Type {
	case kit.FillURL:
		low := strings.ToLower(strings.TrimSpace(v))
		if !strings.HasPrefix(low, "/") && !strings.HasPrefix(low, "#") && !strings.HasPrefix(low, "https:") &&
			!strings.HasPrefix(low, "http:") &&
			!strings.HasPrefix(low, "mailto:") &&
			!strings.HasPrefix(low, "tel:") {
			return fmt.Sprintf("%q is not an address: begin with /, #, https:, mailto: or tel:", v)
		}
	case kit.FillEmail:
		if at := strings.IndexByte(v, '@'); at < 1 || at == len(v)-1 || strings.ContainsAny(v, " <>") {
			return fmt.Sprintf("%q is not a mail address", v)
		}
	case kit.FillImage, kit.FillVideo:
		if markup.RunsScript(v) {
			return fmt.Sprintf("%q is not a picture", v)
		}
	case kit.FillChoice:
		for _, c := range f.Choices {
			if c == v {
				return ""
			}
		}
		return fmt.Sprintf("%q is not one of %s", v, strings.Join(f.Choices, ", "))
	default: // any text will do
	}
	return ""
}
