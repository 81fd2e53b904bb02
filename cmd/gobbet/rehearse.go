package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"gobbet/core/caps"
	"gobbet/core/fault"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
)

// errFlag is that a flag names something that cannot be used; it ends the
// program with status 2, as bad flags do.
var errFlag = errors.New("a flag cannot be used")

func rehearseCommand() *cobra.Command {
	var file string
	cmd := &cobra.Command{
		Use: "rehearse", Short: "Replay recorded visits against a rule and caps", Args: cobra.NoArgs,
		Long: "Replay recorded visits against a rule and caps.\n\nReads the visit log once (one page view a line, as JSON), then JSON objects {\"rule\", \"caps\"} from standard input, and answers each on a line of its own.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if file == "" {
				return fmt.Errorf("%w: --visits names no file", errFlag)
			}
			l, err := readLog(file)
			if err != nil {
				return fmt.Errorf("%w: --visits %s: %w", errFlag, file, err)
			}
			return answerEach(cmd.InOrStdin(), cmd.OutOrStdout(), func(input json.RawMessage) (any, error) { return rehearsal(l, input) })
		},
	}
	cmd.Flags().StringVar(&file, "visits", "", "the visit log, a file of one page view a line")
	return cmd
}

func readLog(name string) (*rehearse.Log, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return rehearse.Read(f)
}

func rehearsal(l *rehearse.Log, input json.RawMessage) (any, error) {
	var in struct {
		Rule json.RawMessage `json:"rule"`
		Caps json.RawMessage `json:"caps"`
	}
	if err := object(input, &in); err != nil {
		return nil, err
	}
	program, err := readRule(in.Rule)
	if err != nil {
		return nil, err
	}
	if err := inLog(program); err != nil {
		return nil, err
	}
	limits, err := caps.Parse(in.Caps)
	if err != nil {
		return nil, below("caps", err)
	}
	r, _ := l.Rehearse(rehearse.Question{Draft: rehearse.Draft{Program: program, Caps: limits}})
	clauses := []any{}
	for _, c := range r.Clauses {
		clauses = append(clauses, map[string]any{"at": c.At, "passed": c.Passed})
	}
	return map[string]any{
		"page_views": r.PageViews, "visitors": r.Visitors, "passed": r.Passed, "showings": r.Shown, "visitors_shown": r.VisitorsShown,
		"typical_wait": r.TypicalWait, "clauses": clauses,
	}, nil
}

// inLog finds clauses about moments that a visit log does not hold.
func inLog(p *reach.Program) error {
	var faults fault.Faults
	p.EachTest(func(at string, t *reach.Test) {
		if t.Of.IsMoment() && !t.Of.Recorded {
			faults.Add(fault.Key(at, "fact"), "%s is not in the visit log", t.Of.Name)
		}
	})
	return faults.Err()
}
