package kit

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"sort"
	"strings"
	"sync"
	"unicode/utf8"

	"compactparcel/core/item"
	"compactparcel/core/workers"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Verdict is where a reader put one file, and why.
type Verdict struct {
	Path string `json:"path"`
	Why  string `json:"why,omitempty"`
}

// Report puts every file of a container in exactly one of three lists.
type Report struct {
	Valid   []Verdict `json:"valid"`
	Aside   []Verdict `json:"aside"`
	Refused []Verdict `json:"refused"`
}

// RefusedError says why a container was not believed.
type RefusedError struct{ Report Report }

func (e *RefusedError) Error() string {
	var b strings.Builder
	n := len(e.Report.Refused)
	fmt.Fprintf(&b, "the file is refused: %d of its entries cannot be trusted", n)
	for i, v := range e.Report.Refused {
		if i == 5 {
			fmt.Fprintf(&b, "; and %d more", n-i)
			break
		}
		fmt.Fprintf(&b, "; %s: %s", v.Path, v.Why)
	}
	return b.String()
}

// ErrNotKit is a file without a packing list, or no ZIP at all.
var ErrNotKit = errors.New("this is not a kit")

// Kit is an opened kit: a collection whose contents are checked as they are read.
type Kit struct {
	List   PackingList
	Digest item.Digest
	Report Report
	Seal   *Seal // nil when it is unsigned
	files  map[string]*zip.File
	want   map[string]File
	heads  map[item.Address]Entry
	index  *item.Index
}

// Open checks the container and its packing list. Sizes, names and structure are
// all checked before Open returns; contents are checked against their digests by
// Verify, and again whenever one is read.
func Open(r io.ReaderAt, size int64) (*Kit, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("%w: it cannot be read as a ZIP (%w)", ErrNotKit, err)
	}
	if len(z.File) > MaxFiles {
		return nil, fmt.Errorf("the file holds %d entries; at most %d are read", len(z.File), MaxFiles)
	}
	k := &Kit{files: map[string]*zip.File{}, heads: map[item.Address]Entry{}}
	var listFile *zip.File
	for _, f := range z.File {
		if f.Name == ListName {
			listFile = f
			break
		}
	}
	if listFile == nil {
		return nil, fmt.Errorf("%w: there is no %s in it", ErrNotKit, ListName)
	}
	k.checkContainer(r, size, z.File)
	k.checkEnds(r, size, z.File)
	if len(k.Report.Refused) > 0 {
		return nil, &RefusedError{k.Report}
	}
	if err := k.readList(listFile); err != nil {
		return nil, err
	}
	if err := k.readSeal(r, size, z); err != nil {
		return nil, err
	}
	k.checkFiles()
	if len(k.Report.Refused) > 0 {
		return nil, &RefusedError{k.Report}
	}
	return k, nil
}

// CheckZip holds any ZIP against the rules of a kit's container: names, sizes, structure
// and bombs. What it refuses is in a RefusedError; folder entries are aside.
func CheckZip(r io.ReaderAt, size int64) (*zip.Reader, Report, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, Report{}, fmt.Errorf("it cannot be read as a ZIP (%w)", err)
	}
	if len(z.File) > MaxFiles {
		return nil, Report{}, fmt.Errorf("the file holds %d entries; at most %d are read", len(z.File), MaxFiles)
	}
	k := &Kit{files: map[string]*zip.File{}}
	k.checkContainer(r, size, z.File)
	if len(k.Report.Refused) > 0 {
		return nil, k.Report, &RefusedError{k.Report}
	}
	return z, k.Report, nil
}

func (k *Kit) refuse(path, format string, args ...any) {
	k.Report.Refused = append(k.Report.Refused, Verdict{path, fmt.Sprintf(format, args...)})
}

