package kit

import (
	"archive/zip"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"path"
	"sort"
	"strings"
	"time"

	"compactparcel/core/item"
)

// ListName and SealName are the kit's two files of its own.
const (
	ListName = "packing-list.json"
	SealName = "seal.json"
)

// stored lists the endings of files that are compressed already.
var stored = map[string]bool{".jpg": true, ".jpeg": true, ".png": true, ".webp": true, ".avif": true, ".gif": true, ".mp4": true, ".webm": true,
	".mp3": true, ".ogg": true, ".woff": true, ".woff2": true, ".zip": true, ".gz": true, ".pdf": true}

// epoch is the one time that every entry carries.
var epoch = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

// Write writes a kit. The list is settled and validated first; each content is
// read once from open, and its size and digest must be those of the list. The
// packing list comes first in the file, then the contents sorted by path.
// On an error the bytes written so far are no kit.
func Write(w io.Writer, list *PackingList, open func(path string, h item.Digest) (io.ReadCloser, error)) (item.Digest, error) {
	list.Settle()
	if err := list.Validate(); err != nil {
		return "", fmt.Errorf("the packing list is not in order: %w", err)
	}
	canon, err := list.Canonical()
	if err != nil {
		return "", err
	}
	z := zip.NewWriter(w)
	f, err := z.CreateHeader(header(ListName))
	if err != nil {
		return "", err
	}
	if _, err := f.Write(canon); err != nil {
		return "", err
	}
	files := list.files()
	paths := make([]string, 0, len(files))
	for p := range files {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	buf := make([]byte, 64<<10)
	for _, p := range paths {
		if err := writeFile(z, files[p], open, buf); err != nil {
			return "", err
		}
	}
	if err := z.Close(); err != nil {
		return "", err
	}
	return item.DigestOf(canon), nil
}

func header(name string) *zip.FileHeader {
	h := &zip.FileHeader{Name: name, Method: zip.Deflate, Modified: epoch}
	if stored[strings.ToLower(path.Ext(name))] {
		h.Method = zip.Store
	}
	return h
}

func writeFile(z *zip.Writer, want File, open func(string, item.Digest) (io.ReadCloser, error), buf []byte) error {
	r, err := open(want.Path, want.SHA256)
	if err != nil {
		return fmt.Errorf("packing %s: %w", want.Path, err)
	}
	defer r.Close()
	f, err := z.CreateHeader(header(want.Path))
	if err != nil {
		return err
	}
	sum := sha256.New()
	n, err := io.CopyBuffer(io.MultiWriter(f, sum), struct{ io.Reader }{r}, buf)
	if err != nil {
		return fmt.Errorf("packing %s: %w", want.Path, err)
	}
	if got := item.Digest(hex.EncodeToString(sum.Sum(nil))); got != want.SHA256 || n != want.Bytes {
		return fmt.Errorf("packing %s: its content changed while it was packed (%d bytes, digest %s; expected %d, %s)", want.Path, n, got.Short(), want.Bytes, want.SHA256.Short())
	}
	return nil
}

// files lists all files the list names, by path.
func (l *PackingList) files() map[string]File {
	m := make(map[string]File, len(l.Items)+len(l.Generated))
	for _, e := range l.Items {
		m[e.Path] = File{e.Path, e.SHA256, e.Bytes}
	}
	for _, g := range l.Generated {
		m[g.Path] = g
	}
	return m
}
