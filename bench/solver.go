package main

import (
	"fmt"
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"compactparcel/core/solve"
)

// kitWorld makes kits with versions and needs among them, in layers, so that there is
// always a choice; the higher a version, the more its needs conflict.
func kitWorld(kits, versions int) []solve.Release {
	r := rand.New(rand.NewSource(11))
	var out []solve.Release
	for k := range kits {
		for v := range versions {
			x := solve.Release{
				Kit:     fmt.Sprintf("kit-%04d", k),
				Version: fmt.Sprintf("1.%d.0", v),
				Needs:   map[string]string{},
			}
			for range 4 {
				if k+1 >= kits {
					break
				}
				to := k + 1 + r.Intn(min(60, kits-k-1))
				// Up to its own number of versions may not be reached: lower ones always fit.
				switch r.Intn(4) {
				case 0:
					x.Needs[fmt.Sprintf("kit-%04d", to)] = fmt.Sprintf(">=1.%d.0", v/2)
				case 1:
					x.Needs[fmt.Sprintf("kit-%04d", to)] = fmt.Sprintf("<=1.%d.0", v)
				default:
					x.Needs[fmt.Sprintf("kit-%04d", to)] = ">=1.0.0"
				}
			}
			out = append(out, x)
		}
	}
	return out
}

// solver measures finding versions beside the package tool of the machine on the same
// world.
func solver(dir string) error {
	list := kitWorld(sized(5000), 10)
	start := time.Now()
	w, err := solve.NewWorld(list)
	if err != nil {
		return err
	}
	loaded := time.Since(start)
	var best time.Duration
	kits, failed := 0, ""
	for range 7 {
		start = time.Now()
		got, err := w.Solve(solve.Question{Want: map[string]string{"kit-0000": "*"}})
		d := time.Since(start)
		if err != nil {
			failed = "there is no choice: " + strings.SplitN(err.Error(), "\n", 2)[0]
		} else {
			kits = len(got.Kits)
		}
		if best == 0 || d < best {
			best = d
		}
	}
	peer, says, err := packageTool(filepath.Join(dir, "apt"), list)
	if err != nil {
		fmt.Printf(
			"| choosing versions among 5,000 kits × 10 | %.1f ms, %d kits chosen %s | no peer: %v | aim 50 ms |\n",
			best.Seconds()*1000, kits, failed, err)
		return nil
	}
	fmt.Printf(
		"| choosing versions among 5,000 kits × 10 (world loaded, in %.0f ms) | %.1f ms, %d kits chosen %s | "+
			"%.0f ms (apt-get --simulate: %s) | %.2f× (aim 1× and 50 ms) |\n",
		loaded.Seconds()*1000,
		best.Seconds()*1000,
		kits,
		failed,
		peer.Seconds()*1000,
		says,
		best.Seconds()/peer.Seconds(),
	)
	return nil
}

// packageTool writes the world as a package index and has apt-get simulate.
func packageTool(dir string, list []solve.Release) (time.Duration, string, error) {
	apt, err := exec.LookPath("apt-get")
	if err != nil {
		return 0, "", err
	}
	for _, d := range []string{"repo", "lists/partial", "cache/archives/partial", "etc/preferences.d",
		"etc/apt.conf.d"} {
		if err := os.MkdirAll(filepath.Join(dir, d), 0o755); err != nil {
			return 0, "", err
		}
	}
	var b strings.Builder
	for _, r := range list {
		var deps []string
		for k, text := range r.Needs {
			op := strings.TrimRight(text, "0123456789.")
			deps = append(deps, fmt.Sprintf("%s (%s %s)", k, op, text[len(op):]))
		}
		fmt.Fprintf(
			&b,
			"Package: %s\nVersion: %s\nArchitecture: all\nFilename: ./%s_%s.deb\nSize: 1\nSHA256: "+
				"%064d\nDescription: x\n",
			r.Kit,
			r.Version,
			r.Kit,
			r.Version,
			0,
		)
		if len(deps) > 0 {
			fmt.Fprintf(&b, "Depends: %s\n", strings.Join(deps, ", "))
		}
		b.WriteString("\n")
	}
	if err := os.WriteFile(filepath.Join(dir, "repo", "Packages"), []byte(b.String()), 0o644); err != nil {
		return 0, "", err
	}
	if err := os.WriteFile(filepath.Join(dir, "sources.list"), []byte("deb [trusted=yes] copy:"+dir+"/repo ./\n"),
		0o644); err != nil {
		return 0, "", err
	}
	if err := os.WriteFile(filepath.Join(dir, "status"), nil, 0o644); err != nil {
		return 0, "", err
	}
	opts := []string{
		"-o",
		"Dir::Etc::sourcelist=" + dir + "/sources.list",
		"-o",
		"Dir::Etc::sourceparts=-",
		"-o",
		"Dir::State::lists=" + dir + "/lists",
		"-o",
		"Dir::State::status=" + dir + "/status",
		"-o",
		"Dir::Cache=" + dir + "/cache",
		"-o",
		"Dir::Etc::preferencesparts=" + dir + "/etc/preferences.d",
		"-o",
		"Debug::NoLocking=1",
		"-o",
		"APT::Sandbox::User=root",
	}
	if out, err := exec.Command(apt, append(opts, "update")...).CombinedOutput(); err != nil {
		return 0, "", fmt.Errorf("%w: %s", err, out)
	}
	var best time.Duration
	says := ""
	for range 2 {
		start := time.Now()
		out, err := exec.Command(apt, append(opts, "--simulate", "install", "kit-0000")...).CombinedOutput()
		d := time.Since(start)
		says = fmt.Sprintf("%d chosen", strings.Count(string(out), "\nInst "))
		if err != nil {
			says = "it finds no choice"
		}
		if best == 0 || d < best {
			best = d
		}
	}
	return best, says, nil
}
