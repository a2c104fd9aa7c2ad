package desk

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"
	"strings"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/views"
	"compactparcel/internal/store"
)

// maxReason is the longest reason that is recorded, in bytes.
const maxReason = 800

// KitSeal makes a version final. etag is the one the person checked, or 0. because is
// why a number smaller than the changes ask for is right; it is recorded.
func (d *Desk) KitSeal(
	ctx context.Context,
	p Person,
	name, version string,
	etag int,
	because string,
) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	if len(because) > maxReason {
		return nil, problem(BadInput, what, To(Shorten), "a reason can have at most %d bytes", maxReason)
	}
	info, err := d.kitOnceRun(ctx, p, name, version)
	if err != nil {
		return nil, err
	}
	if _, again := store.Repeated(ctx); again && info.State == Sealed {
		return info, nil
	}
	if info.State == Sealed {
		return nil, problem(Refused, what, To(BeginNextVersion, "kit", name), "it is already sealed")
	}
	if etag != 0 && etag != info.Etag {
		return nil, problem(Stale, what, To(CheckKitAgain), "somebody else has changed it since you checked it")
	}
	var stops []kit.Finding
	for _, f := range info.Check {
		if f.Stops {
			stops = append(stops, f)
		}
	}
	if len(stops) > 0 {
		pr := problem(NotClean, what, To(FixFindings), "sealing is prevented by %d of its findings, the first: %s",
			len(stops), stops[0].Message)
		pr.Details = stops
		return nil, pr
	}
	advice, err := d.KitNextVersion(ctx, p, name, version)
	if err != nil {
		return nil, err
	}
	if !advice.Enough && strings.TrimSpace(because) == "" {
		pr := problem(NotClean, what, To(RaiseVersion, "version", advice.Next), "its changes since %s ask for %s: %s",
			advice.Last, advice.Next, advice.Reasons[0])
		pr.Details = advice.Reasons
		return nil, pr
	}
	scratch := *info
	scratch.Check = nil
	if err := d.assemble(ctx, p, &scratch); err != nil {
		return nil, explain(what, err)
	}
	list, set := scratch.Packs, scratch.Made.Items
	if a, b := digestOf(list), digestOf(info.Packs); a != b {
		return nil, problem(Stale, what, To(CheckKitAgain), "its sources changed during the check")
	}
	var did committed
	err = d.inFile(func(f *os.File) (err error) {
		open, done, err := views.Add(list, set, d.faces(ctx, &info.KitVersion, list))
		if err != nil {
			return err
		}
		defer done()
		if _, err := kit.Write(f, list, open); err != nil {
			return err
		}
		did, err = d.shelve(ctx, p, f, "seal", &info.KitVersion, because)
		return err
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*KitInfo, error) { return d.Kit(ctx, p, name, version) })
}

// runWait is how long sealing waits until pages have been run: what their scripts put on them comes along.
const runWait = 20 * time.Second

// kitOnceRun gives a kit in the making once all pages that its pieces stand on have been run, or have had their time.
func (d *Desk) kitOnceRun(ctx context.Context, p Person, name, version string) (*KitInfo, error) {
	for end := d.Now().Add(runWait); ; {
		info, err := d.Kit(ctx, p, name, version)
		if err != nil || info.Made == nil || info.Made.Waiting == 0 || d.Now().After(end) {
			return info, err
		}
		select {
		case <-ctx.Done():
			return nil, explain("kit "+name+"@"+version, ctx.Err())
		case <-time.After(500 * time.Millisecond):
		}
	}
}

// facesWait is how long sealing waits for pictures: those that are ready by then come along.
const facesWait = 30 * time.Second

// faces gives the pictures of what a kit shows, pages first. Sealing never fails for lack of them.
func (d *Desk) faces(ctx context.Context, v *store.KitVersion, list *kit.PackingList) map[item.Address][]byte {
	if d.KitFaces == nil {
		return nil
	}
	var shown []item.Address
	for _, kind := range []item.Kind{item.Page, item.Section, item.Part, item.Block} {
		for _, e := range list.Items {
			if a := e.Address(); a.Kind == kind {
				shown = append(shown, a)
			}
		}
	}
	ctx, cancel := context.WithTimeout(ctx, facesWait)
	defer cancel()
	return d.KitFaces(ctx, v.ID, shown)
}

