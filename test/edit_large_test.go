package test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page of 200 KB is opened, written on and saved; how long each takes is told, and asserted nowhere.
func TestLargePageInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	var page strings.Builder
	page.WriteString("<!doctype html><html><head><meta charset=\"utf-8\"><title>Log</title></head><body>" +
		"<main><h1>The log</h1>\n")
	for n := 0; page.Len() < 200_000; n++ {
		fmt.Fprintf(&page, "<section><h2>Day %d</h2><p>Wind from the <b>west</b>, cloud at the ridge, "+
			"<a href=\"/\">nobody</a> "+
			"on the path. The stove was lit at six and the soup was leek.</p></section>\n", n)
	}
	require.Equal(t, 201, s.Call("PUT", "/api/v1/sites/log?parts=none",
		zipped(t, map[string]string{"index.html": page.String()}), "Content-Type", "application/zip").Status)
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/log")
	b.Sees("Edit the home page")
	begin := time.Now()
	b.Click("[data-open-to-edit]")
	for !harness.Eval[bool](b, `!!document.querySelector("[data-page-frame=shown]")`) {
		time.Sleep(5 * time.Millisecond)
		require.Less(t, time.Since(begin), time.Minute)
	}
	t.Logf("the page view of %d KB was ready after %v", page.Len()>>10, time.Since(begin).Round(time.Millisecond))
	b.PointAt("h1")
	b.Insert("!")
	b.Saved()
	begin = time.Now()
	b.Insert("!!")
	seen := harness.Edited[bool](b, `document.querySelector("h1").textContent.includes("!!!")`)
	t.Logf("an edit was seen after %v", time.Since(begin).Round(time.Millisecond))
	assert.True(t, seen)
	time.Sleep(50 * time.Millisecond)
	for harness.Eval[string](b, `document.querySelector("[data-state]").textContent.trim()`) != "Saved in your draft" {
		time.Sleep(5 * time.Millisecond)
		require.Less(t, time.Since(begin), time.Minute)
	}
	t.Logf("and saved after %v", time.Since(begin).Round(time.Millisecond))
}
