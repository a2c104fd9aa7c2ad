package making

import (
	"bytes"
	"errors"
	"image"
	"image/jpeg"
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func at(s string) item.Address { return item.MustAddress(s) }

func picture(t *testing.T) []byte {
	t.Helper()
	img := image.NewNRGBA(image.Rect(0, 0, 640, 400))
	for i := range img.Pix {
		img.Pix[i] = byte(i * i / 7)
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, nil))
	return b.Bytes()
}

// hut is a small site.
func hut(t *testing.T) *Source {
	t.Helper()
	s := item.NewSet()
	styles := []item.Address{at("stylesheet/base")}
	put := func(a, text string, m item.Meta) { s.Put(item.Head{Address: at(a), Meta: m}, []byte(text)) }
	put(
		"page/home",
		`<!doctype html><html><head><title>Kestrel Refuge</title><style media="print">.card { border: 0 `+
			`}</style></head><body><main>
<section class="band"><h2>Why come</h2><ul class="cards"><li class="card">Soup</li><li `+
			`class="card">Stove</li></ul></section>
<p class="call"><a href="tel:12">Call <b>us</b></a></p><x-strip></x-strip><img src="/media/door.jpg" alt="A `+
			`door"></main></body></html>`,
		item.Meta{Slug: "/", Styles: styles},
	)
	put("page/home/deep", `<!doctype html><p>deep</p>`, item.Meta{Slug: "/home/deep/"})
	put("page/above", `<!doctype html><p>above</p>`, item.Meta{Slug: "/home/"})
	put(
		"stylesheet/base",
		`.band .cards { display: grid } .card { color: red } .call { color: blue } li:first-child { top: 0 }`,
		item.Meta{},
	)
	put("component/x-strip", `customElements.define("x-strip", class extends HTMLElement {})`,
		item.Meta{Version: "2.3.0"})
	put("media/door.jpg", string(picture(t)), item.Meta{MediaType: "image/jpeg"})
	put("setting/title", `"Kestrel Refuge"`, item.Meta{})
	put("setting/address", `"https://kestrel.example/"`, item.Meta{})
	return &Source{Items: s, Site: true, Origins: map[item.Address]string{at("stylesheet/base"): "the kit old@1.0.0"}}
}

func assemble(t *testing.T, m Draft) *Assembled {
	t.Helper()
	a, err := Assemble("test", "1.0.0", m, func(name string) (*Source, error) {
		switch name {
		case "hut":
			return hut(t), nil
		case "other":
			s := item.NewSet()
			s.Put(item.Head{Address: at("stylesheet/base")}, []byte(".card { color: green }"))
			return &Source{Items: s}, nil
		}
		return nil, &GoneError{errors.New("there is no such source")}
	})
	require.NoError(t, err)
	return a
}

func text(t *testing.T, a *Assembled, address string) string {
	t.Helper()
	h, ok := a.Items.Find(at(address))
	require.True(t, ok, "%s is not in it", address)
	b, err := item.Read(a.Items, h)
	require.NoError(t, err)
	return string(b)
}

func said(a *Assembled) string {
	var out []string
	for _, f := range a.Found {
		out = append(out, f.Address.String()+" "+f.Message)
	}
	return strings.Join(out, "\n")
}

