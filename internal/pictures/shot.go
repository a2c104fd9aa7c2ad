package pictures

import (
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/fetch"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// View is what a picture is made of: a page of one host, at a width.
type View struct {
	Host  string // as it stands in an address, with a port
	Path  string // with a query
	Width int    // px
	Serve http.Handler
}

// Shot is a picture, and what was seen on the way.
type Shot struct {
	PNG           []byte
	Width, Height int
	// Cut tells that the page is higher than what is shown.
	Cut  bool
	Seen Seen
}

// Seen is what a page shows at its width that nobody wants: in px, elements by CSS paths.
type Seen struct {
	// Wide is how far the page reaches beyond its width, and Over what does.
	Wide int        `json:"wide"`
	Over []Overflow `json:"over,omitempty"`
	// Cut are texts that are cut off.
	Cut []Overflow `json:"cut,omitempty"`
	// Covered are places that links lead to and that a fixed bar covers then.
	Covered []Covered `json:"covered,omitempty"`
	// Ran is the page as a document once its scripts have run, and it was scrolled and opened: elements with what
	// stylesheets tell them by, and no texts; packed. It is empty where no script runs, or the page is too large.
	Ran []byte `json:"ran,omitempty"`
}

// Overflow is an element that is too large for where it stands, by how many px.
type Overflow struct {
	Path string `json:"path"`
	By   int    `json:"by"`
}

// Covered is a place that a bar covers.
type Covered struct {
	Path string `json:"path"`
	Bar  string `json:"bar"`
	By   int    `json:"by"`
}

//go:embed still.js
var still string

//go:embed settle.js
var settle string

//go:embed seen.js
var look string

//go:embed run.js
var run string

// ErrMisbehaved tells that a page cannot be shown within the limits.
var ErrMisbehaved = errors.New("the page does not come to rest within the limits")

// errCrowded tells that the browser was ended while several pages were open in it: nobody knows which of them is to
// blame.
var errCrowded = errors.New("the browser was ended while several pages were open")

// Shoot makes a picture. Its error is ErrMisbehaved where the page is to blame: where another may be, it is tried
// again by itself.
func (b *Browser) Shoot(ctx context.Context, v View) (*Shot, error) {
	b.gate.RLock()
	shot, err := b.shootOnce(ctx, v)
	b.gate.RUnlock()
	if !errors.Is(err, errCrowded) || ctx.Err() != nil {
		return shot, err
	}
	b.gate.Lock()
	defer b.gate.Unlock()
	return b.shootOnce(ctx, v)
}

func (b *Browser) shootOnce(ctx context.Context, v View) (*Shot, error) {
	all, err := b.tab(ctx)
	if err != nil {
		return nil, err
	}
	var ill error
	tab, closeTab := chromedp.NewContext(all, chromedp.WithNewBrowserContext())
	defer closeTab()
	defer func() { b.release(all, ill) }() // before the tab is closed: one that hangs would not let go
	type ended struct {
		shot *Shot
		err  error
	}
	done := make(chan ended, 1) // who comes too late waits for nobody
	go func() {
		shot, err := b.shoot(tab, v)
		done <- ended{shot, err}
	}()
	limit := time.NewTimer(b.Limits.Time)
	defer limit.Stop()
	watch := time.NewTicker(500 * time.Millisecond)
	defer watch.Stop()
	for {
		select {
		case got := <-done:
			if got.err != nil && all.Err() != nil { // it was ended, or ended itself
				if ill = got.err; b.crowded.Load() {
					return nil, fmt.Errorf("%w (%w)", errCrowded, got.err)
				}
			}
			return got.shot, got.err
		case <-ctx.Done():
			ill = ctx.Err()
		case <-limit.C:
			ill = fmt.Errorf("%w: it takes longer than %v", ErrMisbehaved, b.Limits.Time)
		case <-watch.C:
			if n := b.Memory(); n > b.Limits.Memory {
				ill = fmt.Errorf("%w: it needs more than %d MB of memory", ErrMisbehaved,
					b.Limits.Memory>>20)
				if b.crowded.Load() {
					ill = errCrowded
				}
			}
		}
		if ill != nil {
			return nil, ill
		}
	}
}

func (b *Browser) shoot(tab context.Context, v View) (*Shot, error) {
	answers := &answerer{view: v}
	if err := chromedp.Do(tab); err != nil {
		return nil, err
	}
	err := chromedp.Listen(tab, func(ev any) {
		switch ev := ev.(type) {
		case *fetch.EventRequestPaused:
			go answers.answer(tab, ev)
		case *page.EventJavascriptDialogOpening:
			go func() {
				no := false
				_, _ = chromedp.Call(tab, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: no})
			}()
		}
	})
	if err != nil {
		return nil, err
	}
	metrics := emulation.SetDeviceMetricsOverrideParams{Width: int64(v.Width), Height: viewport, DeviceScaleFactor: 1}
	reduced := []*emulation.MediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}
	if _, err = chromedp.Call(tab, fetch.Enable, fetch.EnableParams{}); err != nil {
		return nil, err
	}
	for _, do := range []func() error{
		func() error { return call(tab, page.Enable, page.EnableParams{}) },
		func() error { return call(tab, emulation.SetDeviceMetricsOverride, metrics) },
		func() error {
			return call(tab, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: reduced})
		},
		func() error {
			_, err := chromedp.CallBrowser(tab, browser.SetDownloadBehavior,
				browser.SetDownloadBehaviorParams{Behavior: browser.SetDownloadBehaviorBehaviorDeny})
			return err
		},
		func() error {
			_, err := chromedp.Call(tab, page.AddScriptToEvaluateOnNewDocument,
				page.AddScriptToEvaluateOnNewDocumentParams{Source: still})
			return err
		},
	} {
		if err := do(); err != nil {
			return nil, err
		}
	}
	if err := open(tab, "http://"+v.Host+v.Path, b.Limits.Rest); err != nil {
		return nil, err
	}
	return capture(tab, v, b.Limits.Rest)
}

