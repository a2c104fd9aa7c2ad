package client

import (
	"cmp"
	"encoding/json"
	"slices"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/kit"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// editKit reads a kit in the making, lets change say what becomes of it, and keeps that
// unless somebody else changed the kit meanwhile.
func (a *app) editKit(cmd *cobra.Command, arg string, change func(k *api.Kit, w *api.KitMetadata) error) error {
	c, name, version, err := a.kitAt(cmd.Context(), arg, api.KitStateMaking)
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
	var w api.KitMetadata
	if err := change(k, &w); err != nil {
		return err
	}
	etag := old.HTTPResponse.Header.Get("ETag")
	if k, err = result(
		c.EditKitWithResponse(cmd.Context(), name, version, &api.EditKitParams{IfMatch: &etag}, w),
	); err != nil {
		return err
	}
	return a.print(k, func() { a.kit(k) })
}

func (a *app) kitDescribe() *cobra.Command {
	var title, summary, changes, license, credit, face string
	var resale bool
	var sites int
	cmd := &cobra.Command{
		Use:   "describe NAME@VERSION",
		Short: "Describe a kit in the making: title, summary, changes, terms",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return a.editKit(cmd, args[0], func(k *api.Kit, w *api.KitMetadata) error {
				given := cmd.Flags().Changed
				w.Terms = &k.Terms
				for _, x := range []struct {
					flag string
					to   **string
					v    *string
				}{{"title", &w.Title, &title}, {"summary", &w.Summary, &summary}, {"changes", &w.Changes, &changes}} {
					if given(x.flag) {
						*x.to = x.v
					}
				}
				if given("face") {
					w.Face = &face
				}
				if given("license") {
					w.Terms.License = license
				}
				if given("credit") {
					w.Terms.Credit = credit
				}
				if given("resale") {
					w.Terms.Resale = resale
				}
				if given("sites") {
					w.Terms.Sites = &sites
				}
				return nil
			})
		},
	}
	f := cmd.Flags()
	f.StringVar(&title, "title", "", "the kit's `title`")
	f.StringVar(&summary, "summary", "", "what it is, in a `line`")
	f.StringVar(&changes, "changes", "", "what is new in this version, a `text`")
	f.StringVar(&face, "face", "", "the `item` that shows the kit in lists, as page/home; empty: its home page")
	f.StringVar(&license, "license", "", "an SPDX licence `expression`, as CC-BY-4.0")
	f.StringVar(&credit, "credit", "", "`whom` to credit")
	f.BoolVar(&resale, "resale", false, "it may be sold on")
	f.IntVar(&sites, "sites", 0, "the `number` of sites that it may be used on")
	return cmd
}

func (a *app) kitFillin() *cobra.Command {
	var label, typ, in, at, bind string
	var optional, unmark bool
	var choices []string
	cmd := &cobra.Command{
		Use:   "fill-in NAME@VERSION FILL-IN",
		Short: "Mark a blank on a piece, and give its label and type",
		Args:  cobra.ExactArgs(2),
		Long: `Gives a blank of a kit in the making its label and type. With --in and --at its place
is marked on a piece: an item, and a CSS selector that names one element of it. --bind says
what of the element takes the value: text, html, src, href or another attribute; a pattern
puts the value into a longer one, as in --bind 'href:tel:{phone}'. The source stays as it is.`,
		Example: `  cparcel kit fill-in hut-basics@1.0.0 hero-words --in page/home --at '.hero p' --label "Words ` +
			`over the picture"
  cparcel kit fill-in hut-basics@1.0.0 phone --in page/contact --at 'a.phone' --bind 'href:tel:{phone}' --type phone`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if (in == "") != (at == "" && !unmark) {
				return usage("with --in name the item, with --at the element of it")
			}
			return a.editKit(cmd, args[0], func(k *api.Kit, w *api.KitMetadata) error {
				fills := map[string]api.Fillin{}
				for _, f := range k.Fillins {
					fills[f.Name] = f
				}
				f, known := fills[args[1]]
				marks := slices.Clone(k.Marks)
				switch {
				case unmark:
					if marks = withoutMarks(marks, args[1], in); len(marks) == len(k.Marks) {
						return usage("no place of %q was marked on %s; remove a mark that is in the source there",
							args[1], args[0])
					}
					w.Marks = &marks
					return nil
				case in != "":
					where, err := address(in)
					if err != nil {
						return err
					}
					target, pattern, _ := strings.Cut(bind, ":")
					marks = append(marks,
						api.BlankMark{In: where, Element: at, Bind: target + ":" + cmp.Or(pattern, args[1])})
					w.Marks = &marks
					if !known {
						f = api.Fillin{Name: args[1], Label: capture.Label(args[1]), Type: capture.FillType(target),
							Required: true}
					}
				case !known:
					return usage("%s has no blank %q: mark its place with --in ADDRESS --at SELECTOR", args[0],
						args[1])
				}
				f.Label = cmp.Or(label, f.Label)
				f.Type = cmp.Or(kit.FillinType(typ), f.Type)
				if choices != nil {
					f.Choices = choices
				}
				if cmd.Flags().Changed("optional") {
					f.Required = !optional
				}
				fills[args[1]] = f
				w.Fillins = &fills
				return nil
			})
		},
	}
	f := cmd.Flags()
	f.StringVar(&label, "label", "", "the `label` beside it")
	f.StringVar(&typ, "type", "", "its `type`: "+kit.TypeWords())
	f.StringSliceVar(&choices, "choices", nil, "the `values` to choose from")
	f.BoolVar(&optional, "optional", false, "it may be left empty")
	f.StringVar(&in, "in", "", "mark a place of it in this `item`")
	f.StringVar(&at, "at", "", "the `selector` of the element there")
	f.StringVar(&bind, "bind", "text", "`what` of the element receives the value")
	f.BoolVar(&unmark, "unmark", false, "remove the places that were marked on the kit")
	return cmd
}

