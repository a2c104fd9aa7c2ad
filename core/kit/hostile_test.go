package kit

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/binary"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// hostile makes archives of all sorts out of a good kit.
type hostile struct {
	t    *testing.T
	good []byte
	list PackingList
}

// entry is one entry of an archive; body nil: that of the good kit.
type entry struct {
	name string
	body []byte
	head func(*zip.FileHeader)
}

// with gives the good kit's entries and some others as an archive. change edits the
// packing list first.
func (h *hostile) with(change func(*PackingList), more ...entry) []byte {
	r, err := zip.NewReader(bytes.NewReader(h.good), int64(len(h.good)))
	require.NoError(h.t, err)
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	replaced := map[string]bool{}
	for _, e := range more {
		replaced[e.name] = true
	}
	for _, f := range r.File {
		if replaced[f.Name] && f.Name == ListName {
			continue
		}
		rc, err := f.Open()
		require.NoError(h.t, err)
		b, err := io.ReadAll(rc)
		require.NoError(h.t, err)
		if f.Name == ListName && change != nil {
			list := h.list
			list.Items = append([]Entry{}, list.Items...)
			change(&list)
			b, err = list.Canonical()
			require.NoError(h.t, err)
		}
		h.put(w, entry{name: f.Name, body: b})
	}
	for _, e := range more {
		h.put(w, e)
	}
	require.NoError(h.t, w.Close())
	return out.Bytes()
}

func (h *hostile) put(w *zip.Writer, e entry) {
	head := &zip.FileHeader{Name: e.name, Method: zip.Deflate}
	if e.head != nil {
		e.head(head)
	}
	to, err := w.CreateHeader(head)
	require.NoError(h.t, err)
	_, err = to.Write(e.body)
	require.NoError(h.t, err)
}

// patched changes the central directory's header of an entry.
func (h *hostile) patched(name string, change func(header []byte)) []byte {
	b := bytes.Clone(h.good)
	at := bytes.LastIndex(b, append([]byte(name), 'P', 'K'))
	require.Positive(h.t, at)
	change(b[at-46 : at])
	return b
}

func named(name string) entry { return entry{name: name, body: []byte("x")} }

