package client

import (
	"strings"

	"compactparcel/core/kit"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) kitNew() *cobra.Command {
	var title, summary, license, credit string
	cmd := &cobra.Command{Use: "new NAME@VERSION", Short: "Begin a kit, or a new version of one", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, name, version, err := a.kitAt(args[0])
		if err != nil {
			return err
		}
		k, err := created(c.NewKitWithResponse(cmd.Context(), api.NewKit{Name: name, Version: version, Title: some(title), Summary: some(summary), License: some(license), Credit: some(credit)}))
		if err != nil {
			return err
		}
		return a.print(k, func() {
			a.say("%s is being made. Put something in: cparcel kit put %s ADDRESS --from SITE", args[0], args[0])
		})
	}}
	f := cmd.Flags()
	f.StringVar(&title, "title", "", "the kit's `title`")
	f.StringVar(&summary, "summary", "", "what it is, in a `line`")
	f.StringVar(&license, "license", "", "an SPDX licence `expression`, as CC-BY-4.0")
	f.StringVar(&credit, "credit", "", "`whom` to name")
	return cmd
}

func (a *app) kitPut() *cobra.Command {
	var from string
	cmd := &cobra.Command{Use: "put NAME@VERSION ADDRESS...", Short: "Put items of a site or the library into a kit in the making", Args: cobra.MinimumNArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		name, version, err := splitKit(args[0])
		if err != nil {
			return err
		}
		list, err := addresses(args[1:])
		if err != nil {
			return err
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		var picks []api.Pick
		for _, x := range list {
			picks = append(picks, api.Pick{From: from, Address: x})
		}
		k, err := result(c.PutIntoKitWithResponse(cmd.Context(), name, version, api.Picks{Picks: picks}))
		if err != nil {
			return err
		}
		return a.print(k, func() { a.kit(k) })
	}}
	cmd.Flags().StringVar(&from, "from", "library", "the `site` they come from, or library")
	return cmd
}

func (a *app) kitLeave() *cobra.Command {
	return &cobra.Command{Use: "leave NAME@VERSION ADDRESS", Short: "Take an item out of a kit in the making", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		c, name, version, err := a.kitAt(args[0])
		if err != nil {
			return err
		}
		k, err := result(c.TakeOutOfKitWithResponse(cmd.Context(), name, version, &api.TakeOutOfKitParams{Address: args[1]}))
		if err != nil {
			return err
		}
		return a.print(k, func() { a.kit(k) })
	}}
}

func (a *app) kitFillin() *cobra.Command {
	var label, typ string
	var optional bool
	var choices []string
	cmd := &cobra.Command{Use: "fill-in NAME@VERSION FILL-IN", Short: "Say what a blank of a kit in the making is called and takes", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		c, name, version, err := a.kitAt(args[0])
		if err != nil {
			return err
		}
		old, err := c.GetKitWithResponse(cmd.Context(), name, version)
		if err != nil {
			return err
		}
		k, err := result(old, nil)
		if err != nil {
			return err
		}
		fills := map[string]api.Fillin{}
		for _, f := range k.Fillins {
			fills[f.Name] = f
		}
		f, ok := fills[args[1]]
		if !ok {
			return usage("%s has no blank %q: mark its place in the source with data-fill first", args[0], args[1])
		}
		if label != "" {
			f.Label = label
		}
		if typ != "" {
			f.Type = typ
		}
		if choices != nil {
			f.Choices = choices
		}
		f.Required = !optional
		fills[f.Name] = f
		etag := old.HTTPResponse.Header.Get("ETag")
		if k, err = result(c.EditKitWithResponse(cmd.Context(), name, version, &api.EditKitParams{IfMatch: &etag}, api.KitWords{Title: k.Title, Summary: k.Summary, Changes: k.Changes, Terms: k.Terms, Fillins: &fills})); err != nil {
			return err
		}
		return a.print(k, func() { a.kit(k) })
	}}
	f := cmd.Flags()
	f.StringVar(&label, "label", "", "what people `read` beside it")
	f.StringVar(&typ, "type", "", "its `type`: "+strings.Join(kit.FillinTypes, ", "))
	f.StringSliceVar(&choices, "choices", nil, "the `values` of a choice")
	f.BoolVar(&optional, "optional", false, "it may stay open")
	return cmd
}

func (a *app) kitSeal() *cobra.Command {
	var because string
	cmd := &cobra.Command{Use: "seal NAME@VERSION", Short: "Make a version final", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, name, version, err := a.kitAt(args[0])
		if err != nil {
			return err
		}
		k, err := result(c.SealKitWithResponse(cmd.Context(), name, version, &api.SealKitParams{Because: some(because)}))
		if err != nil {
			return err
		}
		return a.print(k, func() {
			a.say("%s: %s is sealed, %d items, %s, digest %s.", a.good("Done"), args[0], len(k.Items), weight(k.FileBytes), k.Digest)
		})
	}}
	cmd.Flags().StringVar(&because, "force", "", "seal it with a number smaller than its changes ask for; the `reason` is recorded")
	return cmd
}

// kitAdvise says which version number a kit's changes ask for.
func (a *app) kitAdvise() *cobra.Command {
	return &cobra.Command{Use: "advise NAME@VERSION", Short: "Tell what changed since the sealed version before, and which number that asks for", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, name, version, err := a.kitAt(args[0])
		if err != nil {
			return err
		}
		got, err := result(c.AdviseKitWithResponse(cmd.Context(), name, version))
		if err != nil {
			return err
		}
		return a.print(got, func() {
			if got.Last == "" {
				a.say("%s: %s.", args[0], got.Reasons[0])
				return
			}
			a.comparison(&got.Comparison, &got.Advice)
			if !got.Enough {
				a.say("%s is too small a number: make it %s, or seal it with --force REASON.", a.bad(version), got.Next)
			}
		})
	}}
}
