package client

import (
	"context"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"

	"compactparcel/core/answers"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// answerFlags are what a person says of a delivery: in a file, and by flags that go first.
type answerFlags struct {
	decide, fill   []string
	file, template string
	policy, seats  string
	only, pages    []string
}

func (w *answerFlags) flags(cmd *cobra.Command) {
	w.pieceFlags(cmd)
	f := cmd.Flags()
	f.StringVar(&w.template, "answers-template", "",
		"write a template of the answers to this `file` (- for standard output), and end")
	f.StringArrayVar(&w.only, "only", nil,
		"only this `ADDRESS` of the kit and what it needs; may be repeated; all returns to the whole kit")
	f.StringArrayVar(
		&w.pages,
		"page",
		nil,
		"title and address of a new page, as `page/KEY=TITLE@/address/`; either may be left out; "+
			"may be repeated",
	)
}

// pieceFlags are those that also a single piece can be answered with.
func (w *answerFlags) pieceFlags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringArrayVar(
		&w.decide,
		"decide",
		nil,
		"a decision, as `ADDRESS=DECISION` (take, keep, both, again, blend, blend:kit, map:ADDRESS, skip; "+
			"without one it is taken back); may be repeated",
	)
	f.StringArrayVar(&w.fill, "fill", nil, "a fill-in, as `NAME=VALUE`; may be repeated")
	f.StringVar(&w.file, "answers", "", "read decisions, fill-ins, seats and policy from this YAML `file`")
	f.StringVar(&w.policy, "policy", "", "`policy`: "+strings.Join(plan.PolicyNames(), ", "))
	f.StringVar(&w.seats, "seats", "",
		"where parts of both sides claim the same `place`: site or kit gives it to that side, ask asks for each")
}

// exact gives the answers for a kit that must fit as they are, those of the file too.
func (w *answerFlags) exact(kit string) (api.Answers, error) {
	out, err := w.read(kit)
	if err != nil {
		return out, err
	}
	all := value(out.IfFits)
	maps.Copy(all, value(out.Decisions))
	out.Decisions, out.IfFits = &all, nil
	return out, nil
}

// read gives the answers for a kit; kit is empty where it is not known yet. Decisions of the file hold where they fit:
// it may have been written for another site.
func (w *answerFlags) read(kit string) (api.Answers, error) {
	decisions, ifFits, fills := map[string]string{}, map[string]string{}, map[string]string{}
	out := api.Answers{Decisions: &decisions, IfFits: &ifFits, Fills: &fills}
	asks := map[string]plan.PageRequest{}
	if w.file != "" {
		text, err := os.ReadFile(w.file)
		if err != nil {
			return out, fmt.Errorf("the answers cannot be read: %w", err)
		}
		a, err := answers.Parse(text)
		if err == nil && kit != "" {
			err = a.For(kit)
		}
		if err != nil {
			return out, usage("%s: %v", w.file, err)
		}
		for k, v := range a.Decisions {
			ifFits[k] = v
		}
		for k, v := range a.Fills {
			fills[k] = v
		}
		out.Policy, out.Seats = some(a.Policy), some(a.Seats)
		w.only = append(a.Only, w.only...)
		for k, p := range a.Pages {
			asks[k] = plan.PageRequest(p)
		}
	}
	for _, from := range []struct {
		flag string
		list []string
		into map[string]string
	}{{"--decide", w.decide, decisions}, {"--fill", w.fill, fills}} {
		given, err := pairs(from.flag, from.list)
		if err != nil {
			return out, err
		}
		for k, v := range given {
			from.into[k] = v
		}
	}
	if w.policy != "" {
		out.Policy = some(plan.Policy(w.policy))
	}
	if w.seats != "" {
		if out.Seats = some(plan.SeatOption(w.seats)); !slices.Contains(plan.SeatOptions, *out.Seats) {
			return out, usage("--seats %q: write site, ask or kit", w.seats)
		}
	}
	if len(w.only) > 0 {
		only := []item.Address{}
		for _, s := range w.only {
			if s == "all" {
				only = []item.Address{}
				continue
			}
			addr, err := item.ParseAddress(s)
			if err != nil {
				return out, usage("--only %q: %v", s, err)
			}
			only = append(only, addr)
		}
		out.Only = &only
	}
	given, err := pairs("--page", w.pages)
	if err != nil {
		return out, err
	}
	for k, v := range given {
		title, slug, ok := strings.Cut(v, "@/")
		if ok {
			slug = "/" + slug
		}
		asks[k] = plan.PageRequest{Title: title, Slug: slug}
	}
	if len(asks) > 0 {
		out.Pages = &asks
	}
	return out, nil
}

