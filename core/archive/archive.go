// Package archive keeps a site as it is at a moment in one file: a ZIP that holds a kit with all that may
// travel, and beside it what is the site's own, sealed under a pass phrase or left out.
package archive

import (
	"archive/zip"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"sort"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/kit"
)

// The files of an archive.
const (
	aboutName = "archive.json"
	kitName   = "site.cpkit"
	ownName   = "own.sealed.json"
)

// Format is the format of archives that this package writes.
const Format = 1

// About says what an archive is of.
type About struct {
	Format   int            `json:"format"`
	Site     string         `json:"site"`
	Title    string         `json:"title"`
	Revision int64          `json:"revision"`
	At       time.Time      `json:"at"`
	Own      []item.Address `json:"own"`              // what is the site's own
	Sealed   bool           `json:"sealed,omitempty"` // it is in the archive; else it was left out
}

// Archive is an archive that was read.
type Archive struct {
	About
	Kit *kit.Kit
	// Own is what is the site's own; nil where it was left out.
	Own map[item.Address]json.RawMessage
}

// Errors of archives.
var (
	ErrNotArchive = errors.New("this is no archive of a site")
	ErrNewer      = errors.New("the archive was written by a newer version")
	ErrPass       = errors.New("the pass phrase does not open it")
	ErrNeedsPass  = errors.New("what is the site's own is sealed: give the pass phrase, or leave it out")
)

// Scratch lends a file that is gone afterwards.
type Scratch func(use func(*os.File) error) error

// Write writes an archive of a site. Without a pass phrase what is its own is left out.
func Write(w io.Writer, site item.Collection, about About, pass string, scratch Scratch) error {
	about.Format, about.Sealed, about.Own = Format, pass != "", []item.Address{}
	list := &kit.PackingList{Kit: about.Site, Version: fmt.Sprintf("1.0.%d", about.Revision), Title: about.Title,
		Summary: "The site as it was on " + about.At.UTC().Format(time.DateOnly)}
	own := map[item.Address]json.RawMessage{}
	heads := map[string]item.Head{}
	for _, h := range site.Heads() {
		if h.Address.Kind == item.Setting && !h.Meta.IsPortable(h.Address.Key) {
			b, err := item.Read(site, h)
			if err != nil {
				return err
			}
			if h.Address == item.StyleOrder && json.Unmarshal(b, &list.StyleOrder) == nil {
				continue
			}
			about.Own, own[h.Address] = append(about.Own, h.Address), b
			continue
		}
		list.Items = append(list.Items, kit.Entry{Kind: h.Address.Kind, Key: h.Address.Key, SHA256: h.Doc,
			NormalizedDigest: h.NormalizedDigest, Bytes: h.Bytes, Meta: h.Meta})
		heads[h.Address.Path()] = h
	}
	sort.Slice(about.Own, func(i, j int) bool { return about.Own[i].Less(about.Own[j]) })
	z := zip.NewWriter(w)
	put := func(name string, v any) error {
		b, err := json.MarshalIndent(v, "", "  ")
		if err != nil {
			return err
		}
		f, err := z.Create(name)
		if err == nil {
			_, err = f.Write(b)
		}
		return err
	}
	if err := put(aboutName, about); err != nil {
		return err
	}
	if about.Sealed {
		text, err := json.Marshal(own)
		if err != nil {
			return err
		}
		box, err := seal(text, pass)
		if err != nil {
			return err
		}
		if err := put(ownName, box); err != nil {
			return err
		}
	}
	err := scratch(func(f *os.File) error {
		if _, err := kit.Write(f, list, func(path string, _ item.Digest) (io.ReadCloser, error) {
			return site.Open(heads[path])
		}); err != nil {
			return err
		}
		if _, err := f.Seek(0, io.SeekStart); err != nil {
			return err
		}
		to, err := z.CreateHeader(&zip.FileHeader{Name: kitName, Method: zip.Store})
		if err == nil {
			_, err = io.Copy(to, f)
		}
		return err
	})
	if err != nil {
		return err
	}
	return z.Close()
}

// Read reads an archive. Sealed things are opened by the pass phrase; with leave they are left out.
func Read(r io.ReaderAt, size int64, pass string, leave bool) (*Archive, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNotArchive, err)
	}
	files := map[string]*zip.File{}
	for _, f := range z.File {
		files[f.Name] = f
	}
	out := &Archive{}
	if err := small(files[aboutName], &out.About); err != nil {
		return nil, err
	}
	if out.Format > Format {
		return nil, ErrNewer
	}
	whole := files[kitName]
	if whole == nil || whole.Method != zip.Store {
		return nil, ErrNotArchive
	}
	at, err := whole.DataOffset()
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNotArchive, err)
	}
	n := int64(whole.UncompressedSize64)
	if at < 0 || n < 0 || at+n > size {
		return nil, ErrNotArchive
	}
	if out.Kit, err = kit.Open(io.NewSectionReader(r, at, n), n); err != nil {
		return nil, err
	}
	if err := out.Kit.Verify(); err != nil {
		return nil, err
	}
	if !out.Sealed || leave {
		return out, nil
	}
	if pass == "" {
		return nil, ErrNeedsPass
	}
	var box sealed
	if err := small(files[ownName], &box); err != nil {
		return nil, err
	}
	text, err := box.open(pass)
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(text, &out.Own); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNotArchive, err)
	}
	return out, nil
}

// maxSmall bounds the archive's own files, in bytes.
const maxSmall = 16 << 20

func small(f *zip.File, v any) error {
	if f == nil || f.UncompressedSize64 > maxSmall {
		return ErrNotArchive
	}
	r, err := f.Open()
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNotArchive, err)
	}
	defer r.Close()
	b, err := io.ReadAll(io.LimitReader(r, maxSmall))
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNotArchive, err)
	}
	if err := json.Unmarshal(b, v); err != nil {
		return fmt.Errorf("%w: %w", ErrNotArchive, err)
	}
	return nil
}