// Every archive of the corpus is refused with a reason of its own; nothing is written;
// time and memory stay bounded.
func TestTheCorpusOfHostileArchives(t *testing.T) {
	good := made(t, "1.0.0", someTexts)
	h := &hostile{t, good, opened(t, good).List}
	le := binary.LittleEndian
	flat := func(n int) []byte { // so many MiB of zeros, deflated: the same MiB again and again
		var b bytes.Buffer
		w, _ := flate.NewWriter(&b, 9)
		w.Write(make([]byte, 1<<20))
		w.Flush()
		one := bytes.Clone(b.Bytes())
		b.Reset()
		w.Close()
		return append(bytes.Repeat(one, n), b.Bytes()...)
	}
	listed := func(path string, bytes int64) func(*PackingList) {
		return func(l *PackingList) {
			l.Generated = append(l.Generated, File{Path: path, SHA256: item.DigestOf([]byte("x")), Bytes: bytes})
		}
	}
	raw := func(name string, body []byte, whole uint64, crc uint32) []byte {
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		r, _ := zip.NewReader(bytes.NewReader(good), int64(len(good)))
		for _, f := range r.File {
			w.Copy(f)
		}
		to, err := w.CreateRaw(
			&zip.FileHeader{
				Name:               name,
				Method:             zip.Deflate,
				CompressedSize64:   uint64(len(body)),
				UncompressedSize64: whole,
				CRC32:              crc,
			},
		)
		require.NoError(t, err)
		to.Write(body)
		w.Close()
		return out.Bytes()
	}
	many := func(n int) []byte {
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		r, _ := zip.NewReader(bytes.NewReader(good), int64(len(good)))
		for _, f := range r.File {
			w.Copy(f)
		}
		for i := range n {
			w.CreateHeader(&zip.FileHeader{Name: fmt.Sprintf("x/%d", i), Method: zip.Store})
		}
		w.Close()
		return out.Bytes()
	}
	for name, c := range map[string]struct {
		b    []byte
		says string
	}{
		"traversal":               {h.with(nil, named("../evil")), "leaves its folder"},
		"traversal inside":        {h.with(nil, named("media/../../evil")), "leaves its folder"},
		"a dot part":              {h.with(nil, named("media/./a")), "leaves its folder"},
		"an empty part":           {h.with(nil, named("media//a")), "leaves its folder"},
		"absolute":                {h.with(nil, named("/etc/passwd")), "absolute"},
		"a drive letter":          {h.with(nil, named("C:/x")), "a colon"},
		"a stream of a file":      {h.with(nil, named("media/a.png:evil")), "a colon"},
		"backslashes":             {h.with(nil, named(`media\..\x`)), "backslash"},
		"a part that ends in dot": {h.with(nil, named("media./x")), "odd part"},
		"a part that ends blank":  {h.with(nil, named("media/x ")), "odd part"},
		"a control character":     {h.with(nil, named("media/x\ny")), "control character"},
		"a NUL":                   {h.with(nil, named("media/x\x00.png")), "control character"},
		"no UTF-8": {h.with(nil,
			entry{name: "media/\xff.png", body: []byte("x"), head: func(f *zip.FileHeader) { f.NonUTF8 = true }}),
			"not UTF-8"},
		"a name of 300 bytes": {h.with(nil, named(strings.Repeat("a", 300))), "1 to 240 bytes"},
		"no name":             {h.with(nil, named("")), "1 to 240 bytes"},
		"a twin in case":      {h.with(nil, named("pages/HOME.html")), "same as"},
		"a twin in Unicode":   {h.with(nil, named("media/é.png"), named("media/e\u0301.png")), "same as"},
		"the same name twice": {h.with(nil, named("pages/home.html")), "same as"},
		"two packing lists":   {h.with(nil, entry{name: "Packing-List.json", body: []byte("{}")}), "same as"},
		"a symbolic link": {h.with(nil,
			entry{name: "media/link", body: []byte("/etc/passwd"),
				head: func(f *zip.FileHeader) { f.SetMode(os.ModeSymlink | 0o777) }}), "a link or a device"},
		"a device": {h.with(nil,
			entry{name: "media/dev", head: func(f *zip.FileHeader) { f.SetMode(os.ModeDevice | 0o600) }}),
			"a link or a device"},
		"a pipe": {h.with(nil,
			entry{name: "media/pipe", head: func(f *zip.FileHeader) { f.SetMode(os.ModeNamedPipe | 0o600) }}),
			"a link or a device"},
		"encrypted": {h.patched("pages/home.html", func(b []byte) { b[8] |= 1 }), "encrypted"},
		"an odd method": {h.patched("pages/home.html", func(b []byte) { le.PutUint16(b[10:], 12) }),
			"method 12"},
		"another odd method": {h.patched("pages/home.html", func(b []byte) { le.PutUint16(b[10:], 99) }),
			"method 99"},
		"sizes that lie": {h.patched("pages/home.html", func(b []byte) { le.PutUint32(b[24:], 5) }),
			"the packing list says"},
		"a CRC-32 that lies": {h.patched("pages/home.html", func(b []byte) { b[16] ^= 1 }), "CRC-32"},
		"an offset elsewhere": {h.patched("pages/home.html", func(b []byte) { le.PutUint32(b[42:], 0) }),
			"local header"},
		"an offset past the end": {h.patched("pages/home.html", func(b []byte) { le.PutUint32(b[42:], 1<<30) }),
			"local header"},
		"overlapping entries": {h.patched("pages/home.html", func(b []byte) { le.PutUint32(b[20:], 900) }),
			"overlaps"},
		"a flat bomb":       {raw("media/bomb.bin", flat(64), 64<<20, 0), "does not name it"},
		"a bomb with a lie": {raw("media/bomb.bin", flat(1)[:20], 2<<30, 0), "are said to unpack to"},
		"too much in all": {raw("media/bomb.bin", make([]byte, 16<<20), 17<<30, 0),
			"would unpack to more than"},
		"an extra file":          {h.with(nil, named("media/extra.png")), "does not name it"},
		"a file that is missing": {h.with(listed("views/x.html", 1)), "it is missing"},
		"another digest": {h.with(listed("views/x.html", 1), entry{name: "views/x.html", body: []byte("y")}),
			"digest"},
		"another size":          {h.with(listed("views/x.html", 2), named("views/x.html")), "the packing list says 2"},
		"a folder with content": {raw("media/sub/", []byte{3, 0}, 5, 0), "folder with content"},
		"no packing list": {func() []byte {
			var b bytes.Buffer
			w := zip.NewWriter(&b)
			h.put(w, named("a"))
			w.Close()
			return b.Bytes()
		}(), "no packing-list.json"},
		"a list that is no JSON": {h.with(nil, entry{name: ListName, body: []byte("{")}), "not readable"},
		"a list of odd members": {h.with(nil,
			entry{name: ListName, body: []byte(`{"format":1,"kit":"x","colour":"red"}`)}), "unknown field"},
		"a list of a list": {h.with(nil, entry{name: ListName, body: []byte(`[1]`)}), "not readable"},
		"deep JSON": {h.with(nil,
			entry{name: ListName, body: []byte(`{"format":1,"proposes":` + strings.Repeat(`{"a":`,
				20000) + strings.Repeat("}", 20001))}), "not readable"},
		"bad UTF-8 in the list": {h.with(nil, entry{name: ListName, body: []byte("{\"format\":1,\"kit\":\"\xff\"}")}),
			"not in order"},
		"a newer format": {h.with(func(l *PackingList) { l.Format = 7 }), "newer format"},
		"format nought":  {h.with(func(l *PackingList) { l.Format = 0 }), "not in order"},
		"a path that is another": {h.with(func(l *PackingList) { l.Items[0].Path = "pages/else.html" }),
			"it belongs at"},
		"an item twice": {h.with(func(l *PackingList) { l.Items = append(l.Items, l.Items[0]) }),
			"in the packing list twice"},
		"a kind that is none": {h.with(func(l *PackingList) { l.Items[0].Kind = "roof" }), "roof"},
		"a huge packing list": {h.with(nil, entry{name: ListName, body: bytes.Repeat([]byte(" "), MaxListBytes+1)}),
			"at most"},
		"truncated":           {good[:len(good)-30], "cannot be read as a ZIP"},
		"cut in half":         {good[:len(good)/2], "cannot be read as a ZIP"},
		"nothing at all":      {nil, "cannot be read as a ZIP"},
		"another file":        {[]byte("%PDF-1.7 " + strings.Repeat("x", 500)), "cannot be read as a ZIP"},
		"65,536 entries":      {many(65_536), "does not name it"},
		"too many entries":    {many(MaxFiles), "entries; at most"},
		"something before it": {append([]byte("GIF89a<html>"), good...), "before its first entry"},
		"something behind it": {append(bytes.Clone(good), "<script>alert(1)</script>"...), "after its end"},
		"a comment": {func() []byte {
			b := append(bytes.Clone(good), "hello"...)
			le.PutUint16(b[len(good)-2:], 5)
			return b
		}(), "after its end"},
		"zip64: 5 GB out of nothing": {raw("media/big.bin", []byte{3, 0}, 5<<30, 0), "are said to unpack to"},
		"zip64: sizes without the field": {h.patched("pages/home.html",
			func(b []byte) { le.PutUint32(b[20:], 1<<32-1); le.PutUint32(b[24:], 1<<32-1) }),
			"cannot be read as a ZIP"},
		"zip64: an offset without it": {h.patched("pages/home.html", func(b []byte) { le.PutUint32(b[42:], 1<<32-1) }),
			"cannot be read as a ZIP"},
		"zip64: a count without a directory": {func() []byte {
			b := bytes.Clone(good)
			le.PutUint16(b[len(b)-22+8:], 1<<16-1)
			le.PutUint16(b[len(b)-22+10:], 1<<16-1)
			return b
		}(), "cannot be read as a ZIP"},
		"a seal that is none": {h.with(nil, entry{name: SealName, body: []byte("{}x")}), "seal"},
		"a seal of another list": {h.with(nil,
			entry{name: SealName, body: []byte(`{"payloadType":"` + PayloadType +
				`","payload":"e30=","signatures":[]}`)}), "another packing list"},
	} {
		t.Run(name, func(t *testing.T) {
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			start := time.Now()
			k, err := Open(bytes.NewReader(c.b), int64(len(c.b)))
			if err == nil {
				err = k.Verify()
			}
			require.Error(t, err)
			assert.ErrorContains(t, err, c.says)
			runtime.ReadMemStats(&after)
			assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(512<<20), "memory")
			if d := time.Since(start); d > 20*time.Second {
				t.Fatalf("it took %s", d)
			}
			if k != nil {
				dir := filepath.Join(t.TempDir(), "out")
				assert.Error(t, k.UnpackTo(dir))
				assert.NoDirExists(t, dir, "nothing is written")
			}
		})
	}
}

// An archive with something before or behind it is no signed kit.
func TestPolyglots(t *testing.T) {
	priv, _, err := NewKey()
	require.NoError(t, err)
	for _, b := range [][]byte{append([]byte("<html>"), made(t, "1.0.0", someTexts, priv)...),
		append(made(t, "1.0.0", someTexts, priv), []byte("</html>")...)} {
		_, err := Open(bytes.NewReader(b), int64(len(b)))
		assert.Error(t, err)
	}
}
