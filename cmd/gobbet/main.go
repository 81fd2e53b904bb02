// Command gobbet serves the studio and visitors' pages, and offers the core's
// computations on standard input and output.
package main

import (
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"
)

func main() {
	os.Exit(run())
}

// run ends with 0; 1 where an input had a fault or a server could not go on; 2 for bad flags.
func run() int {
	root := &cobra.Command{
		Use: "gobbet", Short: "Popups and other small things for websites: design, reach, split, leads",
		SilenceUsage: true, SilenceErrors: true,
	}
	started := false
	root.PersistentPreRun = func(*cobra.Command, []string) { started = true }
	root.AddCommand(computations()...)
	root.AddCommand(serving()...)
	err := root.Execute()
	switch {
	case err == nil:
		return 0
	case errors.Is(err, errFaults):
		return 1
	}
	fmt.Fprintln(os.Stderr, "gobbet: "+err.Error())
	if !started || errors.Is(err, errFlag) {
		return 2
	}
	return 1
}
