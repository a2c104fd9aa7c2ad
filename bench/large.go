package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"time"
)

// large measures the peak memory of packing, verifying and unpacking a kit of 4 GB.
func large(dir string) error {
	from := filepath.Join(dir, "large")
	if err := os.MkdirAll(filepath.Join(from, "media"), 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(from, "site.json"), []byte(`{"format":1}`), 0o644); err != nil {
		return err
	}
	files, each := 41, sized(100<<20)
	for i := range files { // each other content, and no room on the disk
		name := filepath.Join(from, "media", fmt.Sprintf("film-%02d.mp4", i))
		if err := os.WriteFile(name, fmt.Appendf(nil, "film %d", i), 0o644); err != nil {
			return err
		}
		if err := os.Truncate(name, int64(each)); err != nil {
			return err
		}
	}
	file, out := filepath.Join(dir, "large.cpkit"), filepath.Join(dir, "large-out")
	for _, step := range [][]string{{"file", "pack", from, "-f", file, "--kit", "large@1.0.0", "--force"},
		{"file", "verify", file}, {"file", "unpack", file, out}} {
		d, peak, err := peakOf("bin/cparcel", step...)
		if err != nil {
			return err
		}
		fmt.Printf("| %s a kit of %.1f GB | %.1f s | peak memory %d MB | aim 64 MB |\n", step[1],
			float64(files*each)/(1<<30), d.Seconds(), peak>>20)
	}
	os.RemoveAll(out)
	return os.Remove(file)
}

// peakOf runs a program and gives the most memory that it had, in bytes.
func peakOf(name string, args ...string) (time.Duration, int64, error) {
	c := exec.Command(name, args...)
	begin := time.Now()
	out, err := c.CombinedOutput()
	if err != nil {
		return 0, 0, fmt.Errorf("%s %v: %w\n%s", name, args, err, out)
	}
	used := c.ProcessState.SysUsage().(*syscall.Rusage)
	return time.Since(begin), used.Maxrss << 10, nil
}
