package httpapi

import (
	"bufio"
	"encoding/csv"
	"errors"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"compactparcel/core/form"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

// ListForms lists the forms of a site.
func (s *Server) ListForms(c *gin.Context, site string) {
	got, err := s.Desk.SiteForms(c.Request.Context(), person(c), site)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.SiteFormList{Forms: []api.SiteForm{}}
	for _, f := range got {
		f.Receiver.To = list(f.Receiver.To)
		x := api.SiteForm{Name: f.Name, Title: some(f.Title), Receiver: f.Receiver, Entries: f.Entries.Entries,
			Address: some(f.At), Note: some(f.Note)}
		if f.Entries.Entries > 0 {
			x.Last = &f.Entries.Last
		}
		out.Forms = append(out.Forms, x)
	}
	c.JSON(http.StatusOK, out)
}

// entriesAtATime is how many entries are listed at once.
const entriesAtATime = 100

// ListFormEntries lists what was sent with a form.
func (s *Server) ListFormEntries(c *gin.Context, site, name string, params api.ListFormEntriesParams) {
	q := store.EntryQuery{Form: name, Before: value(params.Before), Words: value(params.Words),
		Limit: entriesAtATime + 1}
	f, got, err := s.Desk.FormEntries(c.Request.Context(), person(c), site, q)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.FormEntryList{Fields: []api.FormField{}, Entries: []api.FormEntry{}}
	if f != nil {
		for _, n := range f.Names() {
			out.Fields = append(out.Fields, api.FormField{Name: n, Label: f.Label(n)})
		}
	}
	if len(got) > entriesAtATime {
		got = got[:entriesAtATime]
		out.More = &got[entriesAtATime-1].ID
	}
	for _, e := range got {
		out.Entries = append(out.Entries, entryOut(e))
	}
	c.JSON(http.StatusOK, out)
}

func entryOut(e desk.FormEntry) api.FormEntry {
	out := api.FormEntry{Id: e.ID, At: e.At, Fields: map[string]string{}, Mails: []api.EntryMail{}}
	for n, v := range e.Fields {
		out.Fields[n] = form.Text(v)
	}
	for _, m := range e.Mails {
		out.Mails = append(out.Mails, api.EntryMail{To: api.EntryMailTo(m.Addressee), State: api.MailState(m.State),
			Tries: m.Tries, At: m.At, Message: some(m.Says)})
	}
	return out
}

// DeleteFormEntries deletes entries of a form.
func (s *Server) DeleteFormEntries(c *gin.Context, site, name string, params api.DeleteFormEntriesParams) {
	n, err := s.Desk.DeleteEntries(c.Request.Context(), person(c), site, name, value(params.Entry), params.Before)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, api.EntriesDeleted{Deleted: n})
}

// GetFormTable gives all entries of a form as comma-separated values, as they are read.
func (s *Server) GetFormTable(c *gin.Context, site, name string) {
	ctx, p := c.Request.Context(), person(c)
	var names []string
	before := int64(1) // behind the newest entry: one that comes meanwhile may have fields that stand in no column
	f, err := s.Desk.EachFormEntry(ctx, p, site, name, 0, func(e desk.FormEntry) error {
		before = max(before, e.ID+1)
		for _, n := range slices.Sorted(maps.Keys(e.Fields)) { // what the form asks for no more stands behind
			if !slices.Contains(names, n) {
				names = append(names, n)
			}
		}
		return nil
	})
	if err != nil {
		s.fail(c, err)
		return
	}
	labels := []string{"number", "received"}
	if f != nil {
		own := f.Names()
		names = append(own, slices.DeleteFunc(names, func(n string) bool { return slices.Contains(own, n) })...)
	}
	for _, n := range names {
		label := n
		if f != nil {
			label = f.Label(n)
		}
		labels = append(labels, cell(label))
	}
	c.Header("Content-Type", "text/csv; charset=utf-8")
	c.Header("Content-Disposition", `attachment; filename="`+strings.ReplaceAll(name, "/", "-")+`.csv"`)
	b := bufio.NewWriter(c.Writer)
	w := csv.NewWriter(b)
	w.UseCRLF = true
	err = w.Write(labels)
	if err == nil {
		_, err = s.Desk.EachFormEntry(ctx, p, site, name, before, func(e desk.FormEntry) error {
			row := []string{form.Text(e.ID), e.At.UTC().Format(time.RFC3339)}
			for _, n := range names {
				row = append(row, cell(form.Text(e.Fields[n])))
			}
			return w.Write(row)
		})
	}
	w.Flush()
	if err = errors.Join(err, w.Error(), b.Flush()); err != nil { // half a table must not look like a whole one
		s.Log.Warn("sending a table", "error", err)
		panic(http.ErrAbortHandler)
	}
}

// cell is a text as a table program takes it as a text: what begins like a formula does not run.
func cell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// TryForm tells what would become of what is filled into a form.
func (s *Server) TryForm(c *gin.Context, site, name string) {
	in, ok := read[api.FormTrial](s, c)
	if !ok {
		return
	}
	f, t, err := s.Desk.TryForm(c.Request.Context(), person(c), site, name, value(in.Draft), in.Fields)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.FormTried{Wrong: []api.WrongField{}, Kept: t.Kept, Text: some(t.Text), Page: some(t.Page),
		Mails: []api.TrialMail{}}
	for _, w := range t.Wrong {
		out.Wrong = append(out.Wrong, api.WrongField{Name: w.Field, Label: f.Label(w.Field), Message: w.Message})
	}
	for _, m := range t.Mails {
		out.Mails = append(out.Mails, api.TrialMail{To: m.To, Subject: m.Subject, Text: m.Text})
	}
	c.JSON(http.StatusOK, out)
}
