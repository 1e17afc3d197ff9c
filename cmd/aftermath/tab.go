package main

import (
	"encoding/json"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/export"
	"aftermath/internal/view/chart"
)

// tabCommand makes the table of the Chart view without a database.
func tabCommand() *cobra.Command {
	var j job
	var q chart.Query
	var by []string
	var narrow, weight string
	c := &cobra.Command{
		Use:   "tab",
		Short: "Code a file by a playbook, and count its categories by segments, with tests",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			format := strings.TrimPrefix(strings.ToLower(filepath.Ext(j.out)), ".")
			if formats := []string{"csv", "xlsx", "json"}; !slices.Contains(formats, format) {
				return fmt.Errorf("--out ends in .%s; it must end in .%s", format, strings.Join(formats, ", ."))
			}
			if rows := []string{"all", "nets", "categories"}; !slices.Contains(rows, q.Rows) {
				return fmt.Errorf("--rows is one of %s, not %q", strings.Join(rows, ", "), q.Rows)
			}
			f, err := focus.Parse(narrow)
			if err != nil {
				return err
			}
			if q.By, err = columnsOf(by); err != nil {
				return err
			}
			if err := j.load(c.Context()); err != nil {
				return err
			}
			specs := j.specs()
			if q.Weighted = weight != ""; q.Weighted {
				if err := weigh(specs, weight); err != nil {
					return err
				}
			}
			s, err := j.unstored(c.Context(), specs)
			if err != nil {
				return err
			}
			warnProblems(c.ErrOrStderr(), s.Coding)
			table, err := chart.ChartOf(c.Context(), s, f, q)
			if err != nil {
				return err
			}
			return write(j.out, func(w io.Writer) error {
				switch format {
				case "json":
					return json.NewEncoder(w).Encode(table)
				case "xlsx":
					return export.Workbook{
						Study: filepath.Base(j.data), Question: j.text, About: "By rules alone.", Tables: []chart.Chart{table},
					}.Write(w)
				}
				return export.Table(w, table)
			})
		},
	}
	j.flags(c)
	_ = c.MarkFlagRequired("playbook")
	c.Flags().StringVar(&q.Rows, "rows", "all", "all; nets: the top level only; categories: those that are no nets")
	c.Flags().StringArrayVar(&by, "by", nil, `a segment for columns; again for one beside it; "wave > route" nests route in wave`)
	c.Flags().StringVar(&q.Base, "base", "answered", "what shares are of: answered, respondents, coded or mentions")
	c.Flags().StringVar(&weight, "weight", "", "column of the weights; not weighted if left out")
	c.Flags().StringVar(
		&q.Correction, "test", "benjamini-hochberg",
		"correction of the tests of a row within a segment: benjamini-hochberg, holm, bonferroni or none",
	)
	c.Flags().StringVar(&q.Sort, "sort", "frame", "order of the rows: frame, size, name, or field: and the name of a field of the categories")
	c.Flags().StringVar(&q.Group, "group", "", "a field of the categories, each of whose values is a row over them; with --rows nets these rows alone")
	c.Flags().IntVar(&q.Least, "least", 0, "categories with fewer answers stand in one row")
	c.Flags().StringVar(&narrow, "focus", "", "only answers that meet these conditions: JSON, as in the application's address line")
	return c
}

// columnsOf writes the segments of a command line as a query has them.
func columnsOf(by []string) (string, error) {
	nests := [][]string{}
	for _, one := range by {
		var nest []string
		for name := range strings.SplitSeq(one, " > ") {
			nest = append(nest, strings.TrimSpace(name))
		}
		nests = append(nests, nest)
	}
	columns, err := json.Marshal(nests)
	return string(columns), err
}

// weigh makes a column that of the weights.
func weigh(specs []survey.Spec, name string) error {
	at := slices.IndexFunc(specs, func(s survey.Spec) bool { return s.Named(name) })
	if at < 0 {
		return fmt.Errorf("there is no column %q to weight by", name)
	}
	for i := range specs {
		if specs[i].Role == survey.Weight {
			specs[i].Role = survey.Number
		}
	}
	specs[at].Role = survey.Weight
	return nil
}
