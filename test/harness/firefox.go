package harness

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"net"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/gobwas/ws"
	"github.com/gobwas/ws/wsutil"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Firefox is a Firefox without a window, driven over WebDriver BiDi (W3C), with one tab.
type Firefox struct {
	t    testing.TB
	conn net.Conn
	next *int
	tab  string
	said *[]string // by the browser's console, of warnings and errors
}

var listens = regexp.MustCompile(`WebDriver BiDi listening on (ws://\S+)`)

// NewFirefox starts Debian's firefox-esr with a profile of its own.
func NewFirefox(t testing.TB) *Firefox {
	t.Helper()
	path, err := exec.LookPath("firefox-esr")
	require.NoError(t, err, "Debian's package firefox-esr is needed: make soak installs it")
	cmd := exec.Command(path, "--headless", "--no-remote", "--remote-debugging-port", "0", "--profile", t.TempDir(),
		"--width", "1280", "--height", "800", "about:blank")
	said, err := cmd.StderrPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	at := make(chan string, 1)
	go func() {
		for lines := bufio.NewScanner(said); lines.Scan(); {
			if m := listens.FindStringSubmatch(lines.Text()); m != nil {
				at <- m[1]
			}
		}
		close(at)
	}()
	address := ""
	select {
	case address = <-at:
	case <-time.After(60 * time.Second):
	}
	require.NotEmpty(t, address, "Firefox does not say where it listens")
	conn, _, _, err := ws.Dial(context.Background(), address+"/session")
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close() })
	f := &Firefox{t: t, conn: conn, next: new(int), said: new([]string)}
	f.call(nil, "session.new", m{"capabilities": m{}})
	f.call(nil, "session.subscribe", m{"events": []string{"log.entryAdded"}})
	f.tab = f.tabs()[0].Context
	f.call(nil, "browsingContext.setViewport", m{"context": f.tab, "viewport": m{"width": 1280, "height": 800}})
	return f
}

// For gives the browser to a subtest.
func (f *Firefox) For(t testing.TB) *Firefox {
	g := *f
	g.t = t
	return &g
}

type m = map[string]any

// call sends a command and reads its result into v, unless that is nil.
func (f *Firefox) call(v any, method string, params m) {
	f.t.Helper()
	require.NoError(f.t, f.try(v, method, params), method)
}

func (f *Firefox) try(v any, method string, params m) error {
	*f.next++
	text, err := json.Marshal(m{"id": *f.next, "method": method, "params": params})
	if err != nil {
		return err
	}
	if err := wsutil.WriteClientText(f.conn, text); err != nil {
		return err
	}
	_ = f.conn.SetReadDeadline(time.Now().Add(60 * time.Second))
	for {
		got, err := wsutil.ReadServerText(f.conn)
		if err != nil {
			return err
		}
		var answer struct {
			ID             int
			Type           string
			Error, Message string
			Result         json.RawMessage
			Params         struct {
				Level, Text string
				StackTrace  json.RawMessage
			}
		}
		if err := json.Unmarshal(got, &answer); err != nil {
			return err
		}
		switch {
		case answer.ID != *f.next: // an event
			if answer.Params.Level == "error" || answer.Params.Level == "warn" {
				*f.said = append(*f.said, answer.Params.Text+" "+string(answer.Params.StackTrace))
			}
		case answer.Type == "error":
			return fmt.Errorf("%s: %s", answer.Error, answer.Message)
		case v == nil:
			return nil
		default:
			return json.Unmarshal(answer.Result, v)
		}
	}
}

type firefoxTab struct {
	Context, URL string
	Children     []firefoxTab
}

func (f *Firefox) tabs() []firefoxTab {
	f.t.Helper()
	var tree struct{ Contexts []firefoxTab }
	f.call(&tree, "browsingContext.getTree", m{})
	require.NotEmpty(f.t, tree.Contexts)
	return tree.Contexts
}

// Go opens an address.
func (f *Firefox) Go(address string) {
	f.t.Helper()
	f.call(nil, "browsingContext.navigate", m{"context": f.tab, "url": address, "wait": "complete"})
}

// eval gives the string that an expression is, in a tab or frame; "" where it fails or is none.
func (f *Firefox) eval(in, expression string) string {
	var got struct {
		Result struct {
			Type  string
			Value any
		}
	}
	if f.try(&got, "script.evaluate", m{"expression": expression, "target": m{"context": in},
		"awaitPromise": true}) != nil {
		return ""
	}
	s, _ := got.Result.Value.(string)
	return s
}

// until waits until an expression in a tab or frame is a string, and gives it.
func (f *Firefox) until(in, expression, what string) (got string) {
	f.t.Helper()
	for end := time.Now().Add(30 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		if got = f.eval(in, expression); got != "" {
			return got
		}
		require.True(f.t, time.Now().Before(end), "%s; the page shows %s; its console says %s", what,
			f.eval(f.tab, "document.body.innerText"), strings.Join(*f.said, "\n"))
	}
}

// rest is true when nothing is under way in the console.
const rest = `!(+document.documentElement.dataset.underWay)`

