// Package folder keeps a collection as plain files: it reads a folder in our own
// layout or a static site as somebody left it, and writes a site out for
// visitors.
package folder

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"path"
	"sort"
	"strings"
	"sync"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/workers"
)

// Limits of what is adopted from one folder.
const (
	MaxFiles     = 200_000
	MaxTextBytes = 16 << 20  // of one HTML, CSS or JSON file
	MaxFileBytes = 512 << 20 // of one file
)

// ManifestName and SettingsName are the layout's own files.
const (
	ManifestName = "site.json"
	SettingsName = "settings.json"
)

// Manifest is site.json: what a site kept as a folder says of itself.
type Manifest struct {
	Format     int            `json:"format"`
	Site       string         `json:"site"`
	Items      []ManifestItem `json:"items"`
	StyleOrder []item.Address `json:"style-order"`
}

// ManifestItem is what is said of one item beside its file.
type ManifestItem struct {
	Kind item.Kind `json:"kind"`
	Key  string    `json:"key"`
	item.Meta
}

// Left is a file that was not taken, and why.
type Left struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

// Report says what reading a folder took and what it left.
type Report struct {
	Layout Layout         `json:"layout"`
	Taken  []item.Address `json:"taken"`
	Left   []Left         `json:"left"`
	// Notes are findings about what was taken, for people.
	Notes []Left `json:"notes"`
	// HeadScripts are what runs from the heads of pages: site-only until somebody
	// says otherwise.
	HeadScripts []facts.HeadScript `json:"headScripts"`
	// Facts are those of the texts, where no keeper has them.
	Facts map[item.Address]*facts.Facts `json:"-"`
	// Files are the folder's files that became items, by path.
	Files map[string]File `json:"-"`
}

// File is one file of a folder and the item that it became.
type File struct {
	Digest item.Digest
	Item   item.Address
}

// Read reads a folder. A folder with a site.json is in our own layout; any other
// is taken as a static site. Links out of the folder and links of the file
// system are left, never followed.
func Read(fsys fs.FS) (*item.Set, *Report, error) { return ReadInto(fsys, nil) }

// Keeper keeps what is read and says how it is opened again. It may be called by
// several goroutines at once.
type Keeper interface {
	// Text keeps a text whose facts are known.
	Text(h item.Head, content []byte, f *facts.Facts) (open func() (io.ReadCloser, error), err error)
	// File keeps a file as it streams, and gives the head with its digests and size.
	File(h item.Head, r io.Reader) (kept item.Head, open func() (io.ReadCloser, error), err error)
}

func newReader(fsys fs.FS, keep Keeper) *reader {
	return &reader{
		fsys:    fsys,
		keep:    keep,
		sizes:   map[string]int64{},
		takesIn: map[item.Address][]item.Address{},
		set:     item.NewSet(),
		report: &Report{
			Taken:       []item.Address{},
			Left:        []Left{},
			Notes:       []Left{},
			HeadScripts: []facts.HeadScript{},
			Files:       map[string]File{},
			Facts:       map[item.Address]*facts.Facts{},
		},
	}
}

// ReadInto is Read for a home of items: each text is given to keep as soon as it is
// read, and only its head stays in the set.
func ReadInto(fsys fs.FS, keep Keeper) (*item.Set, *Report, error) {
	r := newReader(fsys, keep)
	files, err := r.walk()
	if err != nil {
		return nil, nil, err
	}
	if len(files) == 0 {
		return nil, nil, fmt.Errorf(
			"there are no files in this folder: name a folder with a %s or with HTML pages in it", ManifestName)
	}
	if _, err := fs.Stat(fsys, ManifestName); err == nil {
		r.report.Layout = LayoutOurs
		err = r.ours(files)
		return r.set, r.report, err
	}
	r.report.Layout = LayoutStaticSite
	if err := r.static(files); err != nil {
		return nil, nil, err
	}
	return r.set, r.report, nil
}

type reader struct {
	fsys  fs.FS
	sizes map[string]int64 // of files too large to be read as texts
	// takesIn says which items an item takes into itself.
	takesIn map[item.Address][]item.Address
	keep    Keeper
	set     *item.Set
	report  *Report
}

func (r *reader) left(p, why string) { r.report.Left = append(r.report.Left, Left{p, why}) }

func (r *reader) walk() ([]string, error) {
	var files []string
	err := fs.WalkDir(r.fsys, ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return fmt.Errorf("reading %s: %w", p, err)
		}
		base := path.Base(p)
		switch {
		case d.IsDir():
			if p != "." && IsHidden(base) {
				r.left(p+"/", whyHidden("a hidden folder", p+"/", base))
				return fs.SkipDir
			}
			return nil
		case d.Type()&fs.ModeSymlink != 0:
			r.left(p, "a symbolic link; links are not followed, and nothing will answer at /"+p+
				": put the file itself there")
		case !d.Type().IsRegular():
			r.left(p, "not a regular file: visitors could not load it")
		case IsHidden(base):
			r.left(p, whyHidden("a hidden file", p, base))
		default:
			files = append(files, p)
			if info, err := d.Info(); err == nil && info.Size() > MaxTextBytes {
				r.sizes[p] = info.Size()
			}
		}
		if len(files) > MaxFiles {
			return fmt.Errorf("the folder holds more than %d files; adopt it in parts", MaxFiles)
		}
		return nil
	})
	sort.Strings(files)
	return files, err
}

