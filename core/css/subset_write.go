package css

import (
	"sort"
	"strings"

	"compactparcel/core/span"
)

// writeSheet writes what must come first, the host frame, and then the rules.
func (c *subsetter) writeSheet(b *strings.Builder) {
	first := 0
	for first < len(c.sheet.Rules) {
		r := c.sheet.Rules[first]
		if r.HasBody || r.At != "charset" && r.At != "import" && r.At != "namespace" && r.At != "layer" {
			break
		}
		first++
	}
	var frame strings.Builder
	c.writeFrame(&frame)
	if frame.Len() > 0 && first > 0 { // before the sheet's own layers, so that they outweigh it
		b.WriteString("@layer cp-frame;\n")
	}
	c.write(b, c.sheet.Rules[:first], 0)
	b.WriteString(frame.String())
	c.write(b, c.sheet.Rules[first:], 0)
}

func (c *subsetter) write(b *strings.Builder, rules []*Rule, depth int) {
	pad := strings.Repeat("  ", depth)
	for _, r := range rules {
		src := c.sheet.Source
		switch {
		case r.At == "font-face":
			for _, d := range r.Decls {
				if d.Name == "font-family" && c.fonts[strings.ToLower(strings.Trim(string(d.Value.Of(src)), `"' `))] {
					b.WriteString(pad + string(r.Of(src)) + "\n")
				}
			}
		case strings.HasSuffix(r.At, "keyframes"):
			if c.animations[strings.Trim(string(r.Prelude.Of(src)), `"'`)] {
				b.WriteString(pad + string(r.Of(src)) + "\n")
			}
		case r.At == "property":
			if c.props[string(r.Prelude.Of(src))] {
				b.WriteString(pad + string(r.Of(src)) + "\n")
			}
		case r.At == "charset": // the carried text is UTF-8
		case r.At != "" && !r.HasBody: // @import, @layer a, b; @charset, @namespace
			b.WriteString(pad + string(r.Of(src)) + "\n")
		case c.unscoped[r]:
			c.write(b, r.Rules, depth)
		case r.At != "":
			var inner strings.Builder
			c.write(&inner, r.Rules, depth+1)
			if inner.Len() > 0 {
				b.WriteString(pad + string(src[r.Start:r.Body.Start]) + "\n" + inner.String() + pad + "}\n")
			}
		default:
			c.writeStyle(b, r, depth)
		}
	}
}

// writeFreed writes the nested rules that are carried without their parent.
func (c *subsetter) writeFreed(b *strings.Builder, rules []*Rule, depth int) {
	pad, src := strings.Repeat("  ", depth), c.sheet.Source
	for _, r := range rules {
		if r.At != "" {
			var inner strings.Builder
			c.writeFreed(&inner, r.Rules, depth+1)
			if inner.Len() > 0 {
				b.WriteString(pad + string(src[r.Start:r.Body.Start]) + "\n" + inner.String() + pad + "}\n")
			}
			continue
		}
		if list, ok := c.freed[r]; ok {
			b.WriteString(pad + list + " " + string(src[r.Body.Start-1:r.End]) + "\n")
		}
	}
}

func (c *subsetter) writeStyle(b *strings.Builder, r *Rule, depth int) {
	pad, src := strings.Repeat("  ", depth), c.sheet.Source
	var props []string
	for _, d := range c.rootProps[r] {
		if c.props[d.Name] {
			props = append(props, string(d.Of(src)))
		}
	}
	if len(props) > 0 {
		b.WriteString(pad + ":root { " + strings.Join(props, "; ") + "; }\n")
	}
	defer c.writeFreed(b, r.Rules, depth)
	list, ok := c.kept[r]
	if !ok {
		return
	}
	if depth == 0 || len(r.Rules) == 0 {
		defer c.writeInherited(b, r, pad)
	}
	if len(r.Rules) == 0 && len(c.rootProps[r]) > 0 { // its custom properties stand above
		var rest []string
		for _, d := range r.Decls {
			if !strings.HasPrefix(d.Name, "--") {
				rest = append(rest, string(d.Of(src)))
			}
		}
		if len(rest) > 0 {
			b.WriteString(pad + list + " { " + strings.Join(rest, "; ") + "; }\n")
		}
		return
	}
	if len(r.Rules) == 0 {
		b.WriteString(pad + list + " " + string(src[r.Body.Start-1:r.End]) + "\n")
		return
	}
	// Nested rules: what stands in the body is kept in order, without the rules
	// that the pieces do not use.
	type part struct {
		at   span.Span
		rule *Rule
	}
	var parts []part
	for _, d := range r.Decls {
		parts = append(parts, part{at: d.Span})
	}
	for _, n := range r.Rules {
		parts = append(parts, part{at: n.Span, rule: n})
	}
	sort.SliceStable(parts, func(i, j int) bool { return parts[i].at.Start < parts[j].at.Start })
	b.WriteString(pad + list + " {\n")
	for _, p := range parts {
		if p.rule == nil {
			b.WriteString(pad + "  " + string(p.at.Of(src)) + ";\n")
			continue
		}
		if p.rule.At != "" && len(p.rule.Rules) == 0 { // @media with bare declarations
			b.WriteString(pad + "  " + string(p.at.Of(src)) + "\n")
			continue
		}
		c.write(b, []*Rule{p.rule}, depth+1)
	}
	b.WriteString(pad + "}\n")
}
