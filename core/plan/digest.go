package plan

import (
	"encoding/json"
	"slices"
	"strings"

	"compactparcel/core/item"
)

// Digest is the plan's identity: what a person looked at when they said yes. It covers facts
// and codes and no sentence, so that a sentence that is worded anew makes no plan stale.
func (p *Plan) Digest() item.Digest {
	text, err := json.Marshal(p.withoutSentences())
	if err != nil {
		panic(err) // a plan holds only plain values
	}
	return item.DigestOf(text)
}

// withoutSentences is the plan without what it says in words of its facts and codes.
func (p *Plan) withoutSentences() *Plan {
	q := *p
	q.Notes = nil
	q.Rows = each(p.Rows, func(r *Row) {
		r.Why, r.Order, r.Needed, r.Choices = "", "", "", plain(r.Choices)
	})
	q.Questions = each(p.Questions, func(x *Question) { x.Message, x.Choices = "", plain(x.Choices) })
	q.Groups = each(p.Groups, func(x *NameGroup) { x.Choices = plain(x.Choices) })
	q.Clashes = each(p.Clashes, func(x *Clash) { x.Fixed, x.Choices = "", plain(x.Choices) })
	q.Seats = each(p.Seats, func(x *Seat) { x.Choices = plain(x.Choices) })
	q.Surrounds = each(p.Surrounds, func(x *SurroundRow) { x.Choices = plain(x.Choices) })
	q.Needs = each(p.Needs, func(x *NeedRow) { x.Message, x.Choices = "", plain(x.Choices) })
	q.Tokens = each(p.Tokens, func(x *TokenRow) { x.Choices = plain(x.Choices) })
	q.Fields = each(p.Fields, func(x *FieldRow) { x.Choices = plain(x.Choices) })
	q.Links = each(p.Links, func(x *LinkRow) { x.Message = "" })
	q.Settings = each(p.Settings, func(x *SettingRow) { x.Why, x.Choices = "", plain(x.Choices) })
	q.Scripts = each(p.Scripts, func(x *string) { *x, _, _ = strings.Cut(*x, ": ") }) // an item, and what runs
	return &q
}

// each gives a copy of a list with a change made to each of its members.
func each[T any](list []T, change func(*T)) []T {
	out := slices.Clone(list)
	for i := range out {
		change(&out[i])
	}
	return out
}

func plain(list []Choice) []Choice { return each(list, func(c *Choice) { c.Effect = "" }) }
