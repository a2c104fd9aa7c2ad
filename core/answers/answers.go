// Package answers reads and writes what a person says about a delivery as a file, so that
// it is repeated on other sites and reviewed like any text.
package answers

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/plan"

	"go.yaml.in/yaml/v3"
)

// Format is the format of answers that this version writes and reads.
const Format = 1

// maxBytes is the largest file of answers that is read, in bytes.
const maxBytes = 1 << 20

// Answers are all decisions, fill-ins and options of a delivery.
// api/schema/answers.schema.json describes the file.
type Answers struct {
	Format int `yaml:"format"`
	// Kit is the kit that they are for: NAME or NAME@VERSION; empty: any.
	Kit       string            `yaml:"kit,omitempty"`
	Policy    plan.Policy       `yaml:"policy,omitempty"`
	Seats     plan.SeatOption   `yaml:"seats,omitempty"`
	Only      []string          `yaml:"only,omitempty"`      // the kit's items that shall come
	Pages     map[string]Page   `yaml:"pages,omitempty"`     // page/KEY → its title and address
	Decisions map[string]string `yaml:"decisions,omitempty"` // question → decision, or map:kind/key
	Fills     map[string]string `yaml:"fills,omitempty"`     // fill-in → value
}

// Page is what answers say of a new page.
type Page struct {
	Title string `yaml:"title,omitempty"`
	Slug  string `yaml:"address,omitempty"`
}

// Parse reads answers in YAML 1.2 or JSON. A member that is not known, a key that
// stands twice and another format are errors that name the line.
func Parse(text []byte) (*Answers, error) {
	if len(text) > maxBytes {
		return nil, fmt.Errorf("the answers have %d bytes; at most %d are read", len(text), maxBytes)
	}
	dec := yaml.NewDecoder(bytes.NewReader(text))
	dec.KnownFields(true)
	var a Answers
	if err := dec.Decode(&a); err != nil {
		if errors.Is(err, io.EOF) {
			return nil, fmt.Errorf("the answers are empty: write at least format: %d", Format)
		}
		return nil, fmt.Errorf("the answers cannot be read: %w", err)
	}
	if err := dec.Decode(&struct{}{}); !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("the answers hold more than one document")
	}
	switch {
	case a.Format == 0:
		return nil, fmt.Errorf("the answers name no format: write format: %d", Format)
	case a.Format > Format:
		return nil, fmt.Errorf("the answers are in format %d; this version reads up to %d", a.Format, Format)
	}
	if a.Policy != "" && !slices.Contains(plan.PolicyNames(), string(a.Policy)) {
		return nil, fmt.Errorf("the answers name the policy %q; there are %s", a.Policy,
			strings.Join(plan.PolicyNames(), ", "))
	}
	if a.Seats != "" && !slices.Contains(plan.SeatOptions, a.Seats) {
		return nil, fmt.Errorf("the answers' seats are %q; write ask, site or kit", a.Seats)
	}
	for _, o := range a.Only {
		if _, err := item.ParseAddress(o); err != nil {
			return nil, fmt.Errorf("the answers' only: %w", err)
		}
	}
	for about, d := range a.Decisions {
		if _, err := plan.ParseDecided(d); err != nil {
			return nil, fmt.Errorf("the answer for %s: %w", about, err)
		}
	}
	return &a, nil
}

// For tells whether answers are meant for a kit.
func (a *Answers) For(kit string) error {
	name, _, _ := strings.Cut(a.Kit, "@")
	if a.Kit != "" && name != kit {
		return fmt.Errorf("the answers are for the kit %s, and this is %s", name, kit)
	}
	return nil
}

// Template writes answers to fill in for a plan: what was answered stands there, what is
// open is a comment with its choices and what each leads to.
func Template(p *plan.Plan, site string, ask plan.Request) []byte {
	var b strings.Builder
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	line("# Answers for %s@%s, as planned for %s. Give them with --answers FILE,", p.Kit, p.Version, site)
	line("# also for other sites. Lines that begin with # are not read.")
	line("format: %d", Format)
	line("kit: %s", scalar(p.Kit+"@"+p.Version))
	line("policy: %s", scalar(string(p.Policy)))
	seats := ask.Seats
	if seats == "" {
		seats = plan.SeatsAsk
	}
	line("seats: %s", seats)
	if len(ask.Only) > 0 {
		line("only:")
		for _, o := range ask.Only {
			line("  - %s", scalar(o.String()))
		}
	}
	if len(ask.Pages) > 0 {
		line("pages:")
		for _, k := range slices.Sorted(maps.Keys(ask.Pages)) {
			line("  %s: {title: %s, address: %s}", scalar(k), scalar(ask.Pages[k].Title), scalar(ask.Pages[k].Slug))
		}
	}
	line("decisions:")
	for _, about := range slices.Sorted(maps.Keys(ask.Decisions)) {
		text := ask.Decisions[about].String()
		line("  %s: %s", scalar(about), scalar(text))
	}
	for _, q := range p.Questions {
		if q.Kind == plan.AboutFill {
			continue
		}
		comment(line, q.Message)
		first := ""
		for _, c := range q.Choices {
			word := c.Written()
			if c.Decision == plan.Map {
				_, name := plan.ParseKey(q.Key)
				kind, _, _ := strings.Cut(name, "/")
				word += ":" + kind + "/NAME"
			}
			if first == "" {
				first = word
			}
			comment(line, "  "+word+": "+c.Effect)
		}
		line("  # %s: %s", scalar(q.Key), scalar(first))
	}
	line("fills:")
	for _, f := range p.Fills {
		if f.Given {
			line("  %s: %s", scalar(f.Name), scalar(f.Value))
			continue
		}
		must := "may stay open"
		if f.Required {
			must = "must be given"
		}
		comment(line, fmt.Sprintf("%s (%s, %s)", f.Label, f.Type, must))
		if len(f.Choices) > 0 {
			comment(line, "  one of: "+strings.Join(f.Choices, ", "))
		}
		line("  # %s: %s", scalar(f.Name), scalar(f.Sample))
	}
	return []byte(b.String())
}

// comment writes a text as comments, one line after the other.
func comment(line func(string, ...any), text string) {
	for _, l := range strings.Split(text, "\n") {
		line("  # %s", l)
	}
}

// scalar writes a text as one YAML scalar on one line.
func scalar(s string) string {
	n := yaml.Node{Kind: yaml.ScalarNode, Tag: "!!str", Value: s}
	if strings.ContainsAny(s, "\n\r\t\u0085\u2028\u2029") || strings.TrimSpace(s) != s {
		n.Style = yaml.DoubleQuotedStyle
	}
	out, err := yaml.Marshal(&n)
	if err != nil || strings.Count(string(out), "\n") > 1 {
		return fmt.Sprintf("%q", s)
	}
	return strings.TrimSuffix(string(out), "\n")
}
