package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// The world of the plan: a kit of 1,000 items of which 500 change and 250 were edited on
// the site, in other places.
var kitItems, changed, diverged = 1000, 500, 250

// plans measures a plan into a large and a small site beside git on the same files, and
// going live beside the database's own client with the same rows.
func plans(dir string) error {
	kitItems, changed, diverged = sized(1000), sized(500), sized(250)
	var first []time.Duration
	for _, own := range []int{sized(20_000) - kitItems, 200} {
		at := filepath.Join(dir, fmt.Sprintf("plan-%d", own))
		if err := os.MkdirAll(at, 0o755); err != nil {
			return err
		}
		d, err := planInto(at, own)
		if err != nil {
			return err
		}
		first = append(first, d)
	}
	fmt.Printf(
		"| the same plan into a site of 20,000 beside one of 200 items | %.2f s | %.2f s | %.2f× (aim 1.5×) |\n",
		first[0].Seconds(), first[1].Seconds(), first[0].Seconds()/first[1].Seconds())
	return nil
}

// texts gives the pages of the site and both versions of the kit.
func texts(own int) (site, one, two map[string]string) {
	r := rand.New(rand.NewSource(17))
	page := func(title string) string {
		b := "<!doctype html><html><head><title>" + title + "</title></head><body><main>\n"
		for range 12 {
			b += "<p>" + sentence(r, 30) + "</p>\n"
		}
		return b + "</main></body></html>\n"
	}
	site, one, two = map[string]string{}, map[string]string{}, map[string]string{}
	for i := range own {
		site[fmt.Sprintf("own-%05d", i)] = page("Own")
	}
	for i := range kitItems {
		name := fmt.Sprintf("kit-%04d", i)
		one[name] = page("Kit")
		two[name] = one[name]
		if i < changed {
			lines := strings.Split(one[name], "\n")
			lines[2] = "<p>" + sentence(r, 30) + "</p>"
			two[name] = strings.Join(lines, "\n")
		}
	}
	return site, one, two
}

// editedHere is what the site made of a page of the kit.
func editedHere(text string) string {
	lines := strings.Split(text, "\n")
	lines[8] = "<p>the site's own words</p>"
	return strings.Join(lines, "\n")
}

func writePages(dir string, list ...map[string]string) error {
	if err := os.MkdirAll(filepath.Join(dir, "pages"), 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "site.json"), []byte(`{"format":1}`), 0o644); err != nil {
		return err
	}
	for _, pages := range list {
		for name, text := range pages {
			if err := os.WriteFile(filepath.Join(dir, "pages", name+".html"), []byte(text), 0o644); err != nil {
				return err
			}
		}
	}
	return nil
}

