package desk

import (
	"context"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/cells"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
	"aftermath/internal/view"
)

// TryRows reads a further file whole and tells what adding its rows would bring.
func (d *Desk) TryRows(ctx context.Context, s *state.Study, from intake.Source, f intake.Further) (intake.FurtherReport, error) {
	return intake.TryFurther(ctx, s, from, f, d.progress)
}

// AddRows adds the rows of a further file as respondents, in one edit of the study.
func (d *Desk) AddRows(ctx context.Context, id int64, revision int, from intake.Source, f intake.Further) (StudyEffect, error) {
	return d.editStudy(ctx, id, revision, func(e editing) (StudyEffect, error) {
		if err := d.roomFor(from); err != nil {
			return StudyEffect{}, err
		}
		a, err := intake.AddRows(ctx, e.before, from, f, d.progress)
		if err != nil {
			return StudyEffect{}, err
		}
		return e.add(ctx, a, func(added, replaced int) string {
			switch fresh := added - replaced; {
			case replaced == 0:
				return "Added " + view.Plural(added, "respondent")
			case fresh <= 0:
				return "Replaced " + view.Plural(replaced, "respondent")
			default:
				return fmt.Sprintf("Replaced %s, added %d", view.Plural(replaced, "respondent"), fresh)
			}
		})
	})
}

// TryDivide tells what cutting the answers of a column into several would do.
func (d *Desk) TryDivide(ctx context.Context, s *state.Study, how files.Split) (intake.Divided, error) {
	return intake.TryDivide(ctx, s, how)
}

// TryColumns reads a second file whole and tells what its columns would bring.
func (d *Desk) TryColumns(ctx context.Context, s *state.Study, from intake.Source, j intake.Join) (intake.JoinReport, error) {
	return intake.TryJoin(ctx, s, from, j, d.progress)
}

// AddColumns adds columns of a second file to the respondents with the same key, in one edit of the study.
func (d *Desk) AddColumns(ctx context.Context, id int64, revision int, from intake.Source, j intake.Join) (StudyEffect, error) {
	return d.editStudy(ctx, id, revision, func(e editing) (StudyEffect, error) {
		if err := d.roomFor(from); err != nil {
			return StudyEffect{}, err
		}
		a, matched, err := intake.AddColumns(ctx, e.before, from, j, d.progress)
		if err != nil {
			return StudyEffect{}, err
		}
		edit := store.StudyEdit{Before: e.record.Setup, After: a.Setup}
		edit.Summary = "Added " + view.Plural(len(j.Columns), "column") + " to " + view.Plural(matched, "respondent")
		return e.keep(ctx, &edit, store.AddColumns(ctx, e.record, a.Rows))
	})
}

// divide cuts the answers of a column into several.
func (e editing) divide(ctx context.Context, how files.Split) (StudyEffect, error) {
	a, err := intake.DivideRows(ctx, e.before, how)
	if err != nil {
		return StudyEffect{}, err
	}
	return e.add(ctx, a, func(parts, cut int) string {
		return fmt.Sprintf("Cut %s to %s into %d", view.Plural(cut, "answer"), how.Column, parts)
	})
}

// add keeps further rows, and takes those away in whose place they stand. Summary says what was done, by how many came and went.
func (e editing) add(ctx context.Context, a intake.Addition, summary func(came, went int) string) (StudyEffect, error) {
	edit := store.StudyEdit{Before: e.record.Setup, After: a.Setup}
	effect, err := e.keep(ctx, &edit, func(tx pgx.Tx) error {
		if a.Before != nil {
			if err := store.AddColumns(ctx, e.record, a.Before)(tx); err != nil {
				return err
			}
		}
		came := 0
		if err := store.AddRows(ctx, e.record, a.Rows, &edit.After, &came)(tx); err != nil {
			return err
		}
		if came == 0 {
			return fmt.Errorf("%w: nothing changes", state.ErrRequest)
		}
		var gone []survey.Respondent
		for _, i := range a.Instead() {
			gone = append(gone, i.Of)
		}
		set := survey.RespondentsOf(gone...)
		edit.After.Rows = edit.After.Rows.Without(set)
		edit.Summary = summary(came, set.Len())
		return nil
	})
	if err != nil {
		return effect, err
	}
	return effect, e.takeOver(ctx, a.Instead())
}

// takeOver has what was decided by hand on answers hold for the rows that stand in their place, where these say the same to the
// letter: an edit of each question that this concerns.
func (e editing) takeOver(ctx context.Context, instead []intake.Instead) error {
	if len(instead) == 0 {
		return nil
	}
	after, err := e.desk.Study(ctx, e.record.ID)
	if err != nil {
		return err
	}
	questions, err := e.desk.store.Questions(ctx, e.record.ID)
	if err != nil {
		return err
	}
	for _, q := range questions {
		// A column that is gone, or open-ended no longer, keeps its question out of sight: nobody edits it.
		if q.Column >= e.before.Cells.Columns() || after.Columns[q.Column].Role != survey.OpenEnded {
			continue
		}
		if err := e.takeOverIn(ctx, q, after, instead); err != nil {
			return err
		}
	}
	return nil
}

// takeOverTries is how often taking over is tried while other windows edit the question.
const takeOverTries = 5

func (e editing) takeOverIn(ctx context.Context, q store.Question, after *state.Study, instead []intake.Instead) error {
	for try := 1; ; try++ {
		decisions, err := e.desk.store.Decisions(ctx, q.ID)
		if err != nil {
			return err
		}
		over := e.same(decisions.Decided(), q.Column, after, instead)
		if len(over.From) == 0 {
			return nil
		}
		_, err = e.desk.Edit(ctx, q.ID, q.Revision, over)
		if !errors.Is(err, ErrConflict) || try == takeOverTries {
			return err
		}
		if q, err = e.desk.store.Question(ctx, q.ID); err != nil {
			return err
		}
	}
}

// same are the respondents with decisions whose answer to a question is the same in the row that stands in their place.
// Of several who give way to one row it is the last.
func (e editing) same(decided survey.Respondents, column int, after *state.Study, instead []intake.Instead) (over scheme.TakeOver) {
	cellsBefore, cellsAfter := e.before.Cells.AsCame(column, cells.ToCompare), after.Cells.AsCame(column, cells.ToCompare)
	for n, i := range instead {
		last := n+1 == len(instead) || instead[n+1].Row != i.Row
		if !last || !decided.Has(i.Of) {
			continue
		}
		now := e.record.NextRespondent + survey.Respondent(i.Row)
		was, _ := e.before.Rows.Row(i.Of)
		row, _ := after.Rows.Row(now)
		if cellsBefore[was] == cellsAfter[row] {
			over.From, over.To = append(over.From, i.Of), append(over.To, now)
		}
	}
	return over
}
