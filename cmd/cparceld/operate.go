package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"strings"
	"syscall"

	"compactparcel/core/says"
	"compactparcel/internal/backup"
	"compactparcel/internal/desk"
	"compactparcel/internal/service"
	"compactparcel/internal/store"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// operate makes a command that works on the data of a service, whether it runs or not.
func operate(
	use, short, long string,
	args cobra.PositionalArgs,
	run func(context.Context, *cobra.Command, service.Config, []string) error,
) *cobra.Command {
	var cfg service.Config
	cmd := &cobra.Command{
		Use:   use,
		Short: short,
		Long:  long,
		Args:  args,
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := cfg.Load(cmd.Flags()); err != nil {
				return err
			}
			ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			return run(ctx, cmd, cfg, args)
		},
	}
	cfg.DataFlags(cmd.Flags())
	if err := cmd.Flags().Set("log", "warn"); err == nil {
		cmd.Flags().Lookup("log").Changed = false
		cmd.Flags().Lookup("log").DefValue = "warn"
	}
	return cmd
}

func backupCommand() *cobra.Command {
	cmd := operate(
		"backup FILE",
		"Write a backup of everything into a file",
		`Write a backup of everything into FILE: records, files, and the folder's secret.

It can be made while the service runs, and holds one moment of it. It holds secrets
(hashed passwords and tokens, scripts and addresses of sites): keep it as safe as
the data folder. --incomplete leaves damaged files out, and says which.`,
		cobra.ExactArgs(1),
		func(ctx context.Context, cmd *cobra.Command, cfg service.Config, args []string) error {
			d, err := service.OpenData(ctx, cfg, logger(cfg))
			if err != nil {
				return err
			}
			defer d.Close()
			incomplete, err := cmd.Flags().GetBool("incomplete")
			if err != nil {
				return err
			}
			sum, err := backup.Write(ctx, backup.Source{Store: d.Store, DSN: d.DSN, Dir: d.Dir}, args[0], incomplete)
			if err != nil {
				return err
			}
			for _, left := range sum.Left {
				fmt.Fprintln(os.Stderr, "left out:", left)
			}
			fmt.Printf("%s: %d collections, %d files, %.1f MB\n", args[0], sum.Collections, len(sum.Files),
				float64(sum.Bytes)/1e6)
			return nil
		},
	)
	cmd.Flags().Bool("incomplete", false, "leave damaged files out instead of stopping")
	return cmd
}

func restoreCommand() *cobra.Command {
	return operate(
		"restore FILE",
		"Restore a backup into an empty data folder",
		`Restore a backup into the folder named by --data, which must be empty or missing,
or with --database also into a database without tables. Everything is checked against
its digest before the folder can be used.`,
		cobra.ExactArgs(1),
		func(ctx context.Context, _ *cobra.Command, cfg service.Config, args []string) error {
			sum, err := service.Restore(ctx, cfg, logger(cfg), args[0])
			if err != nil {
				return err
			}
			fmt.Printf("%s: %d collections, %d files, made at %s\n", cfg.Data, sum.Collections, len(sum.Files),
				sum.At.Format("2006-01-02 15:04:05 MST"))
			return nil
		},
	)
}

func verifyCommand() *cobra.Command {
	cmd := operate(
		"verify",
		"Check everything that is kept against its digests",
		`Check every text and file against its digest, every reference against what it names,
every collection against its digest, and what is remembered of where things are used
against their sources. What is wrong is named; --mend repairs what it can: lists
are made anew, and damaged contents come back from kits that hold them.

Ends with 1 when something is wrong that was not repaired.`,
		cobra.NoArgs,
		func(ctx context.Context, cmd *cobra.Command, cfg service.Config, _ []string) error {
			d, err := service.OpenData(ctx, cfg, logger(cfg))
			if err != nil {
				return err
			}
			defer d.Close()
			mend, err := cmd.Flags().GetBool("mend")
			if err != nil {
				return err
			}
			sum, err := d.Store.Verify(ctx, mend, func(f store.Finding) {
				state := "WRONG"
				if f.Mended {
					state = "mended"
				}
				fmt.Printf("%-6s  %s: %s\n", state, f.What, f.Message)
			})
			if err != nil {
				return err
			}
			fmt.Printf("%s, %s, %s with %s: %d wrong, %d of them repaired\n", says.Count(sum.Texts, "text"),
				says.Count(sum.Files, "file"), says.Count(sum.Collections, "collection"), says.Count(sum.Items, "item"),
				sum.Wrong, sum.Mended)
			if sum.Wrong > sum.Mended {
				return errors.New("something is wrong; bring it back from a backup, or upload the right files again")
			}
			return nil
		},
	)
	cmd.Flags().Bool("mend", false, "repair what can be repaired")
	return cmd
}

func resetPassword() *cobra.Command {
	return operate(
		"reset-password NAME",
		"Give an account a new password",
		`Give an account a new password and switch it on; all its sign-ins end. The password is
asked for, or read as one line from standard input.`,
		cobra.ExactArgs(1),
		func(ctx context.Context, _ *cobra.Command, cfg service.Config, args []string) error {
			password, err := askPassword(args[0])
			if err != nil {
				return err
			}
			log := logger(cfg)
			d, err := service.OpenData(ctx, cfg, log)
			if err != nil {
				return err
			}
			defer d.Close()
			if err := desk.New(d.Store, log).ResetPassword(ctx, args[0], password); err != nil {
				return err
			}
			fmt.Printf("%s has a new password and is signed out everywhere\n", args[0])
			return nil
		},
	)
}

func askPassword(name string) (string, error) {
	var password string
	if term.IsTerminal(int(os.Stdin.Fd())) {
		fmt.Fprintf(os.Stderr, "New password for %s: ", name)
		b, err := term.ReadPassword(int(os.Stdin.Fd()))
		fmt.Fprintln(os.Stderr)
		return string(b), err
	}
	var line []byte
	b := make([]byte, 1)
	for len(line) < 4096 {
		n, err := os.Stdin.Read(b)
		if n == 1 && b[0] == '\n' || err != nil {
			break
		}
		line = append(line, b[:n]...)
	}
	password = strings.TrimSuffix(string(line), "\r")
	if password == "" {
		return "", errors.New("no password was given: write it as one line to standard input")
	}
	return password, nil
}
