package form

import "net/url"

// Trial is what would become of what is filled in, when nothing is kept and nothing sent.
type Trial struct {
	Wrong []Wrong
	// Text is what a visitor reads afterwards, Page where a visitor is led instead.
	Text, Page string
	// Kept tells that it would be kept: what fills the trap in is not.
	Kept  bool
	Mails []TrialMail
}

// TrialMail is a mail that would be sent.
type TrialMail struct {
	To []string
	Mail
}

// Try tells what would become of an entry; who gets it is said by r.
func (f *Form) Try(sent url.Values, r Receiver) Trial {
	t := Trial{Text: f.Confirmation.Text, Page: f.Confirmation.Page}
	if sent.Get(f.Trap()) != "" {
		return t
	}
	entry, wrong := f.Check(sent)
	if len(wrong) > 0 {
		return Trial{Wrong: wrong}
	}
	t.Kept = true
	if len(r.To) > 0 {
		t.Mails = append(t.Mails, TrialMail{r.To, f.ForTeam(r, entry)})
	}
	if sender := f.Sender(entry); sender != "" && r.Answer != nil {
		t.Mails = append(t.Mails, TrialMail{[]string{sender}, f.ForSender(r, entry)})
	}
	return t
}
