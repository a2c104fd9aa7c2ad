package pictures

import (
	"os"
	"path/filepath"
	"strconv"
	"strings"
)

// groupMemory sums what the processes of a group hold for themselves, in bytes: the proportional set size
// (proc(5), smaps_rollup) where it can be read, which counts what they share once; else what is resident.
func groupMemory(group int) (sum int64) {
	stats, err := filepath.Glob("/proc/[0-9]*/stat")
	if err != nil {
		return 0
	}
	for _, name := range stats {
		b, err := os.ReadFile(name)
		if err != nil {
			continue // it has ended
		}
		// pid (comm) state ppid pgrp …; rss is the 24th field, in pages.
		_, rest, ok := strings.Cut(string(b), ") ")
		fields := strings.Fields(rest)
		if !ok || len(fields) < 22 || fields[2] != strconv.Itoa(group) {
			continue
		}
		if n, ok := proportional(filepath.Join(filepath.Dir(name), "smaps_rollup")); ok {
			sum += n
			continue
		}
		if pages, err := strconv.ParseInt(fields[21], 10, 64); err == nil {
			sum += pages * int64(os.Getpagesize())
		}
	}
	return sum
}

func proportional(name string) (int64, bool) {
	b, err := os.ReadFile(name)
	if err != nil {
		return 0, false
	}
	for _, line := range strings.Split(string(b), "\n") {
		if rest, ok := strings.CutPrefix(line, "Pss:"); ok {
			kb, err := strconv.ParseInt(strings.TrimSuffix(strings.TrimSpace(rest), " kB"), 10, 64)
			return kb << 10, err == nil
		}
	}
	return 0, false
}