// withoutMarks gives the marks but those of a blank: on one item, or on all when in is empty.
func withoutMarks(marks []api.BlankMark, blank, in string) []api.BlankMark {
	return slices.DeleteFunc(marks, func(m api.BlankMark) bool {
		names, err := m.Check()
		return err == nil && slices.Contains(names, blank) && (in == "" || m.In.String() == in)
	})
}

func (a *app) kitMedia() *cobra.Command {
	var width, quality int
	cmd := &cobra.Command{
		Use:   "media NAME@VERSION ADDRESS|all carried|lighter|placeholder",
		Short: "Set how pictures travel: as they are, made lighter, or as placeholders",
		Args:  cobra.ExactArgs(3),
		Example: `  cparcel kit media hut-basics@1.0.0 all lighter --width 960
  cparcel kit media hut-basics@1.0.0 media/hut-door.jpg placeholder`,
		RunE: func(cmd *cobra.Command, args []string) error {
			return a.editKit(cmd, args[0], func(k *api.Kit, w *api.KitMetadata) error {
				which := args[1]
				if which == "all" {
					which = "*"
				} else if _, err := address(which); err != nil {
					return err
				}
				media := k.Media
				media[which] = api.Treatment{How: api.TreatmentKind(args[2]), Width: width, Quality: quality}
				w.Media = &media
				return nil
			})
		},
	}
	cmd.Flags().IntVar(&width, "width", 0, "the greatest width of a lighter picture, in `pixels` (1280)")
	cmd.Flags().IntVar(&quality, "quality", 0, "the quality of a JPEG, `1 to 100` (80)")
	return cmd
}

func (a *app) kitPropose() *cobra.Command {
	return &cobra.Command{
		Use:     "propose NAME@VERSION SETTING[=VALUE]",
		Short:   "Propose a setting to the receiving site; without a value, withdraw it",
		Args:    cobra.ExactArgs(2),
		Example: "  cparcel kit propose hut-basics@1.0.0 setting/home=page/home",
		RunE: func(cmd *cobra.Command, args []string) error {
			return a.editKit(cmd, args[0], func(k *api.Kit, w *api.KitMetadata) error {
				key, text, has := strings.Cut(args[1], "=")
				if !strings.Contains(key, "/") {
					key = "setting/" + key
				}
				proposes := k.Proposes
				var v any
				switch {
				case !has:
					delete(proposes, key)
				case json.Unmarshal([]byte(text), &v) == nil:
					proposes[key] = v
				default:
					proposes[key] = text
				}
				w.Proposes = &proposes
				return nil
			})
		},
	}
}

func (a *app) kitNeed() *cobra.Command {
	var optional, no bool
	cmd := &cobra.Command{
		Use:   "need NAME@VERSION kit|component NAME RANGE",
		Short: "Declare that a kit needs another kit or a component, in a range of versions",
		Args:  cobra.RangeArgs(3, 4),
		Example: `  cparcel kit need winter-notices@0.4.0 kit hut-basics '^1.1 || ^2'
  cparcel kit need hut-basics@2.0.0 component x-weather-strip '>=2.0 <4' --optional`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if no != (len(args) == 3) {
				return usage("give a range of versions, or --no to drop the need")
			}
			return a.editKit(cmd, args[0], func(k *api.Kit, w *api.KitMetadata) error {
				switch args[1] {
				case "kit":
					if optional {
						return usage("a kit is needed or not; only components can be optional")
					}
					kits := k.NeedsKits
					if delete(kits, args[2]); !no {
						kits[args[2]] = args[3]
					}
					w.NeedsKits = &kits
				case "component":
					components := k.NeedsComponents
					if delete(components, args[2]); !no {
						components[args[2]] = api.ComponentNeed{Range: args[3], Optional: optional}
					}
					w.NeedsComponents = &components
				default:
					return usage("say kit or component, not %q", args[1])
				}
				return nil
			})
		},
	}
	cmd.Flags().BoolVar(&optional, "optional", false, "the kit's pieces work without it")
	cmd.Flags().BoolVar(&no, "no", false, "drop the need")
	return cmd
}
