package loose

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"path"
	"strings"
	"unicode/utf8"

	"compactparcel/core/css"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/tokens"
)

var pictures = map[string]string{"image/png": ".png", "image/jpeg": ".jpg", "image/gif": ".gif", "image/webp": ".webp"}

// piece makes a folder in our own layout of one file.
func piece(r io.ReaderAt, size int64, name string, head []byte) (*Found, error) {
	if size > maxPiece {
		return nil, fmt.Errorf("%w: it is not a ZIP, and too large (%d MB) for a single piece", ErrNothing, size>>20)
	}
	b := make([]byte, size)
	if _, err := r.ReadAt(b, 0); err != nil && err != io.EOF {
		return nil, err
	}
	stem := item.MakeKey(strings.TrimSuffix(path.Base(strings.ReplaceAll(name, `\`, "/")), path.Ext(name)))
	stem = strings.TrimSuffix(stem, ".tokens")
	if stem == "" || stem == "x" {
		stem = "piece"
	}
	a, says := kindOf(b, head, stem)
	if a.IsZero() {
		return nil, fmt.Errorf("%w: %s", ErrNothing, says)
	}
	entry := folder.ManifestItem{Kind: a.Kind, Key: a.Key}
	if a.Kind == item.Page {
		entry.Slug = "/" + a.Key + "/"
	}
	m := folder.Manifest{Format: 1, Site: stem, Items: []folder.ManifestItem{entry}}
	if a.Kind == item.Stylesheet || a.Kind == item.Tokens {
		m.StyleOrder = []item.Address{a}
	}
	list, err := json.Marshal(m)
	if err != nil {
		return nil, err
	}
	var buf bytes.Buffer
	z := zip.NewWriter(&buf)
	for _, f := range []struct {
		name string
		b    []byte
	}{{folder.ManifestName, list}, {a.Path(), b}} {
		w, err := z.CreateHeader(&zip.FileHeader{Name: f.name, Method: zip.Store})
		if err != nil {
			return nil, err
		}
		_, _ = w.Write(f.b) // into memory
	}
	_ = z.Close()
	files, err := zip.NewReader(bytes.NewReader(buf.Bytes()), int64(buf.Len()))
	return &Found{What: Piece, Files: files}, err
}

// kindOf tells what a single file is by its content.
func kindOf(b, head []byte, stem string) (a item.Address, says string) {
	is, _, _ := strings.Cut(http.DetectContentType(head), ";")
	if ext, ok := pictures[is]; ok {
		return item.Address{Kind: item.Media, Key: stem + ext}, ""
	}
	if !utf8.Valid(b) {
		return a, "it is neither a ZIP nor a picture, and no text in UTF-8"
	}
	text := bytes.TrimSpace(bytes.TrimPrefix(b, []byte("\xef\xbb\xbf")))
	switch {
	case bytes.HasPrefix(text, []byte("{")):
		if set, err := tokens.Parse(text); err == nil && len(set.List) > 0 {
			return item.Address{Kind: item.Tokens, Key: stem}, ""
		}
		return a, "it is JSON, but not a token set"
	case bytes.HasPrefix(text, []byte("<")):
		if markup.IsDocument(text) {
			return item.Address{Kind: item.Page, Key: stem}, ""
		}
		first := ""
		for n := range markup.Tags(text) {
			first = n.Tag
			break
		}
		if first == "svg" || bytes.HasPrefix(text, []byte("<?xml")) {
			return item.Address{Kind: item.Media, Key: stem + ".svg"}, ""
		}
		if first != "" {
			return item.Address{Kind: item.Section, Key: stem}, ""
		}
	}
	if rules := css.Parse(text); len(rules.Rules) > 0 && bytes.ContainsRune(text, '{') &&
		bytes.ContainsRune(text, ':') {
		return item.Address{Kind: item.Stylesheet, Key: stem}, ""
	}
	return a, "it is neither a ZIP, HTML, CSS, a token set nor a picture"
}
