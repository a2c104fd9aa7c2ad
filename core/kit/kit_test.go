package kit

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"os"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var contents = map[string]string{
	"section/hours":  "<section class=\"hours\"><img src=\"/media/door.jpg\" alt=\"A door\"></section>",
	"media/door.jpg": strings.Repeat("picture ", 40),
	"menu/main":      `{"title":"Main","entries":[]}`,
}

func sample(testing.TB) (*PackingList, Opener) { return listOf(contents) }

// listOf makes a packing list of contents by address, with what opens them.
func listOf(contents map[string]string) (*PackingList, Opener) {
	l := &PackingList{Kit: "hut-basics", Version: "1.0.0", Title: "Hut basics ♥", Terms: Terms{License: "CC-BY-4.0"}}
	byDoc := map[item.Digest]string{}
	for a, text := range contents {
		addr := item.MustAddress(a)
		d := item.DigestOf([]byte(text))
		byDoc[d] = text
		l.Items = append(l.Items, Entry{Kind: addr.Kind, Key: addr.Key, SHA256: d, NormalizedDigest: d,
			Bytes: int64(len(text))})
	}
	return l, func(_ string, d item.Digest) (io.ReadCloser, error) {
		text, ok := byDoc[d]
		if !ok {
			return nil, fmt.Errorf("nothing has the digest %s", d)
		}
		return io.NopCloser(strings.NewReader(text)), nil
	}
}

func written(t testing.TB) []byte {
	t.Helper()
	var b bytes.Buffer
	l, open := sample(t)
	_, err := Write(&b, l, open)
	require.NoError(t, err)
	return b.Bytes()
}

func open(b []byte) (*Kit, error) { return Open(bytes.NewReader(b), int64(len(b))) }

func TestAKitIsReadAsItWasWritten(t *testing.T) {
	b := written(t)
	assert.Equal(t, b, written(t), "the same items give the same bytes")
	k, err := open(b)
	require.NoError(t, err)
	require.NoError(t, k.Verify())
	l, _ := sample(t)
	l.Settle()
	d, err := l.Digest()
	require.NoError(t, err)
	assert.Equal(t, d, k.Digest)
	assert.Len(t, k.Report.Valid, 4)
	assert.Empty(t, k.Report.Aside)
	for _, h := range k.Heads() {
		got, err := item.Read(k, h)
		require.NoError(t, err)
		assert.Equal(t, contents[h.Address.String()], string(got))
	}
	_, ok := k.Find(item.MustAddress("menu/none"))
	assert.False(t, ok)
}

// container packs files as any tool might.
func container(t testing.TB, add func(w *zip.Writer), change func(name string, b []byte) []byte) []byte {
	t.Helper()
	src := written(t)
	z, err := zip.NewReader(bytes.NewReader(src), int64(len(src)))
	require.NoError(t, err)
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		b, err := io.ReadAll(r)
		require.NoError(t, err)
		if change != nil {
			b = change(f.Name, b)
		}
		if b == nil {
			continue
		}
		x, err := w.Create(f.Name)
		require.NoError(t, err)
		x.Write(b)
	}
	if add != nil {
		add(w)
	}
	require.NoError(t, w.Close())
	return out.Bytes()
}

func plain(name string) func(*zip.Writer) {
	return func(w *zip.Writer) {
		x, _ := w.Create(name)
		x.Write([]byte("x"))
	}
}

