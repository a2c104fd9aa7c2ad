// Package pictures makes pictures of previews with Debian's Chromium.
//
// A page is somebody else's HTML and may run scripts, so the browser is kept apart: a user without rights of its
// own, the browser's sandbox, and no network at all. Every request is answered here, in the process, by the
// handler of the previews, for the one host that is looked at; a dead proxy and a resolver that knows no host
// stand behind that. Each picture has a context of its own, a clock that stands still, and limits of time,
// memory and height.
package pictures

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/chromedp/chromedp"
)

// Limits bound one picture.
type Limits struct {
	Time   time.Duration // as a whole
	Rest   time.Duration // until the page is loaded, and again until it has come to rest
	Memory int64         // of the browser as a whole, in bytes
}

// Usual are the limits where no others are set.
var Usual = Limits{Time: 20 * time.Second, Rest: 8 * time.Second, Memory: 700 << 20}

const (
	maxHeight = 10_000 // px
	maxShots  = 400    // after which the browser is started anew
)

// ErrNoBrowser tells that there is no browser, or none that starts in its sandbox.
var ErrNoBrowser = errors.New("there is no browser for pictures")

// Browser is a Chromium that is started when it is wanted, and started anew when it misbehaves.
type Browser struct {
	Path   string
	Log    *slog.Logger
	Limits Limits

	version atomic.Value // of the one that was started last: it may be upgraded between

	// gate keeps others out while a page is looked at by itself; crowded tells that several were open together
	// since the browser was started.
	gate    sync.RWMutex
	crowded atomic.Bool

	mu     sync.Mutex
	ctx    context.Context
	cancel context.CancelFunc
	pid    int
	shots  int
	open   int
	dir    string
}

// names are what Debian calls browsers that make pictures: the headless shell is the whole browser without its windows,
// starts in half the time and takes less memory.
var names = []string{"chromium-headless-shell", "chromium"}

// Find gives the browser at a path, or where "auto" finds it. Whether it works is told by Check.
func Find(path string, log *slog.Logger) (*Browser, error) {
	if path == "auto" {
		for _, name := range names {
			if found, err := exec.LookPath(name); err == nil {
				path = found
				break
			}
		}
		if path == "auto" {
			return nil, fmt.Errorf("%w: neither of Debian's packages %s is installed", ErrNoBrowser,
				strings.Join(names, " and "))
		}
	}
	b := &Browser{Path: path, Log: log, Limits: Usual}
	if err := b.readVersion(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNoBrowser, err)
	}
	return b, nil
}

// Version is what the browser calls itself.
func (b *Browser) Version() string {
	v, _ := b.version.Load().(string)
	return v
}

func (b *Browser) readVersion() error {
	out, err := exec.Command(b.Path, "--version").Output()
	if err != nil {
		return fmt.Errorf("%s --version: %w", b.Path, err)
	}
	b.version.Store(strings.TrimSpace(string(out)))
	return nil
}

// Check starts the browser, to see that it works in its sandbox.
func (b *Browser) Check(ctx context.Context) error {
	all, err := b.tab(ctx)
	if err != nil {
		return fmt.Errorf("%w: it does not start in its sandbox (where user namespaces are off, install Debian's "+
			"package chromium-sandbox): %w", ErrNoBrowser, err)
	}
	b.release(all, nil)
	return nil
}

// flags are what the browser is started with beside what the library sets.
var flags = map[string]any{
	"disable-quic": true, "disable-background-networking": true, "disable-component-update": true,
	"disable-sync": true, "hide-scrollbars": true, "force-device-scale-factor": "1", "mute-audio": true,
	"disable-dev-shm-usage": true, "force-color-profile": "srgb", "font-render-hinting": "none",
	"proxy-server": "http://127.0.0.1:1", "proxy-bypass-list": "<-loopback>",
	"host-resolver-rules":             "MAP * ~NOTFOUND",
	"force-webrtc-ip-handling-policy": "disable_non_proxied_udp",
	"renderer-process-limit":          "4",
	"js-flags":                        "--max-old-space-size=256",
	"disable-features": "Translate,OptimizationHints,MediaRouter,DialMediaRouteProvider," +
		"WebUSB,WebBluetooth",
	"deny-permission-prompts":               true,
	"block-new-web-contents":                true,
	"disable-gpu":                           true,
	"lang":                                  "en-GB",
	"run-all-compositor-stages-before-draw": true,
}

