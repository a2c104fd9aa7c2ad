package solve

import (
	"fmt"
	"strings"
)

// ParseWorld reads releases and a question from text, for tests and benchmarks:
//
//	kit hut-basics@1.0.0
//	  needs winter-notices ^0.3
//	  wants hut-maps ^1
//	  component x-weather-strip >=2.1 <4
//	  uses x-map ^1
//	  brings x-weather-strip 2.3.0
//	  engine >=1.0 <3
//	want hut-basics ^1
//	installed winter-notices@0.3.1
//	site component x-weather-strip 1.4.0
//	site engine 1.1.0
//
// Empty lines and lines that begin with # are passed over.
func ParseWorld(text string) (list []Release, q Question, err error) {
	q = Question{Want: map[string]string{}, Installed: map[string]string{}, SiteComponents: map[string]string{}}
	for n, line := range strings.Split(text, "\n") {
		words := strings.Fields(line)
		if len(words) == 0 || strings.HasPrefix(words[0], "#") {
			continue
		}
		bad := fmt.Errorf("line %d: %q is not understood", n+1, strings.TrimSpace(line))
		rest := func(from int) string { return strings.Join(words[from:], " ") }
		inner := line[0] == ' ' || line[0] == '\t'
		if inner && len(list) == 0 {
			return nil, q, bad
		}
		switch {
		case inner && words[0] == "engine" && len(words) > 1:
			list[len(list)-1].Engine = rest(1)
		case inner && len(words) > 2:
			r := &list[len(list)-1]
			m := map[string]map[string]string{"needs": r.Needs, "wants": r.Wants, "component": r.Components,
				"uses": r.WantsComponents, "brings": r.Brings}[words[0]]
			if m == nil {
				return nil, q, bad
			}
			m[words[1]] = rest(2)
		case inner:
			return nil, q, bad
		case (words[0] == "kit" || words[0] == "installed") && len(words) == 2:
			name, version, ok := strings.Cut(words[1], "@")
			if !ok || name == "" {
				return nil, q, bad
			}
			if words[0] == "installed" {
				q.Installed[name] = version
				continue
			}
			list = append(
				list,
				Release{
					Kit:             name,
					Version:         version,
					Needs:           map[string]string{},
					Wants:           map[string]string{},
					Components:      map[string]string{},
					WantsComponents: map[string]string{},
					Brings:          map[string]string{},
				},
			)
		case words[0] == "want" && len(words) > 2:
			q.Want[words[1]] = rest(2)
		case words[0] == "site" && len(words) == 3 && words[1] == "engine":
			q.Engine = words[2]
		case words[0] == "site" && len(words) == 4 && words[1] == "component":
			q.SiteComponents[words[2]] = words[3]
		default:
			return nil, q, bad
		}
	}
	return list, q, nil
}
