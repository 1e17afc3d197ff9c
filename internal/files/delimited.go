package files

import (
	"bufio"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf8"
)

// eachRow gives the rows of delimited text, and counts the blank lines between them.
func eachRow(ctx context.Context, from io.Reader, r Recipe, notes *Notes, visit func(cells []string) error) error {
	comma, size := utf8.DecodeRuneInString(r.Delimiter)
	if size != len(r.Delimiter) || size == 0 || comma == '"' || comma == '\n' || comma == '\r' || comma == utf8.RuneError {
		return fmt.Errorf("%w: %q can't part cells; give one sign", ErrFile, r.Delimiter)
	}
	if r.Quotes == "none" {
		return eachLine(ctx, from, func(line string) error {
			if line == "" {
				notes.Blank++
				return nil
			}
			return visit(strings.Split(line, r.Delimiter))
		})
	}
	if r.Quotes == "lines" {
		return eachLine(ctx, from, func(line string) error {
			if line == "" {
				notes.Blank++
				return nil
			}
			return visit(cellsOf(line, comma))
		})
	}
	pieces := newPiecewise(from, maxLine)
	c := csv.NewReader(bufio.NewReaderSize(pieces, 1<<16))
	c.Comma, c.FieldsPerRecord, c.LazyQuotes = comma, -1, r.Quotes == "lax"
	line, rows := 1, 0 // line: the one after the last row
	for {
		pieces.next()
		cells, err := c.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		rows++
		if pieces.over {
			return fmt.Errorf("%w: row %d is larger than %d MiB; is a quote in it never closed?", ErrFile, rows+notes.Blank, maxLine>>20)
		}
		if err != nil {
			return csvError(err, rows+notes.Blank)
		}
		start, _ := c.FieldPos(0)
		notes.Blank += start - line
		last, _ := c.FieldPos(len(cells) - 1)
		line = last + strings.Count(cells[len(cells)-1], "\n") + 1
		if err := visit(cells); err != nil {
			return err
		}
		if rows%1000 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
	}
}

// cellsOf parts a line by itself. Where its quotes do not pair up they are signs like any other.
func cellsOf(line string, comma rune) []string {
	if !strings.Contains(line, `"`) {
		return strings.Split(line, string(comma))
	}
	c := csv.NewReader(strings.NewReader(line))
	c.Comma, c.FieldsPerRecord = comma, -1
	if cells, err := c.Read(); err == nil {
		return cells
	}
	return strings.Split(line, string(comma))
}

// swallows says whether a row holds others: one of its cells goes on over lines, of which the first, and a later one,
// have as many cells as a row of the table, and what stands first on the later one is written as what stands first in
// the row.
func swallows(cells []string, delimiter string, width int) bool {
	if width < 2 || len(cells) > width {
		return false
	}
	for i, cell := range cells {
		lines := strings.Split(cell, "\n")
		if len(lines) == 1 || i+1+strings.Count(lines[0], delimiter) != width {
			continue
		}
		for n, line := range lines[1:] {
			have := 1 + strings.Count(line, delimiter)
			if n == len(lines)-2 {
				have += len(cells) - 1 - i
			}
			first, _, _ := strings.Cut(line, delimiter)
			if have == width && manner(first) == manner(cells[0]) {
				return true
			}
		}
	}
	return false
}

// manner is how a cell is written: runs of digits as 9, of letters as a, all else as it is.
func manner(cell string) string {
	var b strings.Builder
	last := rune(0)
	for _, r := range strings.Trim(cell, "\" ") {
		switch {
		case unicode.IsDigit(r):
			r = '9'
		case unicode.IsLetter(r):
			r = 'a'
		}
		if r != last || r != '9' && r != 'a' {
			b.WriteRune(r)
		}
		last = r
	}
	return b.String()
}

// maxLine is how long a line of plain text may be, in bytes.
const maxLine = 16 << 20

// eachLine gives the lines of a text without their breaks.
func eachLine(ctx context.Context, from io.Reader, visit func(line string) error) error {
	s := bufio.NewScanner(from)
	s.Buffer(make([]byte, 1<<16), maxLine)
	n := 0
	for s.Scan() {
		if n++; n%1000 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if err := visit(strings.TrimSuffix(s.Text(), "\r")); err != nil {
			return err
		}
	}
	if errors.Is(s.Err(), bufio.ErrTooLong) {
		return fmt.Errorf("%w: line %d is longer than %d bytes", ErrFile, n+1, maxLine)
	}
	return s.Err()
}

func csvError(err error, row int) error {
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		reason := parse.Err.Error()
		switch {
		case errors.Is(parse.Err, csv.ErrQuote):
			reason = "a quote ends in the middle of a cell, or the one that began the cell is never closed; reading quotes laxly, or as plain signs, may help"
		case errors.Is(parse.Err, csv.ErrBareQuote):
			reason = "a quote stands inside a cell that is not quoted; reading quotes laxly, or as plain signs, may help"
		}
		return fmt.Errorf("%w: row %d (line %d, character %d): %s", ErrFile, row, parse.Line, parse.Column, reason)
	}
	return fmt.Errorf("%w: row %d: %w", ErrFile, row, err)
}