// Sees waits until the page shows words.
func (f *Firefox) Sees(words string) {
	f.t.Helper()
	f.until(f.tab, rest+` && document.body.innerText.includes(`+strconv.Quote(words)+`) ? "yes" : ""`,
		"it never shows "+words)
}

// Shows waits until the page that is edited, in its frame, shows words.
func (f *Firefox) Shows(words string) {
	f.t.Helper()
	require.Eventually(f.t, func() bool {
		in := f.frame()
		return in != "" && f.eval(in, `document.body.innerText.includes(`+strconv.Quote(words)+`) ? "yes" : ""`) != ""
	}, 30*time.Second, 50*time.Millisecond, "the frame never shows %s", words)
}

// frame is the context of the frame with the page that is edited; "" where there is none.
func (f *Firefox) frame() string {
	f.t.Helper()
	for _, tab := range f.tabs() {
		for _, c := range tab.Children {
			if c.URL != "about:blank" {
				return c.Context
			}
		}
	}
	return ""
}

// Press clicks a button or link by its words.
func (f *Firefox) Press(words string) {
	f.t.Helper()
	f.click(f.tab, `[...document.querySelectorAll("button:not(:disabled), a")].find((e) => e.checkVisibility() && `+
		`e.innerText.trim() === `+strconv.Quote(words)+`)`, words)
}

// Click clicks what a CSS selector names.
func (f *Firefox) Click(selector string) {
	f.t.Helper()
	f.click(f.tab, `document.querySelector(`+strconv.Quote(selector)+`)`, selector)
}

// PointAt clicks what a CSS selector names in the page that is edited.
func (f *Firefox) PointAt(selector string) {
	f.t.Helper()
	f.click(f.frame(), `document.querySelector(`+strconv.Quote(selector)+`)`, selector)
}

// click presses where an element is, once that holds still and nothing covers it.
func (f *Firefox) click(in, element, what string) {
	f.t.Helper()
	at := f.until(in, `(async () => { const e = `+element+`; if (!e) return ""; e.scrollIntoView({block: "center"});
		const box = () => { const r = e.getBoundingClientRect(); return [r.left + r.width / 2, r.top + r.height / 2] };
		const one = box(); await new Promise((r) => setTimeout(r, 60)); const two = box();
		const hit = document.elementFromPoint(...two), label = e.closest("label");
		if ("" + one !== "" + two || !hit || !(e.contains(hit) || label && label.contains(hit))) return "";
		return JSON.stringify(two.map(Math.round)) })()`, what+" cannot be pressed")
	var xy [2]int
	require.NoError(f.t, json.Unmarshal([]byte(at), &xy))
	f.call(nil, "input.performActions", m{"context": in, "actions": []m{{"type": "pointer", "id": "mouse",
		"actions": []m{{"type": "pointerMove", "x": xy[0], "y": xy[1]}, {"type": "pointerDown", "button": 0},
			{"type": "pointerUp", "button": 0}}}}})
}

// keys presses keys one after the other in a tab or frame.
func (f *Firefox) keys(in, text string) {
	f.t.Helper()
	var list []m
	for _, k := range text {
		list = append(list, m{"type": "keyDown", "value": string(k)}, m{"type": "keyUp", "value": string(k)})
	}
	f.call(nil, "input.performActions", m{"context": in,
		"actions": []m{{"type": "key", "id": "keys", "actions": list}}})
}

// Type writes into a field, in place of what it holds.
func (f *Firefox) Type(selector, text string) {
	f.t.Helper()
	f.Click(selector)
	f.eval(f.tab, `(document.querySelector(`+strconv.Quote(selector)+`).select(), "")`)
	f.keys(f.tab, text)
}

// Write writes words over those of an element of the page that is edited.
func (f *Firefox) Write(selector, words string) {
	f.t.Helper()
	f.PointAt(selector)
	in := f.frame()
	f.until(in, `document.querySelector("[contenteditable]") ? "yes" : ""`, selector+" cannot be typed in")
	f.eval(in, `(getSelection().selectAllChildren(document.querySelector("[contenteditable]")), "")`)
	f.keys(in, words)
}

// Choose picks an option of a select element by its value.
func (f *Firefox) Choose(selector, value string) {
	f.t.Helper()
	q, v := strconv.Quote(selector), strconv.Quote(value)
	f.until(f.tab, `(() => { const e = document.querySelector(`+q+`);
		if (!e || ![...e.options].some((o) => o.value === `+v+`)) return "";
		e.value = `+v+`; e.dispatchEvent(new Event("change", {bubbles: true})); return "yes" })()`,
		value+" cannot be chosen")
}

// Confirm presses the act of the dialog that asks once more.
func (f *Firefox) Confirm() {
	f.t.Helper()
	f.Click("[data-confirm]")
}

// Calm fails for each error that the console's own scripts ended with.
func (f *Firefox) Calm() {
	f.t.Helper()
	f.tabs() // reads what came meanwhile
	for _, text := range *f.said {
		assert.NotRegexp(f.t, `^[A-Za-z]*Error: `, text)
	}
}
