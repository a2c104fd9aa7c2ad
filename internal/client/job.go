package client

import (
	"context"
	"fmt"
	"strconv"

	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) jobCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "job", Short: "What the service does by itself: look, stop, go on"}
	cmd.AddCommand(a.jobList(),
		a.onJob("show", "Show one job",
			func(ctx context.Context, c *api.ClientWithResponses, id int64) (*api.Job, error) {
				return result(c.GetJobWithResponse(ctx, id))
			}),
		a.onJob("stop", "Keep a job from being done until it is to go on",
			func(ctx context.Context, c *api.ClientWithResponses, id int64) (*api.Job, error) {
				return result(c.StopJobWithResponse(ctx, id))
			}),
		a.onJob("go-on", "Let a job that was stopped, or has failed, be done now",
			func(ctx context.Context, c *api.ClientWithResponses, id int64) (*api.Job, error) {
				return result(c.GoOnWithJobWithResponse(ctx, id))
			}))
	return cmd
}

func (a *app) jobList() *cobra.Command {
	var ended bool
	cmd := &cobra.Command{
		Use:   "list",
		Short: "List what runs, waits, was stopped or has failed",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListJobsWithResponse(cmd.Context(), &api.ListJobsParams{Ended: some(ended)}))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				for _, j := range got.Jobs {
					rows = append(rows, []any{j.Id, j.State, j.About, value(j.For), j.Since.Format("2006-01-02 15:04"),
						jobDue(j), value(j.Message)})
				}
				a.table("Nothing runs or waits.", []string{"Job", "State", "About", "For", "Since", "Next", "Said"},
					rows)
				if got.Pictures > 0 {
					a.say("%s wait to be made.", says.Count(int(got.Pictures), "picture"))
				}
			})
		},
	}
	cmd.Flags().BoolVar(&ended, "ended", false, "list those that are done, too")
	return cmd
}

// jobDue says when a job is done next, or how far it is.
func jobDue(j api.Job) string {
	switch {
	case j.Total != nil:
		return fmt.Sprintf("%d of %d", value(j.Done), *j.Total)
	case j.Due != nil:
		return j.Due.Format("2006-01-02 15:04")
	}
	return ""
}

// onJob is a command on one job.
func (a *app) onJob(verb, short string,
	do func(context.Context, *api.ClientWithResponses, int64) (*api.Job, error)) *cobra.Command {
	return &cobra.Command{
		Use:   verb + " JOB",
		Short: short,
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := strconv.ParseInt(args[0], 10, 64)
			if err != nil || id < 1 {
				return usage("%q is not the number of a job", args[0])
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			j, err := do(cmd.Context(), c, id)
			if err != nil {
				return err
			}
			return a.print(j, func() {
				a.say("Job %d, %s, is %s.", j.Id, j.About, j.State)
				if due := jobDue(*j); due != "" {
					a.say("Next: %s", due)
				}
				if j.For != nil {
					a.say("For: %s", *j.For)
				}
				if j.Message != nil {
					a.say("It said: %s", *j.Message)
				}
			})
		},
	}
}
