package httpapi

import (
	"encoding/base64"
	"net/http"
	"os"

	"compactparcel/core/archive"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
)

// ArchiveSite gives a site in one file.
func (s *Server) ArchiveSite(c *gin.Context, site string) {
	in, ok := read[api.ArchiveSite](s, c)
	if !ok {
		return
	}
	err := s.Desk.Archive(c.Request.Context(), person(c), site, value(in.Passphrase),
		func(f *os.File, a archive.About) error {
			s.sendFile(c, f, "application/zip", site+"-"+a.At.UTC().Format("2006-01-02")+".zip")
			return nil
		})
	if err != nil {
		s.fail(c, err)
	}
}

// RestoreSite makes a site of an archive.
func (s *Server) RestoreSite(c *gin.Context, site string, params api.RestoreSiteParams) {
	pass, err := base64.StdEncoding.DecodeString(value(params.ArchivePassphrase))
	if err != nil {
		s.fail(c, &desk.Problem{Type: desk.BadInput, What: "Archive-Passphrase", Message: "it is no base64",
			Remedy: desk.To(desk.SeeInterface), Err: err})
		return
	}
	err = s.spool(c, func(f *os.File, size int64) error {
		got, err := s.Desk.Restore(c.Request.Context(), person(c), site, f, size, string(pass), value(params.Leave))
		if err != nil {
			return err
		}
		c.JSON(http.StatusCreated, api.SiteRestored{Site: s.siteOut(person(c), *got.Site), Of: got.About.Site,
			Revision: got.About.Revision, At: got.About.At, LeftOut: list(got.LeftOut)})
		return nil
	})
	if err != nil {
		s.fail(c, err)
	}
}
