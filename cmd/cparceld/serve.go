package main

import (
	"os"
	"os/signal"
	"syscall"

	"compactparcel/internal/service"

	"github.com/spf13/cobra"
)

func serve() *cobra.Command {
	var cfg service.Config
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Run the service",
		Long: `Run the service: console and interface on --listen, previews on --previews.

Without --database it starts and minds a MariaDB of its own in the data folder.
Every flag can also be given by environment (CPARCEL_LISTEN for --listen, and so
on) or in a YAML file named by --config. A key of the file that is no flag, or a
value that cannot be read, stops the start.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := cfg.Load(cmd.Flags()); err != nil {
				return err
			}
			log := logger(cfg)
			ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			s, err := service.Start(ctx, cfg, log, os.Stdout)
			if err != nil {
				return err
			}
			select {
			case <-ctx.Done():
				log.Info("stopping")
			case err = <-s.Failed():
			}
			s.Stop()
			return err
		},
	}
	cfg.Flags(cmd.Flags())
	return cmd
}
