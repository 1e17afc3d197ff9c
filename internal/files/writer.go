package files

import (
	"encoding/csv"
	"io"
	"strconv"
	"strings"
)

// Writer writes comma-separated values. A cell that a spreadsheet would run as a formula is made text by an
// apostrophe before it; numbers stay numbers.
type Writer struct {
	csv *csv.Writer
	row []string // being written
}

// NewWriter writes to w; Flush when done.
func NewWriter(w io.Writer) *Writer { return &Writer{csv: csv.NewWriter(w)} }

// Write writes one row.
func (w *Writer) Write(row []string) error {
	w.row = w.row[:0]
	for _, cell := range row {
		w.row = append(w.row, harmless(cell))
	}
	return w.csv.Write(w.row)
}

// Flush writes what is left and gives the first error there was.
func (w *Writer) Flush() error {
	w.csv.Flush()
	return w.csv.Error()
}

func harmless(cell string) string {
	if cell == "" || strings.IndexByte("=+-@\t\r", cell[0]) < 0 {
		return cell
	}
	if _, err := strconv.ParseFloat(cell, 64); err == nil {
		return cell
	}
	return "'" + cell
}

// AsGiven takes off the sign with which a cell was kept from being run as a formula.
func AsGiven(cell string) string {
	if plain, ok := strings.CutPrefix(cell, "'"); ok && harmless(plain) != plain {
		return plain
	}
	return cell
}
