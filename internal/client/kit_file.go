package client

import (
	"fmt"
	"os"

	"compactparcel/core/kit"

	"github.com/spf13/cobra"
)

func (a *app) kitGet() *cobra.Command {
	var file string
	var pieces bool
	cmd := &cobra.Command{Use: "get NAME@VERSION", Short: "Download a sealed kit's .cpkit file, or one for each piece", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, name, version, err := a.kitAt(args[0])
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
			return a.print(map[string]any{"file": file, "bytes": len(b)}, func() { a.say("The pieces of %s are in %s (%s), a kit each.", args[0], file, weight(int64(len(b)))) })
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
			return fmt.Errorf("what arrived is not the kit: %w", err)
		}
		if err := os.Rename(half, file); err != nil {
			return err
		}
		return a.print(map[string]any{"file": file, "bytes": len(b)}, func() { a.say("%s is in %s (%s), checked.", args[0], file, weight(int64(len(b)))) })
	}}
	cmd.Flags().StringVarP(&file, "file", "f", "", "the `file` to write (NAME-VERSION.cpkit when not given)")
	cmd.Flags().BoolVar(&pieces, "pieces", false, "a ZIP with one kit for each piece")
	return cmd
}

func checkFile(name string) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	k, err := kit.Open(f, info.Size())
	if err != nil {
		return err
	}
	return k.Verify()
}

func (a *app) kitAdd() *cobra.Command {
	return &cobra.Command{Use: "add FILE", Short: "Take a .cpkit file in, after checking it whole", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		f, err := os.Open(args[0])
		if err != nil {
			return err
		}
		defer f.Close()
		info, err := f.Stat()
		if err != nil {
			return err
		}
		k, err := created(c.UploadKitWithBodyWithResponse(cmd.Context(), "application/octet-stream", a.progress(f, info.Size(), "sending")))
		if err != nil {
			return err
		}
		return a.print(k, func() {
			a.say("%s: %s@%s is on the shelf, %d items, digest %s.", a.good("Done"), k.Name, k.Version, len(k.Items), k.Digest)
		})
	}}
}
