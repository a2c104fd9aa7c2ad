package blob

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"
)

// Scratch is a folder of files that only live as long as one request.
type Scratch struct{ dir string }

// OpenScratch makes the folder, or empties it: what a service that was killed has left is
// nobody's. Only one service works in it.
func OpenScratch(dir string) (*Scratch, error) {
	if err := os.RemoveAll(dir); err != nil {
		return nil, fmt.Errorf("the scratch folder: %w", err)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the scratch folder: %w", err)
	}
	return &Scratch{dir}, nil
}

// With runs f with a file that is gone afterwards. A nil Scratch uses the system's folder.
func (s *Scratch) With(f func(*os.File) error) error {
	dir := ""
	if s != nil {
		dir = s.dir
	}
	t, err := os.CreateTemp(dir, "cparcel-")
	if err != nil {
		return err
	}
	defer func() { t.Close(); os.Remove(t.Name()) }()
	return f(t)
}

// Sweep removes files older than grace and counts them.
func (s *Scratch) Sweep(grace time.Duration) (removed int, err error) {
	if s == nil {
		return 0, nil
	}
	err = filepath.WalkDir(s.dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		info, err := d.Info()
		if os.IsNotExist(err) || err == nil && time.Since(info.ModTime()) < grace {
			return nil
		}
		if err != nil {
			return err
		}
		removed++
		return os.Remove(p)
	})
	return removed, err
}