// start starts the browser as a user without rights, if this is not one already.
func (b *Browser) start() error {
	if err := b.readVersion(); err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "cparcel-browser-")
	if err != nil {
		return err
	}
	var as *syscall.Credential
	if os.Geteuid() == 0 {
		if as, err = nobody(); err == nil {
			err = os.Chown(dir, int(as.Uid), int(as.Gid))
		}
		if err != nil {
			os.RemoveAll(dir)
			return err
		}
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(b.Path),
		chromedp.UserDataDir(filepath.Join(dir, "profile")), chromedp.NoInheritEnv,
		chromedp.Env("HOME="+dir, "PATH=/usr/bin:/bin", "LANG=C.UTF-8", "TZ=UTC", "TMPDIR="+dir),
		chromedp.ModifyCmdFunc(func(cmd *exec.Cmd) {
			if cmd.SysProcAttr == nil {
				cmd.SysProcAttr = &syscall.SysProcAttr{}
			}
			cmd.SysProcAttr.Credential = as
			cmd.SysProcAttr.Pdeathsig = syscall.SIGKILL
			cmd.SysProcAttr.Setpgid = true
			cmd.Dir = dir
		}))
	for name, v := range flags {
		opts = append(opts, chromedp.Flag(name, v))
	}
	alloc, stop := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := chromedp.NewContext(alloc)
	started := make(chan error, 1)
	go func() { started <- chromedp.Do(ctx) }()
	select {
	case err = <-started:
	case <-time.After(b.Limits.Time):
		err = errors.New("it did not start in time")
	}
	b.ctx, b.dir, b.shots = ctx, dir, 0
	b.cancel = func() { cancel(); stop() }
	if err != nil {
		b.stop()
		return err
	}
	b.pid = 0
	if p := chromedp.FromContext(ctx).Browser.Process(); p != nil {
		b.pid = p.Pid
	}
	return nil
}

// nobody is the user without rights that Debian has for this.
func nobody() (*syscall.Credential, error) {
	u, err := user.Lookup("nobody")
	if err != nil {
		return nil, err
	}
	uid, err := strconv.ParseUint(u.Uid, 10, 32)
	if err != nil {
		return nil, err
	}
	gid, err := strconv.ParseUint(u.Gid, 10, 32)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, err
}

// stop ends the browser with all that it started. The lock is held.
func (b *Browser) stop() {
	if b.ctx == nil {
		return
	}
	if b.pid > 0 {
		if err := syscall.Kill(-b.pid, syscall.SIGKILL); err != nil && !errors.Is(err, syscall.ESRCH) {
			b.Log.Warn("ending the browser", "error", err)
		}
	}
	b.cancel()
	b.ctx, b.pid = nil, 0
	dir := b.dir
	go func() { // its processes need a moment to let go
		for range 20 {
			if err := os.RemoveAll(dir); err == nil || errors.Is(err, fs.ErrNotExist) {
				return
			}
			time.Sleep(200 * time.Millisecond)
		}
	}()
}

// Close ends the browser.
func (b *Browser) Close() {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.stop()
}

// tab gives the context of the browser, which is started when it is not running.
func (b *Browser) tab(ctx context.Context) (context.Context, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if b.ctx != nil && b.open == 0 && b.shots >= maxShots {
		b.stop()
	}
	if b.ctx == nil {
		if err := b.start(); err != nil {
			return nil, err
		}
	}
	b.open++
	b.shots++
	b.crowded.Store(b.open > 1 || b.crowded.Load() && b.shots > 1)
	return b.ctx, nil
}

// release ends the use of a tab of a browser. Where it misbehaved that browser is ended with it, and started anew
// later; one that was started since stays.
func (b *Browser) release(all context.Context, misbehaved error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.open--
	if misbehaved != nil && b.ctx == all {
		b.stop()
	}
}

// Memory gives the resident memory of the browser with all its processes, in bytes.
func (b *Browser) Memory() int64 {
	b.mu.Lock()
	pid := b.pid
	b.mu.Unlock()
	if pid == 0 {
		return 0
	}
	return groupMemory(pid)
}
