// Command cparceld is the service of Compact Parcel.
package main

import (
	"context"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"runtime/debug"
	"strconv"
	"strings"
	"syscall"

	"compactparcel/demo"
	"compactparcel/internal/service"

	"github.com/spf13/cobra"
	"github.com/spf13/viper"
)

// The collector runs less often than Go's default, since much is made and thrown away
// while sites are read and shown, and earlier when memory comes near what the service
// is meant to need. GOGC and GOMEMLIMIT set otherwise.
const (
	collectAt   = 300
	memoryAimed = 200 << 20
)

func main() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(collectAt)
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryAimed)
	}
	root := &cobra.Command{Use: "cparceld", Short: "The service of Compact Parcel", SilenceUsage: true, SilenceErrors: true}
	root.AddCommand(serve())
	if err := root.Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "cparceld:", err)
		os.Exit(1)
	}
}

func serve() *cobra.Command {
	v := viper.New()
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Run the service",
		Long: `Run the service: console and interface on --listen, previews on --previews.

Without --database it starts and minds a MariaDB of its own in the data folder.
Every flag can also be given by environment (CPARCEL_LISTEN for --listen, and so
on) or in a YAML file named by --config.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if f := v.GetString("config"); f != "" {
				v.SetConfigFile(f)
				v.SetConfigType("yaml")
				if err := v.ReadInConfig(); err != nil {
					return fmt.Errorf("reading %s: %w", f, err)
				}
			}
			return run(cmd.Context(), v)
		},
	}
	f := cmd.Flags()
	f.String("data", "data", "the data `folder`")
	f.String("listen", "127.0.0.1:8460", "`address` of console and interface")
	f.String("previews", "127.0.0.1:8461", "`address` of the previews")
	f.String("preview-pattern", "", "a preview's `address` as browsers see it, with {host} for site or draft (default http://{host}.localhost:PORT)")
	f.String("database", "", "`DSN` of a MariaDB, as user:password@tcp(host:3306)/name")
	f.String("outlets", "", "the `folder` below which sites are published by going live (default DATA/outlets)")
	f.String("demo", "", "bring the demo world in: `all|sites`")
	f.Lookup("demo").NoOptDefVal = demo.All
	f.Bool("secure-cookies", false, "session cookies for encrypted connections only")
	f.StringSlice("console-origin", nil, "further `origins` at which browsers reach the console")
	f.String("log", "info", "debug, info, warn or error")
	f.String("config", "", "a YAML `file` with any of these")
	v.BindPFlags(f)
	v.SetEnvPrefix("CPARCEL")
	v.SetEnvKeyReplacer(strings.NewReplacer("-", "_"))
	v.AutomaticEnv()
	return cmd
}

func run(ctx context.Context, v *viper.Viper) error {
	var level slog.Level
	if err := level.UnmarshalText([]byte(v.GetString("log"))); err != nil {
		return fmt.Errorf("--log: %q is none of debug, info, warn, error", v.GetString("log"))
	}
	log := slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	cfg := service.Config{Data: v.GetString("data"), Listen: v.GetString("listen"), Previews: v.GetString("previews"), PreviewPattern: v.GetString("preview-pattern"), Database: v.GetString("database"),
		Demo: demoOf(v.GetString("demo")), SecureCookies: v.GetBool("secure-cookies"), ConsoleOrigins: v.GetStringSlice("console-origin")}
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
}

// demoOf reads how much of the demo is wanted; yes means all, no nothing.
func demoOf(text string) string {
	switch on, err := strconv.ParseBool(text); {
	case err != nil:
		return text
	case on:
		return demo.All
	}
	return ""
}