func TestEveryFileIsCheckedBeforeItIsBelieved(t *testing.T) {
	listed := func(old, new string) func(string, []byte) []byte {
		return func(n string, b []byte) []byte {
			if n == ListName {
				return bytes.Replace(b, []byte(old), []byte(new), 1)
			}
			return b
		}
	}
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"a path out":           {container(t, plain("../x"), nil), "leaves its folder"},
		"a path out within":    {container(t, plain("pages/../../x"), nil), "leaves its folder"},
		"an absolute path":     {container(t, plain("/etc/x"), nil), "absolute"},
		"a drive":              {container(t, plain("c:x"), nil), "colon"},
		"a backslash":          {container(t, plain(`a\b`), nil), "backslash"},
		"a control character":  {container(t, plain("a\x01b"), nil), "control character"},
		"a trailing dot":       {container(t, plain("pages./x"), nil), "odd part"},
		"no UTF-8":             {container(t, plain("a\xffb"), nil), "not UTF-8"},
		"the same in capitals": {container(t, plain("MENUS/main.json"), nil), "same as"},
		"the same in Unicode": {container(t, func(w *zip.Writer) { plain("é")(w); plain("e\u0301")(w) }, nil),
			"same as"},
		"twice":           {container(t, plain("menus/main.json"), nil), "same as"},
		"not in the list": {container(t, plain("extra.txt"), nil), "does not name it"},
		"missing": {container(t, nil,
			func(n string, b []byte) []byte { return map[bool][]byte{false: b}[n == "menus/main.json"] }),
			"it is missing"},
		"another size": {container(t, nil, func(n string, b []byte) []byte {
			return append(b, map[bool]string{true: "x"}[n == "menus/main.json"]...)
		}), "the packing list says"},
		"a link": {container(t, func(w *zip.Writer) {
			h := &zip.FileHeader{Name: "link"}
			h.SetMode(os.ModeSymlink | 0o777)
			x, _ := w.CreateHeader(h)
			x.Write([]byte("/etc/passwd"))
		}, nil), "a link"},
		"a folder with content": {container(t, func(w *zip.Writer) {
			x, _ := w.CreateRaw(&zip.FileHeader{Name: "d/", UncompressedSize64: 1, CompressedSize64: 1})
			x.Write([]byte("x"))
		}, nil), "folder with content"},
		"an odd method": {container(t,
			func(w *zip.Writer) { x, _ := w.CreateRaw(&zip.FileHeader{Name: "m", Method: 99}); x.Write(nil) }, nil),
			"only stored and deflated"},
		"a bomb": {container(t, func(w *zip.Writer) {
			x, _ := w.CreateRaw(&zip.FileHeader{Name: "bomb", Method: 8, UncompressedSize64: 1 << 33,
				CompressedSize64: 10})
			x.Write(make([]byte, 10))
		}, nil), "unpack to"},
		"unknown words": {container(t, nil, listed(`"engine"`, `"motor":1,"engine"`)), "unknown field"},
		"a wrong path":  {container(t, nil, listed("menus/main.json", "menus/mine.json")), "it belongs at"},
		"a wrong role": {container(t, nil, listed(`"kind":"menu"`, `"role":"hat","kind":"menu"`)),
			"which does not exist"},
		"a wrong target": {container(t, nil, listed(`"kind":"menu"`, `"placement":{"where":["moon"]},"kind":"menu"`)),
			"not a target"},
		"not a version": {container(t, nil, listed("1.0.0", "one")), "Semantic Versioning"},
		"a newer format": {container(t, nil, listed(`"format":1`, `"format":2`)),
			"format 2; this version reads up to 1"},
		"no list": {container(t, nil,
			func(n string, b []byte) []byte { return map[bool][]byte{false: b}[n == ListName] }),
			"there is no packing-list.json"},
		"a list of nonsense": {container(t, nil,
			func(n string, b []byte) []byte { return map[bool][]byte{true: []byte("{"), false: b}[n == ListName] }),
			"not readable"},
		"nothing": {nil, "cannot be read as a ZIP"},
		"cut off": {written(t)[:300], "cannot be read as a ZIP"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := open(c.file)
			if assert.Error(t, err, name) {
				assert.Contains(t, err.Error(), c.says, name)
			}
		})
	}
	k, err := open(container(t, func(w *zip.Writer) { w.Create("pages/") }, nil))
	require.NoError(t, err, "an empty folder entry does no harm")
	assert.Equal(t, []Verdict{{"pages/", "a folder entry"}}, k.Report.Aside)
}

