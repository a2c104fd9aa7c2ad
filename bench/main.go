// Bench measures Compact Parcel beside plain tools, in one run, and prints a table.
// It needs bin/cparceld and bin/cparcel; make bench builds them first.
package main

import (
	"bufio"
	"bytes"
	"flag"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

// groups of measurements; make bench runs them all, go run ./bench NAME... some.
var groups = []struct {
	name string
	run  func(dir string) error
}{{"sites", sites}, {"cores", func(string) error { return cores() }}, {"kits", kits}, {"large", large},
	{"solver", solver}, {"blend", blends}, {"plan", plans}, {"live", live}, {"drafts", drafts},
	{"pictures", shots}}

// small makes everything a fiftieth: to see that it runs through, not to measure.
var small = flag.Bool("small", false, "at a small size, to see that it runs through")

// sized gives a count at the size of this run.
func sized(n int) int {
	if *small {
		return max(1, n/50)
	}
	return n
}

func run() error {
	flag.Parse()
	if *fileServer != "" {
		return http.ListenAndServe(*fileServerAt, http.FileServer(http.Dir(*fileServer)))
	}
	dir, err := os.MkdirTemp("", "cparcel-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	fmt.Printf("%s; %d cores\n\n", runtime.Version(), runtime.NumCPU())
	if *small {
		fmt.Print("At a fiftieth of the sizes that are named: these figures mean nothing.\n\n")
	}
	fmt.Println("| what | time | beside | ratio |\n|---|---|---|---|")
	for _, g := range groups {
		if flag.NArg() > 0 && !slices.Contains(flag.Args(), g.name) {
			continue
		}
		own := filepath.Join(dir, g.name) // no group sees another's files
		if err := os.Mkdir(own, 0o755); err != nil {
			return err
		}
		if err := g.run(own); err != nil {
			return fmt.Errorf("%s: %w", g.name, err)
		}
		if err := os.RemoveAll(own); err != nil {
			return err
		}
	}
	return nil
}

// sites measures adopting and publishing beside copying and hashing the same files.
func sites(dir string) error {
	site := filepath.Join(dir, "site")
	big := size{pages: sized(2000), sheets: 40, pictures: sized(3000), pictureBytes: 20_000}
	if err := makeSite(site, big); err != nil {
		return err
	}
	row := func(what string, d, peer time.Duration, aim string) {
		fmt.Printf("| %s | %.2f s | %.2f s | %.1f× (aim %s) |\n", what, d.Seconds(), peer.Seconds(),
			d.Seconds()/peer.Seconds(), aim)
	}
	copied := func() (time.Duration, error) { // the median of three
		var times []time.Duration
		for range 3 {
			to := filepath.Join(dir, "copy")
			d, err := timed("sh", "-c",
				fmt.Sprintf("cp -r %s %s && find %s -type f -print0 | xargs -0 sha256sum > /dev/null", site, to, to))
			if err != nil {
				return 0, err
			}
			if err := os.RemoveAll(to); err != nil {
				return 0, err
			}
			times = append(times, d)
		}
		slices.Sort(times)
		return times[1], nil
	}
	if _, err := copied(); err != nil { // once for nothing: the files are in memory for all
		return err
	}
	s, err := serve(dir)
	if err != nil {
		return err
	}
	defer s.stop()
	for _, parts := range []string{"none", "auto"} {
		peer, err := copied()
		if err != nil {
			return err
		}
		d, err := s.client("site", "adopt", site, "--name", "ridge-"+parts, "--parts", parts)
		if err != nil {
			return err
		}
		row("adopt, --parts "+parts, d, peer, "4×")
	}
	peer, err := copied()
	if err != nil {
		return err
	}
	out := filepath.Join(dir, "out")
	for _, step := range []struct{ what, aim string }{{"publish", "3×"}, {"publish again, unchanged", "1×"}} {
		d, err := s.client("site", "publish", "ridge-auto", out)
		if err != nil {
			return err
		}
		row(step.what, d, peer, step.aim)
	}
	peak, err := s.peak()
	if err != nil {
		return err
	}
	fmt.Printf("| peak memory of the service | %d MB | | aim 256 MB |\n", peak>>20)
	return nil
}

func timed(name string, args ...string) (time.Duration, error) {
	c := exec.Command(name, args...)
	var errOut bytes.Buffer
	c.Stderr = &errOut
	start := time.Now()
	if err := c.Run(); err != nil {
		return 0, fmt.Errorf("%s %s: %w\n%s", name, strings.Join(args, " "), err, errOut.String())
	}
	return time.Since(start), nil
}

// service is a running cparceld.
type service struct {
	cmd *exec.Cmd
	env []string
	bin string
}

func serve(dir string, more ...string) (*service, error) {
	s := &service{
		cmd: exec.Command("bin/cparceld",
			append([]string{"serve", "--demo=sites", "--data", filepath.Join(dir, "data"), "--listen", "127.0.0.1:0",
				"--previews", "127.0.0.1:0", "--forms", "", "--log", "error", "--browser", "none"}, more...)...),
		bin: "bin/cparcel",
	}
	s.cmd.Stderr = os.Stderr
	said, err := s.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(said)
	for lines.Scan() {
		key, value, _ := strings.Cut(lines.Text(), ":")
		switch key {
		case "Console":
			s.env = append(s.env, "CPARCEL_SERVER="+strings.TrimSpace(value))
		case "Token":
			s.env = append(s.env, "CPARCEL_TOKEN="+strings.TrimSpace(value))
			return s, nil
		}
	}
	return nil, fmt.Errorf("the service ended before it was ready")
}

func (s *service) client(args ...string) (time.Duration, error) {
	c := exec.Command(s.bin, args...)
	c.Env = append(os.Environ(), s.env...)
	var errOut bytes.Buffer
	c.Stderr = &errOut
	start := time.Now()
	if err := c.Run(); err != nil {
		return 0, fmt.Errorf("cparcel %s: %w\n%s", strings.Join(args, " "), err, errOut.String())
	}
	return time.Since(start), nil
}

// peak is the most memory, in bytes, that the service has had (VmHWM).
func (s *service) peak() (int64, error) {
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))
	if err != nil {
		return 0, err
	}
	for _, line := range strings.Split(string(b), "\n") {
		if v, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			n, err := strconv.ParseInt(strings.Fields(v)[0], 10, 64)
			return n << 10, err
		}
	}
	return 0, fmt.Errorf("the system does not tell the peak")
}

func (s *service) stop() {
	s.cmd.Process.Signal(syscall.SIGTERM)
	s.cmd.Wait()
}
