package main

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"gobbet/core/fault"
	"gobbet/core/weigh"
)

func weighCommand() *cobra.Command {
	cmd := coreCommand("weigh", "Compare the variants of a test", weighJSON)
	asCSV := false
	cmd.Long += "\nWith --csv it reads name,share,visitors,conversions[,value_sum,value_sum_squares] with a header instead, the first row the control."
	cmd.Flags().BoolVar(&asCSV, "csv", false, "read a table instead")
	asJSON := cmd.RunE
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if !asCSV {
			return asJSON(cmd, args)
		}
		test, err := readArms(cmd.InOrStdin())
		var answer any
		if err == nil {
			answer, err = weighed(test)
		}
		if err != nil {
			answer = map[string]any{"error": fault.Of(err)[0]}
		}
		enc := json.NewEncoder(cmd.OutOrStdout())
		enc.SetEscapeHTML(false)
		if wrong := enc.Encode(answer); wrong != nil {
			return wrong
		}
		if err != nil {
			return errFaults
		}
		return nil
	}
	return cmd
}

func weighJSON(input json.RawMessage) (any, error) {
	var test weigh.Test
	if err := object(input, &test); err != nil {
		return nil, err
	}
	// Values count where they were given.
	var given struct {
		Variants []map[string]json.RawMessage `json:"variants"`
	}
	if err := object(input, &given); err != nil {
		return nil, err
	}
	var faults fault.Faults
	for i, v := range given.Variants {
		for _, key := range []string{"visitors", "conversions"} {
			if v[key] == nil {
				faults.Add(fault.Key(fault.Index("variants", i), key), "is missing")
			}
		}
		if v["value_sum"] != nil && v["value_sum_squares"] != nil {
			test.WithValues = true
		}
		if v["share"] == nil {
			test.Variants[i].Share = 1
		}
	}
	if faults != nil {
		return nil, faults
	}
	return weighed(test)
}

func weighed(test weigh.Test) (any, error) {
	report, err := weigh.Weigh(test)
	if err != nil {
		return nil, err
	}
	return report, nil
}

const mostTable = 1 << 20 // bytes

// readArms reads the table of a test.
func readArms(in io.Reader) (test weigh.Test, err error) {
	text, err := io.ReadAll(io.LimitReader(in, mostTable+1))
	if err != nil {
		return test, err
	}
	if len(text) > mostTable {
		return test, fault.Fault{Message: "is more than a table of variants"}
	}
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(text), "\ufeff")))
	r.TrimLeadingSpace = true
	rows, err := r.ReadAll()
	if err != nil {
		var wrong *csv.ParseError
		if errors.As(err, &wrong) {
			return test, fault.Fault{At: fmt.Sprintf("line %d", wrong.Line), Message: wrong.Err.Error()}
		}
		return test, err
	}
	if len(rows) == 0 {
		return test, fault.Fault{Message: "is empty: a header and a row for each variant are needed"}
	}
	columns := map[string]int{}
	for i, name := range rows[0] {
		columns[strings.ToLower(strings.TrimSpace(name))] = i
	}
	for _, name := range []string{"name", "share", "visitors", "conversions"} {
		if _, ok := columns[name]; !ok {
			return test, fault.Fault{At: "line 1", Message: "has no column " + name}
		}
	}
	_, sums := columns["value_sum"]
	_, squares := columns["value_sum_squares"]
	test.WithValues = sums && squares
	var faults fault.Faults
	for i, row := range rows[1:] {
		at := fmt.Sprintf("line %d", i+2)
		cell := func(name string) string { return strings.TrimSpace(row[columns[name]]) }
		number := func(name string) float64 {
			if _, ok := columns[name]; !ok || cell(name) == "" && !slices.Contains([]string{"share", "visitors", "conversions"}, name) {
				return 0
			}
			value, err := strconv.ParseFloat(cell(name), 64)
			if err != nil {
				faults.Add(at, "%s should be a number", name)
			}
			return value
		}
		whole := func(name string) int {
			value, err := strconv.Atoi(cell(name))
			if err != nil {
				faults.Add(at, "%s should be a whole number", name)
			}
			return value
		}
		test.Variants = append(test.Variants, weigh.Arm{
			Name: cell("name"), Share: number("share"), Count: weigh.Count{Visitors: whole("visitors"), Conversions: whole("conversions")},
			Values: weigh.Values{Sum: number("value_sum"), SumSquares: number("value_sum_squares")},
		})
	}
	return test, faults.Err()
}

func plan(input json.RawMessage) (any, error) {
	goal := weigh.Goal{Confidence: 0.95, Power: 0.8}
	if err := object(input, &goal); err != nil {
		return nil, err
	}
	size, err := weigh.Plan(goal)
	if err != nil {
		return nil, err
	}
	return size, nil
}
