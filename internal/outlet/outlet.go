// Package outlet publishes a site into a folder that visitors read from while it is
// written.
//
// A folder DIR that is published into is a link to DIR.releases/NUMBER, a complete
// copy of one release. A new release is written beside it, its unchanged files as
// hard links to those of the release before, and the link is then replaced in one
// act: a visitor sees the one or the other and never a mixture. Old releases stay
// by their number; going back to one is the same act.
//
// What somebody changed in the folder since is noticed, and nothing is written over
// it unless that is asked for; what is written over stays in the old release.
package outlet

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"
	"unicode"
	"unicode/utf8"

	"compactparcel/core/folder"
	"compactparcel/core/item"
)

// Keep is how many releases are kept.
const Keep = 10

// Folder is a folder that is published into.
type Folder struct{ dir string }

// CheckPath holds a folder below the folder of outlets against the rules: beside an outlet
// lie its releases and the link that is made next, so no part may be called like those.
func CheckPath(p string) error {
	if p == "" || p == "." || !filepath.IsLocal(filepath.FromSlash(p)) || path.Clean(p) != p {
		return fmt.Errorf("%q is no folder below it", p)
	}
	for _, part := range strings.Split(p, "/") {
		if strings.HasPrefix(part, ".") || strings.HasSuffix(part, ".releases") || strings.HasSuffix(part, ".next") ||
			strings.HasSuffix(part, ".half") {
			return fmt.Errorf("%q has the part %q, which is kept for what lies beside an outlet", p, part)
		}
		if len(part) > 200 || !utf8.ValidString(part) || strings.ContainsFunc(part, unicode.IsControl) ||
			strings.Contains(part, "\\") {
			return fmt.Errorf("%q has a part that cannot be a folder's name", p)
		}
	}
	return nil
}

// Overlap tells whether one of two folders lies within the other, or is the other.
func Overlap(a, b string) bool {
	return a == b || strings.HasPrefix(a, b+"/") || strings.HasPrefix(b, a+"/")
}

// Open names the folder; nothing is made yet.
func Open(dir string) (*Folder, error) {
	abs, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	return &Folder{filepath.Clean(abs)}, nil
}

func (f *Folder) releases() string { return f.dir + ".releases" }

func (f *Folder) tree(n int) string { return filepath.Join(f.releases(), strconv.Itoa(n)) }

// stamp is what a file looked like when it was published.
type stamp struct {
	Bytes int64     `json:"bytes"`
	Time  time.Time `json:"time"`
}

// record is kept beside a release: what its files looked like.
type record struct {
	Release *folder.Release  `json:"release"`
	Stamps  map[string]stamp `json:"stamps"`
}

func (f *Folder) recordFile(n int) string { return f.tree(n) + ".json" }

// Current gives the number of the release that visitors see, and what it holds;
// 0 and nil when there is none.
func (f *Folder) Current() (int, *folder.Release, error) {
	n, r, err := f.current()
	if err != nil || n == 0 {
		return 0, nil, err
	}
	return n, r.Release, nil
}

func (f *Folder) current() (int, *record, error) {
	to, err := os.Readlink(f.dir)
	if errors.Is(err, fs.ErrNotExist) {
		return 0, nil, nil
	}
	if err != nil {
		entries, e := os.ReadDir(f.dir)
		if e == nil && len(entries) == 0 {
			return 0, nil, nil
		}
		if e != nil {
			return 0, nil, e
		}
		return 0, nil, fmt.Errorf(
			"%s holds files that were not published here, and nothing in it is overwritten: name a folder that "+
				"is empty or not there",
			f.dir,
		)
	}
	n, err := strconv.Atoi(filepath.Base(to))
	if err != nil || filepath.Dir(to) != filepath.Base(f.releases()) {
		return 0, nil, fmt.Errorf(
			"%s is a link to %s, which is no release of this outlet: take the link away, and it is made again by the "+
				"next publication",
			f.dir, to)
	}
	b, err := os.ReadFile(f.recordFile(n))
	if err != nil {
		return 0, nil, fmt.Errorf("the list of release %d cannot be read: %w", n, err)
	}
	var r record
	if err := json.Unmarshal(b, &r); err != nil {
		return 0, nil, fmt.Errorf("the list of release %d is damaged: %w", n, err)
	}
	if r.Release == nil {
		return 0, nil, fmt.Errorf("the list of release %d is empty", n)
	}
	return n, &r, nil
}

// Edit is a file that somebody changed, added or removed since it was published.
type Edit struct {
	Path string `json:"path"`
	What string `json:"what"` // changed, added, removed
}

// Edited lists what is not as it was published. A file of the same size and time is
// taken for unchanged; any other is read.
func (f *Folder) Edited() ([]Edit, error) {
	n, r, err := f.current()
	if err != nil || n == 0 {
		return nil, err
	}
	return f.edited(n, r)
}