func TestAChangedByteIsFound(t *testing.T) {
	k, err := open(container(t, nil, func(n string, b []byte) []byte {
		if n == "menus/main.json" {
			return bytes.Replace(b, []byte("Main"), []byte("Mine"), 1)
		}
		return b
	}))
	require.NoError(t, err, "sizes fit; only the digest does not")
	err = k.Verify()
	var refused *RefusedError
	require.ErrorAs(t, err, &refused)
	require.Len(t, refused.Report.Refused, 1)
	assert.Equal(t, "menus/main.json", refused.Report.Refused[0].Path)
	h, _ := k.Find(item.MustAddress("menu/main"))
	_, err = item.Read(k, h)
	assert.ErrorContains(t, err, "the packing list says", "reading it alone fails, too")
}

// Flipping any one byte of the file never passes unnoticed, unless it lies in a
// time stamp or another field that carries no meaning: then the contents are the same.
func TestAnyFlippedByte(t *testing.T) {
	good := written(t)
	was, err := open(good)
	require.NoError(t, err)
	for i := range good {
		b := append([]byte(nil), good...)
		b[i] ^= 0x20
		k, err := open(b)
		if err == nil {
			err = k.Verify()
		}
		if err == nil {
			assert.Equal(t, was.Digest, k.Digest, "byte %d", i)
		}
	}
}

func TestTwoReadersMustNotSeeTwoNames(t *testing.T) {
	b := append([]byte(nil), written(t)...)
	at := bytes.Index(b, []byte("menus/main.json")) // the local header comes first
	copy(b[at:], "menus/mine.json")
	_, err := open(b)
	assert.ErrorContains(t, err, "another name")
	b = append([]byte(nil), written(t)...)
	at = bytes.Index(b, []byte("menus/main.json")) - 30 + 8
	binary.LittleEndian.PutUint16(b[at:], 0)
	_, err = open(b)
	assert.ErrorContains(t, err, "another method")
}

func TestWritingFailsWhenTheContentChanges(t *testing.T) {
	l, _ := sample(t)
	_, err := Write(
		io.Discard,
		l,
		func(string, item.Digest) (io.ReadCloser, error) { return io.NopCloser(strings.NewReader("other")), nil },
	)
	assert.ErrorContains(t, err, "changed while it was packed")
	l.Items[0].Path = ""
	l.Version = "1"
	_, err = Write(io.Discard, l, nil)
	assert.ErrorContains(t, err, "not in order")
}

func TestCanonicalJSON(t *testing.T) {
	// RFC 8785, section 3.2.2 and 3.2.3.
	in := map[string]any{
		"numbers":  []any{333333333.33333329, 1e30, 4.50, 2e-3, 1e-27, 0, math.Copysign(0, -1), 1e21, 123456789012345},
		"string":   "€$\u000f\nA'B\"\\\\\"/",
		"literals": []any{nil, true, false},
	}
	b, err := CanonicalJSON(in)
	require.NoError(t, err)
	assert.Equal(
		t,
		`{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27,0,0,1e+21,`+
			`123456789012345],"string":"€$\u000f\nA'B\"\\\\\"/"}`,
		string(b),
	)
	b, err = CanonicalJSON(map[string]int{"€": 1, "\r": 2, "\ufb33": 3, "1": 4, "😀": 5, "\u0080": 6, "ö": 7})
	require.NoError(t, err)
	assert.Equal(t, "{\"\\r\":2,\"1\":4,\"\u0080\":6,\"ö\":7,\"€\":1,\"😀\":5,\"\ufb33\":3}", string(b),
		"sorted by UTF-16 code units")
	_, err = CanonicalJSON(func() {})
	assert.Error(t, err)
}

