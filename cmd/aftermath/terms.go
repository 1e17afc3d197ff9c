package main

import (
	"aftermath/internal/desk/focus"
	"aftermath/internal/view/termview"

	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/internal/export"
)

// termsCommand counts terms without a database. It asks the same question that the application asks.
func termsCommand() *cobra.Command {
	var j job
	var row, least, limit int
	var narrow, matrix string
	var stop bool
	c := &cobra.Command{
		Use:   "terms",
		Short: "Count what a file's answers say: the term table, or the answers by terms",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			format := strings.TrimPrefix(strings.ToLower(filepath.Ext(j.out)), ".")
			known := []string{"csv", "xlsx"}
			if matrix != "" {
				known = []string{"csv", "zip"}
			}
			if !slices.Contains(known, format) {
				return fmt.Errorf("--out ends in .%s; it must end in .%s or .%s", format, known[0], known[1])
			}
			if row < 1 || row > 3 {
				return fmt.Errorf("--row is 1, 2 or 3, not %d", row)
			}
			if values := []string{"counts", "binary", "share", "tfidf"}; matrix != "" && !slices.Contains(values, matrix) {
				return fmt.Errorf("--matrix is one of %s, not %q", strings.Join(values, ", "), matrix)
			}
			f, err := focus.Parse(narrow)
			if err != nil {
				return err
			}
			if err := j.load(c.Context()); err != nil {
				return err
			}
			specs := j.specs()
			s, err := j.unstored(c.Context(), specs)
			if err != nil {
				return err
			}
			if matrix != "" {
				m, err := export.NewMatrix(c.Context(), s, f, matrix, least, limit)
				if err != nil {
					return err
				}
				return write(j.out, func(w io.Writer) error {
					if format == "zip" {
						return m.MatrixMarket(c.Context(), w)
					}
					return m.CSV(c.Context(), w)
				})
			}
			t, err := termview.Terms(
				c.Context(), s, f,
				termview.TermQuery{Row: row, Answers: least, Stop: stop, Sort: "answers", Descending: true, Limit: limit, NoStrips: true},
			)
			if err != nil {
				return err
			}
			return write(j.out, func(w io.Writer) error { return export.Sheet(w, format, "terms", export.Terms(t)) })
		},
	}
	j.flags(c)
	c.Flags().IntVar(&row, "row", 1, "terms in a row: 1, 2 or 3")
	c.Flags().BoolVar(&stop, "stop", false, "the stop words instead")
	c.Flags().IntVar(&least, "answers", 1, "answers that a term must have")
	c.Flags().IntVar(&limit, "terms", 1_000_000, "how many terms at most, the most frequent first")
	c.Flags().StringVar(&narrow, "focus", "", "only answers that meet these conditions: JSON, as in the application's address line")
	c.Flags().StringVar(
		&matrix, "matrix", "",
		"write the answers by terms instead: counts, binary, share or tfidf; to .csv, or to .zip for Matrix Market",
	)
	return c
}
