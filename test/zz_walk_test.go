package test

import (
	"os"
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

func TestZZWalk(t *testing.T) {
	script, _ := os.ReadFile(os.Getenv("WALK"))
	at := os.Getenv("AT")
	b := harness.NewBrowser(t)
	b.Go(at + "/sign-in")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("Library")
	for _, line := range strings.Split(string(script), "\n") {
		op, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		switch op {
		case "go":
			b.Go(at + rest)
			time.Sleep(1500 * time.Millisecond)
		case "press":
			b.Press(rest)
			time.Sleep(700 * time.Millisecond)
		case "click":
			b.Click(rest)
			time.Sleep(700 * time.Millisecond)
		case "type":
			sel, text, _ := strings.Cut(rest, "|")
			b.Type(sel, text)
		case "choose":
			sel, text, _ := strings.Cut(rest, "|")
			b.Choose(sel, text)
		case "key":
			b.Do(chromedp.KeyEvent(map[string]string{"enter": kb.Enter, "tab": kb.Tab, "esc": kb.Escape, "back": kb.Backspace}[rest]))
			time.Sleep(500 * time.Millisecond)
		case "write":
			sel, text, _ := strings.Cut(rest, "|")
			b.Write(sel, text)
			time.Sleep(700 * time.Millisecond)
		case "point":
			b.PointAt(rest)
			time.Sleep(700 * time.Millisecond)
		case "wait":
			time.Sleep(3 * time.Second)
		case "sees":
			b.Sees(rest)
		case "scroll":
			harness.Eval[bool](b, `(scrollBy(0, `+rest+`), true)`)
			time.Sleep(300 * time.Millisecond)
		case "text":
			t.Log("TEXT: " + harness.Eval[string](b, `location.pathname + "\n" + (document.querySelector("main")??document.body).innerText`))
		case "shot":
			os.WriteFile("/tmp/shots/"+rest+".png", b.Picture(), 0o644)
		}
	}
}
