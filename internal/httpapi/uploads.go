package httpapi

import (
	"errors"

	description "compactparcel/api"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/uploads"

	"github.com/gin-gonic/gin"
)

// BeginUpload begins an upload for an operation that the person may do.
func (s *Server) BeginUpload(c *gin.Context, _ api.BeginUploadParams) {
	p := person(c)
	err := s.Uploads.Begin(c.Writer, c.Request, p.Name, func(operation string) (int64, error) {
		op, ok := s.byID[operation]
		if !ok || op.MaxBody <= description.DefaultMaxBody {
			return 0, &desk.Problem{Type: desk.BadInput, What: "Upload-Metadata",
				Message: "name the operation that the upload is for, as operation", Remedy: desk.To(desk.SeeInterface)}
		}
		return op.MaxBody, p.May(desk.Role(op.Role), op.Says)
	})
	s.uploadRefused(c, err)
}

// LookAtUpload tells how far an upload is.
func (s *Server) LookAtUpload(c *gin.Context, id string, _ api.LookAtUploadParams) { s.goOn(c, id) }

// ContinueUpload takes a piece of an upload.
func (s *Server) ContinueUpload(c *gin.Context, id string, _ api.ContinueUploadParams) { s.goOn(c, id) }

// EndUpload gives an upload up.
func (s *Server) EndUpload(c *gin.Context, id string, _ api.EndUploadParams) { s.goOn(c, id) }

func (s *Server) goOn(c *gin.Context, id string) {
	s.uploadRefused(c, s.Uploads.Continue(c.Writer, c.Request, id, person(c).Name))
}

func (s *Server) uploadRefused(c *gin.Context, err error) {
	var large *uploads.TooLargeError
	switch {
	case err == nil:
	case errors.As(err, &large):
		s.fail(c, tooLarge(large.Most))
	case errors.Is(err, uploads.ErrNoUpload):
		s.fail(c, noUpload(desk.NotFound, err))
	case errors.Is(err, uploads.ErrTooMany):
		s.fail(c, &desk.Problem{Type: desk.TooMany, What: "the upload", Message: err.Error(),
			Remedy: desk.To(desk.LookLater)})
	case errors.Is(err, uploads.ErrNoLength):
		s.fail(c, noUpload(desk.BadInput, err))
	default:
		s.fail(c, err)
	}
}

func noUpload(t desk.ProblemType, err error) error {
	return &desk.Problem{Type: t, What: "the upload", Message: err.Error(), Remedy: desk.To(desk.GetFileAgain)}
}

// takeUpload lets an upload that has come whole be the body of a request that names it.
func (s *Server) takeUpload(c *gin.Context, op description.Operation, p desk.Person) error {
	id := c.GetHeader(api.UploadID)
	if id == "" {
		return nil
	}
	body, n, err := s.Uploads.Body(c.Request.Context(), id, p.Name, op.ID)
	if errors.Is(err, uploads.ErrNoUpload) {
		return noUpload(desk.NotFound, err)
	}
	if err != nil {
		return noUpload(desk.BadInput, err)
	}
	c.Request.Body, c.Request.ContentLength = body, n
	return nil
}
