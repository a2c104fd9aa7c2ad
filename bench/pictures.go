package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"
)

// shots measures how many pictures are made a second, and how much memory service and browser hold together
// meanwhile, at 1,000 pictures: pages of a site with pictures and stylesheets, at 1280 px.
func shots(dir string) error {
	site := filepath.Join(dir, "site")
	n := sized(1000)
	if err := makeSite(site, size{pages: n, sheets: 5, pictures: 60, pictureBytes: 20_000}); err != nil {
		return err
	}
	s, err := serve(dir, "--browser", "auto")
	if err != nil {
		return err
	}
	defer s.stop()
	if _, err := s.client("site", "adopt", site, "--name", "ridge", "--parts", "auto"); err != nil {
		return err
	}
	origin, err := s.previewOf("ridge")
	if err != nil {
		return err
	}
	var wanted []map[string]any
	for i := range n {
		wanted = append(wanted, map[string]any{"at": fmt.Sprintf("%s/pages/%02d/%04d.html", origin, i%50, i)})
	}
	peak := int64(0)
	stop := make(chan struct{})
	seen := make(chan struct{})
	go func() {
		defer close(seen)
		for {
			select {
			case <-stop:
				return
			case <-time.After(500 * time.Millisecond):
				peak = max(peak, held(s.cmd.Process.Pid))
			}
		}
	}()
	began := time.Now()
	ask := func() (made, waiting int, err error) {
		for from := 0; from < len(wanted); from += 200 {
			var got struct {
				Pictures []struct{ Picture struct{ State string } }
			}
			body := map[string]any{"pictures": wanted[from:min(from+200, len(wanted))]}
			if _, err := s.call("POST", "/api/v1/pictures", body, &got); err != nil {
				return 0, 0, err
			}
			for _, p := range got.Pictures {
				switch p.Picture.State {
				case "made":
					made++
				case "waiting":
					waiting++
				}
			}
		}
		return made, waiting, nil
	}
	for {
		made, waiting, err := ask()
		if err != nil {
			return err
		}
		if waiting == 0 {
			took := time.Since(began)
			close(stop)
			<-seen
			fmt.Printf("| pictures of %d pages at 1280 px, a second | %.1f (%d of them) | | |\n", n,
				float64(made)/took.Seconds(), made)
			fmt.Printf("| service and browser together, at most | %d MB | | aim 1,024 MB "+
				"|\n", peak>>20)
			return nil
		}
		time.Sleep(5 * time.Second)
	}
}

// held gives what a process and all that it started hold for themselves, in bytes (proc(5), smaps_rollup); the
// database is left out.
func held(root int) (sum int64) {
	parents := map[int]int{}
	list, err := filepath.Glob("/proc/[0-9]*/stat")
	if err != nil {
		return 0
	}
	names := map[int]string{}
	for _, name := range list {
		b, err := os.ReadFile(name)
		if err != nil {
			continue
		}
		pid, err := strconv.Atoi(filepath.Base(filepath.Dir(name)))
		if err != nil {
			continue
		}
		before, rest, _ := strings.Cut(string(b), ") ")
		fields := strings.Fields(rest)
		if len(fields) < 2 {
			continue
		}
		if parents[pid], err = strconv.Atoi(fields[1]); err != nil {
			continue
		}
		_, names[pid], _ = strings.Cut(before, "(")
	}
	for pid := range parents {
		up := pid
		for up > 1 && up != root {
			up = parents[up]
		}
		if up != root || strings.HasPrefix(names[pid], "mariadb") || strings.HasPrefix(names[pid], "mysqld") {
			continue
		}
		b, err := os.ReadFile(fmt.Sprintf("/proc/%d/smaps_rollup", pid))
		if err != nil {
			continue
		}
		for _, line := range strings.Split(string(b), "\n") {
			if rest, ok := strings.CutPrefix(line, "Pss:"); ok {
				if kb, err := strconv.ParseInt(strings.TrimSuffix(strings.TrimSpace(rest), " kB"), 10, 64); err == nil {
					sum += kb << 10
				}
			}
		}
	}
	return sum
}