// load reads one file within its limit; ok is false when it was left.
func (r *reader) load(p string, limit int64) ([]byte, bool) {
	b, why := r.bytes(p, limit)
	if why != "" {
		r.left(p, why)
	}
	return b, why == ""
}

// bytes reads one file within its limit, or says why it cannot be taken.
func (r *reader) bytes(p string, limit int64) (b []byte, why string) {
	f, err := r.fsys.Open(p)
	if err != nil {
		return nil, "it cannot be opened: " + err.Error()
	}
	defer f.Close()
	if info, err := f.Stat(); err == nil && info.Size() <= limit {
		b = make([]byte, 0, info.Size()+1)
	}
	buf := bytes.NewBuffer(b)
	if _, err := buf.ReadFrom(io.LimitReader(f, limit+1)); err != nil {
		return nil, "it cannot be read: " + err.Error()
	}
	if int64(buf.Len()) > limit {
		return nil, fmt.Sprintf("it is larger than %d MB", limit>>20)
	}
	return buf.Bytes(), ""
}

// file reads a file of which only the digest is worked out: it stays where it is, or
// is given to the keeper as it streams. It changes nothing of the reader.
func (r *reader) file(p string, a item.Address, m item.Meta) (t kept, why string, err error) {
	f, err := r.fsys.Open(p)
	if err != nil {
		return t, "it cannot be opened: " + err.Error(), nil
	}
	defer f.Close()
	tooLarge := fmt.Sprintf("it is larger than %d MB", MaxFileBytes>>20)
	if info, err := f.Stat(); err == nil && info.Size() > MaxFileBytes {
		return t, tooLarge, nil
	}
	m.MediaType = MediaTypeOf(a.Key)
	h := item.Head{Address: a, Meta: m}
	begins := bufio.NewReaderSize(f, 4096)
	first, err := begins.Peek(512)
	if err != nil && !errors.Is(err, io.EOF) {
		return t, "it cannot be read: " + err.Error(), nil
	}
	t.lie = lieOf(m.MediaType, first)
	from := &limited{r: begins, left: MaxFileBytes}
	if r.keep != nil {
		h, t.open, err = r.keep.File(h, from)
	} else {
		sum := sha256.New()
		buf := copying.Get().(*[256 << 10]byte)
		h.Bytes, err = io.CopyBuffer(struct{ io.Writer }{sum}, from, buf[:])
		copying.Put(buf)
		if err == nil {
			h.Doc = item.Digest(hex.EncodeToString(sum.Sum(nil)))
			h.NormalizedDigest = h.Doc
		}
		t.open = func() (io.ReadCloser, error) { return r.fsys.Open(p) }
		if info, err := f.Stat(); err == nil {
			t.open = r.again(p, info)
		}
	}
	switch {
	case from.left < 0:
		return t, tooLarge, nil
	case from.err != nil:
		return t, "it cannot be read: " + from.err.Error(), nil
	}
	t.head = h
	return t, "", err
}

var copying = sync.Pool{New: func() any { return new([256 << 10]byte) }}

// again opens a file that was read before. One that was written to since is an error:
// what was worked out of it is no longer true.
func (r *reader) again(p string, was fs.FileInfo) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) {
		f, err := r.fsys.Open(p)
		if err != nil {
			return nil, err
		}
		if is, err := f.Stat(); err != nil || is.Size() != was.Size() || !is.ModTime().Equal(was.ModTime()) {
			f.Close()
			return nil, fmt.Errorf("%s was changed after it was read", p)
		}
		return item.Sure{ReadCloser: f}, nil
	}
}

// limited reads up to a limit and remembers why reading ended.
type limited struct {
	r    io.Reader
	left int64
	err  error
}

func (l *limited) Read(b []byte) (int, error) {
	n, err := l.r.Read(b)
	if l.left -= int64(n); l.left < 0 {
		return 0, fmt.Errorf("too large")
	}
	if err != nil && err != io.EOF {
		l.err = err
	}
	return n, err
}

// files reads files, several at once, and puts them in the order of their names.
func (r *reader) files(paths []string, as func(p string) (item.Address, item.Meta)) error {
	return inOrder(paths, func(p string) (fileTaken, error) {
		a, m := as(p)
		t, why, err := r.file(p, a, m)
		return fileTaken{t, why}, err
	}, func(p string, t fileTaken) error {
		if t.why != "" {
			r.left(p, t.why)
			return nil
		}
		r.add(t.kept)
		if t.lie != "" {
			r.report.Notes = append(r.report.Notes, Left{p, t.lie})
		}
		r.report.Files[p] = File{t.head.Doc, t.head.Address}
		return nil
	})
}

type fileTaken struct {
	kept
	why string
}

