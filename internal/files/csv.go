// Package files reads and writes tables: rows of cells, with no idea of studies.
package files

import (
	"bufio"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Limits of what is read.
const (
	MaxRows    = 2_000_000
	MaxColumns = 2_000
	MaxCell    = 1 << 20 // bytes
)

// ErrFile is behind every error about a file that can't be read as a table.
var ErrFile = errors.New("file")

// Table is a file's header and rows; every row has as many cells as the header.
type Table struct {
	Columns []string
	Rows    [][]string
}

// Column gives the cells of one column.
func (t *Table) Column(i int) []string {
	cells := make([]string, len(t.Rows))
	for r, row := range t.Rows {
		cells[r] = row[i]
	}
	return cells
}

// Find gives the place of a column by its name.
func (t *Table) Find(name string) (int, error) {
	for i, c := range t.Columns {
		if c == name {
			return i, nil
		}
	}
	return 0, fmt.Errorf("%w: there is no column %q; there are: %s", ErrFile, name, strings.Join(t.Columns, ", "))
}

// ReadCSV reads comma-separated values (RFC 4180) in UTF-8, with or without a byte order mark. The first row is the
// header. Rows in errors count from 1, the header being row 1, as a spreadsheet counts them. Progress is told the rows
// read so far, from time to time; it may be nil, and its error ends the reading.
func ReadCSV(from io.Reader, progress func(rows int) error) (*Table, error) {
	r := bufio.NewReaderSize(from, 1<<16)
	if mark, _ := r.Peek(3); string(mark) == "\ufeff" {
		_, _ = r.Discard(3)
	}
	c := csv.NewReader(r)
	c.FieldsPerRecord = -1
	header, err := c.Read()
	if errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("%w: it is empty", ErrFile)
	}
	if err != nil {
		return nil, csvError(err, 1)
	}
	t := &Table{}
	if t.Columns, err = checkHeader(header); err != nil {
		return nil, err
	}
	for {
		row, err := c.Read()
		if errors.Is(err, io.EOF) {
			return t, nil
		}
		number := len(t.Rows) + 2
		if err != nil {
			return nil, csvError(err, number)
		}
		if err := checkRow(row, t.Columns, number); err != nil {
			return nil, err
		}
		t.Rows = append(t.Rows, row)
		if len(t.Rows) > MaxRows {
			return nil, fmt.Errorf("%w: it has more than %d rows; cut it into several", ErrFile, MaxRows)
		}
		if progress != nil && len(t.Rows)%10_000 == 0 {
			if err := progress(len(t.Rows)); err != nil {
				return nil, err
			}
		}
	}
}

func csvError(err error, row int) error {
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		reason := parse.Err.Error()
		switch {
		case errors.Is(parse.Err, csv.ErrQuote):
			reason = "a quote ends in the middle of a cell, or the one that began the cell is never closed"
		case errors.Is(parse.Err, csv.ErrBareQuote):
			reason = "a quote stands inside a cell that is not quoted"
		}
		return fmt.Errorf("%w: row %d (line %d, character %d): %s", ErrFile, row, parse.Line, parse.Column, reason)
	}
	return fmt.Errorf("%w: row %d: %w", ErrFile, row, err)
}

func checkHeader(header []string) ([]string, error) {
	if len(header) > MaxColumns {
		return nil, fmt.Errorf("%w: it has %d columns; at most %d can be read", ErrFile, len(header), MaxColumns)
	}
	seen := map[string]int{}
	out := make([]string, len(header))
	for i, name := range header {
		name = strings.TrimSpace(name)
		if !utf8.ValidString(name) {
			return nil, fmt.Errorf("%w: row 1, column %d: the header is not UTF-8; save the file as UTF-8", ErrFile, i+1)
		}
		if name == "" {
			name = "column " + strconv.Itoa(i+1)
		}
		if seen[name]++; seen[name] > 1 {
			name += " (" + strconv.Itoa(seen[name]) + ")"
		}
		out[i] = name
	}
	return out, nil
}

func checkRow(row, columns []string, number int) error {
	if len(row) != len(columns) {
		return fmt.Errorf("%w: row %d has %d cells, the header has %d; a cell with a comma or line break must be quoted", ErrFile, number, len(row), len(columns))
	}
	for i, cell := range row {
		switch {
		case len(cell) > MaxCell:
			return fmt.Errorf("%w: row %d, column %q: the cell has %d bytes; at most %d can be read", ErrFile, number, columns[i], len(cell), MaxCell)
		case !utf8.ValidString(cell):
			return fmt.Errorf("%w: row %d, column %q: the cell is not UTF-8; save the file as UTF-8", ErrFile, number, columns[i])
		case strings.IndexByte(cell, 0) >= 0:
			return fmt.Errorf("%w: row %d, column %q: the cell holds a zero byte; this may be no text file", ErrFile, number, columns[i])
		}
	}
	return nil
}

// Writer writes comma-separated values. A cell that a spreadsheet would run as a formula is made text by an
// apostrophe before it; numbers stay numbers.
type Writer struct{ csv *csv.Writer }

// NewWriter writes to w; Flush when done.
func NewWriter(w io.Writer) *Writer { return &Writer{csv.NewWriter(w)} }

// Write writes one row.
func (w *Writer) Write(row []string) error {
	out := make([]string, len(row))
	for i, cell := range row {
		out[i] = harmless(cell)
	}
	return w.csv.Write(out)
}

// Flush writes what is left and gives the first error there was.
func (w *Writer) Flush() error {
	w.csv.Flush()
	return w.csv.Error()
}

func harmless(cell string) string {
	if cell == "" || !strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		return cell
	}
	if _, err := strconv.ParseFloat(cell, 64); err == nil {
		return cell
	}
	return "'" + cell
}