func TestAnElementOfAPageIsAPieceOfItsOwn(t *testing.T) {
	cards := Pick{From: "hut", Address: at("page/home"), Element: "ul.cards", As: at("block/cards")}
	a := assemble(t, Draft{Picks: []Pick{cards}})
	assert.Equal(t, `<ul class="cards"><li class="card">Soup</li><li class="card">Stove</li></ul>`,
		text(t, a, "block/cards"))
	base := text(t, a, "stylesheet/base")
	assert.Contains(t, base, "grid", "a rule that leans on where it stood comes along")
	assert.NotContains(t, base, "blue")
	assert.Contains(t, text(t, a, "stylesheet/cards"), "border: 0", "the page's own style element, too")
	_, page := a.Items.Find(at("page/home"))
	assert.False(t, page)

	both := assemble(
		t,
		Draft{
			Picks: []Pick{
				cards,
				{From: "hut", Address: at("page/home")},
				{From: "hut", Address: at("page/home"), Element: "ul.cards > li:first-child", As: at("section/first")},
			},
		},
	)
	assert.NotContains(t, text(t, both, "page/home"), "cp-from", "the page itself stays as it is")
	assert.NotContains(t, text(t, both, "block/cards"), "cp-from")
	assert.Equal(t, `<li class="card">Soup</li>`, text(t, both, "section/first"))

	for says, p := range map[string]Pick{
		"names 2 elements": {Address: at("page/home"), Element: "li", As: at("block/x")},
		"names no element": {Address: at("page/home"), Element: "nav", As: at("block/x")},
		"not a page":       {Address: at("page/home"), Element: "ul", As: at("page/x")},
		"cannot stand alone as a piece of a page": {Address: at("page/home"), Element: "title", As: at("block/x")},
		"has no elements":                         {Address: at("media/door.jpg"), Element: "ul", As: at("block/x")},
	} {
		t.Run(says, func(t *testing.T) {
			assert.ErrorContains(t, CheckElement(hut(t).Items, p), says)
		})
	}
	gone := cards
	gone.Element = "ol"
	assert.Contains(t, said(assemble(t, Draft{Picks: []Pick{gone}})), "it is an element of page/home, and")
}

func TestBlanksAreMarkedOnThePieceAndInsideALink(t *testing.T) {
	m := Draft{Picks: []Pick{{From: "hut", Address: at("page/home")}}, Marks: []BlankMark{
		{
			In:      at("page/home"),
			Element: ".call a",
			Bind:    "href:tel:{phone}",
		},
		{In: at("page/home"), Element: ".call b", Bind: "text:who"},
		{In: at("page/home"), Element: "h2", Bind: "text:why"},
	},
		Fillins: map[string]kit.Fillin{"phone": {Label: "Telephone", Type: "phone"}}}
	a := assemble(t, m)
	assert.Contains(t, text(t, a, "page/home"),
		`<a data-fill="href:tel:{phone}" href="tel:12">Call <b data-fill="text:who">us</b></a>`)
	var fills []string
	for _, f := range a.List.Fillins {
		fills = append(fills, f.Name+" "+string(f.Type)+" "+f.Label+" "+f.Sample)
	}
	assert.Equal(t, []string{"phone phone Telephone 12", "who text Who us", "why text Why Why come"}, fills)
	for says, mark := range map[string]BlankMark{
		"holds other elements":       {In: at("page/home"), Element: ".call a", Bind: "text:x"},
		"is already the fill-in why": {In: at("page/home"), Element: "h2", Bind: "text:x"},
		"names 2 elements":           {In: at("page/home"), Element: "li", Bind: "text:x"},
		"does not name the place":    {In: at("page/home"), Element: "h2", Bind: "why"},
	} {
		t.Run(says, func(t *testing.T) {
			bad := m
			bad.Marks = append(append([]BlankMark{}, m.Marks...), mark)
			assert.Contains(t, said(assemble(t, bad)), says)
		})
	}
	for _, bind := range []string{"", "text", "text:", "text:a;href:b", "text:A B", "onclick:a", "href:javascript:{a}",
		"href: JavaScript:{a}", "srcdoc:a"} {
		t.Run(bind, func(t *testing.T) {
			_, err := BlankMark{In: at("page/home"), Element: "p", Bind: bind}.Check()
			assert.Error(t, err, bind)
		})
	}
	_, err := BlankMark{In: at("page/home"), Bind: "text:a"}.Check()
	assert.ErrorContains(t, err, "names no element")
	assert.Contains(t,
		said(assemble(t, Draft{Picks: []Pick{{From: "hut", Address: at("page/above")}}, Marks: m.Marks[:1]})),
		"it is not in the kit")
}

