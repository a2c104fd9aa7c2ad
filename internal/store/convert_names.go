package store

import (
	"encoding/json"
	"slices"
	"strings"
)

// renamedKeys are the keys of JSON texts that have another name.
var renamedKeys = map[string]string{
	"says": "message", "leads": "effect", "sense": "normalizedDigest", "hits": "styleOverrides",
	"leaves": "exclusions",
	"Sense":  "NormalizedDigest",
}

// renamed gives a JSON value under the names of schema 7. What has them already stays.
func renamed(v any) any {
	switch v := v.(type) {
	case []any:
		for i, x := range v {
			v[i] = renamed(x)
		}
		return v
	case map[string]any:
		return renamedObject(v)
	case string:
		return renamedAddress(v)
	default:
		return v
	}
}

// renamedAddress renames an address, by itself or at the end of the key of a decision.
func renamedAddress(s string) string {
	at := strings.LastIndex(s, "setting/")
	if at < 0 || at > 0 && s[at-1] != ':' {
		return s
	}
	if now := renamedSettings[s[at+len("setting/"):]]; now != "" {
		return s[:at] + "setting/" + now
	}
	return s
}

// byName are objects whose keys are names that people gave: a blank called "about" stays one.
var byName = []string{"fills", "fillins", "kits", "components", "media", "pages", "decisions", "proposes"}

// renamedValues renames what stands in an object whose keys are names, and addresses in them.
func renamedValues(v map[string]any) map[string]any {
	out := make(map[string]any, len(v))
	for k, x := range v {
		if _, text := x.(string); !text { // a text is what somebody wrote
			x = renamed(x)
		}
		out[renamedAddress(k)] = x
	}
	return out
}

func renamedObject(v map[string]any) map[string]any {
	out := make(map[string]any, len(v))
	for k, x := range v {
		if named, ok := x.(map[string]any); ok && slices.Contains(byName, k) {
			out[k] = renamedValues(named)
			continue
		}
		if now := renamedKeys[k]; now != "" {
			k = now
		}
		switch k {
		case "about":
			k = "key"
			if s, ok := x.(string); ok && len(s) == 64 && !strings.ContainsAny(s, ":/") {
				k = "subjectDigest"
			}
		case "placement":
			x = placement(x)
		case "trigger":
			x = trigger(x)
		case "width":
			x = width(x)
		case "decidedBy":
			x = decidedBy(x)
		case "partsMayGiveWay", "placementsMayBeTaken":
			if x == true {
				out["seats"] = "kit"
			}
			continue
		case "Meta": // of an origin: a JSON text
			if s, ok := x.(string); ok && s != "" {
				var meta any
				if unmarshal(s, &meta) == nil {
					if b, err := json.Marshal(renamed(meta)); err == nil {
						x = string(b)
					}
				}
			}
		}
		if x == nil && (k == "width" || k == "trigger") {
			continue
		}
		out[renamedAddress(k)] = renamed(x)
	}
	if kind, key := out["kind"], out["key"]; kind == "setting" {
		if s, ok := key.(string); ok && renamedSettings[s] != "" {
			out["key"] = renamedSettings[s]
		}
	}
	return out
}

// placement renames on and except.
func placement(x any) any {
	p, ok := x.(map[string]any)
	if !ok {
		return x
	}
	for old, now := range map[string]string{"on": "where", "except": "unless"} {
		if v, ok := p[old]; ok {
			delete(p, old)
			p[now] = v
		}
	}
	return p
}

// trigger says in today's words when an overlay appears; nil for what never did.
func trigger(x any) any {
	t, ok := x.(map[string]any)
	if !ok {
		return x
	}
	if once, ok := t["once"]; ok {
		delete(t, "once")
		if once == true {
			t["repeat"] = "never"
		}
	}
	switch on, _ := t["on"].(string); on {
	case "button":
		t["on"] = "click"
		delete(t, "value")
	case "leave":
		t["on"] = "pointer-out"
		delete(t, "value")
	case "after":
		t["on"] = "delay"
	case "depth": // percent
		t["on"] = "scroll"
		if n, ok := t["value"].(json.Number); ok {
			if f, err := n.Float64(); err == nil {
				t["value"] = min(1, max(0, f/100))
			}
		}
	case "click", "pointer-out", "delay", "scroll":
	default:
		return nil
	}
	return t
}

// width says in today's words how wide something is; nil for what nobody knows.
func width(x any) any {
	switch x {
	case "contained", "text":
		return "text"
	case "full", "edge":
		return "edge"
	}
	if _, ok := x.(string); ok {
		return nil
	}
	return x // of a picture
}

// decidedBy says on whose word something was decided.
func decidedBy(x any) any {
	s, _ := x.(string)
	switch {
	case s == "", slices.Contains([]string{"person", "prior-delivery", "policy", "seats"}, s):
		return x
	case s == "you":
		return "person"
	case strings.HasPrefix(s, "you, at"):
		return "prior-delivery"
	default:
		return "policy"
	}
}