func (f *Folder) edited(n int, r *record) ([]Edit, error) {
	out := []Edit{}
	seen := map[string]bool{}
	root := f.tree(n)
	err := filepath.WalkDir(root, func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		rel, _ := filepath.Rel(root, p)
		rel = filepath.ToSlash(rel)
		seen[rel] = true
		want, known := r.Release.Files[rel]
		if rel == folder.ReleaseFile {
			return nil
		}
		if !known {
			out = append(out, Edit{rel, "added"})
			return nil
		}
		info, err := d.Info()
		if err != nil {
			return err
		}
		if s := r.Stamps[rel]; s.Bytes == info.Size() && s.Time.Equal(info.ModTime()) && info.Mode().IsRegular() {
			return nil
		}
		if got, err := digestOf(p); err != nil || got != want.Digest {
			out = append(out, Edit{rel, "changed"})
		}
		return nil
	})
	for p := range r.Release.Files {
		if !seen[p] {
			out = append(out, Edit{p, "removed"})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	return out, err
}

func digestOf(p string) (item.Digest, error) {
	r, err := os.Open(p)
	if err != nil {
		return "", err
	}
	defer r.Close()
	sum := sha256.New()
	if _, err := io.Copy(sum, r); err != nil {
		return "", err
	}
	return item.Digest(hex.EncodeToString(sum.Sum(nil))), nil
}

// EditedError tells that a folder was changed since it was published.
type EditedError struct {
	Dir   string
	Edits []Edit
}

func (e *EditedError) Error() string {
	var some []string
	for i, x := range e.Edits {
		if i == 5 {
			some = append(some, fmt.Sprintf("and %d more", len(e.Edits)-5))
			break
		}
		some = append(some, x.Path+" was "+x.What)
	}
	return fmt.Sprintf("somebody changed files in %s since they were published: %s", e.Dir, strings.Join(some, ", "))
}

// Result says what a publication did.
type Result struct {
	Number  int    `json:"number"`
	Files   int    `json:"files"`
	Written int    `json:"written"`
	Removed int    `json:"removed"`
	Edits   []Edit `json:"edits"` // that were written over
	// Same tells that the folder was this release already.
	Same bool `json:"same"`
}

// Unchanged tells whether the folder holds a state already, published the same way
// and not touched since: then there is nothing to render.
func (f *Folder) Unchanged(o folder.Options, engine string) (*Result, error) {
	n, r, err := f.current()
	if err != nil || n == 0 {
		return nil, err
	}
	x := r.Release
	if x.Site != o.Site || x.Digest != o.Digest || x.Engine != engine || x.Base != o.Base || x.Links != o.Links ||
		x.Forms != o.Forms {
		return nil, nil
	}
	edits, err := f.edited(n, r)
	if err != nil || len(edits) > 0 {
		return nil, err
	}
	return &Result{Number: n, Files: len(x.Files), Edits: edits, Same: true}, nil
}

// Publish writes a release. fill is given where to put each file and gives the list
// of them. over allows edits that were made in the folder, and that the release does
// not hold, to be written over, and writes every file anew.
func (f *Folder) Publish(over bool, fill func(folder.Out) (*folder.Release, error)) (*Result, error) {
	if err := os.MkdirAll(f.releases(), 0o755); err != nil {
		return nil, err
	}
	lock, err := f.lock()
	if err != nil {
		return nil, err
	}
	defer lock.Close()
	n, old, err := f.current()
	if err != nil {
		return nil, err
	}
	out := &Result{Number: 1, Edits: []Edit{}}
	edited := map[string]bool{}
	if n > 0 {
		if out.Edits, err = f.edited(n, old); err != nil {
			return nil, err
		}
		for _, e := range out.Edits {
			edited[e.Path] = true
		}
	}
	for _, known := range f.Numbers() {
		out.Number = max(out.Number, known+1)
	}
	half := f.tree(out.Number) + ".half"
	if err := os.RemoveAll(half); err != nil {
		return nil, err
	}
	defer os.RemoveAll(half)
	w := &writer{root: half, stamps: map[string]stamp{}, digests: map[string]item.Digest{}}
	if n > 0 && !over { // over writes every file anew, whatever lies there
		w.before, w.old, w.edited = f.tree(n), old, edited
	}
	rel, err := fill(w.put)
	if err != nil {
		return nil, err
	}
	for p, x := range rel.Files { // every byte is what the list says
		if got, fresh := w.digests[p]; fresh && got != x.Digest {
			return nil, fmt.Errorf("%s arrived with other bytes than its list says", p)
		}
		if _, there := w.stamps[p]; !there {
			return nil, fmt.Errorf("%s is in the list and did not come", p)
		}
	}
	if n > 0 {
		if out.Edits = f.unsettled(n, out.Edits, rel); len(out.Edits) > 0 && !over {
			return nil, &EditedError{f.dir, out.Edits}
		}
	}
	out.Files, out.Written = len(rel.Files), w.written
	if n > 0 {
		for p := range old.Release.Files {
			if _, still := rel.Files[p]; !still {
				out.Removed++
			}
		}
	}
	list, err := json.Marshal(record{rel, w.stamps})
	if err != nil {
		return nil, err
	}
	if err := os.WriteFile(f.recordFile(out.Number), list, 0o644); err != nil {
		return nil, err
	}
	if err := os.Rename(half, f.tree(out.Number)); err != nil {
		return nil, err
	}
	if err := f.show(out.Number); err != nil {
		return nil, err
	}
	f.prune(out.Number)
	return out, nil
}

// unsettled gives the edits that a new release does not hold as well: an edit that was
// brought home is no loss when it is published.
func (f *Folder) unsettled(n int, edits []Edit, rel *folder.Release) []Edit {
	out := []Edit{}
	for _, e := range edits {
		want, there := rel.Files[e.Path]
		if e.What == "removed" && !there {
			continue
		}
		if got, err := digestOf(filepath.Join(f.tree(n), filepath.FromSlash(e.Path))); err == nil && there &&
			got == want.Digest {
			continue
		}
		out = append(out, e)
	}
	return out
}

// Back lets visitors see an older release again.
func (f *Folder) Back(n int) error {
	if _, err := os.Stat(f.recordFile(n)); err != nil {
		return fmt.Errorf("there is no release %d (kept: %v)", n, f.Numbers())
	}
	lock, err := f.lock()
	if err != nil {
		return err
	}
	defer lock.Close()
	return f.show(n)
}

// show points the folder's link at a release, in one act.
func (f *Folder) show(n int) error {
	to := filepath.Join(filepath.Base(f.releases()), strconv.Itoa(n))
	next := f.dir + ".next"
	os.Remove(next)
	if err := os.Symlink(to, next); err != nil {
		return err
	}
	if info, err := os.Lstat(f.dir); err == nil && info.IsDir() { // an empty folder: current has looked
		if err := os.Remove(f.dir); err != nil {
			return err
		}
	}
	return os.Rename(next, f.dir)
}

// Numbers lists the releases that are kept, rising.
func (f *Folder) Numbers() []int {
	files, _ := filepath.Glob(filepath.Join(f.releases(), "*.json"))
	var out []int
	for _, p := range files {
		if n, err := strconv.Atoi(strings.TrimSuffix(filepath.Base(p), ".json")); err == nil {
			if _, err := os.Stat(f.tree(n)); err == nil {
				out = append(out, n)
			}
		}
	}
	sort.Ints(out)
	return out
}

// prune removes the oldest releases beyond those that are kept.
func (f *Folder) prune(current int) {
	numbers := f.Numbers()
	for len(numbers) > Keep {
		if n := numbers[0]; n != current {
			os.Remove(f.recordFile(n))
			os.RemoveAll(f.tree(n))
		}
		numbers = numbers[1:]
	}
}

// lock lets one process at a time publish into the folder.
func (f *Folder) lock() (*os.File, error) {
	l, err := os.OpenFile(filepath.Join(f.releases(), "lock"), os.O_CREATE|os.O_RDWR, 0o644)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(l.Fd()), syscall.LOCK_EX); err != nil {
		l.Close()
		return nil, err
	}
	return l, nil
}