func TestWhatIsLeftByHandIsANeed(t *testing.T) {
	m := Draft{
		Picks:      []Pick{{From: "hut", Address: at("page/home")}},
		Exclusions: []Exclusion{{Address: at("media/door.jpg")}, {Address: at("component/x-strip"), Optional: true}},
	}
	a := assemble(t, m)
	require.Len(t, a.List.Needs.Items, 1)
	assert.Equal(t, "media/door.jpg", a.List.Needs.Items[0].Address)
	assert.False(t, a.List.Needs.Items[0].Optional)
	assert.Equal(t, map[string]kit.ComponentNeed{"x-strip": {Range: "^2.3.0", Optional: true}},
		a.List.Needs.Components)
	m.Exclusions[0].Optional = true
	m.Components = map[string]kit.ComponentNeed{"x-strip": {Range: ">=2 <4"}}
	a = assemble(t, m)
	assert.True(t, a.List.Needs.Items[0].Optional)
	assert.Equal(t, ">=2 <4", a.List.Needs.Components["x-strip"].Range, "what a person says goes first")
	deep := assemble(t, Draft{Picks: []Pick{{From: "hut", Address: at("page/home/deep")}}})
	require.Len(t, deep.List.Needs.Items, 1)
	assert.Equal(t, "page/above", deep.List.Needs.Items[0].Address, "the page above is an optional need")
	assert.True(t, deep.List.Needs.Items[0].Optional)
}

func TestPicturesTravelAsIsSaid(t *testing.T) {
	m := Draft{
		Picks: []Pick{{From: "hut", Address: at("page/home")}},
		Media: map[string]Treatment{"*": {How: Lighter, Width: 320}},
	}
	a := assemble(t, m)
	require.Len(t, a.Pictures, 1)
	p := a.Pictures[0]
	assert.Equal(t, []string{"lighter", "640×400", "320×200"}, []string{string(p.How), p.Was, p.Is})
	assert.Less(t, p.After, p.Before)
	h, _ := a.Items.Find(at("media/door.jpg"))
	assert.Equal(t, p.After, h.Bytes)
	for _, e := range a.List.Items {
		if e.Kind == item.Media {
			assert.Equal(t, h.Doc, e.SHA256, "the packing list names the lighter one")
		}
	}
	m.Media["media/door.jpg"] = Treatment{How: Placeholder}
	a = assemble(t, m)
	assert.EqualValues(t, "placeholder", a.Pictures[0].How)
	assert.Contains(t, a.List.LeavesOut[len(a.List.LeavesOut)-1].Why, "640×400")
	m.Media["media/door.jpg"] = Treatment{How: Carried}
	assert.Empty(t, assemble(t, m).Pictures)
	assert.Error(t, Treatment{How: "crushed"}.Check())
	assert.Error(t, Treatment{How: Lighter, Quality: 101}.Check())
}

func TestAssemblingTellsWhatIsWrong(t *testing.T) {
	a := assemble(
		t,
		Draft{
			Picks: []Pick{
				{From: "hut", Address: at("page/home")},
				{From: "other", Address: at("stylesheet/base")},
				{From: "nowhere", Address: at("page/x")},
				{From: "hut", Address: at("page/gone")},
			},
			Proposes: map[string]any{"setting/home": "page/none", "page/x": 1, "setting/visit-counter": 2},
		},
	)
	for _, want := range []string{"two sources have different items", "nowhere: there is no such source",
		"page/gone hut has it no more", "proposed as page/none, which is not in the kit",
		`"page/x", which is no setting`, "setting/visit-counter it is proposed, and it is site-only",
		"it came with the kit old@1.0.0"} {
		assert.Contains(t, said(a), want)
	}
	require.Len(t, a.Origins, 1)
	assert.Equal(t, []string{"Kestrel Refuge"}, a.Origins[0].Names)
	assert.Equal(t, []string{"hut.localhost", "kestrel.example"}, a.Origins[0].Hosts)
	one, err := assemble(t, Draft{Picks: []Pick{{From: "hut", Address: at("page/home")}}}).List.Digest()
	require.NoError(t, err)
	two, err := assemble(t, Draft{Picks: []Pick{{From: "hut", Address: at("page/home")}}}).List.Digest()
	require.NoError(t, err)
	assert.Equal(t, one, two)
}
