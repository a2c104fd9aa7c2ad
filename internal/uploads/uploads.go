// Package uploads takes large files in pieces, so that one that was cut off goes on where it was: tus 1.0
// (https://tus.io/protocols/resumable-upload), by the handler of its reference implementation. A file that has
// come whole is the body of the operation it is for, which names it in the header Upload-Id.
package uploads

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/tus/tusd/v2/pkg/filestore"
	"github.com/tus/tusd/v2/pkg/handler"
	"github.com/tus/tusd/v2/pkg/memorylocker"
	exp "golang.org/x/exp/slog"
)

// Root is where uploads are.
const Root = "/api/v1/uploads"

// How long an upload stays: one that is not finished since its last piece, and one that is, so that the
// operation it is for can be repeated.
const (
	Unfinished = 24 * time.Hour
	Finished   = time.Hour
)

// What an upload says of itself; the owner is written here, whatever a client says.
const (
	forOperation = "operation"
	ownedBy      = "owner"
)

// Limit tells how large a body an operation takes; its error is why the person who asks may not do it. It is
// asked before the first byte is sent.
type Limit func(operation string) (most int64, err error)

// Uploads are the files that are being sent.
type Uploads struct {
	store   filestore.FileStore
	dir     string
	handler *handler.Handler

	beginning sync.Map // a lock for each owner
}

type askedKey struct{}

// Open prepares a folder for uploads.
func Open(dir string) (*Uploads, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	u := &Uploads{store: filestore.New(dir), dir: dir}
	composer := handler.NewStoreComposer()
	u.store.UseIn(composer)
	memorylocker.New().UseIn(composer)
	h, err := handler.NewHandler(handler.Config{
		BasePath: Root + "/", StoreComposer: composer, DisableDownload: true, DisableConcatenation: true,
		Cors: &handler.CorsConfig{Disable: true}, Logger: exp.New(exp.NewTextHandler(io.Discard, nil)),
		PreUploadCreateCallback: create,
	})
	u.handler = h
	return u, err
}

// create admits an upload, or refuses it.
func create(hook handler.HookEvent) (out handler.HTTPResponse, changes handler.FileInfoChanges, err error) {
	info := hook.Upload
	a, ok := hook.Context.Value(askedKey{}).(*asked)
	if !ok {
		return out, changes, errors.New("it came by no request")
	}
	most, err := a.limit(info.MetaData[forOperation])
	switch {
	case err == nil && info.SizeIsDeferred:
		err = ErrNoLength
	case err == nil && info.Size > most:
		err = &TooLargeError{most}
	}
	if err != nil {
		a.refused = err
		return out, changes, handler.NewError("ERR_REFUSED", "refused", http.StatusForbidden)
	}
	return out, handler.FileInfoChanges{MetaData: handler.MetaData{ownedBy: a.owner,
		forOperation: info.MetaData[forOperation]}}, nil
}

// asked is a request that begins an upload, with why it was refused.
type asked struct {
	owner   string
	limit   Limit
	refused error
}

// ErrNoLength tells that an upload does not say how long it is.
var ErrNoLength = errors.New("say how long the file is, in Upload-Length")

// ErrNoUpload tells that there is no such upload, or that it is somebody else's.
var ErrNoUpload = errors.New("there is no such upload, or it was swept: send the file again")

// MaxBegun is how many uploads one person may have that are not finished.
const MaxBegun = 20

// ErrTooMany tells that somebody began more uploads than they finish.
var ErrTooMany = fmt.Errorf("%d uploads of yours are not finished: go on with them, or end them, first", MaxBegun)

// TooLargeError tells that a file is larger than the operation takes.
type TooLargeError struct{ Most int64 }

func (e *TooLargeError) Error() string { return fmt.Sprintf("it has more than %d MB", e.Most>>20) }

// Begin begins somebody's upload. Its error is why it is refused; nothing was answered then.
func (u *Uploads) Begin(w http.ResponseWriter, r *http.Request, owner string, limit Limit) error {
	own, _ := u.beginning.LoadOrStore(owner, &sync.Mutex{}) // of two that somebody begins at once both are counted
	own.(*sync.Mutex).Lock()
	defer own.(*sync.Mutex).Unlock()
	if n, err := u.begun(r.Context(), owner); err != nil {
		return err
	} else if n >= MaxBegun {
		return ErrTooMany
	}
	a := &asked{owner: owner, limit: limit}
	held := &holding{ResponseWriter: w, asked: a}
	r = r.WithContext(context.WithValue(r.Context(), askedKey{}, a))
	http.StripPrefix(Root, u.handler).ServeHTTP(held, r)
	if a.refused != nil {
		w.Header().Del("Content-Length")
		w.Header().Del("Content-Type")
	}
	return a.refused
}

