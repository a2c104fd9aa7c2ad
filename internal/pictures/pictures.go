package pictures

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"os"
	"os/exec"
	"sync"
	"sync/atomic"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/blob"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"
)

// Widths are those at which pages are looked at, in px.
var Widths = []int{1280, 390}

// Previews shows what pictures are made of.
type Previews interface {
	http.Handler
	// Digest tells what an address shows; preview.ErrNotShown where it shows nothing.
	Digest(ctx context.Context, at string) (item.Digest, error)
}

// Pictures makes pictures of previews, each once, and keeps them.
type Pictures struct {
	Store    *store.Store
	Files    *blob.Store // of pictures alone: they can be made again, so no backup holds them
	Previews Previews
	Log      *slog.Logger
	Now      func() time.Time

	browser   atomic.Pointer[Browser]
	fonts     item.Digest
	wake      chan struct{}
	comparing sync.Mutex

	mu     sync.Mutex
	differ map[[2]item.Digest]Difference // what was found, by the two pictures
}

// New prepares the making of pictures. Until it has a browser none is made, and what is there is shown.
func New(s *store.Store, files *blob.Store, p Previews, log *slog.Logger) *Pictures {
	return &Pictures{Store: s, Files: files, Previews: p, Log: log,
		Now: func() time.Time { return time.Now().UTC() }, fonts: fonts(), wake: make(chan struct{}, 1)}
}

// Use lets pictures be made by a browser.
func (p *Pictures) Use(b *Browser) { p.browser.Store(b) }

// HasBrowser tells whether pictures are made.
func (p *Pictures) HasBrowser() bool { return p.browser.Load() != nil }

// fonts is the digest of the fonts that the machine has: with others a picture is another.
func fonts() item.Digest {
	out, err := exec.Command("fc-list", "--format", "%{file} %{fontversion}\n").Output()
	if err != nil {
		return ""
	}
	return item.DigestOf(out)
}

// recipeNumber goes up when pictures are made otherwise than before.
const recipeNumber = 1

// key names a picture: what is shown, and how the picture is made. Only pictures of one recipe can be compared.
func (p *Pictures) key(shown item.Digest, width int) item.Digest {
	version := ""
	if b := p.browser.Load(); b != nil {
		version = b.Version()
	}
	sum := sha256.Sum256(fmt.Appendf(nil, "%s\n%d\n%d\n%s\n%s", shown, width, recipeNumber, version, p.fonts))
	return item.Digest(hex.EncodeToString(sum[:]))
}

// Wanted is an address of a preview at a width.
type Wanted struct {
	At    string
	Width int
}

// Found is what there is of a picture that is wanted.
type Found struct {
	Wanted
	// Shown tells whether the address shows anything; Key names its picture.
	Shown bool
	Key   item.Digest
	// Picture is the picture, made, waiting or failed; nil where there is none and no browser to make it.
	Picture *store.Picture
}

// Want gives the pictures of addresses, and has those made that are not there: the first of the list first, and
// all of them before what was wanted earlier.
func (p *Pictures) Want(ctx context.Context, list []Wanted) ([]Found, error) {
	out := make([]Found, len(list))
	var keys []item.Digest
	for i, w := range list {
		out[i].Wanted = w
		shown, err := p.Previews.Digest(ctx, w.At)
		if errors.Is(err, preview.ErrNotShown) {
			continue
		}
		if err != nil {
			return nil, err
		}
		out[i].Shown, out[i].Key = true, p.key(shown, w.Width)
		keys = append(keys, out[i].Key)
	}
	there, err := p.Store.Read(ctx).Pictures().ByKeys(keys)
	if err != nil {
		return nil, err
	}
	var more []store.Picture
	now := p.Now()
	for i := range out {
		f := &out[i]
		if !f.Shown {
			continue
		}
		x, ok := there[f.Key]
		switch {
		case !p.HasBrowser():
			if ok && x.State != store.PictureWaiting {
				f.Picture = &x
			}
			continue
		case ok && x.State == store.PictureFailed && now.Sub(x.WantedAt) > failedFor:
			if err := p.Store.Read(ctx).Pictures().Drop(f.Key); err != nil { // it is tried again
				return nil, err
			}
		case ok:
			f.Picture = &x
		}
		if f.Picture == nil || f.Picture.State == store.PictureWaiting || now.Sub(f.Picture.WantedAt) > touchEvery {
			row := store.Picture{Picture: f.Key, ShownAt: f.At, Width: f.Width, State: store.PictureWaiting,
				WantedAt: now.Add(-time.Duration(i) * time.Microsecond)}
			more = append(more, row)
			if f.Picture == nil {
				f.Picture = &row
			}
		}
	}
	if len(more) == 0 {
		return out, nil
	}
	if err := p.Store.Read(ctx).Pictures().Want(more); err != nil {
		return nil, err
	}
	select {
	case p.wake <- struct{}{}:
	default:
	}
	return out, nil
}

// failedFor is how long a picture that could not be made is not tried again.
const failedFor = time.Hour

// touchEvery is how often it is written that a picture is still looked at.
const touchEvery = 24 * time.Hour

// ErrNoPicture tells that there is no picture of a key.
var ErrNoPicture = errors.New("there is no such picture")

// Open gives a picture's file: PNG, or with small what lists show, WebP.
func (p *Pictures) Open(ctx context.Context, key item.Digest, small bool) (*os.File, error) {
	there, err := p.Store.Read(ctx).Pictures().ByKeys([]item.Digest{key})
	if err != nil {
		return nil, err
	}
	x, ok := there[key]
	if !ok || x.State != store.PictureMade {
		return nil, ErrNoPicture
	}
	doc := x.Doc
	if small {
		doc = x.Small
	}
	f, err := p.Files.File(doc)
	if errors.Is(err, blob.ErrMissing) || errors.Is(err, fs.ErrNotExist) { // it is made again when it is wanted
		if err := p.Store.Read(ctx).Pictures().Drop(key); err != nil {
			return nil, err
		}
		return nil, ErrNoPicture
	}
	return f, err
}

// MostKept is how many pictures are kept beside those of receipts.
const MostKept = 10_000

// Unused is how long a picture stays that nobody looks at, Unmade how long one is wanted.
const (
	Unused = 30 * 24 * time.Hour
	Unmade = 2 * time.Hour
)

// Sweep forgets pictures that nobody looks at, with their files.
func (p *Pictures) Sweep(ctx context.Context) error {
	now := p.Now()
	if err := p.Store.Read(ctx).Pictures().Sweep(now.Add(-Unused), now.Add(-Unmade), MostKept); err != nil {
		return err
	}
	_, err := p.Files.Sweep(time.Hour, func(d item.Digest) (bool, error) {
		if err := ctx.Err(); err != nil {
			return true, err
		}
		return p.Store.Read(ctx).Pictures().Holds(d)
	})
	return err
}
