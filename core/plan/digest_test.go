package plan

import (
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
)

// A plan's digest covers facts and codes: no sentence that is worded anew makes it stale.
func TestAPlansDigestCoversFactsAndNoSentence(t *testing.T) {
	plan := func() *Plan {
		return &Plan{
			Kit: "hut-basics", Version: "1.0.0", Policy: Careful, Terms: kit.Terms{License: "CC0-1.0"},
			Rows: []Row{{Address: item.MustAddress("menu/main"), Standing: Taken, Why: "another", Order: "behind",
				Needed: "a page shows it", Choices: []Choice{{Decision: Both, Effect: "beside"}}}},
			Questions: []Question{{Key: "menu/main", Kind: AboutItem, Message: "The menu is taken.",
				Choices: []Choice{{Decision: Both, Effect: "beside"}}}},
			Clashes:  []Clash{{Key: "class:card", Name: "card", Fixed: "a script names it"}},
			Needs:    []NeedRow{{What: "x-clock >=2", State: TooOld, Message: "1.4 is here"}},
			Links:    []LinkRow{{Slug: "/gone/", State: "broken", Message: "no page is there"}},
			Settings: []SettingRow{{Setting: item.MustAddress("setting/title"), Why: "the site has none"}},
			Scripts:  []string{"component/x-clock: the component's script"},
			Notes:    []string{"asked again"},
		}
	}
	was := plan().Digest()
	for name, word := range map[string]func(*Plan){
		"why":      func(p *Plan) { p.Rows[0].Why = "worded anew" },
		"order":    func(p *Plan) { p.Rows[0].Order = "worded anew" },
		"needed":   func(p *Plan) { p.Rows[0].Needed = "worded anew" },
		"effect":   func(p *Plan) { p.Rows[0].Choices[0].Effect = "worded anew" },
		"message":  func(p *Plan) { p.Questions[0].Message = "worded anew" },
		"fixed":    func(p *Plan) { p.Clashes[0].Fixed = "worded anew" },
		"need":     func(p *Plan) { p.Needs[0].Message = "worded anew" },
		"link":     func(p *Plan) { p.Links[0].Message = "worded anew" },
		"proposal": func(p *Plan) { p.Settings[0].Why = "worded anew" },
		"script":   func(p *Plan) { p.Scripts[0] = "component/x-clock: worded anew" },
		"note":     func(p *Plan) { p.Notes = []string{"worded anew", "and one more"} },
	} {
		t.Run(name, func(t *testing.T) {
			p := plan()
			word(p)
			assert.Equal(t, was, p.Digest(), name)
		})
	}
	for name, change := range map[string]func(*Plan){
		"standing": func(p *Plan) { p.Rows[0].Standing = New },
		"choice":   func(p *Plan) { p.Rows[0].Choices[0].Decision = Keep },
		"question": func(p *Plan) { p.Questions = nil },
		"need":     func(p *Plan) { p.Needs[0].State = Met },
		"script":   func(p *Plan) { p.Scripts[0] = "component/x-other: the component's script" },
		"link":     func(p *Plan) { p.Links[0].Slug = "/elsewhere/" },
		"terms":    func(p *Plan) { p.Terms.License = "CC-BY-4.0" },
		"bytes":    func(p *Plan) { p.BytesIn = 1 },
	} {
		t.Run(name, func(t *testing.T) {
			p := plan()
			change(p)
			assert.NotEqual(t, was, p.Digest(), name)
		})
	}
}
