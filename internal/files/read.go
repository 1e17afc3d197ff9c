// Package files reads and writes tables: rows of cells, with no idea of studies.
package files

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"
	"sync/atomic"

	"aftermath/core/text"
)

// Limits of what is read.
const (
	MaxFile    = 2 << 30 // bytes
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
	Notes   Notes
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

// errEnough ends the reading of a table of which only the first rows are wanted.
var errEnough = errors.New("enough")

// ReadTable reads a table whole, or its first rows where limit is above 0.
func ReadTable(ctx context.Context, path string, r Recipe, limit int) (*Table, error) {
	t := &Table{}
	notes, err := Read(ctx, path, r, nil, Sink{
		Columns: func(names []string) error { t.Columns = names; return nil },
		Row: func(cells []string) error {
			t.Rows = append(t.Rows, cells)
			if len(t.Rows) == limit {
				return errEnough
			}
			return nil
		}})
	if errors.Is(err, errEnough) {
		err = nil
	}
	t.Notes = notes
	return t, err
}

// Read reads the file at path by a recipe and hands its table on. Rows in errors count from 1, the first row of the file
// being row 1, as a spreadsheet counts them. Read counts into done, which may be nil, how many bytes of the file it has
// used; a workbook and JSON are read more than once.
func Read(ctx context.Context, path string, r Recipe, done *atomic.Int64, to Sink) (Notes, error) {
	var notes Notes
	var err error
	if r.Split != nil {
		if to, err = splitting(*r.Split, to); err != nil {
			return notes, err
		}
	}
	g := &grid{recipe: r, to: to, notes: &notes, rest: " "}
	open := func() (io.ReadCloser, error) {
		f, err := os.Open(path)
		if err != nil {
			return nil, err
		}
		data, _, err := head(path)
		if err != nil {
			return nil, errors.Join(err, f.Close())
		}
		text, err := decoded(counting{f, done}, r.Encoding, loneCR(data))
		if err != nil {
			return nil, errors.Join(err, f.Close())
		}
		return struct {
			io.Reader
			io.Closer
		}{text, f}, nil
	}
	switch r.Format {
	case Sheet:
		err = readSheet(ctx, path, g)
	case JSON, NDJSON:
		err = readJSON(ctx, open, g)
	case Delimited, Lines, Blocks, Page:
		from, openErr := open()
		if openErr != nil {
			return notes, openErr
		}
		defer from.Close()
		switch r.Format {
		case Delimited:
			g.rest = r.Delimiter
			err = eachRow(ctx, from, r, &notes, g.add)
		case Lines:
			err = readLines(ctx, from, g)
		case Blocks:
			err = readBlocks(ctx, from, g)
		case Page:
			err = readPage(from, g)
		}
	default:
		return notes, fmt.Errorf("%w: there is no format %q", ErrFile, r.Format)
	}
	if err == nil {
		err = g.end()
	}
	return notes, err
}

// counting counts what is read of a file.
type counting struct {
	from io.Reader
	done *atomic.Int64
}

func (c counting) Read(b []byte) (int, error) {
	n, err := c.from.Read(b)
	if c.done != nil {
		c.done.Add(int64(n))
	}
	return n, err
}

// Columns that cutting documents into answers adds.
const (
	DocumentColumn = "document"
	PartColumn     = "part"
	PositionColumn = "position"
)

// Positions are the quarters of a document that a part may begin in.
var Positions = []string{"1st quarter", "2nd quarter", "3rd quarter", "4th quarter"}

// Place says where a part stands, a cell for each of these columns: its document by number, its own number there, which
// is one more than its place from 0, and the quarter of the document's parts that it begins in.
func Place(document, part, parts int) []string {
	return []string{strconv.Itoa(document), strconv.Itoa(part + 1), Positions[part*len(Positions)/parts]}
}

// splitting cuts the texts of a column on their way to a sink. Each part knows its document (the number of its row,
// from 1), its number in it, and the quarter of the document's parts that it stands in.
func splitting(s Split, to Sink) (Sink, error) {
	divide, err := text.NewDivider(s.Division)
	if err != nil {
		return to, fmt.Errorf("%w: cutting %q: %w", ErrFile, s.Column, err)
	}
	at, documents := -1, 0
	return Sink{
		Columns: func(names []string) error {
			for i, n := range names {
				switch n {
				case s.Column:
					at = i
				case DocumentColumn, PartColumn, PositionColumn:
					return fmt.Errorf("%w: there is a column %q already; documents can't be cut", ErrFile, n)
				}
			}
			if at < 0 {
				return fmt.Errorf("%w: there is no column %q to cut", ErrFile, s.Column)
			}
			return to.Columns(append(append([]string{}, names...), DocumentColumn, PartColumn, PositionColumn))
		},
		Row: func(cells []string) error {
			documents++
			parts := divide(cells[at])
			if len(parts) == 0 {
				parts = []string{cells[at]} // a blank document is a respondent who said nothing
			}
			for i, part := range parts {
				row := append(make([]string, 0, len(cells)+3), cells...)
				row[at] = part
				if err := to.Row(append(row, Place(documents, i, len(parts))...)); err != nil {
					return err
				}
			}
			return nil
		},
	}, nil
}
