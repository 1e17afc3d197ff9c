package export

import (
	"io"
	"iter"
	"slices"
	"strings"

	"aftermath/core/crosstab"
	"aftermath/internal/view/chart"
)

// Table writes a table as CSV: bases first, then per row and column the answers, the share with its interval, the index, the
// letters of the columns that it is over, and the adjusted p against the rest. What has to be said with the figures follows.
// Figures are written in full; rounding is left to whoever reads them.
func Table(w io.Writer, c chart.Chart) error { return Sheet(w, "csv", "", tableRows(c)) }

// figures is one figure of a column in a row of a table.
type figures struct {
	name string
	base func(b crosstab.Base) any // nil: none
	cell func(x crosstab.Cell, column int) any
}

// figuresOf are those that a table has of each column.
func figuresOf(c chart.Chart) []figures {
	columnOnly := func(x any, column int) any { // the total has none
		if column == 0 {
			return ""
		}
		return x
	}
	all := []figures{
		{"answers", func(b crosstab.Base) any { return b.Answers }, func(x crosstab.Cell, _ int) any { return x.Answers }},
		{"weighted", func(b crosstab.Base) any { return b.Weighted }, func(x crosstab.Cell, _ int) any { return x.Weighted }},
		{"share", nil, func(x crosstab.Cell, _ int) any { return x.Share }},
		{"low", nil, func(x crosstab.Cell, _ int) any { return x.Low }},
		{"high", nil, func(x crosstab.Cell, _ int) any { return x.High }},
		{"index", nil, func(x crosstab.Cell, i int) any { return columnOnly(x.Index, i) }},
		{"over", nil, func(x crosstab.Cell, i int) any { return columnOnly(c.Letters(x), i) }},
		{"p against the rest", nil, func(x crosstab.Cell, _ int) any {
			if !x.Rest.Tested {
				return ""
			}
			return x.Rest.Adjusted
		}},
	}
	return slices.DeleteFunc(all, func(f figures) bool {
		switch f.name {
		case "weighted":
			return !c.Weighted
		case "low", "high", "over", "p against the rest":
			return c.Query.Base == chart.BaseMentions
		}
		return false
	})
}

func tableRows(c chart.Chart) iter.Seq[[]any] {
	parts := figuresOf(c)
	return func(yield func([]any) bool) {
		header, base, effective := []any{"category"}, []any{"base (" + baseWord(c) + ")"}, []any{"effective base"}
		mean := []any{"mean number of categories"}
		for i, column := range c.Columns {
			name := column.Name
			if i > 0 {
				name = c.Nests[column.Nest].Label + " " + strings.Join(column.Values, " / ") + " (" + column.Letter + ")"
			}
			for k, f := range parts {
				header = append(header, name+": "+f.name)
				cell := any("")
				if f.base != nil {
					cell = f.base(c.Bases[i])
				}
				base = append(base, cell)
				first := func(x any) any {
					if k == 0 {
						return x
					}
					return ""
				}
				effective, mean = append(effective, first(c.Bases[i].Effective)), append(mean, first(c.Mean[i].Value))
			}
		}
		rows := [][]any{header, base}
		if c.Query.Base != chart.BaseMentions {
			rows = append(rows, effective)
		}
		for r, row := range c.Rows {
			line := []any{row.Path}
			for i, x := range c.Cells[r] {
				for _, f := range parts {
					line = append(line, f.cell(x, i))
				}
			}
			rows = append(rows, line)
		}
		rows = append(rows, mean)
		if c.Suggested > 0 {
			rows = append(rows, []any{"with suggested categories, unread", c.Suggested})
		}
		for _, n := range c.Notes {
			rows = append(rows, []any{"note", n})
		}
		for _, row := range rows {
			for len(row) < len(header) {
				row = append(row, "")
			}
			if !yield(row) {
				return
			}
		}
	}
}

func baseWord(c chart.Chart) string {
	if c.Query.Base == "" {
		return chart.BaseAnswered
	}
	return c.Query.Base
}
