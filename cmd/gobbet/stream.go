package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"io"

	"github.com/spf13/cobra"

	"gobbet/core/fault"
)

// errFaults ends the program with status 1 after every input was answered.
var errFaults = errors.New("an input had a fault")

// answerEach reads JSON values, however laid out, and writes one answer a line.
// A fault is answered in its place; where the input is not JSON, reading goes
// on at the next line.
func answerEach(in io.Reader, out io.Writer, answer func(input json.RawMessage) (any, error)) error {
	w := bufio.NewWriter(out)
	defer w.Flush()
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	var failed error
	reader := bufio.NewReader(in)
	for {
		d := json.NewDecoder(reader)
		for {
			var input json.RawMessage
			err := d.Decode(&input)
			if errors.Is(err, io.EOF) {
				return failed
			}
			var result any
			notJSON := err != nil
			if !notJSON {
				result, err = answer(input)
			} else {
				err = fault.JSON(err)
			}
			if err != nil {
				result = map[string]any{"error": fault.Of(err)[0]}
				failed = errFaults
			}
			if err := enc.Encode(result); err != nil {
				return err
			}
			if err := w.Flush(); err != nil {
				return err
			}
			if notJSON {
				break
			}
		}
		reader = bufio.NewReader(io.MultiReader(d.Buffered(), reader))
		if err := skipLine(reader); err != nil {
			return failed
		}
	}
}

// skipLine skips white space and the line after it.
func skipLine(r *bufio.Reader) error {
	for {
		c, err := r.ReadByte()
		if err != nil {
			return err
		}
		if c != ' ' && c != '\n' && c != '\r' && c != '\t' {
			break
		}
	}
	_, err := r.ReadString('\n')
	return err
}

// coreCommand is a computation of the core as a command.
func coreCommand(name, short string, answer func(input json.RawMessage) (any, error)) *cobra.Command {
	return &cobra.Command{
		Use: name, Short: short, Args: cobra.NoArgs,
		Long: short + ".\n\nReads JSON objects from standard input, one after another, and answers each on a line of its own.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			return answerEach(cmd.InOrStdin(), cmd.OutOrStdout(), answer)
		},
	}
}
