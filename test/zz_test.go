package test

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"
)

func TestZZ(t *testing.T) {
	base := "http://127.0.0.1:8777"
	b := harness.NewBrowser(t)
	b.Go(base + "/sign-in")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	time.Sleep(time.Second)
	for i, p := range strings.Split(os.Getenv("ZZ"), ";;") {
		at, js, _ := strings.Cut(p, "|")
		if strings.HasPrefix(at, "390") {
			b.Size(390, 800)
			at = at[3:]
		}
		b.Go(base + at)
		time.Sleep(3 * time.Second)
		for _, one := range strings.Split(js, "~~") {
			if one != "" {
				fmt.Println(harness.Eval[any](b, "(async()=>{ "+one+" })()"))
				time.Sleep(1200 * time.Millisecond)
			}
		}
		os.WriteFile(fmt.Sprintf(os.Getenv("SHOTDIR")+"/%d.png", i), b.Picture(), 0o644)
	}
}