// viewport is how high the window is, in px.
const viewport = 800

func call[P any](tab context.Context, cmd cdp.Command[P, cdp.Empty], params P) error {
	_, err := chromedp.Call(tab, cmd, params)
	return err
}

// open goes to a page and waits until it is loaded, or has had its time: what is there by then is shown.
func open(tab context.Context, url string, rest time.Duration) error {
	wait, cancel := context.WithTimeout(tab, rest)
	defer cancel()
	err := chromedp.Do(wait, chromedp.Navigate(url))
	if err != nil && wait.Err() != nil && tab.Err() == nil {
		return nil
	}
	return err
}

func capture(tab context.Context, v View, rest time.Duration) (*Shot, error) {
	wait, cancel := context.WithTimeout(tab, rest)
	defer cancel()
	text, err := chromedp.Run(wait, chromedp.Evaluate[string](settle, chromedp.EvalAwaitPromise))
	if err != nil {
		return nil, fmt.Errorf("%w (%w)", ErrMisbehaved, err)
	}
	var size struct{ Height int }
	if err := json.Unmarshal([]byte(text), &size); err != nil {
		return nil, err
	}
	shot := &Shot{Width: v.Width, Height: min(max(size.Height, 1), maxHeight), Cut: size.Height > maxHeight}
	seen, err := chromedp.Run(wait, chromedp.Evaluate[string](look))
	if err != nil {
		return nil, fmt.Errorf("%w (%w)", ErrMisbehaved, err)
	}
	if err := json.Unmarshal([]byte(seen), &shot.Seen); err != nil {
		return nil, err
	}
	beyond, fast := true, true
	got, err := chromedp.Call(wait, page.CaptureScreenshot, page.CaptureScreenshotParams{
		Format: page.CaptureScreenshotFormatPng, CaptureBeyondViewport: &beyond, OptimizeForSpeed: &fast,
		Clip: &page.Viewport{Width: float64(v.Width), Height: float64(shot.Height), Scale: 1},
	})
	if err != nil {
		return nil, fmt.Errorf("%w (%w)", ErrMisbehaved, err)
	}
	shot.PNG = got.Data
	if ran, err := chromedp.Run(wait, chromedp.Evaluate[string](run, chromedp.EvalAwaitPromise)); err == nil {
		shot.Seen.Ran = packed(ran) // one that leads itself elsewhere is known by its source alone
	}
	return shot, nil
}
