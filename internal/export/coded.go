// Package export writes coded data and tables as CSV. The application and the command line both use it.
package export

import (
	"io"

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
}

// Wide writes the input's columns, then a column per category in frame order: 1, 0, or blank where the answer is
// missing.
func Wide(w io.Writer, d Data, ix *corpus.Index, c *frame.Coding) error {
	out := files.NewWriter(w)
	header := append([]string{}, d.Columns...)
	for _, r := range c.Results {
		header = append(header, r.PathName())
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
		if err := out.Write(row); err != nil {
			return err
		}
	}
	return out.Flush()
}

// Long writes one row per answer and category.
func Long(w io.Writer, d Data, ix *corpus.Index, c *frame.Coding) error {
	out := files.NewWriter(w)
	id := "row"
	if d.ID >= 0 {
		id = d.Columns[d.ID]
	}
	if err := out.Write([]string{id, d.Columns[d.Text], "category", "code"}); err != nil {
		return err
	}
	for i := range ix.Len() {
		name := number(i + 1)
		if d.ID >= 0 {
			name = d.Cell(i, d.ID)
		}
		for _, r := range c.Results {
			if r.Answers.Contains(uint32(i)) {
				if err := out.Write([]string{name, d.Cell(i, d.Text), r.PathName(), number(r.Code)}); err != nil {
					return err
				}
			}
		}
	}
	return out.Flush()
}
