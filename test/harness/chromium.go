package harness

import (
	"context"
	"errors"
	"os"
	"os/exec"
	"sync"

	"github.com/chromedp/chromedp"
)

// chromium gives the context of the one browser that the package's tests share; it is started once.
var chromium = sync.OnceValues(func() (context.Context, error) {
	path, err := exec.LookPath("chromium-headless-shell")
	if err != nil {
		return nil, errors.New("no chromium-headless-shell, a package of Debian's: make test installs it")
	}
	profile, err := os.MkdirTemp("", "cparcel-chromium-")
	if err != nil {
		return nil, err
	}
	opts := append(
		chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(path),
		chromedp.NoSandbox,
		chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true),
		// Frames of other origins stay in the tab's process, where tests reach them; origins stay apart.
		chromedp.Flag("disable-features", "Translate,BlinkGenPropertyTrees,IsolateOrigins,site-per-process"),
		chromedp.Flag("disable-site-isolation-trials", true),
		chromedp.Flag("hide-scrollbars", true),
		chromedp.Flag("force-device-scale-factor", "1"),
		// No page is open for long enough that compiling its scripts a second time pays.
		chromedp.Flag("js-flags", "--no-opt --no-maglev"),
		chromedp.UserDataDir(profile),
	)
	alloc, cancelAlloc := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := chromedp.NewContext(alloc)
	atEnd(func() { cancel(); cancelAlloc(); os.RemoveAll(profile) })
	return ctx, chromedp.Do(ctx)
})
