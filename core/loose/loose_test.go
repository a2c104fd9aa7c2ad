package loose

import (
	"archive/zip"
	"bytes"
	"io/fs"
	"testing"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func zipped(t *testing.T, files ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		require.NoError(t, err)
		w.Write([]byte(files[i+1]))
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func aKit(t *testing.T, name string) []byte {
	t.Helper()
	var b bytes.Buffer
	_, err := kit.Write(&b, &kit.PackingList{Kit: name, Version: "1.0.0"}, nil)
	require.NoError(t, err)
	return b.Bytes()
}

func TestAFileIsRecognisedByItsContent(t *testing.T) {
	one, two := string(aKit(t, "one")), string(aKit(t, "two"))
	png := "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x02\x00\x00\x00"
	for name, x := range map[string]struct {
		content []byte
		what    string
		holds   string // of its folder
	}{
		"kit.pdf":  {[]byte(one), Kit, ""},
		"kits.zip": {zipped(t, "a/one.cpkit", one, "two.renamed", two, "read me.txt", "hello"), Kits, ""},
		"unpacked.zip": {zipped(t, "top/packing-list.json", "{}", "top/pages/home.html", "<p>"), Unpacked,
			"pages/home.html"},
		"site.zip":         {zipped(t, "site.json", "{}", "pages/home.html", "<p>"), Site, "pages/home.html"},
		"loose.zip":        {zipped(t, "hut/index.html", "<p>", "hut/style.css", "p{}"), Loose, "index.html"},
		"mixed.zip":        {zipped(t, "hut/index.html", "<p>", "other.css", "p{}"), Loose, "hut/index.html"},
		"A Page.htm":       {[]byte("<!doctype html><title>x</title>"), Piece, "pages/a-page.html"},
		"band.txt":         {[]byte(" <section>x</section>"), Piece, "sections/band.html"},
		"base.css":         {[]byte("\xef\xbb\xbf.a { color: red }"), Piece, "stylesheets/base.css"},
		"dusk.tokens.json": {[]byte(`{"ink":{"$type":"color","$value":"#123456"}}`), Piece, "tokens/dusk.tokens.json"},
		"door":             {[]byte(png), Piece, "media/door.png"},
		"mark.xml":         {[]byte(`<svg xmlns="http://www.w3.org/2000/svg"><path/></svg>`), Piece, "media/mark.svg"},
	} {
		t.Run(name, func(t *testing.T) {
			f, err := Recognise(bytes.NewReader(x.content), int64(len(x.content)), name)
			require.NoError(t, err, name)
			assert.Equal(t, x.what, f.What, name)
			if x.holds != "" {
				_, err := fs.Stat(f.Files, x.holds)
				assert.NoError(t, err, name)
			}
			if x.what == Kits {
				assert.Len(t, f.Kits, 2)
				require.Len(t, f.Aside, 1)
				assert.Equal(t, "read me.txt", f.Aside[0].Path)
			}
			if x.what == Piece {
				list, _, _, err := capture.FromFolder(f.Files)
				require.NoError(t, err, name)
				require.Len(t, list.Items, 1, name)
				assert.Equal(t, x.holds, item.Address{Kind: list.Items[0].Kind, Key: list.Items[0].Key}.Path())
			}
		})
	}
}

func TestWhatIsNotKnownOrNotBelievedIsRefused(t *testing.T) {
	for says, b := range map[string][]byte{
		"it is empty": {}, "neither a ZIP": []byte("hello"), "no text in UTF-8": []byte("\xff\xfe\x00"),
		"not a token set": []byte(`{"a": 1}`), "no HTML": zipped(t, "notes.txt", "hello"),
		"leaves its folder": zipped(t, "../index.html", "<p>"), "backslash": zipped(t, `a\b.html`, "<p>"),
		"same as":                 zipped(t, "a.html", "<p>", "A.html", "<p>"),
		"cannot be read as a ZIP": []byte("PK\x03\x04 and nothing of the kind"),
	} {
		t.Run(says, func(t *testing.T) {
			_, err := Recognise(bytes.NewReader(b), int64(len(b)), "x")
			assert.ErrorContains(t, err, says)
		})
	}
}