// wrote writes the template when one is wanted; then nothing else is done.
func (a *app) wrote(w *answerFlags, d *api.Delivery) (bool, error) {
	if w.template == "" || d.Plan == nil {
		return false, nil
	}
	ask := plan.Request{
		Decisions: map[string]plan.Decided{},
		Seats:     d.Asked.Seats,
		Only:      d.Asked.Only,
		Pages:     d.Asked.Pages,
	}
	for k, v := range d.Decisions {
		decided, err := plan.ParseDecided(v)
		if err != nil {
			return true, err
		}
		ask.Decisions[k] = decided
	}
	text := answers.Template(d.Plan, d.Site, ask)
	if w.template == "-" {
		_, err := a.out.Write(text)
		return true, err
	}
	if _, err := os.Stat(w.template); err == nil {
		return true, fmt.Errorf("%s already exists; nothing was overwritten", w.template)
	}
	if err := os.WriteFile(w.template, text, 0o644); err != nil {
		return true, err
	}
	a.say("A template of the answers is in %s. When filled in: cparcel delivery decide %d --answers %s", w.template,
		d.Id,
		w.template)
	return true, nil
}

// ask asks the open questions one by one, where there is somebody to answer. It gives the
// delivery as it is planned with what was answered.
func (a *app) ask(ctx context.Context, c *api.ClientWithResponses, d *api.Delivery) (*api.Delivery, error) {
	if a.output != "table" || !a.someoneThere() {
		return d, nil
	}
	passed := map[string]bool{}
	for {
		q, ok := nextQuestion(d, passed)
		if !ok {
			return d, nil
		}
		decisions, fills := map[string]string{}, map[string]string{}
		answer, quit, err := a.put(d, q)
		if quit || err != nil {
			return d, err
		}
		switch {
		case answer == "":
			passed[q.Key] = true
			continue
		case q.Kind == plan.AboutFill:
			_, name := plan.ParseKey(q.Key)
			fills[name] = answer
		default:
			decisions[q.Key] = answer
		}
		next, err := result(
			c.DecideDeliveryWithResponse(ctx, d.Id, &api.DecideDeliveryParams{},
				api.Answers{Decisions: &decisions, Fills: &fills}),
		)
		if err != nil {
			a.say("%s %v", a.bad("That is not possible:"), err)
			continue
		}
		d = next
	}
}

func nextQuestion(d *api.Delivery, passed map[string]bool) (plan.Question, bool) {
	for _, q := range d.Plan.Questions {
		if !passed[q.Key] {
			return q, true
		}
	}
	return plan.Question{}, false
}

// put shows one question with its choices and reads the answer; an empty one leaves it
// open, "q" ends the asking.
func (a *app) put(d *api.Delivery, q plan.Question) (answer string, quit bool, err error) {
	a.say("\n%s %s", a.mark("?"), q.Message)
	for _, r := range d.Plan.Rows {
		if r.Address.String() == q.Key {
			a.say("    the kit's: %s", side(r.Kit))
			a.say("    the site's: %s", side(r.Site))
			a.conflicts(r)
		}
		for _, c := range r.Conflicts {
			if plan.ConflictKey(r.Address, c.Key) == q.Key {
				a.conflict(c)
			}
		}
	}
	for i, ch := range q.Choices {
		a.say("    %d  %s: %s", i+1, ch.Written(), a.quiet(ch.Effect))
	}
	what := "Which one (number or word; Enter leaves it open, q quits)? "
	if q.Kind == plan.AboutFill {
		what = "The value (Enter leaves it open, q quits)? "
	}
	fmt.Fprint(a.out, what)
	line, err := a.readLine()
	if err != nil && line == "" {
		return "", true, nil
	}
	line = strings.TrimSpace(line)
	if line == "q" {
		return "", true, nil
	}
	for i, ch := range q.Choices {
		if line == fmt.Sprint(i+1) {
			line = ch.Written()
		}
	}
	if line == string(plan.Map) {
		fmt.Fprint(a.out, "Which item of the site, as kind/key? ")
		to, _ := a.readLine()
		line += ":" + strings.TrimSpace(to)
	}
	return line, false, nil
}

func side(s *plan.ItemVersion) string {
	if s == nil {
		return "there is none"
	}
	text := s.Address.String()
	if s.Title != "" {
		text += " “" + s.Title + "”"
	}
	return text + ", " + weight(s.Bytes)
}
