package harness

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
)

// consoleLog is what the pages of a tab write into the browser's console, the last lines of it.
type consoleLog struct {
	mu     sync.Mutex
	lines  []string
	faults []string // of the console's own scripts
}

// fault is what a script of the console ends with that was written wrong; one that reaches nobody is none.
var fault = regexp.MustCompile(`(Reference|Type|Range|Syntax)Error: [^\n]*\n(.*\n)*?.*/assets/`)

// hear notes an event of the tab.
func (l *consoleLog) hear(event any) {
	var line string
	switch e := event.(type) {
	case *runtime.EventConsoleAPICalled:
		var words []string
		for _, a := range e.Args {
			words = append(words, strings.Trim(string(a.Value)+" "+a.Description, " "))
		}
		line = string(e.Type) + ": " + strings.Join(words, " ")
	case *runtime.EventExceptionThrown:
		line = "not caught: " + e.ExceptionDetails.Text
		if e.ExceptionDetails.Exception != nil {
			line += " " + e.ExceptionDetails.Exception.Description
		}
	case *log.EventEntryAdded:
		line = fmt.Sprintf("%s: %s %s", e.Entry.Level, e.Entry.Text, e.Entry.URL)
	default:
		return
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if fault.MatchString(line) && !strings.Contains(line, "Failed to fetch") {
		l.faults = append(l.faults, line)
	}
	l.lines = append(l.lines, time.Now().Format("15:04:05.000 ")+line)
	if len(l.lines) > 60 {
		l.lines = l.lines[len(l.lines)-60:]
	}
}

// leaveBehind tells what a tab shows, and what its console has to say, and keeps a picture of it in test/out.
func (b *Browser) leaveBehind() {
	ctx, cancel := context.WithTimeout(b.ctx, 10*time.Second)
	defer cancel()
	text, err := chromedp.Run(ctx, chromedp.Evaluate[string](`location.href + "\n" + document.body.innerText`))
	if err != nil {
		text = "nothing can be read of it: " + err.Error()
	}
	b.log.mu.Lock()
	lines := strings.Join(b.log.lines, "\n")
	b.log.mu.Unlock()
	b.t.Logf("the page showed:\n%s\nthe browser's console says:\n%s", text, lines)
	shot, err := chromedp.Call(ctx, page.CaptureScreenshot, page.CaptureScreenshotParams{})
	if err != nil {
		b.t.Logf("no picture could be made: %s", err)
		return
	}
	name := filepath.Join(Root(b.t), "test", "out", strings.ReplaceAll(b.t.Name(), "/", "-")+".png")
	err = os.MkdirAll(filepath.Dir(name), 0o755)
	if err == nil {
		err = os.WriteFile(name, shot.Data, 0o644)
	}
	b.t.Logf("a picture of it is in %s %v", name, err)
}
