package kit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"sort"
	"sync"
)

// UnpackTo writes a kit's files into a new folder: beside it first, all checked, and
// then into place in one act. A folder that holds something is refused.
func (k *Kit) UnpackTo(dir string) error {
	if entries, err := os.ReadDir(dir); err == nil && len(entries) > 0 {
		return fmt.Errorf("%s is not empty: name a folder that is empty or not there", dir)
	}
	half := dir + ".half"
	if err := os.Mkdir(half, 0o755); err != nil {
		return err
	}
	defer os.RemoveAll(half)
	own := map[string]any{ListName: k.List}
	if k.Seal != nil {
		own[SealName] = k.Seal
	}
	for name, v := range own {
		var b bytes.Buffer
		enc := json.NewEncoder(&b)
		enc.SetIndent("", "  ")
		enc.SetEscapeHTML(false) // for people: ">=1.0" and not an escape
		if err := enc.Encode(v); err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(half, name), b.Bytes(), 0o644); err != nil {
			return err
		}
	}
	files := k.List.files()
	paths := make([]string, 0, len(files))
	for p := range files {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	made := map[string]bool{}
	for _, p := range paths {
		if d := filepath.Dir(p); !made[d] {
			made[d] = true
			if err := os.MkdirAll(filepath.Join(half, filepath.FromSlash(d)), 0o755); err != nil {
				return err
			}
		}
	}
	queue := make(chan string, len(paths))
	for _, p := range paths {
		queue <- p
	}
	close(queue)
	var once sync.Once
	var failed error
	var done sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		done.Add(1)
		go func() {
			defer done.Done()
			buf := make([]byte, 128<<10)
			for p := range queue {
				if err := k.unpackFile(files[p], filepath.Join(half, filepath.FromSlash(p)), buf); err != nil {
					once.Do(func() { failed = err })
					return
				}
			}
		}()
	}
	if done.Wait(); failed != nil {
		return failed
	}
	if err := os.Remove(dir); err != nil && !os.IsNotExist(err) {
		return err
	}
	return os.Rename(half, dir)
}

func (k *Kit) unpackFile(want File, to string, buf []byte) error {
	r, err := k.openFile(want)
	if err != nil {
		return fmt.Errorf("%s: %w", want.Path, err)
	}
	defer r.Close()
	f, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	_, err = io.CopyBuffer(struct{ io.Writer }{f}, struct{ io.Reader }{r}, buf)
	if shut := f.Close(); err == nil {
		err = shut
	}
	if err != nil {
		return fmt.Errorf("%s: %w", want.Path, err)
	}
	return nil
}