func TestNames(t *testing.T) {
	n, v, err := ParseName("hut-basics@1.2.3-rc.1")
	require.NoError(t, err)
	assert.Equal(t, []string{"hut-basics", "1.2.3-rc.1"}, []string{n, v})
	for _, bad := range []string{"hut", "hut@", "Hut@1.0.0", "a/b@1.0.0", "a..b@1.0.0", "hut@1.0", "hut@v1.0.0",
		"@1.0.0"} {
		t.Run(bad, func(t *testing.T) {
			_, _, err := ParseName(bad)
			assert.Error(t, err, bad)
		})
	}
}

func TestTheCheckFindsWhatAReceiverWouldTripOver(t *testing.T) {
	s := item.NewSet()
	yes := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	yes(
		"section/a",
		`<section><img src="/media/none.jpg"><a href="rel.html">x</a><a href="#nowhere">y</a><a `+
			`href="/declared/">z</a><a href="/undeclared/">u</a><p `+
			`data-fill="text:blank">b</p><script>x()</script></section>`,
		item.Meta{},
	)
	yes("menu/broken", `{`, item.Meta{})
	yes("setting/visit-counter", `"x"`, item.Meta{})
	list := &PackingList{
		Needs:   Needs{Items: []ItemNeed{{Slug: "/declared/", Optional: true}}},
		Fillins: []Fillin{{Name: "unused"}},
		Items:   []Entry{{}},
	}
	found, err := Check(list, s)
	require.NoError(t, err)
	var says []string
	for _, f := range found {
		says = append(says, fmt.Sprint(f.Stops, " ", f.Address, " ", f.Message))
		assert.NotEmpty(t, f.Remedy, f.Message)
	}
	all := strings.Join(says, "\n")
	for _, want := range []string{"true section/a it uses media/none.jpg in <img src>",
		`true section/a the relative address "rel.html"`, "true section/a it links to /undeclared/",
		`true section/a the fill-in "blank" is not declared`,
		"true menu/broken not readable as JSON", "true setting/visit-counter the setting is site-only",
		"false section/a the anchor #nowhere", "false section/a it brings code", "false section/a 1 of its pictures",
		`the fill-in "unused" has no place`, "no licence"} {
		assert.Contains(t, all, want)
	}
	assert.NotContains(t, all, "(/declared/)")
	assert.True(t, found[0].Stops, "what stops comes first")
}

func FuzzOpen(f *testing.F) {
	f.Add(written(f))
	f.Add([]byte("PK\x05\x06"))
	f.Fuzz(func(t *testing.T, b []byte) {
		start := time.Now()
		k, err := open(b)
		if err == nil {
			k.Verify()
		}
		if time.Since(start) > 20*time.Second {
			t.Fatal("a small file must not take long")
		}
	})
}

// A content that is known to be that of its digest is not hashed again; its size is held
// against the list all the same.
func TestASureContentIsHeldBySize(t *testing.T) {
	for _, size := range []int{10, wholeBytes + 10} {
		content := bytes.Repeat([]byte("x"), size)
		list := &PackingList{
			Kit:     "x",
			Version: "1.0.0",
			Items: []Entry{
				{
					Kind:             item.Media,
					Key:              "a.png",
					SHA256:           item.DigestOf(content),
					NormalizedDigest: item.DigestOf(content),
					Bytes:            int64(size),
				},
			},
		}
		sure := func(b []byte) Opener {
			return func(string, item.Digest) (io.ReadCloser, error) {
				return item.Sure{ReadCloser: io.NopCloser(bytes.NewReader(b))}, nil
			}
		}
		var out bytes.Buffer
		_, err := Write(&out, list, sure(content))
		require.NoError(t, err)
		k, err := Open(bytes.NewReader(out.Bytes()), int64(out.Len()))
		require.NoError(t, err)
		require.NoError(t, k.Verify())
		_, err = Write(io.Discard, list, sure(content[1:]))
		assert.ErrorContains(t, err, "changed while it was packed")
	}
}
