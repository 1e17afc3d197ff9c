package main

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/core/agreement"
	"aftermath/internal/files"
)

func agreeCommand() *cobra.Command {
	var j job
	var sample string
	var asJSON bool
	c := &cobra.Command{
		Use:   "agree",
		Short: "Hold the coding of a file by a playbook against a sample that was coded by hand",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if err := j.read(c.Context()); err != nil {
				return err
			}
			coding, err := j.code(c)
			if err != nil {
				return err
			}
			guess, err := files.Recognise(c.Context(), sample, sample, "")
			if err != nil {
				return fmt.Errorf("%s: %w", sample, err)
			}
			table, err := files.ReadTable(c.Context(), sample, guess.Recipe, 0)
			if err != nil {
				return fmt.Errorf("%s: %w", sample, err)
			}
			row := agreement.ByID(len(j.table.Rows), func(row int) string { return j.table.Rows[row][j.idAt] })
			given, err := agreement.Read(append([][]string{table.Columns}, table.Rows...), j.book.Frame, row)
			if err != nil {
				return fmt.Errorf("%s: %w", sample, err)
			}
			result := agreement.Of(coding, given, nil)
			if asJSON {
				return json.NewEncoder(c.OutOrStdout()).Encode(result)
			}
			return printed(c.OutOrStdout(), result)
		},
	}
	j.input(c)
	_ = c.MarkFlagRequired("playbook")
	_ = c.MarkFlagRequired("id")
	c.Flags().StringVar(&sample, "sample", "", "file with the columns id and category: a row for each category of an answer, one without for none")
	_ = c.MarkFlagRequired("sample")
	c.Flags().BoolVar(&asJSON, "json", false, "print all figures as JSON")
	return c
}

// printed writes the figures as a table.
func printed(out io.Writer, r agreement.Result) error {
	line := func(name string, a any) string { return fmt.Sprintf("%-40s %s\n", name, a) }
	var b strings.Builder
	fmt.Fprintf(&b, "%d answers; all categories are the same in %d\n\n", r.Answers, r.Whole)
	b.WriteString(line("", "both  only coded  missed  precision  recall     F1  kappa"))
	figures := func(both, only, missed int, precision, recall, f1, kappa float64) string {
		return fmt.Sprintf("%4d  %10d  %6d  %9.3f  %6.3f  %5.3f  %5.3f", both, only, missed, precision, recall, f1, kappa)
	}
	for _, c := range r.Categories {
		b.WriteString(line(c.Name, figures(c.Both, c.Only, c.Missed, c.Precision, c.Recall, c.F1, c.Kappa)))
	}
	o := r.Overall
	b.WriteString(line("all together", figures(o.Both, o.Only, o.Missed, o.Precision, o.Recall, o.F1, o.Kappa)))
	fmt.Fprintf(&b, "\nmean F1 of the categories %.3f, Krippendorff's alpha %.3f\n", o.MacroF1, o.Alpha)
	_, err := io.WriteString(out, b.String())
	return err
}
