package client

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/pieces"
	"compactparcel/core/says"
	"compactparcel/core/views"

	"github.com/spf13/cobra"
)

// fileCommands work on kit files and folders alone, without a service.
func (a *app) fileCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "file", Short: "Pack, inspect, check, sign and unpack kit files without a service"}
	keys := &cobra.Command{Use: "keys", Short: "Make keys to sign with"}
	keys.AddCommand(a.fileKeysNew())
	cmd.AddCommand(a.filePack(), a.fileInspect(), a.fileCheck(), a.fileVerify(), a.fileUnpack(), a.fileCompare(),
		a.fileSplit(), a.fileSign(), keys)
	return cmd
}

// openKit opens a kit file; whoever opens it closes the file.
func openKit(name string) (*kit.Kit, *os.File, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, nil, fmt.Errorf("the kit file cannot be read: %w", err)
	}
	info, err := f.Stat()
	if err != nil {
		f.Close()
		return nil, nil, err
	}
	k, err := kit.Open(f, info.Size())
	if err != nil {
		f.Close()
		return nil, nil, refused(err)
	}
	return k, f, nil
}

// withKit opens a kit file for the while.
func withKit(name string, use func(k *kit.Kit) error) error {
	k, f, err := openKit(name)
	if err != nil {
		return err
	}
	defer f.Close()
	return use(k)
}

// refused gives a file that is not believed the exit code for it.
func refused(err error) error {
	var r *kit.RefusedError
	if errors.As(err, &r) || errors.Is(err, kit.ErrNotKit) || errors.Is(err, kit.ErrNewer) ||
		errors.Is(err, kit.ErrBadSeal) {
		return &exitError{Refused, err}
	}
	return err
}

// replace writes a file beside its place and puts it there when it is whole.
func replace(name string, write func(w io.Writer) error) error {
	f, err := os.CreateTemp(filepath.Dir(name), ".cparcel-")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	err = write(f)
	if err == nil {
		err = f.Chmod(0o644)
	}
	if shut := f.Close(); err == nil {
		err = shut
	}
	if err != nil {
		return err
	}
	return os.Rename(f.Name(), name)
}

// findings prints what a check found and counts what stops.
func (a *app) findings(list []kit.Finding, all bool) (stops int) {
	kit.SortFindings(list)
	for _, f := range list {
		if f.Stops {
			stops++
		}
		if a.output == "json" || !f.Stops && !all {
			continue
		}
		how := a.mark("note ")
		if f.Stops {
			how = a.bad("stops")
		}
		at := ""
		if !f.Address.IsZero() {
			at = f.Address.String()
			if f.Line > 0 {
				at += fmt.Sprintf(" line %d", f.Line)
			}
			at += ": "
		}
		a.say("  %s  %s%s", how, at, f.Message)
		if f.Remedy != "" {
			a.say("         %s", a.quiet(f.Remedy))
		}
	}
	return stops
}

func (a *app) fileInspect() *cobra.Command {
	return &cobra.Command{
		Use:   "inspect FILE",
		Short: "Tell what is in a kit file: contents, needs, fill-ins, terms, weights",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withKit(args[0], func(k *kit.Kit) error { return a.print(k.List, func() { a.inspect(k) }) })
		},
	}
}

func (a *app) inspect(k *kit.Kit) {
	l := k.List
	a.say("%s@%s “%s”, format %d, digest %s", l.Kit, l.Version, l.Title, l.Format, k.Digest.Short())
	if l.Summary != "" {
		a.say("%s", l.Summary)
	}
	terms := l.Terms.License
	if terms == "" {
		terms = "no licence named"
	}
	if l.Terms.Credit != "" {
		terms += ", credit to " + l.Terms.Credit
	}
	if l.Terms.Sites != nil {
		terms += fmt.Sprintf(", for %d sites", *l.Terms.Sites)
	}
	a.say("Terms:   %s", terms)
	a.say("Engine:  %s", l.Engine)
	if k.Seal == nil {
		a.say("Signed:  no")
	} else {
		var ids []string
		for _, s := range k.Seal.Signatures {
			ids = append(ids, s.KeyID)
		}
		a.say("Signed:  by %s (cparcel file verify says whether it holds)", strings.Join(ids, ", "))
	}
	var rows [][]any
	var total int64
	for _, e := range l.Items {
		about := e.Title
		switch {
		case e.Role != "":
			about = strings.TrimSpace(string(e.Role) + " " + about)
		case e.Slug != "":
			about = strings.TrimSpace(about + " " + e.Slug)
		}
		if n := len(e.Uses); n > 0 {
			about = strings.TrimSpace(fmt.Sprintf("%s (uses %d)", about, n))
		}
		total += e.Bytes
		rows = append(rows, []any{e.Address().String(), weight(e.Bytes), about})
	}
	a.table("It is empty.", []string{"item", "weight", "about"}, rows)
	a.say("%d items, %s.", len(l.Items), weight(total))
	for _, f := range l.Fillins {
		must := ""
		if f.Required {
			must = ", must be given"
		}
		a.say("Fill-in  %s (%s%s): %s, sample “%s”", f.Name, f.Type, must, f.Label, f.Sample)
	}
	for name, r := range l.Needs.Kits {
		a.say("Needs    the kit %s %s", name, r)
	}
	for name, c := range l.Needs.Components {
		a.say("Needs    the component %s %s", name, c.Range)
	}
	for _, n := range l.Needs.Items {
		what := n.Address
		if what == "" {
			what = "a page at " + n.Slug
		}
		how := "Needs    "
		if n.Optional {
			how = "May use  "
		}
		a.say("%s%s (%s)", how, what, n.Why)
	}
	for _, name := range sortedNames(l.Proposes) {
		a.say("Proposes %s: %v", name, l.Proposes[name])
	}
	for _, x := range l.LeavesOut {
		a.say("Left out %s (%s)", x.Address, x.Why)
	}
	if n := len(l.Generated); n > 0 {
		a.say("Views    %d files beside the items; a browser opens views/*.html once it is unpacked", n)
	}
}

