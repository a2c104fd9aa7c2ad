package client

import (
	"cmp"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/loose"
	"compactparcel/core/views"

	"github.com/spf13/cobra"
)

func (a *app) filePack() *cobra.Command {
	var file, name, title, license, credit, key string
	var force bool
	cmd := &cobra.Command{
		Use:   "pack DIR -f FILE",
		Short: "Make a kit file from a folder or a ZIP",
		Args:  cobra.ExactArgs(1),
		Long: `Makes a kit file from a folder: one that was unpacked from a kit, whose packing list
keeps its words, one in our own layout (with a site.json), or one of loose HTML, CSS and
pictures. A ZIP of these, and one single piece, are taken as well. The same folder gives
the same file, byte for byte.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if file == "" {
				return usage("name the file to write with -f")
			}
			files, done, err := folderOf(args[0])
			if err != nil {
				return err
			}
			defer done()
			return a.pack(files, file, name, key, force, kit.PackingList{
				Title: title, Terms: kit.Terms{License: license, Credit: credit},
			})
		},
	}
	cmd.Flags().StringVarP(&file, "file", "f", "", "the `file` to write")
	cmd.Flags().StringVar(&name, "kit", "", "the kit's `NAME@VERSION`")
	cmd.Flags().StringVar(&title, "title", "", "the kit's title")
	cmd.Flags().StringVar(&license, "license", "", "the licence, an SPDX `expression`")
	cmd.Flags().StringVar(&credit, "credit", "", "who must be credited")
	cmd.Flags().StringVar(&key, "key", "", "sign it with the private key in this `file`")
	cmd.Flags().BoolVar(&force, "force", false, "pack in spite of findings")
	return cmd
}

// pack makes a kit file of a folder; what is said overrides what its packing list says.
func (a *app) pack(files fs.FS, file, name, key string, force bool, said kit.PackingList) error {
	list, taken, notes, err := capture.FromFolder(files)
	if err != nil {
		return err
	}
	if name != "" {
		if list.Kit, list.Version, err = splitKit(name); err != nil {
			return err
		}
	}
	if list.Kit == "" {
		return usage("name the kit with --kit NAME@VERSION: the folder has no %s", kit.ListName)
	}
	list.Title = cmp.Or(said.Title, list.Title)
	list.Terms.License = cmp.Or(said.Terms.License, list.Terms.License)
	list.Terms.Credit = cmp.Or(said.Terms.Credit, list.Terms.Credit)
	found, err := kit.CheckIn(list, taken.World)
	if err != nil {
		return err
	}
	stops := a.findings(append(notes, found...), false)
	if stops > 0 && !force {
		return &exitError{Refused, fmt.Errorf("%d findings stop it: correct them, or pack anyway with --force",
			stops)}
	}
	open, cleared, err := views.Add(list, taken.Items, nil)
	if err != nil {
		return err
	}
	defer cleared()
	var seal *kit.Seal
	if key != "" {
		if seal, err = a.signed(list, nil, key); err != nil {
			return err
		}
	}
	var digest item.Digest
	err = replace(file, func(w io.Writer) error {
		digest, err = kit.WriteSealed(w, list, seal, open)
		return err
	})
	if err != nil {
		return err
	}
	return a.print(map[string]any{"file": file, "digest": digest, "items": len(list.Items)}, func() {
		a.say("%s@%s is in %s: %d items, digest %s.", list.Kit, list.Version, file, len(list.Items), digest.Short())
	})
}

// folderOf opens a folder, or what a file holds that is no kit.
func folderOf(name string) (files fs.FS, done func(), err error) {
	info, err := os.Stat(name)
	if err != nil {
		return nil, nil, err
	}
	if info.IsDir() {
		return os.DirFS(name), func() {}, nil
	}
	f, err := os.Open(name)
	if err != nil {
		return nil, nil, err
	}
	found, err := loose.Recognise(f, info.Size(), filepath.Base(name))
	if err == nil && found.Files == nil {
		err = usage("%s is already %s; see what is in it with cparcel file inspect", name, loose.Words[found.What])
	}
	if err != nil {
		f.Close()
		return nil, nil, refused(err)
	}
	return found.Files, func() { f.Close() }, nil
}