func digestOf(l *kit.PackingList) item.Digest {
	d, err := l.Digest()
	if err != nil {
		return ""
	}
	return d
}

// inFile runs f with a scratch file that is gone afterwards.
func (d *Desk) inFile(f func(*os.File) error) error { return d.Scratch.With(f) }

// shelve checks a kit file whole and puts it on the shelf: its file, its items as
// a collection, its version as sealed. made is the version that it seals, as it was when the
// file was written, or nil when the file came from elsewhere.
func (d *Desk) shelve(
	ctx context.Context, p Person, f *os.File, act string, made *store.KitVersion, because string,
) (did committed, err error) {
	size, err := f.Seek(0, io.SeekEnd)
	if err != nil {
		return did, err
	}
	k, err := kit.Open(f, size)
	if err != nil {
		return did, err
	}
	if err := k.Verify(); err != nil {
		return did, err
	}
	what := k.List.Kit + "@" + k.List.Version
	if made == nil {
		if there, err := d.alreadyThere(ctx, p, k); there || err != nil {
			return did, err
		}
	}
	changes, err := d.keep(ctx, k)
	if err != nil {
		return did, err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return did, err
	}
	file, n, err := d.Store.PutBlob(ctx, f, d.Now())
	if err != nil {
		return did, err
	}
	text, err := k.List.Canonical()
	if err != nil {
		return did, err
	}
	seal, err := sealText(k.Seal)
	if err != nil {
		return did, err
	}
	words, err := json.Marshal(making.Draft{Title: k.List.Title, Summary: k.List.Summary, Changes: k.List.Changes,
		Terms: k.List.Terms, Authors: k.List.Authors, Picks: []making.Pick{}})
	if err != nil {
		return did, err
	}
	now := d.Now()
	did, err = d.commit(ctx, func(tx *store.Tx) error {
		version := made
		if version == nil {
			var err error
			if version, err = tx.Kits().Begin(k.List.Kit, k.List.Version, string(words), p.Name, now); err != nil {
				return err
			}
		}
		c, err := tx.Collections().Create(store.Kit, what, k.List.Title, now)
		if err != nil {
			return err
		}
		if _, err := tx.Write(c, changes, store.Note{By: p.Name, Act: act, Message: what, At: now}); err != nil {
			return err
		}
		err = tx.Kits().Seal(version.ID, version.Etag, store.SealedKit{
			Collection: c.ID, List: string(text), Seal: seal, Digest: k.Digest, File: file, Bytes: n,
		}, now)
		if errors.Is(err, store.ErrMoved) {
			return problem(Stale, "kit "+what, To(Redo), "somebody else changed or sealed it in the meantime")
		}
		if err != nil {
			return err
		}
		says := string(k.Digest)
		if because != "" {
			says += ", with this number because: " + because
		}
		return d.audit(tx, p, act, what, says)
	})
	if store.IsDuplicate(err) {
		return did, problem(Exists, "kit "+what, To(CheckName),
			"it was imported twice at the same time; one import was kept")
	}
	return did, err
}

// alreadyThere tells that the very same kit is on the shelf, and adds the signatures of k to
// it. Another kit of this name and version is an error.
func (d *Desk) alreadyThere(ctx context.Context, p Person, k *kit.Kit) (bool, error) {
	what := "kit " + k.List.Kit + "@" + k.List.Version
	v, err := d.kitVersion(ctx, k.List.Kit, k.List.Version)
	switch {
	case isNotFound(err):
		return false, nil
	case err != nil:
		return false, err
	case v.State != Sealed:
		return false, problem(Exists, what, To(SealKit, "kit", k.List.Kit+"@"+k.List.Version),
			"this version is being made here")
	case v.Digest != k.Digest:
		return false, problem(Refused, what, To(AskMakerForVersion),
			"it was rebuilt: the shelf has this version with different contents (%s; the file has %s)",
			v.Digest.Short(), k.Digest.Short())
	}
	return true, d.addSignatures(ctx, p, k, v)
}
