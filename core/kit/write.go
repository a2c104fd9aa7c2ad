package kit

import (
	"archive/zip"
	"bufio"
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
var stored = map[string]bool{
	".jpg":   true,
	".jpeg":  true,
	".png":   true,
	".webp":  true,
	".avif":  true,
	".gif":   true,
	".mp4":   true,
	".webm":  true,
	".mp3":   true,
	".ogg":   true,
	".woff":  true,
	".woff2": true,
	".zip":   true,
	".gz":    true,
	".pdf":   true,
}

// epoch is the one time that every entry carries; epochDate is its day as a ZIP writes it.
var epoch = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

const epochDate = 1<<5 | 1

// Opener gives the content of a file that the packing list names.
type Opener func(path string, h item.Digest) (io.ReadCloser, error)

// Write writes a kit. The list is settled and validated first; each content is read
// once from open, and its size and digest must be those of the list. The packing list
// comes first in the file, then the contents sorted by path. Small contents are packed
// on all cores; memory stays bounded. On an error the bytes written so far are no kit.
func Write(w io.Writer, list *PackingList, open Opener) (item.Digest, error) {
	return WriteSealed(w, list, nil, open)
}

// WriteSealed is Write with signatures, which stand behind the packing list.
func WriteSealed(w io.Writer, list *PackingList, seal *Seal, open Opener) (item.Digest, error) {
	list.Settle()
	if err := list.Validate(); err != nil {
		return "", fmt.Errorf("the packing list is not in order: %w", err)
	}
	canon, err := list.Canonical()
	if err != nil {
		return "", err
	}
	buffered := bufio.NewWriterSize(w, 256<<10)
	z := zip.NewWriter(buffered)
	own := map[string][]byte{ListName: canon}
	if seal != nil {
		if own[SealName], err = CanonicalJSON(seal); err != nil {
			return "", err
		}
	}
	for _, name := range []string{ListName, SealName} {
		if b, ok := own[name]; ok {
			if err := writeRaw(z, pack(name, b)); err != nil {
				return "", err
			}
		}
	}
	files := list.files()
	paths := make([]string, 0, len(files))
	for p := range files {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	if err := writeFiles(z, paths, files, open); err != nil {
		return "", err
	}
	if err := z.Close(); err != nil {
		return "", err
	}
	if err := buffered.Flush(); err != nil {
		return "", err
	}
	return list.Digest()
}

func header(name string) *zip.FileHeader {
	h := &zip.FileHeader{
		Name:           name,
		Method:         zip.Deflate,
		ModifiedDate:   epochDate, //nolint:staticcheck // Modified would add a field with the zone
		CreatorVersion: 20,
		ReaderVersion:  20,
	}
	if stored[strings.ToLower(path.Ext(name))] {
		h.Method = zip.Store
	}
	return h
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