// writer puts the files of a release.
type writer struct {
	root    string
	before  string // the release before; empty when there is none
	old     *record
	edited  map[string]bool
	stamps  map[string]stamp
	digests map[string]item.Digest // of what was written
	written int
	made    map[string]bool
}

func (w *writer) put(name string, f folder.Published, open func() (io.ReadCloser, error)) error {
	if !filepath.IsLocal(filepath.FromSlash(name)) {
		return fmt.Errorf("the path %q leaves the folder", name)
	}
	p := filepath.Join(w.root, filepath.FromSlash(name))
	if dir := filepath.Dir(p); !w.made[dir] {
		if err := os.MkdirAll(dir, 0o755); err != nil {
			return err
		}
		if w.made == nil {
			w.made = map[string]bool{}
		}
		w.made[dir] = true
	}
	if w.old != nil && !w.edited[name] && name != folder.ReleaseFile {
		if had, ok := w.old.Release.Files[name]; ok && had.Digest == f.Digest {
			if os.Link(filepath.Join(w.before, filepath.FromSlash(name)), p) == nil {
				w.stamps[name] = w.old.Stamps[name]
				return nil
			}
		}
	}
	r, err := open()
	if err != nil {
		return err
	}
	defer r.Close()
	out, err := os.OpenFile(p, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	sum := sha256.New()
	n, err := io.Copy(io.MultiWriter(out, sum), r)
	var info os.FileInfo
	if err == nil {
		info, err = out.Stat()
	}
	if e := out.Close(); err == nil {
		err = e
	}
	if err != nil {
		return err
	}
	w.digests[name] = item.Digest(hex.EncodeToString(sum.Sum(nil)))
	if name != folder.ReleaseFile {
		w.written++
	}
	w.stamps[name] = stamp{n, info.ModTime()}
	return nil
}