func planInto(dir string, own int) (time.Duration, error) {
	site, one, two := texts(own)
	peer, err := mergeTree(filepath.Join(dir, "git"), site, one, two)
	if err != nil {
		return 0, err
	}
	for name, pages := range map[string]map[string]string{"site": site, "one": one, "two": two} {
		if err := writePages(filepath.Join(dir, name), pages); err != nil {
			return 0, err
		}
	}
	s, err := serve(dir)
	if err != nil {
		return 0, err
	}
	defer func() { s.stop() }()
	run := func(args ...string) error { _, err := s.client(args...); return err }
	if err := run("site", "adopt", filepath.Join(dir, "site"), "--name", "ridge", "--parts", "none"); err != nil {
		return 0, err
	}
	for v, from := range map[string]string{"1.0.0": "one", "1.1.0": "two"} {
		file := filepath.Join(dir, from+".cpkit")
		if err := run("file", "pack", filepath.Join(dir, from), "-f", file, "--kit", "big@"+v); err != nil {
			return 0, err
		}
		if err := run("kit", "import", file); err != nil {
			return 0, err
		}
	}
	if err := run("deliver", "big@1.0.0", "ridge", "--live"); err != nil {
		return 0, err
	}
	draft := 0
	for i := range diverged {
		name := fmt.Sprintf("kit-%04d", i)
		if draft, err = s.edit("ridge", "page/"+name, editedHere(one[name]), draft); err != nil {
			return 0, err
		}
	}
	if err := run("site", "go-live", "ridge", fmt.Sprint(draft)); err != nil {
		return 0, err
	}
	// Begun anew, so that what is measured from here on is the plan's memory alone.
	s.stop()
	if s, err = serve(dir); err != nil {
		return 0, err
	}
	if _, err := s.call("POST", "/api/v1/deliveries",
		map[string]string{"kit": "big", "version": "1.1.0", "site": "ridge"}, nil); err != nil {
		return 0, err
	}
	var times []time.Duration
	for range 5 {
		d, err := s.call("POST", "/api/v1/deliveries/2/plan", nil, nil)
		if err != nil {
			return 0, err
		}
		times = append(times, d)
	}
	slices.Sort(times)
	fmt.Printf(
		"| plan 1,000 items, 250 diverged, into a site of %d | %.2f s | git merge-tree --write-tree: %.2f s | "+
			"%.1f× (aim 3×) |\n",
		own+kitItems,
		times[2].Seconds(),
		peer.Seconds(),
		times[2].Seconds()/peer.Seconds(),
	)
	if own < 1000 {
		return times[2], nil
	}
	peak, err := s.peak()
	if err != nil {
		return 0, err
	}
	fmt.Printf("| … peak memory of the service | %d MB | | (aim 150 MB) |\n", peak>>20)
	return times[2], s.goingLive(dir)
}

// mergeTree is what git takes to merge the same edits of the same files.
func mergeTree(dir string, site, one, two map[string]string) (time.Duration, error) {
	git := func(args ...string) error {
		_, err := timed(
			"git",
			append(
				[]string{"-C", dir, "-c", "user.name=b", "-c", "user.email=b@example.invalid", "-c", "gc.auto=0"},
				args...)...)
		return err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return 0, err
	}
	mine := map[string]string{}
	for i := range diverged {
		name := fmt.Sprintf("kit-%04d", i)
		mine[name] = editedHere(one[name])
	}
	for _, step := range []func() error{
		func() error { return git("init", "-q", "-b", "base") },
		func() error { return writePages(dir, site, one) },
		func() error { return git("add", ".") },
		func() error { return git("commit", "-qm", "base") },
		func() error { return git("checkout", "-qb", "site") },
		func() error { return writePages(dir, mine) },
		func() error { return git("commit", "-qam", "site") },
		func() error { return git("checkout", "-qb", "kit", "base") },
		func() error { return writePages(dir, two) },
		func() error { return git("commit", "-qam", "kit") },
	} {
		if err := step(); err != nil {
			return 0, err
		}
	}
	var times []time.Duration
	for range 5 {
		d, err := timed("git", "-C", dir, "merge-tree", "--write-tree", "site", "kit")
		if err != nil {
			return 0, err
		}
		times = append(times, d)
	}
	slices.Sort(times)
	return times[2], nil
}

