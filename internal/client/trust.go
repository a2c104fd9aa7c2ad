package client

import (
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

var errNothingFits = errors.New("there is no choice of kits in which all demands hold")

func (a *app) trustCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "trust", Short: "List, add and remove the keys that teams trust"}
	cmd.AddCommand(a.trustList(), a.trustAdd(), a.trustRemove())
	return cmd
}

func (a *app) trustList() *cobra.Command {
	return &cobra.Command{Use: "list", Short: "List the trusted keys", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		got, err := result(c.ListTrustKeysWithResponse(cmd.Context()))
		if err != nil {
			return err
		}
		return a.print(got, func() {
			var rows [][]any
			for _, k := range got.Keys {
				rows = append(rows, []any{k.Id, k.Team, k.Name, k.KeyId, k.CreatedAt.Local().Format("2006-01-02")})
			}
			a.table("No key is trusted yet. Make one: cparcel file keys new; trust it: cparcel trust add FILE.pub --team TEAM", []string{"no.", "team", "name", "key", "since"}, rows)
		})
	}}
}

func (a *app) trustAdd() *cobra.Command {
	var team, name string
	cmd := &cobra.Command{Use: "add FILE --team TEAM", Short: "Trust the public key in a file", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		if team == "" {
			return usage("say which team trusts it: --team TEAM")
		}
		text, err := os.ReadFile(args[0])
		if err != nil {
			return err
		}
		if name == "" {
			name = strings.TrimSuffix(filepath.Base(args[0]), filepath.Ext(args[0]))
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		k, err := created(c.TrustKeyWithResponse(cmd.Context(), api.NewTrustKey{Team: team, Name: &name, Key: string(text)}))
		if err != nil {
			return err
		}
		return a.print(k, func() { a.say("%s: %s trusts %s (%s).", a.good("Done"), k.Team, k.Name, k.KeyId) })
	}}
	cmd.Flags().StringVar(&team, "team", "", "the `team` that trusts it")
	cmd.Flags().StringVar(&name, "name", "", "whose key it is, a `name` (the file's when not given)")
	return cmd
}

func (a *app) trustRemove() *cobra.Command {
	return &cobra.Command{Use: "remove NUMBER", Short: "Trust a key no more", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		id, err := strconv.ParseInt(args[0], 10, 64)
		if err != nil {
			return usage("%q is no number of a key; see cparcel trust list", args[0])
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		if _, err := body(c.DistrustKeyWithResponse(cmd.Context(), id)); err != nil {
			return err
		}
		return a.print(map[string]int64{"removed": id}, func() { a.say("%s: the key is trusted no more.", a.good("Done")) })
	}}
}

func (a *app) siteTrust() *cobra.Command {
	var policy, team string
	cmd := &cobra.Command{Use: "trust SITE", Short: "Tell, or say, whether kits for a site must be signed and by whose keys", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		t, err := result(c.GetSiteTrustWithResponse(cmd.Context(), args[0]))
		if err != nil {
			return err
		}
		if policy != "" || cmd.Flags().Changed("team") {
			in := *t
			if policy != "" {
				in.Policy = policy
			}
			if cmd.Flags().Changed("team") {
				in.Team = team
			}
			if t, err = result(c.SetSiteTrustWithResponse(cmd.Context(), args[0], in)); err != nil {
				return err
			}
		}
		return a.print(t, func() {
			whose := "any trusted key"
			if t.Team != "" {
				whose = "a key that " + t.Team + " trusts"
			}
			switch t.Policy {
			case "ignore":
				a.say("%s takes kits whether they are signed or not.", args[0])
			case "warn":
				a.say("%s warns of kits that are not signed by %s.", args[0], whose)
			default:
				a.say("%s takes only kits that are signed by %s.", args[0], whose)
			}
		})
	}}
	cmd.Flags().StringVar(&policy, "policy", "", "`ignore|warn|require`")
	cmd.Flags().StringVar(&team, "team", "", "whose keys count, a `team`; empty for all")
	return cmd
}

// kitSign signs a kit of the shelf here, where the key is, and sends the signed file back.
func (a *app) kitSign() *cobra.Command {
	var key string
	cmd := &cobra.Command{Use: "sign NAME@VERSION --key FILE", Short: "Sign a sealed kit; the private key stays here", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		if key == "" {
			return usage("name the file of the private key with --key")
		}
		c, name, version, err := a.kitAt(args[0])
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
		got, err := created(c.UploadKitWithBodyWithResponse(cmd.Context(), &api.UploadKitParams{}, "application/octet-stream", f))
		if err != nil {
			return err
		}
		return a.print(got, func() {
			a.say("%s: %s is signed.", a.good("Done"), args[0])
			a.signers(&got.Kits[0])
		})
	}}
	cmd.Flags().StringVar(&key, "key", "", "the `file` of the private key")
	return cmd
}

// signers prints who signed a kit.
func (a *app) signers(k *api.Kit) {
	for _, s := range k.Signers {
		if s.Trusted {
			a.say("Signed: by %s, a key that %s trusts (%s)", s.Name, s.Team, s.KeyID)
		} else {
			a.say("Signed: by %s, a key that no team trusts", s.KeyID)
		}
	}
}