// checkName gives the reason for which a name is not believed, or "".
func checkName(name string) string {
	switch {
	case name == "" || len(name) > MaxNameBytes:
		return fmt.Sprintf("a name needs 1 to %d bytes", MaxNameBytes)
	case !utf8.ValidString(name):
		return "the name is not UTF-8"
	case strings.ContainsAny(name, "\\:\x00") ||
		strings.IndexFunc(name, func(r rune) bool { return r < 0x20 || r == 0x7f }) >= 0:
		return "the name holds a backslash, a colon or a control character"
	case strings.HasPrefix(name, "/"):
		return "the path is absolute"
	}
	for _, part := range strings.Split(strings.TrimSuffix(name, "/"), "/") {
		if part == "" || part == "." || part == ".." || strings.HasSuffix(part, ".") || strings.HasSuffix(part, " ") {
			return "the path leaves its folder or has an odd part"
		}
	}
	return ""
}

// sameName gives the form under which two names are one on some file system.
func sameName(name string) string { return norm.NFC.String(cases.Fold().String(norm.NFC.String(name))) }

func (k *Kit) checkContainer(r io.ReaderAt, size int64, files []*zip.File) {
	seen := map[string]string{}
	type extent struct {
		from, to int64
		name     string
	}
	var extents []extent
	var total uint64
	for _, f := range files {
		if why := checkName(f.Name); why != "" {
			k.refuse(f.Name, "%s", why)
			continue
		}
		if other, dup := seen[sameName(f.Name)]; dup {
			k.refuse(f.Name, "the name is the same as %q on some systems", other)
			continue
		}
		seen[sameName(f.Name)] = f.Name
		mode := f.Mode()
		switch {
		case f.Flags&1 != 0:
			k.refuse(f.Name, "it is encrypted")
			continue
		case f.Method != zip.Store && f.Method != zip.Deflate:
			k.refuse(f.Name, "compression method %d; only stored and deflated are read", f.Method)
			continue
		case mode.IsDir() || strings.HasSuffix(f.Name, "/"):
			if f.UncompressedSize64 > 0 {
				k.refuse(f.Name, "a folder with content")
				continue
			}
			k.Report.Aside = append(k.Report.Aside, Verdict{f.Name, "a folder entry"})
		case !mode.IsRegular():
			k.refuse(f.Name, "a link or a device")
			continue
		case f.UncompressedSize64 > 1<<20 && f.UncompressedSize64/max(f.CompressedSize64, 1) > MaxRatio:
			k.refuse(f.Name, "%d bytes are said to unpack to %d", f.CompressedSize64, f.UncompressedSize64)
			continue
		}
		if total += f.UncompressedSize64; total > MaxTotalBytes {
			k.refuse(f.Name, "the kit would unpack to more than %d bytes", int64(MaxTotalBytes))
			return
		}
		at, err := f.DataOffset()
		if err != nil {
			k.refuse(f.Name, "its local header cannot be read: %v", err)
			continue
		}
		if why := checkLocal(r, f, at); why != "" {
			k.refuse(f.Name, "%s", why)
			continue
		}
		extents = append(extents, extent{at, at + int64(f.CompressedSize64), f.Name})
		k.files[f.Name] = f
	}
	sort.Slice(extents, func(i, j int) bool {
		if extents[i].from != extents[j].from {
			return extents[i].from < extents[j].from
		}
		return extents[i].to < extents[j].to
	})
	for i, e := range extents {
		if e.to > size || e.to < e.from {
			k.refuse(e.name, "it runs past the end of the file")
		}
		if i > 0 && e.from < extents[i-1].to {
			k.refuse(e.name, "it overlaps %s", extents[i-1].name)
		}
	}
}

