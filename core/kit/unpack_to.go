package kit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"sort"

	"compactparcel/core/workers"
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
	bufs := make([][]byte, workers.Count())
	err := workers.Each(len(paths), func(worker, i int) error {
		if bufs[worker] == nil {
			bufs[worker] = make([]byte, 128<<10)
		}
		return k.unpackFile(files[paths[i]], filepath.Join(half, filepath.FromSlash(paths[i])), bufs[worker])
	})
	if err != nil {
		return err
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
