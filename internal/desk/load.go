package desk

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/survey"
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

// rows reads a source for the store, telling all windows how far it is. Each gives what is to be stored of a row; nil: nothing.
func (d *Desk) rows(ctx context.Context, s Source, what string, notes *files.Notes, columns func(names []string) error, each func(cells []string) ([]string, error)) store.Rows {
	return func(row func(cells []string) error) error {
		var used atomic.Int64
		n, last := 0, time.Now()
		var err error
		*notes, err = files.Read(ctx, s.Path, s.Recipe, &used, files.Sink{Columns: columns, Row: func(cells []string) error {
			cells, err := each(cells)
			if n++; n%1000 == 0 && time.Since(last) > 100*time.Millisecond {
				last = time.Now()
				d.Events.Send(Event{Kind: "progress", What: what, Done: n, Total: s.total(n, used.Load())})
			}
			if err != nil || cells == nil {
				return err
			}
			return row(cells)
		}})
		if err == nil {
			d.Events.Send(Event{Kind: "progress", What: what, Done: n, Total: n})
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

// Unknown is the language of answers that are in none we know: nothing is stemmed or hidden there.
const Unknown = "und"

// Load reads a file by its recipe, checks it against what its columns are to be, and stores it: whole or not at all. The
// language of each open-ended column is found out if none is given; where none stands out it is English.
func (d *Desk) Load(ctx context.Context, name string, columns []survey.Spec, from Source, language string) (store.Study, files.Notes, error) {
	var notes files.Notes
	if err := checkColumns(columns); err != nil {
		return store.Study{}, notes, err
	}
	study := store.Study{Name: strings.TrimSpace(name), Setup: store.Setup{Columns: columns}}
	sameColumns := func(names []string) error {
		if len(columns) != len(names) {
			return fmt.Errorf("%w: the file has %d columns, %d were described", ErrRequest, len(names), len(columns))
		}
		return nil
	}
	first, check := make([][]string, len(columns)), checker(columns)
	row := func(cells []string) ([]string, error) {
		cells, err := check(cells)
		for i, c := range columns {
			if err == nil && c.Role == survey.OpenEnded && len(first[i]) < guessFrom {
				first[i] = append(first[i], cells[i])
			}
		}
		return cells, err
	}
	scheme := func(column int) playbook.Playbook {
		if language != "" {
			return playbook.New(language)
		}
		return playbook.New(cmp.Or(lexicon.GuessLanguage(first[column]).Language, "en"))
	}
	if err := d.Store.Load(ctx, &study, d.rows(ctx, from, "loading", &notes, sameColumns, row), scheme); err != nil {
		return store.Study{}, notes, fmt.Errorf("nothing was loaded: %w", err)
	}
	d.Events.Send(Event{Kind: "studies"})
	return study, notes, nil
}

// LoadTable stores a table that is in memory.
func (d *Desk) LoadTable(ctx context.Context, name string, columns []survey.Spec, t *files.Table, scheme store.Scheme) (store.Study, error) {
	study := store.Study{Name: name, Setup: store.Setup{Columns: columns}}
	err := d.Store.Load(ctx, &study, func(row func(cells []string) error) error {
		for _, r := range t.Rows {
			if err := row(r); err != nil {
				return err
			}
		}
		return nil
	}, scheme)
	return study, err
}

func checkColumns(columns []survey.Spec) error {
	if !slices.ContainsFunc(columns, func(c survey.Spec) bool { return c.Role == survey.OpenEnded }) {
		return fmt.Errorf("%w: no column is open-ended; say which one holds the answers", ErrRequest)
	}
	return survey.CheckNames(columns, nil)
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
