// Package loose recognises by content what somebody gives in the place of a kit file: a
// kit under any name, several kits in one ZIP, a kit or a site unpacked and zipped again,
// loose HTML, CSS and pictures, or one single piece.
package loose

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"strings"

	"compactparcel/core/folder"
	"compactparcel/core/kit"
)

// What a file turned out to be.
const (
	Kit      = "kit"      // a kit file, whatever its ending
	Kits     = "kits"     // a ZIP with kit files in it
	Unpacked = "unpacked" // a kit that was unpacked and zipped again by hand
	Site     = "site"     // a site or library in our own layout
	Loose    = "loose"    // HTML, CSS and pictures without a list of them
	Piece    = "piece"    // one page, piece, stylesheet, token set or picture
)

// Words say in words what each is.
var Words = map[string]string{
	Kit:      "a kit",
	Kits:     "a ZIP of kits",
	Unpacked: "a kit that was unpacked and zipped again",
	Site:     "a site in a ZIP",
	Loose:    "loose files in a ZIP",
	Piece:    "one piece",
}

// Found is what a file holds.
type Found struct {
	What string
	// Files is the folder inside, of all but kits.
	Files fs.FS
	// Kits are the entries that are kit files.
	Kits []*zip.File
	// Aside are files that are not looked at, and why.
	Aside []kit.Verdict
}

// ErrNothing is a file in which nothing was recognised.
var ErrNothing = errors.New("this is not a kit, nor anything else that is known here")

// maxPiece is the largest single piece that is read, in bytes.
const maxPiece = 64 << 20

// Recognise tells what a file holds. name is what it is called, a hint for a single piece.
// A ZIP that breaks the rules of containers is refused as a whole.
func Recognise(r io.ReaderAt, size int64, name string) (*Found, error) {
	var head [512]byte
	n, err := r.ReadAt(head[:], 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	if n == 0 {
		return nil, fmt.Errorf("%w: it is empty", ErrNothing)
	}
	if !bytes.HasPrefix(head[:n], []byte("PK\x03\x04")) && !endsLikeZip(r, size) {
		return piece(r, size, name, head[:n])
	}
	z, report, err := kit.CheckZip(r, size)
	if err != nil {
		return nil, err
	}
	return inZip(z, report)
}

// endsLikeZip tells whether there is an end of a central directory: a ZIP may have
// something before it, which is then told of as that.
func endsLikeZip(r io.ReaderAt, size int64) bool {
	n := min(size, 66<<10)
	b := make([]byte, n)
	if _, err := r.ReadAt(b, size-n); err != nil && err != io.EOF {
		return false
	}
	return bytes.Contains(b, []byte("PK\x05\x06"))
}

func inZip(z *zip.Reader, report kit.Report) (*Found, error) {
	f := &Found{Aside: report.Aside}
	root, names := rootOf(z)
	switch {
	case names[kit.ListName] && root == "":
		f.What = Kit
		return f, nil
	case names[kit.ListName]:
		f.What = Unpacked
	case names[folder.ManifestName]:
		f.What = Site
	default:
		for _, e := range z.File {
			if isKit(e) {
				f.Kits = append(f.Kits, e)
			}
		}
		if len(f.Kits) > 0 {
			f.What = Kits
			for _, e := range z.File {
				if !e.Mode().IsDir() && !isKit(e) {
					f.Aside = append(f.Aside, kit.Verdict{Path: e.Name, Why: "it is no kit"})
				}
			}
			return f, nil
		}
		f.What = Loose
		known := false
		for n := range names {
			known = known || isKnown(n)
		}
		if !known {
			return nil, fmt.Errorf("%w: no HTML, CSS, tokens or pictures", ErrNothing)
		}
	}
	f.Files = z
	if root != "" {
		sub, err := fs.Sub(z, root)
		if err != nil {
			return nil, err
		}
		f.Files = sub
	}
	return f, nil
}

// rootOf finds the one folder in which all lies, and the names below it.
func rootOf(z *zip.Reader) (root string, names map[string]bool) {
	first := true
	for _, e := range z.File {
		if e.Mode().IsDir() || strings.HasPrefix(e.Name, "__MACOSX/") {
			continue
		}
		top, _, inFolder := strings.Cut(e.Name, "/")
		if !inFolder {
			top = ""
		}
		if first {
			root, first = top, false
		}
		if top != root {
			root = ""
		}
	}
	names = map[string]bool{}
	for _, e := range z.File {
		if !e.Mode().IsDir() {
			names[strings.TrimPrefix(e.Name, root+"/")] = true
		}
	}
	return root, names
}

// isKit tells whether an entry is a kit file: a ZIP that names its packing list.
func isKit(e *zip.File) bool {
	if e.UncompressedSize64 < 100 || e.Mode().IsDir() {
		return false
	}
	r, err := e.Open()
	if err != nil {
		return false
	}
	defer r.Close()
	head := make([]byte, 30+len(kit.ListName))
	if _, err := io.ReadFull(r, head); err != nil || !bytes.HasPrefix(head, []byte("PK\x03\x04")) {
		return false
	}
	return string(head[30:]) == kit.ListName || strings.HasSuffix(strings.ToLower(e.Name), ".cpkit")
}

func isKnown(name string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".html", ".htm", ".css", ".json", ".svg", ".png", ".jpg", ".jpeg", ".webp", ".gif", ".avif":
		return !strings.HasPrefix(path.Base(name), ".")
	}
	return false
}