// checkEnds refuses what stands before the first entry and behind the end of the
// directory: with it the file could be something else to another program.
func (k *Kit) checkEnds(r io.ReaderAt, size int64, files []*zip.File) {
	first := size
	for _, f := range files {
		if at, err := f.DataOffset(); err == nil {
			first = min(first, at)
		}
	}
	var head [30]byte
	_, err := r.ReadAt(head[:], 0)
	if err != nil || string(head[:4]) != "PK\x03\x04" ||
		first != 30+int64(binary.LittleEndian.Uint16(head[26:]))+int64(binary.LittleEndian.Uint16(head[28:])) {
		k.refuse("the container", "there is something before its first entry")
	}
	var end [22]byte
	if _, err := r.ReadAt(end[:],
		size-int64(len(end))); err != nil || string(end[:4]) != "PK\x05\x06" || end[20] != 0 ||
		end[21] != 0 {
		k.refuse("the container", "there is something after its end")
	}
}

// checkLocal holds the entry's local header against the central directory: two
// readers must not see two names or two methods.
func checkLocal(r io.ReaderAt, f *zip.File, dataAt int64) string {
	n := int64(30 + len(f.Name))
	var head [30]byte
	// The header lies before the data by its own length plus an extra field that
	// its last two bytes count; so look back for it from the data.
	for extra := int64(0); extra <= 64; extra++ {
		at := dataAt - n - extra
		if at < 0 {
			break
		}
		if _, err := r.ReadAt(head[:], at); err != nil {
			break
		}
		if string(head[:4]) != "PK\x03\x04" || int64(binary.LittleEndian.Uint16(head[28:])) != extra ||
			int(binary.LittleEndian.Uint16(head[26:])) != len(f.Name) {
			continue
		}
		name := make([]byte, len(f.Name))
		if _, err := r.ReadAt(name, at+30); err != nil || string(name) != f.Name {
			return "its local header gives another name"
		}
		if binary.LittleEndian.Uint16(head[8:]) != f.Method {
			return "its local header gives another method"
		}
		return ""
	}
	return "its local header does not fit the directory"
}

func (k *Kit) readList(f *zip.File) error {
	if f.UncompressedSize64 > MaxListBytes {
		return fmt.Errorf("the packing list has %d bytes; at most %d are read", f.UncompressedSize64, MaxListBytes)
	}
	rc, err := unpack(f)
	if err != nil {
		return fmt.Errorf("opening the packing list: %w", err)
	}
	defer rc.Close()
	b, err := io.ReadAll(io.LimitReader(rc, MaxListBytes+1))
	if err != nil {
		return fmt.Errorf("reading the packing list: %w", err)
	}
	var format struct {
		Format int `json:"format"`
	}
	if err := json.Unmarshal(b, &format); err != nil {
		return fmt.Errorf("the packing list is not readable: %w", err)
	}
	if format.Format > Format {
		return fmt.Errorf("%w: format %d; this version reads up to %d. Use a newer Compact Parcel", ErrNewer,
			format.Format, Format)
	}
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&k.List); err != nil {
		return fmt.Errorf("the packing list is not readable: %w", err)
	}
	if err := k.List.Validate(); err != nil {
		return fmt.Errorf("the packing list is not in order: %w", err)
	}
	k.Digest, err = k.List.Digest()
	return err
}

// maxSealBytes bounds the seal: its payload is the packing list again.
const maxSealBytes = 2 * MaxListBytes

// readSeal reads the signatures. A signed kit is refused when its container is not in
// canonical form: then its bytes say what its signature does not.
func (k *Kit) readSeal(r io.ReaderAt, size int64, z *zip.Reader) error {
	f := k.files[SealName]
	if f == nil {
		return nil
	}
	if f.UncompressedSize64 > maxSealBytes {
		return fmt.Errorf("the seal has %d bytes; at most %d are read", f.UncompressedSize64, maxSealBytes)
	}
	rc, err := unpack(f)
	if err != nil {
		return fmt.Errorf("opening the seal: %w", err)
	}
	defer rc.Close()
	b, err := io.ReadAll(io.LimitReader(rc, maxSealBytes+1))
	if err != nil {
		return fmt.Errorf("reading the seal: %w", err)
	}
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	k.Seal = &Seal{}
	if err := dec.Decode(k.Seal); err != nil {
		return fmt.Errorf("the seal is not readable: %w", err)
	}
	if _, err := k.Signers(&TrustList{}); err != nil {
		return err
	}
	return k.checkCanonical(r, size, z)
}