// begun counts the uploads of somebody that are not finished.
func (u *Uploads) begun(ctx context.Context, owner string) (n int, err error) {
	list, err := filepath.Glob(filepath.Join(u.dir, "*.info"))
	if err != nil {
		return 0, err
	}
	for _, name := range list {
		info, err := u.of(ctx, strings.TrimSuffix(filepath.Base(name), ".info"), owner)
		if errors.Is(err, ErrNoUpload) {
			continue
		}
		if err != nil {
			return 0, err
		}
		if info.Offset < info.Size {
			n++
		}
	}
	return n, nil
}

// holding keeps back an answer to what was refused: the interface has its own words for that.
type holding struct {
	http.ResponseWriter
	asked *asked
}

func (h *holding) WriteHeader(code int) {
	if h.asked.refused == nil {
		h.ResponseWriter.WriteHeader(code)
	}
}

func (h *holding) Write(b []byte) (int, error) {
	if h.asked.refused == nil {
		return h.ResponseWriter.Write(b)
	}
	return len(b), nil
}

// Unwrap lets deadlines be set.
func (h *holding) Unwrap() http.ResponseWriter { return h.ResponseWriter }

// Continue takes the next piece of an upload, tells how far it is, or ends it, as its owner asks.
func (u *Uploads) Continue(w http.ResponseWriter, r *http.Request, id, owner string) error {
	if _, err := u.of(r.Context(), id, owner); err != nil {
		return err
	}
	http.StripPrefix(Root, u.handler).ServeHTTP(w, r)
	return nil
}

// of finds an upload of somebody.
func (u *Uploads) of(ctx context.Context, id, owner string) (info handler.FileInfo, err error) {
	if id == "" || strings.Trim(id, "0123456789abcdef") != "" {
		return info, ErrNoUpload
	}
	x, err := u.store.GetUpload(ctx, id)
	if errors.Is(err, handler.ErrNotFound) || errors.Is(err, fs.ErrNotExist) {
		return info, ErrNoUpload
	}
	if err != nil {
		return info, err
	}
	if info, err = x.GetInfo(ctx); err == nil && info.MetaData[ownedBy] != owner {
		err = ErrNoUpload
	}
	return info, err
}

// Body gives an upload that has come whole, and its length, for the operation it was made for.
func (u *Uploads) Body(ctx context.Context, id, owner, operation string) (io.ReadCloser, int64, error) {
	info, err := u.of(ctx, id, owner)
	switch {
	case err != nil:
		return nil, 0, err
	case info.MetaData[forOperation] != operation:
		return nil, 0, fmt.Errorf("the upload is for %s", info.MetaData[forOperation])
	case info.Offset != info.Size:
		return nil, 0, fmt.Errorf("the upload has %d of %d bytes: send the rest first", info.Offset, info.Size)
	}
	f, err := os.Open(filepath.Join(u.dir, id))
	return f, info.Size, err
}

// Sweep removes uploads that nobody goes on with, and those that were used.
func (u *Uploads) Sweep(ctx context.Context, now time.Time, log *slog.Logger) {
	list, err := filepath.Glob(filepath.Join(u.dir, "*.info"))
	if err != nil {
		return
	}
	for _, name := range list {
		id := strings.TrimSuffix(filepath.Base(name), ".info")
		x, err := u.store.GetUpload(ctx, id)
		if err != nil {
			continue
		}
		info, err := x.GetInfo(ctx)
		if err != nil {
			continue
		}
		at, err := os.Stat(filepath.Join(u.dir, id))
		if err != nil {
			continue
		}
		limit := Unfinished
		if info.Offset == info.Size {
			limit = Finished
		}
		if now.Sub(at.ModTime()) < limit {
			continue
		}
		if err := u.store.AsTerminatableUpload(x).Terminate(ctx); err != nil {
			log.Warn("sweeping uploads", "error", err)
		}
	}
}
