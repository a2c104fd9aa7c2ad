package markup

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"compactparcel/core/span"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEveryNodeFindsItsSource(t *testing.T) {
	src := []byte(
		"<!DOCTYPE html>\n<HTML lang=de><head><title>A &amp; B</title></head><body class='x  y'>\n<p>one<p>two " +
			"<b>bold<i>both</b>it</i>\n<table><tr><td>cell</table><svg viewBox=\"0 0 1 1\"><path d='M0 " +
			"0'/></svg><img src=/a.png alt></body></html>",
	)
	tree := Parse(src, "")
	require.True(t, tree.Document)
	for _, n := range tree.All {
		if n.Own {
			assert.Equal(t, byte('<'), src[n.Start.Start], n.Tag)
			assert.GreaterOrEqual(t, n.End.Start, n.Start.End, n.Tag)
		}
	}
	tbody := tree.ByTag("tbody")
	require.Len(t, tbody, 1, "browsers imply a tbody")
	assert.False(t, tbody[0].Own)
	ps := tree.ByTag("p")
	require.Len(t, ps, 2)
	assert.Equal(t, "one", string(ps[0].Inner.Of(src)))
	assert.False(t, ps[0].Closed)
	img := tree.ByTag("img")[0]
	a, ok := img.Attr("src")
	require.True(t, ok)
	assert.Equal(t, "/a.png", string(a.At.Of(src)))
	assert.Equal(t, "A & B", tree.ByTag("title")[0].Text())
	assert.Equal(t, []string{"x", "y"}, tree.ByTag("body")[0].Classes())
}

func TestFragmentKeepsItsContext(t *testing.T) {
	row := []byte("<tr><td>x</td></tr>")
	assert.NotEmpty(t, Parse(row, "tbody").ByTag("tr"))
	assert.Empty(t, Parse(row, "").ByTag("tr"), "a row alone in body is dropped, as browsers do")
}

func TestTooDeepIsOpaque(t *testing.T) {
	var src []byte
	for range MaxDepth + 1 {
		src = append(src, "<div>"...)
	}
	assert.True(t, Parse(src, "").Opaque)
}

func TestFillKeepsEverythingElse(t *testing.T) {
	src := []byte(
		`<section  CLASS=a><h2 data-fill="text:hut-name">Sample Hut</h2><a href="/x" ` +
			`data-fill="href:/book?room={room-number}&amp;h={hut-name}">b</a><img data-fill="src:hero; ` +
			`alt:hero-alt" src=/s.png></section>`,
	)
	tree := Parse(src, "")
	values := map[string]string{"hut-name": `Larch <"Saddle">`, "room-number": "7", "hero": "/media/h.jpg"}
	edits, err := FillEdits(tree, "data-fill", func(n string) (string, bool) { v, ok := values[n]; return v, ok })
	require.NoError(t, err)
	out, err := span.Apply(src, edits)
	require.NoError(t, err)
	assert.Equal(
		t,
		`<section  CLASS=a><h2 data-fill="text:hut-name">Larch &lt;"Saddle"&gt;</h2><a `+
			`href="/book?room=7&amp;h=Larch &lt;&quot;Saddle&quot;&gt;" `+
			`data-fill="href:/book?room={room-number}&amp;h={hut-name}">b</a><img data-fill="src:hero; `+
			`alt:hero-alt" src="/media/h.jpg"></section>`,
		string(out),
	)
}

func TestAttributeOffsetsThroughCharacterReferences(t *testing.T) {
	src := []byte(`<a style="background:url(&quot;/m/a.png&quot;)">`)
	a, _ := Parse(src, "").All[0].Attr("style")
	from := len(`background:url("`)
	assert.Equal(t, `/m/a.png`, string(a.Offset(src, from, from+8).Of(src)))
}

func TestNormalizingSetsFormattingAside(t *testing.T) {
	a := Normalize([]byte("<div class=\"b a\" id='x'>\n  <p>Hello   world</p>\n</div>"))
	b := Normalize([]byte("<DIV id=x class='b  a'><p>Hello world</p></DIV>"))
	assert.Equal(t, string(a), string(b))
	assert.NotEqual(t, string(Normalize([]byte("<b>a</b> <b>b</b>"))), string(Normalize([]byte("<b>a</b><b>b</b>"))),
		"a blank between inline elements shows")
	assert.NotEqual(t, string(Normalize([]byte("<pre>a  b</pre>"))), string(Normalize([]byte("<pre>a b</pre>"))))
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("<p>a<div><table><b></table>&amp;<a href='/x?y=&quot;'>"))
	f.Add([]byte("<!doctype html><html><svg><title><b></title></svg><script>a</script"))
	f.Fuzz(func(t *testing.T, src []byte) {
		start := time.Now()
		defer func() {
			if took := time.Since(start); took > 10*time.Second {
				t.Fatalf("%d bytes took %s", len(src), took)
			}
		}()
		tree := Parse(src, "")
		for _, n := range tree.All {
			if n.Own {
				_ = n.Outer().Of(src)
				_ = n.Inner.Of(src)
				for _, a := range n.Attrs {
					_ = a.Offset(src, 0, len(a.Value))
				}
			}
		}
		Normalize(src)
	})
}

