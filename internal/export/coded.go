// Package export writes coded data and tables as CSV. The application and the command line both use it.
package export

import (
	"io"
	"strings"

	"aftermath/core/corpus"
	"aftermath/core/frame"
	"aftermath/core/text"
	"aftermath/internal/files"
)

// Data is what comes out again with the coding: columns as they came in.
type Data struct {
	Columns []string
	Cell    func(row, column int) string
	ID      int // column that names the respondent, -1 for none
	Text    int // column of the answers
	// Decisions say which categories were put on since they are likely, unread.
	Decisions frame.Decisions
}

// suggested heads the column that says so, which is there only if there are any.
const suggested = "suggested, unread"

// anySuggested says whether a coding has categories that were put on unread.
func (d Data) anySuggested() bool {
	for _, set := range d.Decisions.Suggested {
		if !set.IsEmpty() {
			return true
		}
	}
	return false
}

// Wide writes the input's columns, then a column per category in frame order: 1, 0, or blank where the answer is
// missing. Where categories were put on unread, a last column names them.
func Wide(w io.Writer, d Data, ix *corpus.Index, c *frame.Coding) error {
	out := files.NewWriter(w)
	header := append([]string{}, d.Columns...)
	for _, r := range c.Results {
		header = append(header, r.PathName())
	}
	marked := d.anySuggested()
	if marked {
		header = append(header, suggested)
	}
	if err := out.Write(header); err != nil {
		return err
	}
	row := make([]string, len(header))
	for i := range ix.Len() {
		for j := range d.Columns {
			row[j] = d.Cell(i, j)
		}
		missing := ix.Status(text.Missing).Contains(uint32(i))
		for j, r := range c.Results {
			mark := "0"
			switch {
			case missing:
				mark = ""
			case r.Answers.Contains(uint32(i)):
				mark = "1"
			}
			row[len(d.Columns)+j] = mark
		}
		if marked {
			var names []string
			for _, r := range c.Results {
				if d.Decisions.Suggests(r.ID, uint32(i)) {
					names = append(names, r.PathName())
				}
			}
			row[len(row)-1] = strings.Join(names, "; ")
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	return out.Flush()
}

// Long writes one row per answer and category. Where categories were put on unread, a last column says which.
func Long(w io.Writer, d Data, ix *corpus.Index, c *frame.Coding) error {
	out := files.NewWriter(w)
	id := "row"
	if d.ID >= 0 {
		id = d.Columns[d.ID]
	}
	header := []string{id, d.Columns[d.Text], "category", "code"}
	marked := d.anySuggested()
	if marked {
		header = append(header, suggested)
	}
	if err := out.Write(header); err != nil {
		return err
	}
	for i := range ix.Len() {
		name := number(i + 1)
		if d.ID >= 0 {
			name = d.Cell(i, d.ID)
		}
		for _, r := range c.Results {
			if r.Answers.Contains(uint32(i)) {
				row := []string{name, d.Cell(i, d.Text), r.PathName(), number(r.Code)}
				if marked {
					row = append(row, map[bool]string{true: "1"}[d.Decisions.Suggests(r.ID, uint32(i))])
				}
				if err := out.Write(row); err != nil {
					return err
				}
			}
		}
	}
	return out.Flush()
}
