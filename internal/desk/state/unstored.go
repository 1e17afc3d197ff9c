package state

import (
	"context"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/cells"
)

// Unstored opens a question of columns that are in memory and in no store: it can be asked, not edited.
func Unstored(
	ctx context.Context, columns []survey.Spec, came [][]string, column int, p playbook.Playbook,
) (*State, error) {
	setup := Setup{Rows: survey.FirstRows(len(came[column])), Columns: columns, Derived: p.Derived}
	study, err := NewStudy(setup, came, cells.Masking{}.With(0, p.Mask, p.NotPersonal), nil)
	if err != nil {
		return nil, err
	}
	return Begin(
		ctx, Question{Name: columns[column].Name, Column: column}, study, 0, scheme.New(p, scheme.Decisions{}), Links{},
	)
}
