package service

import (
	"encoding/json"
	"fmt"
	"io"
	"path/filepath"

	"compactparcel/demo"
)

// Said is what a service says once it is ready: where it is, with the ports that it really has, and how to sign in at
// first.
type Said struct {
	Console  string `json:"console"`  // the address of console and interface
	Previews string `json:"previews"` // a preview's address as browsers see it, with SITE for site or draft
	// PreviewsAt is where the previews are really.
	PreviewsAt string `json:"previewsAt"`
	Forms      string `json:"forms,omitempty"`
	Mails      string `json:"mails,omitempty"` // the folder of the mails that are not sent on
	Token      string `json:"token,omitempty"` // of the demo's keeper
	Loose      string `json:"loose,omitempty"` // the demo's static site that can be adopted
	SetUp      string `json:"setUp,omitempty"` // where the first admin is made, while there is nobody
}

// tell says it, in the form that was asked for.
func (s *Service) tell(out io.Writer, said Said) error {
	if s.mails != nil {
		said.Mails = filepath.Join(s.cfg.Data, "mails")
	}
	if s.cfg.Demo != "" {
		said.Loose = filepath.Join(s.cfg.Data, demo.Loose)
	}
	if said.SetUp != "" {
		said.SetUp = said.Console + "/set-up#" + said.SetUp
	}
	if s.cfg.Output == "json" {
		return json.NewEncoder(out).Encode(said)
	}
	_, err := io.WriteString(out, said.text())
	return err
}

func (s Said) text() string {
	text := fmt.Sprintf("Console:  %s\nPreviews: %s\n", s.Console, s.Previews)
	if s.Forms != "" {
		text += fmt.Sprintf("Forms:    %s/SITE/FORM\n", s.Forms)
	}
	if s.Mails != "" {
		text += fmt.Sprintf("Mails:    %s (nothing is sent on)\n", s.Mails)
	}
	if s.Token != "" {
		text += fmt.Sprintf("Sign in:  ida / %s (a keeper; also warden, tomas, visitor)\nToken:    %s\n", demo.Password,
			s.Token)
	}
	if s.Loose != "" {
		text += fmt.Sprintf("A static site to adopt: %s\n", s.Loose)
	}
	if s.SetUp != "" {
		text += fmt.Sprintf("There is no user yet. Make the first admin here, once, within a day:\n  %s\n", s.SetUp)
	}
	return text
}
