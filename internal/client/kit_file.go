package client

import (
	"fmt"
	"os"
	"path/filepath"

	"compactparcel/core/kit"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) kitGet() *cobra.Command {
	var file string
	var pieces bool
	cmd := &cobra.Command{
		Use:   "get NAME[@VERSION]",
		Short: "Download a sealed kit's .cpkit file, or one for each piece",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, name, version, err := a.kitAt(cmd.Context(), args[0], api.KitStateSealed)
			if err != nil {
				return err
			}
			if pieces {
				if file == "" {
					file = name + "-" + version + "-pieces.zip"
				}
				b, err := body(c.GetKitPiecesWithResponse(cmd.Context(), name, version))
				if err == nil {
					err = os.WriteFile(file, b, 0o644)
				}
				if err != nil {
					return err
				}
				return a.print(
					map[string]any{"file": file, "bytes": len(b)},
					func() {
						a.say("The pieces of %s@%s are in %s (%s), one kit for each.", name, version, file,
							weight(int64(len(b))))
					},
				)
			}
			if file == "" {
				file = name + "-" + version + ".cpkit"
			}
			b, err := body(c.GetKitFileWithResponse(cmd.Context(), name, version))
			if err != nil {
				return err
			}
			half := file + ".part"
			if err := os.WriteFile(half, b, 0o644); err != nil {
				return err
			}
			if err := checkFile(half); err != nil {
				os.Remove(half)
				return fmt.Errorf("what arrived is not this kit: %w", err)
			}
			if err := os.Rename(half, file); err != nil {
				return err
			}
			return a.print(
				map[string]any{"file": file, "bytes": len(b)},
				func() { a.say("%s@%s is in %s (%s), checked.", name, version, file, weight(int64(len(b)))) },
			)
		},
	}
	cmd.Flags().StringVarP(&file, "file", "f", "", "the `file` to write (NAME-VERSION.cpkit when not given)")
	cmd.Flags().BoolVar(&pieces, "pieces", false, "a ZIP with one kit for each piece")
	return cmd
}

func checkFile(name string) error {
	f, size, err := opened(name, "this is no kit")
	if err != nil {
		return err
	}
	defer f.Close()
	k, err := kit.Open(f, size)
	if err != nil {
		return err
	}
	return k.Verify()
}

func (a *app) kitImport() *cobra.Command {
	var as string
	cmd := &cobra.Command{
		Use:   "import FILE|FOLDER",
		Short: "Import a kit file after checking all of it, or make a kit from other files",
		Args:  cobra.ExactArgs(1),
		Long: `Imports a file. Its content tells what it is, whatever its ending: kit files, also
several in one ZIP, go on the shelf. A ZIP or a folder of loose HTML, CSS and pictures, a kit or a site
that was unpacked and zipped again, and one single piece become a kit in the making, with a
report of what was taken.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			f, size, done, err := a.kitOrFolder(args[0])
			if err != nil {
				return err
			}
			defer done()
			whole, err := filepath.Abs(args[0])
			if err != nil {
				return err
			}
			name := filepath.Base(whole)
			body, with, err := a.send(cmd.Context(), c, "importKit", f, size)
			if err != nil {
				return err
			}
			got, err := created(
				c.ImportKitWithBodyWithResponse(cmd.Context(), &api.ImportKitParams{Name: &name, As: some(as)},
					"application/octet-stream", body, with),
			)
			if err != nil {
				return err
			}
			return a.print(got, func() { a.intake(args[0], got) })
		},
	}
	cmd.Flags().StringVar(&as, "as", "", "the `NAME@VERSION` of the kit that is made from other files")
	return cmd
}

// kitOrFolder opens a file, or a folder as a ZIP that is gone when it is done with.
func (a *app) kitOrFolder(name string) (f *os.File, size int64, done func(), err error) {
	if info, err := os.Stat(name); err == nil && info.IsDir() {
		f, size, err := a.zipDir(name)
		return f, size, func() { f.Close(); os.Remove(f.Name()) }, err
	}
	f, size, err = opened(name, "name a file")
	return f, size, func() { f.Close() }, err
}

func (a *app) intake(file string, got *api.Intake) {
	if got.What != api.IntakeKindKit {
		a.say("%s: %s.", file, got.Message)
	}
	for _, r := range got.Report {
		a.say("  %s: %s", r.Path, r.Why)
	}
	for _, k := range got.Kits {
		if k.State == api.KitStateSealed {
			a.say("%s: %s@%s is on the shelf, %s, digest %s.", a.good("Done"), k.Name, k.Version,
				says.Count(len(k.Items), "item"), k.Digest)
			a.signers(&k)
			continue
		}
		a.say("%s: it became the kit in the making %s@%s, %s. Look at it: cparcel kit show %[2]s@%[3]s; then seal it.",
			a.good("Done"), k.Name, k.Version, says.Count(len(k.Items), "item"))
	}
}