func (k *Kit) checkFiles() {
	want := k.List.files()
	k.want = want
	heads := make([]item.Head, 0, len(k.List.Items))
	for _, e := range k.List.Items {
		k.heads[e.Address()] = e
		heads = append(heads, e.Head())
	}
	item.SortHeads(heads)
	k.index = item.NewIndex(heads)
	aside := map[string]bool{}
	for _, v := range k.Report.Aside {
		aside[v.Path] = true
	}
	names := make([]string, 0, len(k.files))
	for n := range k.files {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		f, listed := want[n]
		switch {
		case aside[n]:
		case n == ListName || n == SealName:
			k.Report.Valid = append(k.Report.Valid, Verdict{Path: n})
		case !listed:
			k.refuse(n, "the packing list does not name it")
		case int64(k.files[n].UncompressedSize64) != f.Bytes:
			k.refuse(n, "it has %d bytes; the packing list says %d", k.files[n].UncompressedSize64, f.Bytes)
		default:
			k.Report.Valid = append(k.Report.Valid, Verdict{Path: n})
		}
	}
	for p := range want {
		if k.files[p] == nil {
			k.refuse(p, "the packing list names it, and it is missing")
		}
	}
	sort.Slice(k.Report.Refused, func(i, j int) bool { return k.Report.Refused[i].Path < k.Report.Refused[j].Path })
}

// Verify reads every file, on all cores, and holds its bytes against the packing list.
func (k *Kit) Verify() error {
	files := k.List.files()
	paths := slices.Collect(maps.Keys(files))
	var lock sync.Mutex
	bufs := make([][]byte, workers.Count())
	_ = workers.Each(len(paths), func(worker, i int) error {
		if bufs[worker] == nil {
			bufs[worker] = make([]byte, 64<<10)
		}
		r, err := k.openFile(files[paths[i]])
		if err == nil {
			_, err = io.CopyBuffer(io.Discard, struct{ io.Reader }{r}, bufs[worker])
			r.Close()
		}
		if err != nil { // all that is wrong is told
			lock.Lock()
			k.refuse(paths[i], "%v", err)
			lock.Unlock()
		}
		return nil
	})
	if len(k.Report.Refused) > 0 {
		sort.Slice(
			k.Report.Refused,
			func(i, j int) bool { return k.Report.Refused[i].Path < k.Report.Refused[j].Path },
		)
		return &RefusedError{k.Report}
	}
	return nil
}

// Heads lists the kit's items.
func (k *Kit) Heads() []item.Head { return k.index.Heads() }

// OfKind lists the kit's items of some kinds.
func (k *Kit) OfKind(kinds ...item.Kind) []item.Head { return k.index.OfKind(kinds...) }

// PageAt gives the kit's page with a slug.
func (k *Kit) PageAt(slug string) (item.Address, bool) { return k.index.PageAt(slug) }

// KeptAt gives nothing: the addresses that a file kept are its site's own.
func (k *Kit) KeptAt(at string) (item.Address, bool) { return k.index.KeptAt(at) }

// Find gives the item at an address.
func (k *Kit) Find(a item.Address) (item.Head, bool) { e, ok := k.heads[a]; return e.Head(), ok }

// OpenPath gives the content of a file that the packing list names.
func (k *Kit) OpenPath(path string, _ item.Digest) (io.ReadCloser, error) {
	want, ok := k.want[path]
	if !ok {
		return nil, fmt.Errorf("the packing list names no %s", path)
	}
	return k.openFile(want)
}

// Open gives an item's content; reading to its end fails unless the bytes are
// those that the packing list promised.
func (k *Kit) Open(h item.Head) (io.ReadCloser, error) {
	e, ok := k.heads[h.Address]
	if !ok {
		return nil, fmt.Errorf("there is no %s in the kit", h.Address)
	}
	return k.openFile(File{e.Path, e.SHA256, e.Bytes})
}
