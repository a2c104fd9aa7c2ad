package desk

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/loose"
	"compactparcel/core/making"
	"compactparcel/core/says"
	"compactparcel/core/views"
	"compactparcel/internal/store"
)

// Intake is what came of a file that somebody gave.
type Intake struct {
	// What the file turned out to be: see core/loose.
	What    string
	Message string
	// Kits are those that are on the shelf or in the making now.
	Kits []*KitInfo
	// Report says what was not taken, and what was found in what was.
	Report []kit.Verdict
}

// KitUpload takes a file in, after checking it whole: kits go on the shelf, all else that
// is known becomes a kit in the making with a report. name is what the file is called;
// as is NAME@VERSION for a kit in the making, or empty.
func (d *Desk) KitUpload(ctx context.Context, p Person, r io.Reader, name, as string) (*Intake, error) {
	what := "the uploaded file"
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	out := &Intake{Kits: []*KitInfo{}, Report: []kit.Verdict{}}
	err := d.inFile(func(f *os.File) error {
		n, err := io.Copy(f, io.LimitReader(r, MaxKitFile+1))
		if err != nil {
			return problem(BadInput, what, To(Retry), "it ended after %d bytes", n)
		}
		if n > MaxKitFile {
			return problem(TooLarge, what, To(MakeLighter), "a kit file can have at most %d GB", MaxKitFile>>30)
		}
		found, err := loose.Recognise(f, n, name)
		if err != nil {
			return d.notBelieved(what, err)
		}
		out.What, out.Message = found.What, "it is "+loose.Words[found.What]
		for _, v := range found.Aside {
			if !strings.HasSuffix(v.Path, "/") { // a folder holds nothing by itself
				out.Report = append(out.Report, v)
			}
		}
		switch found.What {
		case loose.Kit:
			return d.intakeKit(ctx, p, f, n, out)
		case loose.Kits:
			return d.intakeKits(ctx, p, found.Kits, out)
		}
		return d.intakeDraft(ctx, p, found.Files, name, as, out)
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return out, nil
}

// notBelieved says why a file was refused.
func (d *Desk) notBelieved(what string, err error) error {
	if errors.Is(err, loose.ErrNothing) {
		return &Problem{
			Type:    Refused,
			What:    what,
			Message: err.Error(),
			Remedy:  To(ChooseSupportedFile),
			Err:     err,
		}
	}
	if errors.Is(err, kit.ErrNotKit) || errors.Is(err, kit.ErrNewer) || isRefused(err) {
		return err
	}
	return blame(&Problem{Type: Refused, What: what, Message: err.Error(), Remedy: To(GetFileAgain), Err: err})
}

func isRefused(err error) bool { var r *kit.RefusedError; return errors.As(err, &r) }

func (d *Desk) intakeKit(ctx context.Context, p Person, f *os.File, size int64, out *Intake) error {
	k, err := kit.Open(f, size)
	if err != nil {
		return d.notBelieved("the uploaded kit", err)
	}
	did, err := d.shelve(ctx, p, f, "upload", nil, "")
	if err != nil {
		return err
	}
	own, err := views.Own(&k.List, k)
	if err != nil {
		return err
	}
	if !own {
		out.Report = append(out.Report, kit.Verdict{Path: views.Folder, Why: views.Strange})
	}
	info, err := after(did, func() (*KitInfo, error) { return d.Kit(ctx, p, k.List.Kit, k.List.Version) })
	out.Kits = append(out.Kits, info)
	return err
}

// intakeKits takes the kits of one ZIP one by one; one that is refused does not stop the
// others.
func (d *Desk) intakeKits(ctx context.Context, p Person, entries []*zip.File, out *Intake) error {
	var last error
	for _, e := range entries {
		err := d.inFile(func(f *os.File) error {
			r, err := e.Open()
			if err != nil {
				return err
			}
			defer r.Close()
			n, err := io.Copy(f, io.LimitReader(r, MaxKitFile+1))
			if err != nil {
				return err
			}
			return d.intakeKit(ctx, p, f, n, out)
		})
		if err != nil {
			last = explain(e.Name, err)
			var pr *Problem
			if !errors.As(last, &pr) || pr.Type == Unavailable || pr.Type == Uncertain || pr.Type == DiskFull {
				return last // nothing is wrong with the kit
			}
			says := pr.Message
			out.Report = append(out.Report, kit.Verdict{Path: e.Name, Why: says})
		}
	}
	if len(out.Kits) == 0 {
		return last
	}
	return nil
}

// intakeDraft makes a kit in the making of a folder.
func (d *Desk) intakeDraft(ctx context.Context, p Person, files fs.FS, fileName, as string, out *Intake) error {
	list, taken, notes, err := capture.FromFolder(files)
	if err != nil {
		return badFolder("the uploaded file", err)
	}
	if as != "" {
		if list.Kit, list.Version, err = kit.ParseName(as); err != nil {
			return &Problem{
				Type:    BadInput,
				What:    as,
				Message: err.Error(),
				Remedy:  Form("hut-basics@0.1.0"),
				Err:     err,
			}
		}
	}
	if list.Kit == "" {
		base := path.Base(strings.ReplaceAll(fileName, `\`, "/"))
		list.Kit = item.MakeKey(strings.TrimSuffix(base, path.Ext(base)))
		if fileName == "" || kit.CheckName(list.Kit) != nil {
			list.Kit = "brought-in"
		}
	}
	if list.Version == "" {
		list.Version = "0.1.0"
	}
	what := "kit " + list.Kit + "@" + list.Version
	set := item.NewOver(taken.Items)
	if len(taken.StyleOrder) > 0 {
		text, _ := json.Marshal(taken.StyleOrder)
		set.Set(item.Head{Address: item.StyleOrder}, text)
	}
	changes, err := d.keep(ctx, set)
	if err != nil {
		return explain(what, err)
	}
	words := making.Draft{
		Title:      list.Title,
		Summary:    list.Summary,
		Changes:    list.Changes,
		Terms:      list.Terms,
		Authors:    list.Authors,
		Picks:      []making.Pick{},
		Fillins:    map[string]kit.Fillin{},
		Proposes:   list.Proposes,
		Kits:       list.Needs.Kits,
		Components: list.Needs.Components,
	}
	for _, f := range list.Fillins {
		words.Fillins[f.Name] = f
	}
	for _, e := range list.Items {
		words.Picks = append(words.Picks,
			making.Pick{From: fromFile + list.Kit + "@" + list.Version, Address: e.Address()})
	}
	did, err := d.beginDraft(ctx, p, list, words, changes, out.Message)
	if err != nil {
		return err
	}
	for _, n := range notes {
		at, says := n.Address.String(), n.Message
		if n.Address.IsZero() {
			at, says, _ = strings.Cut(n.Message, ": ")
		}
		out.Report = append(out.Report, kit.Verdict{Path: at, Why: says})
	}
	info, err := after(did, func() (*KitInfo, error) { return d.Kit(ctx, p, list.Kit, list.Version) })
	out.Kits = append(out.Kits, info)
	return err
}

// beginDraft keeps what was read and begins the kit in the making over it.
func (d *Desk) beginDraft(
	ctx context.Context,
	p Person,
	list *kit.PackingList,
	words making.Draft,
	changes []store.Change,
	from string,
) (did committed, err error) {
	of := list.Kit + "@" + list.Version
	text, err := json.Marshal(words)
	if err != nil {
		return did, err
	}
	did, err = d.commit(ctx, func(tx *store.Tx) error {
		if _, err := tx.Kits().Begin(list.Kit, list.Version, string(text), p.Name, d.Now()); err != nil {
			return err
		}
		c, err := tx.Collections().Create(store.Loose, of, list.Title, d.Now())
		if err != nil {
			return err
		}
		if _, err := tx.Write(c, changes,
			store.Note{By: p.Name, Act: "read-file", Message: from, At: d.Now()}); err != nil {
			return err
		}
		return d.audit(tx, p, "new-kit", of, fmt.Sprintf("from a file: %s, %s", from, says.Count(len(changes), "item")))
	})
	if store.IsDuplicate(err) {
		return did, problem(Exists, "kit "+of, To(ImportUnderOther), "this version already exists")
	}
	return did, explain("kit "+of, err)
}
