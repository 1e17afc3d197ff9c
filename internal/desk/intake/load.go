// Package intake is how files become studies, further respondents and further columns.
package intake

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"sync/atomic"
	"time"

	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// Source is a file on its way in: where it is kept, and how it is read.
type Source struct {
	Path   string
	Size   int64 // bytes
	Recipe files.Recipe
}

// Table reads the first rows of a source.
func (s Source) Table(ctx context.Context, rows int) (*files.Table, error) {
	return files.ReadTable(ctx, s.Path, s.Recipe, rows)
}

// Guesses guesses what the columns of a table are.
func Guesses(t *files.Table) []survey.Guess {
	columns := make([][]string, len(t.Columns))
	for i := range columns {
		columns[i] = t.Column(i)
	}
	return survey.Guesses(t.Columns, columns)
}

// Progress tells how far reading is; total is 0 where that can't be told.
type Progress func(what string, done, total int)

// rows reads a source for the store. Each gives what is to be stored of a row; nil: nothing.
func (s Source) rows(ctx context.Context, what string, progress Progress, notes *files.Notes, columns func(names []string) error,
	each func(cells []string) ([]string, error)) store.Rows {
	return func(row func(cells []string) error) error {
		var used atomic.Int64
		n, last := 0, time.Now()
		var err error
		*notes, err = files.Read(ctx, s.Path, s.Recipe, &used, files.Sink{Columns: columns, Row: func(cells []string) error {
			cells, err := each(cells)
			if n++; n%1000 == 0 && time.Since(last) > 100*time.Millisecond {
				last = time.Now()
				progress(what, n, s.total(n, used.Load()))
			}
			if err != nil || cells == nil {
				return err
			}
			return row(cells)
		}})
		if err == nil {
			progress(what, n, n)
		}
		return err
	}
}

// total estimates how many rows there are from how much of the file n of them took; 0 where that can't be told.
func (s Source) total(n int, used int64) int {
	if used == 0 || s.Recipe.Format == files.JSON || s.Recipe.Format == files.NDJSON {
		return 0
	}
	return int(float64(n) * float64(s.Size) / float64(min(used, s.Size)))
}

// guessFrom is how many of the first answers of a column its language is told from.
const guessFrom = 4000

// Loading is a file on its way to become a study.
type Loading struct {
	columns []survey.Spec
	first   [][]string // the first answers of each open-ended column
	Notes   files.Notes
}

// Load makes rows for the store of a file, checked against what its columns are to be.
func Load(ctx context.Context, columns []survey.Spec, from Source, progress Progress) (*Loading, store.Rows, error) {
	if !slices.ContainsFunc(columns, func(c survey.Spec) bool { return c.Role == survey.OpenEnded }) {
		return nil, nil, fmt.Errorf("%w: no column is open-ended; say which one holds the answers", state.ErrRequest)
	}
	if err := survey.CheckNames(columns, nil); err != nil {
		return nil, nil, err
	}
	l := &Loading{columns: columns, first: make([][]string, len(columns))}
	sameColumns := func(names []string) error {
		if len(columns) != len(names) {
			return fmt.Errorf("%w: the file has %d columns, %d were described", state.ErrRequest, len(names), len(columns))
		}
		return nil
	}
	check := checker(columns)
	return l, from.rows(ctx, "loading", progress, &l.Notes, sameColumns, func(cells []string) ([]string, error) {
		cells, err := check(cells)
		for i, c := range columns {
			if err == nil && c.Role == survey.OpenEnded && len(l.first[i]) < guessFrom {
				l.first[i] = append(l.first[i], cells[i])
			}
		}
		return cells, err
	}), nil
}

// Scheme is what a question of the file begins with. Its language is found out if none is given; where none stands out it is
// English.
func (l *Loading) Scheme(language string) store.Begin {
	return func(column int) playbook.Playbook {
		if language != "" {
			return playbook.New(language)
		}
		return playbook.New(cmp.Or(lexicon.GuessLanguage(l.first[column]).Language, "en"))
	}
}

// checker refuses rows that can't be stored as what their columns are: weights that are no numbers.
func checker(columns []survey.Spec) func(cells []string) ([]string, error) {
	checks := make([]func(string) error, len(columns))
	for i, c := range columns {
		checks[i] = c.WeightCheck()
	}
	n := 0
	return func(cells []string) ([]string, error) {
		n++
		for i, check := range checks {
			if check == nil {
				continue
			}
			if err := check(cells[i]); err != nil {
				return nil, fmt.Errorf("row %d of the data, column %q: %w", n, columns[i].Name, err)
			}
		}
		return cells, nil
	}
}