func (a *app) fileCheck() *cobra.Command {
	return &cobra.Command{
		Use:   "check FILE|DIR",
		Short: "List what would trouble a receiver of a kit file, or visitors of a folder",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if info, err := os.Stat(args[0]); err == nil && info.IsDir() {
				return a.folderFaults(args[0])
			}
			k, f, err := openKit(args[0])
			if err != nil {
				return err
			}
			defer f.Close()
			found, err := kit.Check(&k.List, k)
			if err != nil {
				return refused(err)
			}
			if own, err := views.Own(&k.List, k); err != nil || !own {
				found = append(found, kit.Finding{Message: views.Strange})
			}
			var stops int
			if err := a.print(found, func() {
				if len(found) == 0 {
					a.say("No findings.")
				}
			}); err != nil {
				return err
			}
			if stops = a.findings(found, true); stops > 0 {
				return &exitError{Refused, fmt.Errorf("sealing would be prevented by %s", says.Count(stops, "finding"))}
			}
			return nil
		},
	}
}

func (a *app) fileVerify() *cobra.Command {
	var keys string
	cmd := &cobra.Command{
		Use:   "verify FILE",
		Short: "Check every byte against the packing list, and the signatures against keys",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			k, f, err := openKit(args[0])
			if err != nil {
				return err
			}
			defer f.Close()
			if err := k.Verify(); err != nil {
				return refused(err)
			}
			signers := []kit.Signer{}
			if keys != "" {
				b, err := os.ReadFile(keys)
				if err != nil {
					return fmt.Errorf("the keys cannot be read: %w", err)
				}
				trust, err := kit.ParseTrust(b)
				if err != nil {
					return usage("%s: %v", keys, err)
				}
				if signers, err = k.Signers(trust); err != nil {
					return refused(err)
				}
				if len(signers) == 0 {
					why := "it is unsigned"
					if k.Seal != nil {
						why = "nobody in " + keys + " signed it"
					}
					return &exitError{Refused, fmt.Errorf("every byte matches the packing list, but %s", why)}
				}
			}
			return a.print(
				map[string]any{
					"kit":     k.List.Kit,
					"version": k.List.Version,
					"digest":  k.Digest,
					"files":   len(k.Report.Valid),
					"signers": signers,
				},
				func() {
					a.say("%s@%s: all %d files match its packing list, digest %s.", k.List.Kit, k.List.Version,
						len(k.Report.Valid), k.Digest.Short())
					for _, s := range signers {
						a.say("%s by %s (%s).", a.good("Signed"), s.Name, s.KeyID)
					}
				},
			)
		},
	}
	cmd.Flags().
		StringVar(&keys, "keys", "", "a trust list or public keys, in this `file`: one of them must have signed it")
	return cmd
}

func (a *app) fileUnpack() *cobra.Command {
	return &cobra.Command{
		Use:   "unpack FILE DIR",
		Short: "Write a kit's files into a new folder",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withKit(args[0], func(k *kit.Kit) error {
				if err := k.UnpackTo(filepath.Clean(args[1])); err != nil {
					return refused(err)
				}
				return a.print(
					map[string]any{"dir": args[1], "files": len(k.Report.Valid)},
					func() { a.say("%d files are in %s.", len(k.Report.Valid), args[1]) },
				)
			})
		},
	}
}

func (a *app) fileSplit() *cobra.Command {
	return &cobra.Command{
		Use:   "split FILE DIR",
		Short: "Split a kit file into one kit file for each piece, with everything it needs",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withKit(args[0], func(k *kit.Kit) error {
				if err := k.Verify(); err != nil {
					return refused(err)
				}
				parts, err := pieces.Split(&k.List, k)
				if err != nil {
					return err
				}
				if err := os.MkdirAll(args[1], 0o755); err != nil {
					return err
				}
				var rows [][]any
				var files []string
				for _, p := range parts {
					name := filepath.Join(args[1], p.FileName())
					if _, err := os.Stat(name); err == nil {
						return fmt.Errorf("%s already exists; nothing was overwritten", name)
					}
					if err := replace(name, p.Write); err != nil {
						return err
					}
					files = append(files, name)
					rows = append(rows, []any{p.FileName(), p.Address.String(), len(p.List.Items)})
				}
				return a.print(map[string]any{"files": files}, func() {
					a.table("The kit is empty.", []string{"file", "piece", "items"}, rows)
				})
			})
		},
	}
}

