package client

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"time"

	"compactparcel/internal/api"
)

// Files from a size on are sent in pieces, so that one that is cut off goes on where it was (tus 1.0).
const (
	inPiecesFrom = 16 << 20
	piece        = 16 << 20
	// maxBroken is how often in a row the connection may break off without a byte having come.
	maxBroken = 8
)

// send gives the body of a request with a file, and what the request says beside. A large file is sent before,
// in pieces; the request then names it.
func (a *app) send(ctx context.Context, c *api.ClientWithResponses, operation string, f *os.File, size int64) (
	io.Reader, api.RequestEditorFn, error,
) {
	plain := func(context.Context, *http.Request) error { return nil }
	if size < inPiecesFrom {
		return a.progress(f, size, "sending"), plain, nil
	}
	u := &upload{a: a, c: c, f: f, size: size, operation: operation, known: openKnown()}
	id, err := u.run(ctx)
	if err != nil {
		return nil, nil, err
	}
	return http.NoBody, func(_ context.Context, r *http.Request) error {
		r.Header.Set(api.UploadID, id)
		return nil
	}, nil
}

// tus is the version of the protocol.
const tus = "1.0.0"

// upload is a file on its way.
type upload struct {
	a         *app
	c         *api.ClientWithResponses
	f         *os.File
	size      int64
	operation string
	known     *knownUploads
	id        string
}

// run sends the file, from where it was cut off, and gives the upload's name.
func (u *upload) run(ctx context.Context) (string, error) {
	key := u.key()
	offset := int64(-1)
	if u.id = u.known.list[key]; u.id != "" {
		if at, err := u.at(ctx); err == nil {
			offset = at
		}
	}
	if offset < 0 {
		if err := u.begin(ctx); err != nil {
			return "", err
		}
		offset = 0
		u.known.set(key, u.id)
	} else if offset > 0 && offset < u.size {
		fmt.Fprintf(u.a.err, "Going on from %d MB of %d.\n", offset>>20, u.size>>20)
	}
	bar := u.a.bar(u.size, "sending")
	for broken := 0; offset < u.size; {
		if bar != nil {
			_ = bar.Set64(offset)
		}
		to, err := u.piece(ctx, offset)
		if err == nil {
			offset, broken = to, 0
			continue
		}
		var no *exitError
		if errors.As(err, &no) || ctx.Err() != nil {
			return "", err
		}
		if broken++; broken > maxBroken {
			return "", fmt.Errorf("the connection breaks off: %w\n  To fix: run the same command again; it goes "+
				"on where "+
				"it was", err)
		}
		if err := pause(ctx, time.Duration(broken)*500*time.Millisecond); err != nil {
			return "", err
		}
		if at, err := u.at(ctx); err == nil {
			if at > offset {
				broken = 0
			}
			offset = at
		} else if errors.As(err, &no) {
			return "", err
		}
	}
	if bar != nil {
		_ = bar.Finish()
	}
	u.known.set(key, "")
	return u.id, nil
}

// begin asks for an upload: whether it is allowed, and how large it may be, is told before a byte is sent.
func (u *upload) begin(ctx context.Context) error {
	resp, err := u.c.BeginUpload(ctx, &api.BeginUploadParams{TusResumable: tus},
		func(_ context.Context, r *http.Request) error {
			r.Header.Set("Upload-Length", strconv.FormatInt(u.size, 10))
			r.Header.Set("Upload-Metadata", "operation "+base64.StdEncoding.EncodeToString([]byte(u.operation)))
			return nil
		})
	if err := answered(resp, err, http.StatusCreated); err != nil {
		return err
	}
	u.id = path.Base(resp.Header.Get("Location"))
	return nil
}

// at asks how much has come.
func (u *upload) at(ctx context.Context) (int64, error) {
	resp, err := u.c.LookAtUpload(ctx, u.id,
		&api.LookAtUploadParams{TusResumable: tus})
	if err := answered(resp, err, http.StatusOK); err != nil {
		return 0, err
	}
	return strconv.ParseInt(resp.Header.Get("Upload-Offset"), 10, 64)
}

// piece sends a piece and gives how much has come then.
func (u *upload) piece(ctx context.Context, offset int64) (int64, error) {
	body := io.NewSectionReader(u.f, offset, min(piece, u.size-offset))
	resp, err := u.c.ContinueUploadWithBody(ctx, u.id,
		&api.ContinueUploadParams{TusResumable: tus},
		"application/offset+octet-stream", body, func(_ context.Context, r *http.Request) error {
			r.ContentLength = body.Size()
			r.Header.Set("Upload-Offset", strconv.FormatInt(offset, 10))
			return nil
		})
	if err := answered(resp, err, http.StatusNoContent); err != nil {
		return 0, err
	}
	return strconv.ParseInt(resp.Header.Get("Upload-Offset"), 10, 64)
}

// answered reads an answer to its end. A refusal by the service is an *exitError; what may be otherwise in a
// moment is none.
func answered(resp *http.Response, err error, wanted int) error {
	if err != nil {
		return err
	}
	defer resp.Body.Close()
	b, err := io.ReadAll(io.LimitReader(resp.Body, 1<<20))
	switch {
	case resp.StatusCode == wanted:
		return nil
	case err != nil:
		return err
	case resp.StatusCode >= 500 || resp.StatusCode == http.StatusConflict || resp.StatusCode == http.StatusLocked:
		return fmt.Errorf("the service answers %s", resp.Status)
	}
	return refusal(rawReply{resp.StatusCode, b})
}

// key names a file as it is now, for the service and the operation it is sent for.
func (u *upload) key() string {
	name, err := filepath.Abs(u.f.Name())
	if err != nil {
		name = u.f.Name()
	}
	changed := ""
	if info, err := u.f.Stat(); err == nil {
		changed = info.ModTime().String()
	}
	sum := sha256.Sum256(fmt.Appendf(nil, "%s\n%s\n%s\n%d\n%s", u.a.server, u.operation, name, u.size, changed))
	return hex.EncodeToString(sum[:])
}

// knownUploads remembers uploads that are under way, from one run to the next.
type knownUploads struct {
	file string
	list map[string]string
}

func openKnown() *knownUploads {
	k := &knownUploads{list: map[string]string{}}
	dir, err := os.UserCacheDir()
	if err != nil {
		return k
	}
	k.file = filepath.Join(dir, "cparcel", "uploads.json")
	if b, err := os.ReadFile(k.file); err != nil || json.Unmarshal(b, &k.list) != nil {
		k.list = map[string]string{}
	}
	return k
}

// set notes an upload, or forgets it; that it cannot be noted only means that the next run begins anew.
func (k *knownUploads) set(key, id string) {
	if k.list[key] = id; id == "" {
		delete(k.list, key)
	}
	if k.file == "" {
		return
	}
	b, err := json.Marshal(k.list)
	if err != nil || os.MkdirAll(filepath.Dir(k.file), 0o700) != nil {
		return
	}
	_ = os.WriteFile(k.file, b, 0o600)
}