// goingLive stages and goes live, and writes the same rows with the database's client.
func (s *service) goingLive(dir string) error {
	var d struct{ State string }
	if _, err := s.call("POST", "/api/v1/deliveries/2/stage", nil, &d); err != nil && d.State != "staged" &&
		!strings.Contains(err.Error(), "409") {
		return err
	}
	took, err := s.call("POST", "/api/v1/deliveries/2/live", nil, nil)
	if err != nil {
		return err
	}
	socket := filepath.Join(dir, "data", "mariadb", "mariadb.sock")
	sql := func(args ...string) *exec.Cmd {
		return exec.Command("mariadb", append([]string{"--socket", socket, "compactparcel"}, args...)...)
	}
	var rows bytes.Buffer
	rows.WriteString("START TRANSACTION;\n")
	for table, where := range map[string]string{
		"items": "from_rev = (SELECT MAX(from_rev) FROM items WHERE collection_id = (SELECT id FROM " +
			"collections WHERE name = 'ridge'))",
		"item_refs": "item_id IN (SELECT item_id FROM origins)", "origins": "delivery_id = 2",
	} {
		out, err := exec.Command("mariadb-dump", "--socket", socket, "--no-create-info", "--compact",
			"--skip-lock-tables", "--where", where, "compactparcel", table).
			Output()
		if err != nil {
			return fmt.Errorf("mariadb-dump: %w", err)
		}
		rows.Write(bytes.ReplaceAll(out, []byte("INSERT INTO `"+table+"`"), []byte("INSERT INTO `peer_"+table+"`")))
	}
	rows.WriteString("COMMIT;\n")
	var times []time.Duration
	for range 3 {
		for _, table := range []string{"items", "item_refs", "origins"} {
			if out, err := sql("-e",
				fmt.Sprintf("CREATE OR REPLACE TABLE peer_%s LIKE %s", table, table)).CombinedOutput(); err != nil {
				return fmt.Errorf("%w: %s", err, out)
			}
		}
		c := sql()
		c.Stdin = bytes.NewReader(rows.Bytes())
		start := time.Now()
		if out, err := c.CombinedOutput(); err != nil {
			return fmt.Errorf("%w: %s", err, out)
		}
		times = append(times, time.Since(start))
	}
	slices.Sort(times)
	fmt.Printf("| go live with it | %.2f s | mariadb, the same rows in one transaction: %.2f s | %.1f× (aim 1×) |\n",
		took.Seconds(), times[1].Seconds(), took.Seconds()/times[1].Seconds())
	return nil
}

// call makes one request.
func (s *service) call(method, path string, body, into any) (time.Duration, error) {
	var text bytes.Buffer
	if body != nil {
		if err := json.NewEncoder(&text).Encode(body); err != nil {
			return 0, err
		}
	}
	return s.send(method, path, &text, "", into)
}

// send sends a body; state is the one that a change was made for, or empty.
func (s *service) send(method, path string, body *bytes.Buffer, state string, into any) (time.Duration, error) {
	env := map[string]string{}
	for _, e := range s.env {
		k, v, _ := strings.Cut(e, "=")
		env[k] = v
	}
	req, err := http.NewRequest(method, env["CPARCEL_SERVER"]+path, body)
	if err != nil {
		return 0, err
	}
	req.Header.Set("Authorization", "Bearer "+env["CPARCEL_TOKEN"])
	if body.Len() > 0 {
		req.Header.Set("Content-Type", "application/json")
	}
	if state != "" {
		req.Header.Set("If-Match", `"`+state+`"`)
	}
	start := time.Now()
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, err
	}
	defer res.Body.Close()
	var got bytes.Buffer
	if _, err := got.ReadFrom(res.Body); err != nil {
		return 0, err
	}
	took := time.Since(start)
	if res.StatusCode >= 300 {
		return took, fmt.Errorf("%s %s: %d %s", method, path, res.StatusCode, got.String())
	}
	if into != nil {
		return took, json.Unmarshal(got.Bytes(), into)
	}
	return took, nil
}

// edit lays a text into a draft and gives the draft's number.
func (s *service) edit(site, address, content string, draft int) (int, error) {
	path := fmt.Sprintf("/api/v1/sites/%s/item?address=%s", site, address)
	var had struct{ Item struct{ State string } }
	if _, err := s.call("GET", path, nil, &had); err != nil {
		return 0, err
	}
	if draft > 0 {
		path += fmt.Sprintf("&draft=%d", draft)
	}
	body, err := json.Marshal(map[string]string{"content": content})
	if err != nil {
		return 0, err
	}
	var out struct{ Draft int }
	_, err = s.send("PUT", path, bytes.NewBuffer(body), had.Item.State, &out)
	return out.Draft, err
}