func (a *app) fileCompare() *cobra.Command {
	return &cobra.Command{
		Use:   "compare OLD NEW",
		Short: "List what changed between two kit files, item by item",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withKit(args[0], func(x *kit.Kit) error {
				return withKit(args[1], func(y *kit.Kit) error { return a.compare(x, y) })
			})
		},
	}
}

func (a *app) compare(x, y *kit.Kit) error {
	advice, c, err := kit.AdviseOn(x.Contents(), y.Contents())
	if err != nil {
		return refused(err)
	}
	return a.print(
		map[string]any{
			"from":    c.From,
			"to":      c.To,
			"words":   c.Metadata,
			"changes": c.Changes,
			"same":    c.Same,
			"advice":  advice,
		},
		func() { a.comparison(c, advice) },
	)
}

func (a *app) comparison(c *kit.Comparison, advice *kit.Advice) {
	a.say("%s → %s: %d items changed, %d the same.", c.From, c.To, len(c.Changes), c.Same)
	for _, w := range c.Metadata {
		a.say("  %s", w)
	}
	for _, ch := range c.Changes {
		head := fmt.Sprintf("%-11s %s", ch.What, ch.Address)
		if !ch.Was.IsZero() {
			head += ", was " + ch.Was.String()
		}
		switch ch.What {
		case "added":
			head = a.good(head)
		case "removed":
			head = a.bad(head)
		default:
		}
		a.say("%s", head)
		for _, d := range ch.Details {
			a.say("    %s", d)
		}
	}
	a.say("These changes ask for the next version to be %s (%s).", advice.Next, advice.Step)
	for i, r := range advice.Reasons {
		if i == 6 {
			a.say("  and %d more reasons", len(advice.Reasons)-i)
			break
		}
		a.say("  %s", r)
	}
}

// signed reads a key and signs a packing list.
func (a *app) signed(list *kit.PackingList, old *kit.Seal, keyFile string) (*kit.Seal, error) {
	b, err := os.ReadFile(keyFile)
	if err != nil {
		return nil, fmt.Errorf("the key cannot be read: %w", err)
	}
	key, err := kit.ParsePrivateKey(b)
	if err != nil {
		return nil, usage("%s: %v", keyFile, err)
	}
	list.Settle()
	return list.Sign(old, key)
}

// signFile checks a kit file whole and writes it with one more signature.
func (a *app) signFile(from, to, keyFile string) (seal *kit.Seal, digest item.Digest, err error) {
	err = withKit(from, func(k *kit.Kit) error {
		if err := k.Verify(); err != nil {
			return refused(err)
		}
		list := k.List
		if seal, err = a.signed(&list, k.Seal, keyFile); err != nil {
			return err
		}
		digest = k.Digest
		return replace(to, func(w io.Writer) error {
			_, err := kit.WriteSealed(w, &list, seal, k.OpenPath)
			return err
		})
	})
	return seal, digest, err
}

func (a *app) fileSign() *cobra.Command {
	var key string
	cmd := &cobra.Command{
		Use:   "sign FILE --key KEY",
		Short: "Sign a kit file",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if key == "" {
				return usage("name the private key with --key; make one with cparcel file keys new")
			}
			seal, digest, err := a.signFile(args[0], args[0], key)
			if err != nil {
				return err
			}
			last := seal.Signatures[len(seal.Signatures)-1]
			return a.print(last, func() {
				a.say("%s is signed by the key %s; its digest stays %s.", args[0], last.KeyID, digest.Short())
			})
		},
	}
	cmd.Flags().StringVar(&key, "key", "", "the private key, in this `file`")
	return cmd
}

func (a *app) fileKeysNew() *cobra.Command {
	return &cobra.Command{
		Use:   "new PATH",
		Short: "Make a key pair: PATH is the private key, PATH.pub the public one",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			private, public, err := kit.NewKey()
			if err != nil {
				return err
			}
			for _, x := range []struct {
				name string
				text []byte
				mode os.FileMode
			}{{args[0], private, 0o600}, {args[0] + ".pub", public, 0o644}} {
				f, err := os.OpenFile(x.name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, x.mode)
				if err != nil {
					return fmt.Errorf("nothing is written over: %w", err)
				}
				_, err = f.Write(x.text)
				if shut := f.Close(); err == nil {
					err = shut
				}
				if err != nil {
					return err
				}
			}
			return a.print(map[string]string{"private": args[0], "public": args[0] + ".pub"}, func() {
				a.say("%s is the private key: keep it to yourself. Give %s.pub to those who should trust you.",
					args[0], args[0])
			})
		},
	}
}
