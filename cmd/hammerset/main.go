// Command hammerset is the whole product in one binary: the server, its workers,
// the kernel child and the tools of the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

// exit carries the exit code of a command that has said all it has to say.
type exit struct{ code int }

func (e exit) Error() string { return fmt.Sprintf("exit code %d", e.code) }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{Use: "hammerset", Short: "Issues drawing exercises and checks parametric models against them",
		SilenceUsage: true, SilenceErrors: true}
	root.AddCommand(kernelCommand(), checkCommand(), auditCommand(), sheetCommand(), atlasCommand(), rebuildCommand(),
		assembleCommand(), beginCommand(), serveCommand(), workCommand(), migrateCommand(), administratorCommand(),
		demoCommand())
	err := root.ExecuteContext(ctx)
	var e exit
	if errors.As(err, &e) {
		os.Exit(e.code)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "hammerset:", err)
		os.Exit(2)
	}
}
