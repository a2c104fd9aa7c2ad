package main

import (
	"bytes"
	"context"
	"flag"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"
)

// fileServer makes this program Go's own file server of a folder: the peer of live pages.
var fileServer = flag.String("files", "", "serve a folder on the address that -at names, and nothing else")

var fileServerAt = flag.String("at", "127.0.0.1:0", "the address for -files")

// live measures requests a second of a live site's pages beside Go's file server on the same
// bytes, and the list of 200 sites.
func live(dir string) error {
	site := filepath.Join(dir, "site")
	if err := makeSite(site, size{pages: 50, sheets: 5, pictures: 60, pictureBytes: 2_000}); err != nil {
		return err
	}
	s, err := serve(dir)
	if err != nil {
		return err
	}
	defer s.stop()
	if _, err := s.client("site", "adopt", site, "--name", "ridge", "--parts", "auto"); err != nil {
		return err
	}
	pages := []string{"/"}
	for i := range 50 {
		pages = append(pages, fmt.Sprintf("/pages/%02d/%04d.html", i%50, i))
	}
	ours, err := s.previewOf("ridge")
	if err != nil {
		return err
	}
	same := filepath.Join(dir, "same")
	for _, p := range pages {
		if err := save(ours, p, same); err != nil {
			return err
		}
	}
	at, stop, err := serveFiles(same)
	if err != nil {
		return err
	}
	defer stop()
	var rates []float64
	for range 3 { // in turns, so that both have the same machine
		for _, from := range []string{ours, at} {
			n, err := rate(from, pages, time.Duration(sized(3000))*time.Millisecond)
			if err != nil {
				return err
			}
			rates = append(rates, n)
		}
	}
	mine, peer := median3(rates[0], rates[2], rates[4]), median3(rates[1], rates[3], rates[5])
	fmt.Printf("| live pages, requests a second | %.0f | %.0f (Go's file server) | %.2f× (aim 0.33×) |\n", mine, peer,
		mine/peer)
	return s.listOfSites(sized(200))
}

func median3(list ...float64) float64 { slices.Sort(list); return list[1] }

// previewOf gives the address of a site's preview.
func (s *service) previewOf(name string) (string, error) {
	var v struct {
		Preview string `json:"preview"`
	}
	_, err := s.call("GET", "/api/v1/sites/"+name, nil, &v)
	return strings.TrimSuffix(v.Preview, "/"), err
}

// save keeps what a page answers, under the name by which a file server finds it.
func save(from, page, dir string) error {
	r, err := client.Get(from + page)
	if err != nil {
		return err
	}
	defer r.Body.Close()
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return err
	}
	if r.StatusCode != http.StatusOK {
		return fmt.Errorf("%s answered %s: %s", page, r.Status, b)
	}
	if strings.HasSuffix(page, "/") {
		page += "index.html"
	}
	p := filepath.Join(dir, page)
	if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
		return err
	}
	return os.WriteFile(p, b, 0o644)
}

// client keeps connections open, one for each that asks, and finds names below localhost here.
var client = &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: askers, DialContext: dialHere}}

// dialHere finds every name of the previews on this machine.
func dialHere(ctx context.Context, network, address string) (net.Conn, error) {
	_, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	var d net.Dialer
	return d.DialContext(ctx, network, "127.0.0.1:"+port)
}

const askers = 16

// rate counts how many requests a second are answered.
func rate(from string, pages []string, during time.Duration) (float64, error) {
	var n atomic.Int64
	var failed atomic.Pointer[error]
	var all sync.WaitGroup
	end := time.Now().Add(during)
	for k := range askers {
		all.Go(func() {
			for i := k; time.Now().Before(end); i++ {
				r, err := client.Get(from + pages[i%len(pages)])
				if err == nil {
					if _, err = io.Copy(io.Discard, r.Body); err == nil && r.StatusCode != http.StatusOK {
						err = fmt.Errorf("%s answered %s", pages[i%len(pages)], r.Status)
					}
					r.Body.Close()
				}
				if err != nil {
					failed.Store(&err)
					return
				}
				n.Add(1)
			}
		})
	}
	all.Wait()
	if err := failed.Load(); err != nil {
		return 0, *err
	}
	return float64(n.Load()) / during.Seconds(), nil
}

// serveFiles runs this program as a file server.
func serveFiles(dir string) (at string, stop func(), err error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", nil, err
	}
	address := l.Addr().String()
	l.Close()
	self, err := os.Executable()
	if err != nil {
		return "", nil, err
	}
	c := exec.Command(self, "-files", dir, "-at", address)
	var said bytes.Buffer
	c.Stderr = &said
	if err := c.Start(); err != nil {
		return "", nil, err
	}
	stop = func() { c.Process.Kill(); c.Wait() }
	for range 200 {
		if conn, err := net.Dial("tcp", address); err == nil {
			conn.Close()
			return "http://" + address, stop, nil
		}
		time.Sleep(10 * time.Millisecond)
	}
	stop()
	return "", nil, fmt.Errorf("the file server does not start: %s", said.String())
}

// listOfSites measures the list of many sites.
func (s *service) listOfSites(n int) error {
	dir, err := os.MkdirTemp("", "hut-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := makeSite(dir, size{pages: 20, sheets: 2, pictures: 4, pictureBytes: 1_000}); err != nil {
		return err
	}
	for i := range n {
		if _, err := s.client("site", "adopt", dir, "--name", fmt.Sprintf("hut-%d", i), "--parts",
			"none"); err != nil {
			return err
		}
	}
	var times []time.Duration
	for range 21 {
		d, err := s.call("GET", "/api/v1/sites", nil, &struct{}{})
		if err != nil {
			return err
		}
		times = append(times, d)
	}
	slices.Sort(times)
	fmt.Printf("| the list of %d sites, p50 | %.1f ms | | aim 20 ms |\n", n+1, float64(times[10].Microseconds())/1000)
	return nil
}