// atOnce is how many files are read before what they found is put down, so that
// memory stays bounded and the order is that of the names.
const atOnce = 64

// inOrder works on paths, several at once, and puts the results down in order.
func inOrder[T any](paths []string, work func(string) (T, error), put func(string, T) error) error {
	for len(paths) > 0 {
		n := min(len(paths), atOnce)
		found := make([]T, n)
		err := workers.Each(n, func(_, i int) (err error) {
			if found[i], err = work(paths[i]); err != nil {
				return fmt.Errorf("reading %s: %w", paths[i], err)
			}
			return nil
		})
		if err != nil {
			return err
		}
		for i, t := range found {
			if err := put(paths[i], t); err != nil {
				return err
			}
		}
		paths = paths[n:]
	}
	return nil
}

// put keeps one text.
func (r *reader) put(a item.Address, m item.Meta, b []byte) error {
	t, err := r.text(a, m, b, nil)
	if err == nil {
		r.add(t)
	}
	return err
}

// kept is one text that was read.
type kept struct {
	head    item.Head
	content []byte
	facts   *facts.Facts // where nobody else keeps them
	open    func() (io.ReadCloser, error)
	notes   []Left
	takesIn []item.Address
	lie     string // what is wrong about the file's name, in words
}

// text reads one text and gives it to the keeper; facts may be known already. It
// changes nothing of the reader, so that several can run at once.
func (r *reader) text(a item.Address, m item.Meta, b []byte, f *facts.Facts) (kept, error) {
	if a.Kind == item.Media && m.MediaType == "" {
		m.MediaType = MediaTypeOf(a.Key)
	}
	if a.Kind == item.Media && m.Context == "" {
		m.Context = facts.ReadsAs(m.MediaType)
	}
	if f == nil && r.keep == nil {
		f = facts.Brief(a.Kind, m.Context, b)
	} else if f == nil {
		f = facts.Extract(a.Kind, m.Context, b)
	}
	t := kept{takesIn: takesIn(f)}
	if f.Broken != "" {
		t.notes = append(t.notes, Left{a.String(), f.Broken})
	}
	if f.Opaque {
		why := fmt.Sprintf("nested more than %d deep, or with more than %d tags or %d attributes at one",
			markup.MaxDepth, markup.MaxElements, markup.MaxAttributes)
		if a.Kind == item.Stylesheet {
			why = fmt.Sprintf("it has more than %d rules", css.MaxRules)
		}
		t.notes = append(t.notes, Left{a.String(), why + ": kept whole, only its addresses are read"})
	}
	if a.Kind == item.Page && m.Title == "" {
		m.Title = item.ShortTitle(f.Title)
	}
	t.head = item.Head{Address: a, Meta: m, NormalizedDigest: f.NormalizedDigest, Doc: item.DigestOf(b),
		Bytes: int64(len(b))}
	if r.keep == nil {
		t.content, t.facts = b, f
		return t, nil
	}
	var err error
	t.open, err = r.keep.Text(t.head, b, f)
	return t, err
}

// add puts what text has read into the set.
func (r *reader) add(t kept) {
	if err := item.CheckHead(t.head); err != nil {
		r.left(t.head.Address.Path(), "it was not taken: "+err.Error())
		return
	}
	if t.open != nil {
		r.set.PutFile(t.head, t.open)
	} else {
		r.set.Put(t.head, t.content)
	}
	if t.facts != nil {
		r.report.Facts[t.head.Address] = t.facts
	}
	r.report.Notes = append(r.report.Notes, t.notes...)
	if len(t.takesIn) > 0 {
		r.takesIn[t.head.Address] = t.takesIn
	}
	r.report.Taken = append(r.report.Taken, t.head.Address)
}

func jsonText(v any) []byte {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only plain values are given
	}
	return b
}

// isRead tells whether references are read in a file of the media.
func isRead(name string) bool {
	t := MediaTypeOf(name)
	return t == "image/svg+xml" || facts.ReadsAs(t) != ""
}

var mediaTypes = map[string]string{
	".jpg":         "image/jpeg",
	".jpeg":        "image/jpeg",
	".png":         "image/png",
	".webp":        "image/webp",
	".svg":         "image/svg+xml",
	".gif":         "image/gif",
	".avif":        "image/avif",
	".ico":         "image/x-icon",
	".mp4":         "video/mp4",
	".webm":        "video/webm",
	".woff":        "font/woff",
	".woff2":       "font/woff2",
	".ttf":         "font/ttf",
	".pdf":         "application/pdf",
	".js":          "text/javascript",
	".mjs":         "text/javascript",
	".json":        "application/json",
	".webmanifest": "application/manifest+json",
	".txt":         "text/plain; charset=utf-8",
	".xml":         "application/xml",
}

// MediaTypeOf names a file's media type by its ending, the same on every machine.
func MediaTypeOf(name string) string {
	ext := strings.ToLower(path.Ext(name))
	if t, ok := mediaTypes[ext]; ok {
		return t
	}
	if t := mime.TypeByExtension(ext); t != "" {
		return t
	}
	return "application/octet-stream"
}
