// Command aspenridge is the whole application: the web server, the demo, the
// migrations and the command line that turns a kit and a brief into files.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"aspenridge/demo"
	"aspenridge/internal/raster"
)

func main() {
	raster.ChildMain()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

func run(ctx context.Context, args []string) int {
	command := "help"
	if len(args) > 0 {
		command, args = args[0], args[1:]
	}
	var err error
	switch command {
	case "render":
		err = render(ctx, args, os.Stderr)
	case "sample":
		if len(args) != 1 {
			err = bad(errors.New("usage: aspenridge sample DIR"))
		} else {
			err = demo.Write(args[0])
		}
	default:
		fmt.Fprintln(os.Stderr, "usage: aspenridge render ...")
		return 2
	}
	switch {
	case err == nil:
		return 0
	case errors.Is(err, errBadInput):
		fmt.Fprintln(os.Stderr, "aspenridge:", err)
		return 2
	}
	fmt.Fprintln(os.Stderr, "aspenridge:", err)
	return 1
}
