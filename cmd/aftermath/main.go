// Command aftermath codes open-ended survey answers: in the browser (serve, demo) and headless (code, clean, terms, tab, report).
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

// errLogged is behind an error that is in the log already.
var errLogged = errors.New("it is in the log")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{Use: "aftermath", Short: "Code open-ended survey answers into categories, and chart them by segment",
		SilenceUsage: true, SilenceErrors: true, CompletionOptions: cobra.CompletionOptions{HiddenDefaultCmd: true}}
	addCommands(root)
	if err := root.ExecuteContext(ctx); err != nil {
		if !errors.Is(err, errLogged) {
			fmt.Fprintln(os.Stderr, "aftermath:", err)
		}
		os.Exit(1)
	}
}

// addCommands adds all commands to the one that they are called by.
func addCommands(root *cobra.Command) {
	root.AddCommand(
		serveCommand(), demoCommand(), codeCommand(), cleanCommand(), termsCommand(), tabCommand(), reportCommand(), agreeCommand(), reviewCommand(),
		backupCommand(), restoreCommand(), userCommand(), tokenCommand(), doctorCommand(), initCommand(), openapiCommand(), limitsCommand(),
	)
}
