package client

import (
	"os"
	"path/filepath"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// kitSign signs a kit of the shelf here, where the key is, and sends the signed file back.
func (a *app) kitSign() *cobra.Command {
	var key string
	cmd := &cobra.Command{
		Use:   "sign NAME@VERSION --key FILE",
		Short: "Sign a sealed kit; the private key stays here",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if key == "" {
				return usage("name the file of the private key with --key")
			}
			c, name, version, err := a.kitAt(cmd.Context(), args[0], api.KitStateSealed)
			if err != nil {
				return err
			}
			dir, err := os.MkdirTemp("", "cparcel-")
			if err != nil {
				return err
			}
			defer os.RemoveAll(dir)
			file := filepath.Join(dir, "kit.cpkit")
			b, err := body(c.GetKitFileWithResponse(cmd.Context(), name, version))
			if err != nil {
				return err
			}
			if err := os.WriteFile(file, b, 0o600); err != nil {
				return err
			}
			signed := filepath.Join(dir, "signed.cpkit")
			if _, _, err := a.signFile(file, signed, key); err != nil {
				return err
			}
			f, err := os.Open(signed)
			if err != nil {
				return err
			}
			defer f.Close()
			got, err := created(
				c.ImportKitWithBodyWithResponse(cmd.Context(), &api.ImportKitParams{}, "application/octet-stream", f),
			)
			if err != nil {
				return err
			}
			return a.print(got, func() {
				a.say("%s: %s is signed.", a.good("Done"), args[0])
				a.signers(&got.Kits[0])
			})
		},
	}
	cmd.Flags().StringVar(&key, "key", "", "the `file` of the private key")
	return cmd
}

// signers prints who signed a kit.
func (a *app) signers(k *api.Kit) {
	for _, s := range k.Signers {
		if s.Trusted {
			a.say("Signed: by %s, a key that %s trusts (%s)", value(s.Name), value(s.Team), s.KeyID)
		} else {
			a.say("Signed: by %s, a key that no team trusts", s.KeyID)
		}
	}
}
