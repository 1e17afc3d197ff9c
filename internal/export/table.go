package export

import (
	"io"
	"strconv"
	"strings"

	"aftermath/internal/desk/report/chart"
	"aftermath/internal/files"
)

func number(n int) string { return strconv.Itoa(n) }

// Table writes a chart as a table: bases first, then per category the unweighted answers and the share of each column.
// A row says how many answers have categories that were put on since they are likely, unread, if any do. Columns are headed by the short label of the segment and their value. Shares are written in full; rounding is left to
// whoever reads them.
func Table(w io.Writer, c chart.Chart) error {
	out := files.NewWriter(w)
	full := func(x float64) string { return strconv.FormatFloat(x, 'g', -1, 64) }
	header := []string{"category"}
	for i, name := range c.Columns {
		if i > 0 && c.Label != "" {
			name = c.Label + " " + name
		}
		header = append(header, name+": answers", name+": weighted", name+": share")
	}
	if err := out.Write(header); err != nil {
		return err
	}
	base := []string{"base (" + c.Base + ")"}
	effective := []string{"effective base"}
	for _, b := range c.Bases {
		base = append(base, number(b.Answers), full(b.Weighted), "")
		effective = append(effective, full(b.Effective), "", "")
	}
	for _, row := range [][]string{base, effective} {
		if err := out.Write(row); err != nil {
			return err
		}
	}
	if c.Suggested > 0 {
		if err := out.Write(append([]string{"with suggested categories, unread", number(c.Suggested)}, make([]string, len(header)-2)...)); err != nil {
			return err
		}
	}
	var path []string
	for i, r := range c.Rows {
		path = append(path[:min(r.Depth, len(path))], r.Name)
		row := []string{strings.Join(path, " / ")}
		for _, cell := range c.Cells[i] {
			row = append(row, number(cell.Answers), full(cell.Weighted), full(cell.Share))
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	return out.Flush()
}
