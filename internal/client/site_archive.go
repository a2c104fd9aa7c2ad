package client

import (
	"encoding/base64"
	"io"
	"net/http"
	"os"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// passPhrase reads a pass phrase from a file; - is standard input.
func (a *app) passPhrase(from string) (string, error) {
	if from == "" {
		return "", nil
	}
	var b []byte
	var err error
	if from == "-" {
		b, err = io.ReadAll(io.LimitReader(a.in, 2000))
	} else {
		b, err = os.ReadFile(from)
	}
	return strings.TrimRight(string(b), "\r\n"), err
}

func (a *app) siteArchive() *cobra.Command {
	var pass string
	cmd := &cobra.Command{
		Use:   "archive SITE FILE",
		Short: "Write a site as it is live into one file",
		Long: `Writes a site as it is live into one file: a kit with all that may travel, and beside it what is the
site's own (settings as its mail addresses), sealed under a pass phrase. Without one that is left out.`,
		Example: `  cparcel site archive kestrel-refuge kestrel-2026-11-28.zip --passphrase-file -`,
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			phrase, err := a.passPhrase(pass)
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			resp, err := c.ArchiveSite(cmd.Context(), args[0], api.ArchiveSite{Passphrase: some(phrase)})
			if err != nil {
				return err
			}
			defer resp.Body.Close()
			if resp.StatusCode != http.StatusOK {
				b, err := io.ReadAll(io.LimitReader(resp.Body, 1<<20))
				if err != nil {
					return err
				}
				return refusal(rawReply{resp.StatusCode, b})
			}
			part := args[1] + ".part" // a file of that name is whole
			f, err := os.OpenFile(part, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
			if err != nil {
				return err
			}
			n, err := io.Copy(f, a.progress(resp.Body, resp.ContentLength, "receiving"))
			if err == nil {
				err = f.Sync()
			}
			if e := f.Close(); err == nil {
				err = e
			}
			if err == nil {
				err = os.Rename(part, args[1])
			}
			if err != nil {
				os.Remove(part)
				return err
			}
			return a.print(map[string]any{"site": args[0], "file": args[1], "bytes": n}, func() {
				a.say("%s is in %s, %s.", args[0], args[1], weight(n))
				if phrase == "" {
					a.say("What is the site's own was left out: seal it with --passphrase-file.")
				}
			})
		},
	}
	cmd.Flags().StringVar(&pass, "passphrase-file", "", "a `file` with the pass phrase; - for standard input")
	return cmd
}

func (a *app) siteRestore() *cobra.Command {
	var pass string
	var leave bool
	cmd := &cobra.Command{
		Use:   "restore FILE SITE",
		Short: "Make a site of an archive",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			phrase, err := a.passPhrase(pass)
			if err != nil {
				return err
			}
			f, size, err := opened(args[0], "name the archive's file, or adopt the folder with cparcel site adopt")
			if err != nil {
				return err
			}
			defer f.Close()
			c, err := a.api()
			if err != nil {
				return err
			}
			in := &api.RestoreSiteParams{Leave: some(leave)}
			if phrase != "" {
				in.ArchivePassphrase = some(base64.StdEncoding.EncodeToString([]byte(phrase)))
			}
			body, with, err := a.send(cmd.Context(), c, "restoreSite", f, size)
			if err != nil {
				return err
			}
			got, err := created(c.RestoreSiteWithBodyWithResponse(cmd.Context(), args[1], in, "application/zip", body,
				with))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				a.say("%s is there, as %s was on %s: %s", got.Site.Name, got.Of, got.At.Local().Format("2006-01-02"),
					got.Site.Preview)
				for _, x := range got.LeftOut {
					a.say("  left out: %s", x)
				}
			})
		},
	}
	cmd.Flags().StringVar(&pass, "passphrase-file", "", "a `file` with the pass phrase; - for standard input")
	cmd.Flags().BoolVar(&leave, "without-own", false, "leave out what is sealed")
	return cmd
}
