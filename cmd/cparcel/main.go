// Command cparcel is the client of Compact Parcel.
package main

import (
	"context"
	"os"
	"os/signal"

	"compactparcel/internal/client"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	code := client.Run(ctx, os.Args[1:], os.Stdin, os.Stdout, os.Stderr)
	stop()
	os.Exit(code)
}
