package edit

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/says"
)

// manifest is where a site keeps what is known of its components' attributes: a Custom Elements Manifest
// (schema 1.0 or 2.0).
var manifest = item.Address{Kind: item.Media, Key: "custom-elements.json"}

// component gives a component's element another attribute; an empty value takes it out.
func (e *editor) component(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	n := p.own
	if !strings.Contains(n.Tag, "-") || strings.HasPrefix(n.Tag, "cp-") {
		return "", refuse("<%s> is no component", says.TagName(n.Tag))
	}
	name := strings.ToLower(op.Property)
	known, err := ComponentAttributes(e.over, n.Tag)
	if err != nil {
		return "", err
	}
	at, has := n.Attr(name)
	if !has && !slices.Contains(known, name) {
		return "", refuse(
			"<%s> has no attribute %q (it has: %s)",
			says.TagName(n.Tag),
			op.Property,
			strings.Join(known, ", "),
		)
	}
	if strings.HasPrefix(name, "on") || name == "style" || name == "srcdoc" || markup.RunsScript(op.Value) {
		return "", refuse("browsers would run it: write scripts in the source")
	}
	says := fmt.Sprintf("set %s of <%s> in %s", name, n.Tag, p.head.Address)
	edit := markup.SetAttr(n, name, op.Value)
	if op.Value == "" && has {
		edit.Span, edit.New = at.All, nil
		edit.Start--
	}
	return says, e.change(p, edit)
}

// observed finds the attributes that a component's script says it observes (HTML Living Standard 4.13.3).
var observed = regexp.MustCompile(`observedAttributes[^\[]{0,80}\[([^\]]*)\]`)

var quoted = regexp.MustCompile("[\"'`]([a-zA-Z][a-zA-Z0-9_-]*)[\"'`]")

// ComponentAttributes gives the attributes that a component is known to have, in order: by the site's
// manifest, and by its script.
func ComponentAttributes(c item.Collection, tag string) ([]string, error) {
	var out []string
	if h, ok := c.Find(manifest); ok {
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		var m struct {
			Modules []struct {
				Declarations []struct {
					TagName    string `json:"tagName"`
					Attributes []struct {
						Name string `json:"name"`
					} `json:"attributes"`
				} `json:"declarations"`
			} `json:"modules"`
		}
		if err := json.Unmarshal(b, &m); err != nil {
			return nil, refuse("%s cannot be read: %v", manifest, err)
		}
		for _, x := range m.Modules {
			for _, d := range x.Declarations {
				for _, a := range d.Attributes {
					if d.TagName == tag {
						out = append(out, strings.ToLower(a.Name))
					}
				}
			}
		}
	}
	if h, ok := c.Find(item.Address{Kind: item.Component, Key: tag}); ok {
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		for _, list := range observed.FindAllSubmatch(b, -1) {
			for _, q := range quoted.FindAllSubmatch(list[1], -1) {
				out = append(out, strings.ToLower(string(q[1])))
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out), nil
}
