package main

import (
	"fmt"
	"math/rand"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// drafts measures an operation on a page of 200 KB in a site of 20,000 items, and the steps a second
// of 20 people, each in a draft of their own.
func drafts(dir string) error {
	r := rand.New(rand.NewSource(19))
	var large strings.Builder
	large.WriteString("<!doctype html><html><head><title>Large</title></head><body><main><h1>Large</h1>\n")
	for i := range sized(1000) {
		fmt.Fprintf(&large, "<p id=\"p%d\">%s</p>\n", i, sentence(r, 34))
	}
	large.WriteString("</main></body></html>\n")
	own, _, _ := texts(sized(20_000))
	own["large"] = large.String()
	if err := writePages(filepath.Join(dir, "site"), own); err != nil {
		return err
	}
	s, err := serve(dir)
	if err != nil {
		return err
	}
	defer s.stop()
	if _, err := s.client("site", "adopt", filepath.Join(dir, "site"), "--name", "ridge", "--parts",
		"none"); err != nil {
		return err
	}
	page, err := s.slugOf("page/large")
	if err != nil {
		return err
	}
	edit := func(draft int64, words string) (int64, time.Duration, error) {
		var got struct{ Draft int64 }
		body := map[string]any{"operations": []map[string]string{
			{"op": "text", "page": page, "element": "h1", "value": words}}}
		if draft > 0 {
			body["draft"] = draft
		}
		d, err := s.call("POST", "/api/v1/sites/ridge/edits", body, &got)
		return got.Draft, d, err
	}
	draft, _, err := edit(0, "Begun")
	if err != nil {
		return err
	}
	var times []time.Duration
	for i := range 21 {
		_, d, err := edit(draft, fmt.Sprintf("Words %d", i))
		if err != nil {
			return err
		}
		times = append(times, d)
	}
	slices.Sort(times)
	fmt.Printf("| an operation on a page of %d KB among %d items, p50 | %.1f ms | | aim 50 ms |\n", large.Len()>>10,
		len(own), float64(times[10].Microseconds())/1000)
	return s.stepsBy(20, time.Duration(sized(5000))*time.Millisecond)
}

// slugOf gives the address of a page.
func (s *service) slugOf(address string) (string, error) {
	var got struct {
		Item struct{ Meta struct{ Slug string } }
	}
	_, err := s.call("GET", "/api/v1/sites/ridge/item?address="+address, nil, &got)
	return got.Item.Meta.Slug, err
}

// stepsBy measures how many steps a second some people make on a small site, each in their own draft.
func (s *service) stepsBy(people int, during time.Duration) error {
	var all sync.WaitGroup
	var mu sync.Mutex
	var failed error
	steps := 0
	end := time.Now().Add(during)
	for k := range people {
		all.Go(func() {
			draft := int64(0)
			for i := 0; time.Now().Before(end); i++ {
				var got struct{ Draft int64 }
				body := map[string]any{"operations": []map[string]string{{"op": "set", "item": "setting/strapline",
					"value": fmt.Sprintf("%d said %d", k, i)}}}
				if draft > 0 {
					body["draft"] = draft
				}
				_, err := s.call("POST", "/api/v1/sites/larch-saddle/edits", body, &got)
				mu.Lock()
				if err != nil {
					failed = err
				}
				steps++
				mu.Unlock()
				if err != nil {
					return
				}
				draft = got.Draft
			}
		})
	}
	all.Wait()
	if failed != nil {
		return failed
	}
	fmt.Printf("| steps a second of %d people | %.0f | | aim 200 |\n", people, float64(steps)/during.Seconds())
	return nil
}
