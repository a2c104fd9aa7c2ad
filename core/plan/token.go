package plan

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/tokens"
)

// TokenRow is a token of the kit that the site has with another value, or lacks.
type TokenRow struct {
	Property string  `json:"property"`
	Site     string  `json:"site"` // empty: the site lacks it
	Kit      string  `json:"kit"`
	Distance float64 `json:"distance"` // OKLab; 0 when they are no colours
	// Nearest is the site's property whose colour is nearest to one that the site lacks.
	Nearest   string    `json:"nearest,omitempty"`
	Key       string    `json:"key"`
	Decision  Decision  `json:"decision"`
	DecidedBy DecidedBy `json:"decidedBy"`
	Choices   []Choice  `json:"choices"`
}

// allTokens is the key of a decision about all tokens of which nobody decided alone.
var allTokens = Key(AboutToken, "*")

// siteToken is a token as the site has it.
type siteToken struct {
	at   item.Address
	path string
	css  string
}

// tokenComparer is the stage that compares the tokens of both sides.
type tokenComparer struct {
	given
	rowList
	*transform
	tokens []TokenRow
	taking tokenValues
}

// tokenValues are values in JSON of the site's tokens, by document and path.
type tokenValues map[item.Address]map[string]string

// compareTokens compares the tokens of both sides, and decides about them. It gives T with the
// tokens that the site's stand in for, and the values that the site's are to take.
func compareTokens(g given, rows rowList, under *transform) ([]TokenRow, *transform, tokenValues, error) {
	m := &tokenComparer{given: g, rowList: rows, transform: under.clone(), taking: tokenValues{}}
	err := m.all()
	return m.tokens, m.transform, m.taking, err
}

func (m *tokenComparer) all() error {
	theirs, err := siteTokens(m.given, m.rowList)
	if err != nil {
		return err
	}
	for _, row := range m.list {
		if row.Address.Kind != item.Tokens || !comesIn(row) && row.Decision != "" {
			continue
		}
		h, ok := m.parcel.Find(row.Address)
		if !ok {
			continue
		}
		b, err := item.Read(m.parcel.Collection, h)
		if err != nil {
			return err
		}
		set, err := tokens.Parse(b)
		if err != nil {
			return fmt.Errorf("%s: %w", row.Address, err)
		}
		for _, t := range set.List {
			if err := m.token(set, t, theirs); err != nil {
				return err
			}
		}
	}
	if _, ok := m.ask.Decisions[allTokens]; ok {
		m.used[allTokens] = true
	}
	return nil
}

// siteTokens gives the site's tokens by property, those apart that this kit delivered.
func siteTokens(g given, rows rowList) (map[string]siteToken, error) {
	own := map[item.Address]bool{}
	for _, o := range g.origins {
		own[o.Item] = true
	}
	for _, row := range rows.list {
		if row.Site != nil && row.Decision == Take {
			own[row.Site.Address] = true
		}
	}
	out := map[string]siteToken{}
	for _, h := range g.site.Sheets() {
		if h.Address.Kind != item.Tokens || own[h.Address] {
			continue
		}
		b, err := item.Read(g.site, h)
		if err != nil {
			return nil, err
		}
		if set, err := tokens.Parse(b); err == nil {
			for _, t := range set.List {
				out[t.Property()] = siteToken{h.Address, t.Path, set.CSS(t)}
			}
		}
	}
	return out, nil
}

func (m *tokenComparer) token(set *tokens.Set, t tokens.Token, theirs map[string]siteToken) error {
	row := TokenRow{Property: t.Property(), Kit: set.CSS(t)}
	site, both := theirs[row.Property]
	kitColour, isColour := tokens.ParseColour(row.Kit)
	switch {
	case both && site.css == row.Kit, len(theirs) == 0:
		return nil
	case both:
		row.Site = site.css
		if c, ok := tokens.ParseColour(site.css); ok && isColour {
			row.Distance = round3(tokens.Distance(c, kitColour))
		}
		row.Choices = []Choice{
			{Decision: Keep, Effect: fmt.Sprintf("the site's %s stays, for the kit's pieces too", site.css)},
			{Decision: Take, Effect: fmt.Sprintf("the site's %s becomes %s, everywhere", row.Property, row.Kit)},
		}
	case isColour:
		row.Distance = math.Inf(1)
		for _, p := range sortedKeys(theirs) {
			if c, ok := tokens.ParseColour(theirs[p].css); ok {
				if d := round3(tokens.Distance(c, kitColour)); d < row.Distance {
					row.Nearest, row.Distance = p, d
				}
			}
		}
		if row.Nearest == "" {
			return nil
		}
		row.Choices = []Choice{
			{Decision: Keep, Effect: "it comes in with the kit"},
			{
				Decision: Nearest,
				Effect: fmt.Sprintf("the kit's pieces use the site's %s (%s) in its place", row.Nearest,
					theirs[row.Nearest].css),
			},
		}
	default:
		return nil
	}
	row.Key = Key(AboutToken, row.Property)
	row.Decision, row.DecidedBy = Keep, ByPolicy
	d, ok := m.decided(row.Key, about(row.Site, row.Kit, row.Nearest))
	if !ok {
		if d, ok = m.decided(allTokens, ""); ok &&
			!slices.ContainsFunc(row.Choices, func(c Choice) bool { return c.Decision == d.Decision }) {
			ok = false
		}
	}
	if ok {
		if !slices.ContainsFunc(row.Choices, func(c Choice) bool { return c.Decision == d.Decision }) {
			return &DecisionError{row.Key, "choose " + choiceWords(row.Choices), row.Choices}
		}
		row.Decision, row.DecidedBy = d.Decision, ByPerson
	}
	switch row.Decision {
	case Take:
		raw, err := json.Marshal(t.Value)
		if err != nil {
			return err
		}
		if m.taking[site.at] == nil {
			m.taking[site.at] = map[string]string{}
		}
		m.taking[site.at][site.path] = string(raw)
	case Nearest:
		m.names[facts.Name{Space: facts.Property, Name: row.Property}] = row.Nearest
	default:
	}
	m.tokens = append(m.tokens, row)
	return nil
}

func round3(f float64) float64 { return math.Round(f*1000) / 1000 }

// takeTokens writes the kit's values into the site's own token documents.
func takeTokens(g given, taking tokenValues) ([]PlannedWrite, error) {
	var out []PlannedWrite
	for _, h := range g.site.Sheets() {
		values := taking[h.Address]
		if len(values) == 0 {
			continue
		}
		b, err := item.Read(g.site, h)
		if err != nil {
			return nil, err
		}
		for _, path := range sortedKeys(values) {
			if b, err = tokens.SetValue(b, path, values[path]); err != nil {
				return nil, fmt.Errorf("%s: %w", h.Address, err)
			}
		}
		g.addPrecondition(h.Address)
		h.ID = ""
		h.Doc, h.Bytes, h.NormalizedDigest = item.DigestOf(b), int64(len(b)),
			facts.NormalizedDigestOf(item.Tokens, "", b)
		out = append(out, PlannedWrite{Head: h, Content: b})
	}
	return out, nil
}