func TestBindingsAndTheirGrammar(t *testing.T) {
	src := []byte(`<a data-fill=" text : name ; href:/x?{a}&amp;{b}; broken; alt:; title:{open">x</a>`)
	n := Parse(src, "").All[0]
	var got []string
	for _, b := range Bindings(src, n, "data-fill") {
		got = append(got, b.Target+"="+b.Name+"@"+string(b.At.Of(src)))
	}
	assert.Equal(t, []string{"text=name@name", "href=a@a", "href=b@b"}, got)
	assert.Empty(t, Bindings(src, n, "data-field"))
}

func TestFillsThatCannotBe(t *testing.T) {
	tree := Parse([]byte(`<img data-fill="text:x">`), "")
	_, err := FillEdits(tree, "data-fill", func(string) (string, bool) { return "v", true })
	assert.ErrorContains(t, err, "<img> cannot hold the text")
	// A blank within a blank: the outer text takes the place of all within.
	src := []byte(`<p data-fill="text:a">x <b data-fill="text:b">y</b></p>`)
	tree = Parse(src, "")
	edits, err := FillEdits(tree, "data-fill", func(n string) (string, bool) { return "new " + n, true })
	require.NoError(t, err)
	out, err := span.Apply(src, edits)
	require.NoError(t, err)
	assert.Equal(t, `<p data-fill="text:a">new a</p>`, string(out))
	// Part of a pattern without its value: the sample stays.
	src = []byte(`<a data-fill="href:/{a}/{b}" href="/s">x</a>`)
	edits, err = FillEdits(Parse(src, ""), "data-fill", func(n string) (string, bool) { return "v", n == "a" })
	require.NoError(t, err)
	assert.Empty(t, edits)
}

func TestAttributesAreSetWithoutDisturbingOthers(t *testing.T) {
	for src, want := range map[string]string{
		`<p>x</p>`:              `<p title="a &quot;b&quot;">x</p>`,
		`<p  title='old' id=i>`: `<p  title='a &quot;b&quot;' id=i>`,
		`<p title=old>`:         `<p title="a &quot;b&quot;">`,
		`<p title>`:             `<p title="a &quot;b&quot;">`,
		`<br/>`:                 `<br title="a &quot;b&quot;"/>`,
	} {
		n := Parse([]byte(src), "").All[0]
		out, err := span.Apply([]byte(src), []span.Edit{SetAttr(n, "title", `a "b"`)})
		require.NoError(t, err)
		assert.Equal(t, want, string(out))
	}
}

func TestWhatIsADocument(t *testing.T) {
	for src, want := range map[string]bool{"<!DOCTYPE html>": true, "\xef\xbb\xbf <!-- x --> <html>": true,
		"<head>": true, "<body class=x>": true, "<header>": false, "<bodyguard>": false, "": false, "text": false,
		"<!-- open": false, "<p><html>": false} {
		t.Run(src, func(t *testing.T) {
			assert.Equal(t, want, IsDocument([]byte(src)), src)
		})
	}
}

func TestTheMarkIsNoSecretDoor(t *testing.T) {
	src := []byte(`<p data-cp-source-number="0">a</p><b data-cp-source-number=99999>b</b>`)
	for _, n := range Parse(src, "").All {
		if n.Own {
			assert.Equal(t, byte('<'), src[n.Start.Start])
			_, has := n.Attr("data-cp-source-number")
			assert.True(t, has, "the source's own attribute is seen as it is")
		}
	}
}

func TestWhichDocumentsAreShownByTheStandards(t *testing.T) {
	for src, want := range map[string]bool{
		"<!doctype html><p>": true, "<!-- a --> <!-- b -->\n<!DOCTYPE HTML>": true,
		"\xef\xbb\xbf<!doctype html>": true,
		"<html><body>":                false, "": false, "<!-- open": false, "<p>x": false, "<!doctype svg>": false,
		`<!DOCTYPE HTML PUBLIC "-//W3C//DTD HTML 4.01 Transitional//EN">`:                            false,
		`<!DOCTYPE html PUBLIC "-//W3C//DTD HTML 3.2 Final//EN">`:                                    false,
		`<!DOCTYPE HTML PUBLIC "-//W3C//DTD HTML 4.01//EN" "http://www.w3.org/TR/html4/strict.dtd">`: true,
	} {
		t.Run(src, func(t *testing.T) {
			assert.Equal(t, want, Parse([]byte(src), "").Standards(), src)
		})
	}
}

func TestTheIndexFindsElements(t *testing.T) {
	x := Parse([]byte(`<p class="a b" id="x">1</p><svg><linearGradient class="b"/></svg>`), "").Index()
	assert.Len(t, x.Classes["b"], 2)
	assert.Len(t, x.Classes["a"], 1)
	assert.Equal(t, "p", x.IDs["x"][0].Tag)
	assert.Len(t, x.Tags["linearGradient"], 1)
	assert.Empty(t, x.Classes["c"])
}

// One attribute more than the limit says that a tag is beyond it; those behind are not read.
func TestAttributesBeyondTheLimitAreNotRead(t *testing.T) {
	var b strings.Builder
	b.WriteString("<p")
	for i := range 200_000 {
		fmt.Fprintf(&b, " a%d=1", i)
	}
	b.WriteString(">x</p>")
	src := []byte(b.String())
	_, attrs := readTag(src, span.Span{End: len(src) - len("x</p>")})
	assert.Len(t, attrs, MaxAttributes+1)
	assert.True(t, Parse(src, "").Opaque)
}
