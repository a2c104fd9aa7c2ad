package plan

import (
	"encoding/json"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/kit"
)

// sentences are the members of a plan that say in words what its facts and codes say.
var sentences = map[string]bool{
	"message": true, "effect": true, "why": true, "order": true, "needed": true, "fixed": true, "notes": true,
}

// Digest is the plan's identity: what a person looked at when they said yes. It covers facts
// and codes and no sentence, so that a sentence that is worded anew makes no plan stale.
func (p *Plan) Digest() item.Digest {
	text, err := json.Marshal(p)
	if err != nil {
		panic(err) // a plan holds only plain values
	}
	var plain any
	if err := json.Unmarshal(text, &plain); err != nil {
		panic(err) // it was just written
	}
	b, err := kit.CanonicalJSON(withoutSentences("", plain))
	if err != nil {
		panic(err)
	}
	return item.DigestOf(b)
}

func withoutSentences(name string, v any) any {
	switch v := v.(type) {
	case map[string]any:
		out := map[string]any{}
		for k, x := range v {
			if !sentences[k] {
				out[k] = withoutSentences(k, x)
			}
		}
		return out
	case []any:
		out := make([]any, len(v))
		for i, x := range v {
			out[i] = withoutSentences(name, x)
		}
		return out
	case string:
		if name == "scripts" { // an item, and in words what runs
			item, _, _ := strings.Cut(v, ": ")
			return item
		}
		return v
	default:
		return v
	}
}
