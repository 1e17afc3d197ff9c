package desk

import (
	"context"
	"fmt"
	"strings"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// Load checks a table against what its columns are to be, and stores it: whole or not at all.
func (d *Desk) Load(ctx context.Context, name string, columns []survey.Spec, t *files.Table, scheme func(column int) playbook.Playbook) (store.Study, error) {
	refuse := func(format string, args ...any) (store.Study, error) {
		return store.Study{}, fmt.Errorf("%w: "+format, append([]any{ErrRequest}, args...)...)
	}
	if len(columns) != len(t.Columns) {
		return refuse("the file has %d columns, %d were described", len(t.Columns), len(columns))
	}
	open := 0
	cells := make([][]string, len(columns))
	for i, spec := range columns {
		if spec.Name != t.Columns[i] {
			return refuse("column %d is %q in the file, not %q", i+1, t.Columns[i], spec.Name)
		}
		if spec.Role == survey.OpenEnded {
			open++
		}
		cells[i] = t.Column(i)
	}
	if open == 0 {
		return refuse("no column is open-ended; say which one holds the answers")
	}
	if _, _, err := Variables(columns, cells); err != nil {
		return store.Study{}, fmt.Errorf("nothing was loaded: %w", err)
	}
	study := store.Study{Name: strings.TrimSpace(name), Columns: columns}
	err := d.Store.Load(ctx, &study, t.Rows, scheme, func(rows int) {
		d.Events.Send(Event{Kind: "progress", What: "loading", Done: rows, Total: len(t.Rows)})
	})
	if err == nil {
		d.Events.Send(Event{Kind: "studies"})
	}
	return study, err
}
