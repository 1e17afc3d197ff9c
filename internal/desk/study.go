package desk

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// StudyEffect is what an edit of a study did.
type StudyEffect struct {
	Summary  string
	Revision int   // of the study
	Edit     int64 // what undo is told to take it back
}

// editing is an edit of a study that is being made: under the lock of its setup, on the revision that the caller has seen.
type editing struct {
	desk   *Desk
	before *state.Study
	record store.Study
}

// editStudy makes an edit of a study's setup and keeps it. It fails with ErrConflict if the study is at another revision by now.
func (d *Desk) editStudy(
	ctx context.Context, id int64, revision int, do func(e editing) (StudyEffect, error),
) (StudyEffect, error) {
	mu := d.setup(id)
	if err := mu.Acquire(ctx, 1); err != nil {
		return StudyEffect{}, err
	}
	defer mu.Release(1)
	before, err := d.Study(ctx, id)
	if err != nil {
		return StudyEffect{}, err
	}
	record, err := d.store.Study(ctx, id)
	if err != nil {
		return StudyEffect{}, err
	}
	if record.Revision != before.Revision { // another program has changed it
		d.forgetStudy(id)
		return StudyEffect{}, ErrConflict
	}
	if revision != before.Revision {
		return StudyEffect{}, ErrConflict
	}
	return do(editing{d, before, record})
}

// keep stores an edit of a study and brings what is open up to date. More, which may be nil, stores what else belongs to it.
func (e editing) keep(ctx context.Context, edit *store.StudyEdit, more func(tx pgx.Tx) error) (StudyEffect, error) {
	edit.By = Maker(ctx)
	kept, number, err := e.desk.store.KeepStudy(ctx, e.record, edit, e.desk.begin(ctx, e.record.ID), more)
	if err != nil {
		if ProblemOf(err) == Away {
			e.desk.forgetStudy(e.record.ID)
		}
		return StudyEffect{}, err
	}
	return StudyEffect{edit.Summary, kept.Revision, number}, e.desk.renew(ctx, kept)
}

// begin is what a further question of a study begins with: the defaults, in the language of its first question.
func (d *Desk) begin(ctx context.Context, study int64) store.Begin {
	language := "en"
	if questions, err := d.store.Questions(ctx, study); err == nil && len(questions) > 0 {
		language = questions[0].Scheme.Language
	}
	return func(int) playbook.Playbook { return playbook.New(language) }
}

// progress tells all windows how far reading a file is.
func (d *Desk) progress(what string, done, total int) {
	d.Events.Send(Event{Kind: "progress", What: what, Done: done, Total: total})
}

// Load reads a file by its recipe, checks it against what its columns are to be, and stores it: whole or not at all. The language
// of each open-ended column is found out if none is given.
func (d *Desk) Load(
	ctx context.Context, name string, columns []survey.Spec, from intake.Source, language string,
) (Record, files.Notes, error) {
	if err := d.roomFor(from); err != nil {
		return Record{}, files.Notes{}, err
	}
	loading, rows, err := intake.Load(ctx, columns, from, d.progress)
	if err != nil {
		return Record{}, files.Notes{}, err
	}
	name, err = studyName(name)
	if err != nil {
		return Record{}, loading.Notes, err
	}
	study := store.Study{Setup: store.Setup{Name: name, Columns: columns}}
	if err := d.store.Load(ctx, &study, rows, loading.Scheme(language)); err != nil {
		return Record{}, loading.Notes, fmt.Errorf("nothing was loaded: %w", err)
	}
	d.Events.Send(Event{Kind: "studies"})
	record, err := d.Record(ctx, study.ID)
	return record, loading.Notes, err
}

// LoadTable stores a table that is in memory.
func (d *Desk) LoadTable(
	ctx context.Context, name string, columns []survey.Spec, t *files.Table, begin func(column int) playbook.Playbook,
) (Record, error) {
	study := store.Study{Setup: store.Setup{Name: name, Columns: columns}}
	err := d.store.Load(ctx, &study, func(row func(cells []string) error) error {
		for _, r := range t.Rows {
			if err := row(r); err != nil {
				return err
			}
		}
		return nil
	}, begin)
	if err != nil {
		return Record{}, err
	}
	d.Events.Send(Event{Kind: "studies"})
	return d.Record(ctx, study.ID)
}

// renew puts a study as it was kept in the place of the one before. Open questions go on with the new variables; if there are
// other respondents, or their column is gone, they are opened anew.
func (d *Desk) renew(ctx context.Context, kept store.Study) error {
	before := d.openedStudy(kept.ID)
	next, err := d.fromStore(ctx, kept, before)
	if err != nil {
		d.forgetStudy(kept.ID)
		return err
	}
	return d.replace(ctx, next)
}

// replace puts a study in the place of the one that is open, and has its open questions go on with it. The lock of its setup is held.
func (d *Desk) replace(ctx context.Context, next *state.Study) error {
	d.mu.Lock()
	d.studies[next.ID] = &openStudy{next, time.Now()} // from now on no question is opened with the one before
	d.mu.Unlock()
	for _, q := range d.openQuestions(next.ID) {
		if err := q.renew(ctx, next); err != nil {
			d.forgetStudy(next.ID)
			return err
		}
	}
	d.Events.Send(Event{Kind: "studies", Study: next.ID, Revision: next.Revision})
	return nil
}

// renew goes on with other variables, or closes the question.
func (q *Question) renew(ctx context.Context, study *state.Study) error {
	_ = q.edit.Acquire(context.Background(), 1) // that never ends
	defer q.edit.Release(1)
	s := q.State()
	if q.closed || s.Study == study {
		return nil
	}
	if !slices.Equal(study.Rows, s.Study.Rows) || s.Column >= len(study.Columns) {
		q.closeLocked()
		return nil
	}
	next, err := s.Of(context.WithoutCancel(ctx), study)
	if err != nil {
		return err
	}
	q.put(next)
	q.desk.keepFigures(ctx, q.ID, *figures(next))
	return nil
}
