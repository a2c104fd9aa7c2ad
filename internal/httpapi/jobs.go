package httpapi

import (
	"net/http"

	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

// ListJobs lists what the service does by itself.
func (s *Server) ListJobs(c *gin.Context, params api.ListJobsParams) {
	got, err := s.Desk.Jobs(c.Request.Context(), person(c), value(params.Ended))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.JobList{Jobs: []api.Job{}}
	for _, j := range got {
		out.Jobs = append(out.Jobs, jobOut(j))
	}
	if out.Pictures, err = s.Pictures.Store.Read(c.Request.Context()).Pictures().
		Count(store.PictureWaiting); err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, out)
}

// GetJob gives one job.
func (s *Server) GetJob(c *gin.Context, id int64) {
	j, err := s.Desk.Job(c.Request.Context(), person(c), id)
	s.answerJob(c, j, err)
}

// StopJob keeps a job from being done.
func (s *Server) StopJob(c *gin.Context, id int64) {
	j, err := s.Desk.JobStop(c.Request.Context(), person(c), id)
	s.answerJob(c, j, err)
}

// GoOnWithJob lets a job be done now.
func (s *Server) GoOnWithJob(c *gin.Context, id int64) {
	j, err := s.Desk.JobGoOn(c.Request.Context(), person(c), id)
	s.answerJob(c, j, err)
}

func (s *Server) answerJob(c *gin.Context, j *desk.JobInfo, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, jobOut(*j))
}

func jobOut(j desk.JobInfo) api.Job {
	out := api.Job{Id: j.ID, Kind: api.JobKind(j.Kind), State: api.JobState(j.State), About: j.About, For: some(j.For),
		Since: j.CreatedAt, Attempts: j.Attempts, Message: some(j.Message)}
	if j.State == store.JobWaiting {
		out.Due = &j.RunAt
	}
	if j.TotalCount > 0 {
		out.Done, out.Total = &j.DoneCount, &j.TotalCount
	}
	return out
}
