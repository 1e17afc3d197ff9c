package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/report"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// Record is a study as lists show it.
type Record struct {
	state.Setup
	Created   time.Time
	Questions []QuestionRecord // of the columns that are open-ended now
}

// QuestionRecord names a question.
type QuestionRecord struct {
	ID   int64
	Name string
	Mask bool // personal data is masked
}

// Studies lists all studies, the newest first.
func (d *Desk) Studies(ctx context.Context) ([]Record, error) {
	all, err := d.store.Studies(ctx)
	if err != nil {
		return nil, err
	}
	out := []Record{}
	for _, s := range all {
		r, err := d.record(ctx, s)
		if err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, nil
}

// Record gives one study as lists show it.
func (d *Desk) Record(ctx context.Context, id int64) (Record, error) {
	s, err := d.store.Study(ctx, id)
	if err != nil {
		return Record{}, err
	}
	return d.record(ctx, s)
}

func (d *Desk) record(ctx context.Context, s store.Study) (Record, error) {
	out := Record{Setup: setupOf(s), Created: s.Created}
	questions, err := d.store.Questions(ctx, s.ID)
	for _, q := range questions {
		// A column that is open-ended no longer keeps its question, out of sight, in case it becomes so again.
		if q.Column < len(s.Columns) && s.Columns[q.Column].Role == survey.OpenEnded {
			out.Questions = append(out.Questions, QuestionRecord{q.ID, s.Columns[q.Column].Name, q.Scheme.Mask})
		}
	}
	return out, err
}

// DeleteStudy deletes a study and forgets it.
func (d *Desk) DeleteStudy(ctx context.Context, id int64) error {
	mu := d.setup(id)
	if err := mu.Acquire(ctx, 1); err != nil {
		return err
	}
	defer mu.Release(1)
	if err := d.store.DeleteStudy(ctx, id); err != nil {
		return err
	}
	d.forgetStudy(id)
	d.Events.Send(Event{Kind: "studies"})
	return nil
}

// SetupEdit is one change to what a study's columns are. Kind says which of the other parts count.
type SetupEdit struct {
	Kind    string          `json:"kind" enum:"column,derive,remove variable"`
	Column  *survey.Spec    `json:"column,omitempty" doc:"column: all of it; its name says which"`
	Derived *survey.Derived `json:"derived,omitempty" doc:"derive: the variable; it takes the place of one of that name"`
	Name    string          `json:"name,omitempty" doc:"remove variable: a derived one"`
}

// apply changes a setup and says in a few words what was done.
func (e SetupEdit) apply(to *store.Setup) (summary string, err error) {
	if data, _ := json.Marshal(e); strings.Contains(string(data), `\u0000`) {
		return "", fmt.Errorf("%w: a name holds a null character, which can't be stored; take it out", state.ErrRequest)
	}
	to.Columns, to.Derived = slices.Clone(to.Columns), slices.Clone(to.Derived)
	switch {
	case e.Kind == "column" && e.Column != nil:
		i := slices.IndexFunc(to.Columns, func(c survey.Spec) bool { return c.Name == e.Column.Name })
		if i < 0 {
			return "", fmt.Errorf("%w: there is no column %q", state.ErrRequest, e.Column.Name)
		}
		summary = "Changed how " + e.Column.Name + " is read"
		if to.Columns[i].Role != e.Column.Role {
			summary = fmt.Sprintf("Made %s a %s column", e.Column.Name, e.Column.Role)
		}
		to.Columns[i] = *e.Column
		if !slices.ContainsFunc(to.Columns, func(c survey.Spec) bool { return c.Role == survey.OpenEnded }) {
			return "", fmt.Errorf("%w: no column would be open-ended any more", state.ErrRequest)
		}
		return summary, nil
	case e.Kind == "derive" && e.Derived != nil:
		i := slices.IndexFunc(to.Derived, func(d survey.Derived) bool { return d.Name == e.Derived.Name })
		if i >= 0 {
			to.Derived[i] = *e.Derived
			return "Changed the variable " + e.Derived.Name, nil
		}
		to.Derived = append(to.Derived, *e.Derived)
		return "Made the variable " + e.Derived.Name, survey.CheckNames(to.Columns, to.Derived)
	case e.Kind == "remove variable":
		n := len(to.Derived)
		to.Derived = slices.DeleteFunc(to.Derived, func(d survey.Derived) bool { return d.Name == e.Name })
		if len(to.Derived) == n {
			return "", fmt.Errorf("%w: %q is not a variable that was made of others", state.ErrRequest, e.Name)
		}
		return "Removed the variable " + e.Name, nil
	}
	return "", fmt.Errorf("%w: there is no edit %q of a study, or a part of it is missing", state.ErrRequest, e.Kind)
}

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

// EditStudy makes an edit on the revision of a study that the caller has seen, and keeps it.
func (d *Desk) EditStudy(ctx context.Context, id int64, revision int, change SetupEdit) (StudyEffect, error) {
	return d.editStudy(ctx, id, revision, func(e editing) (StudyEffect, error) {
		after := e.record.Setup
		summary, err := change.apply(&after)
		if err != nil {
			return StudyEffect{}, err
		}
		record := e.record
		record.Setup = after
		// A column that can't be read so is refused before it is stored.
		next, err := state.NewStudy(setupOf(record), e.before.Cells, e.before)
		if err != nil {
			return StudyEffect{}, err
		}
		// Later, when its source changes, it may fail, and be said.
		if change.Kind == "derive" && next.Failed[change.Derived.Name] != nil {
			return StudyEffect{}, next.Failed[change.Derived.Name]
		}
		return e.keep(ctx, &store.StudyEdit{Summary: summary, Before: e.record.Setup, After: after}, nil)
	})
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
	loading, rows, err := intake.Load(ctx, columns, from, d.progress)
	if err != nil {
		return Record{}, files.Notes{}, err
	}
	study := store.Study{Name: strings.TrimSpace(name), Setup: store.Setup{Columns: columns}}
	if err := d.store.Load(ctx, &study, rows, loading.Scheme(language)); err != nil {
		return Record{}, loading.Notes, fmt.Errorf("nothing was loaded: %w", err)
	}
	d.Events.Send(Event{Kind: "studies"})
	record, err := d.record(ctx, study)
	return record, loading.Notes, err
}

// LoadTable stores a table that is in memory.
func (d *Desk) LoadTable(
	ctx context.Context, name string, columns []survey.Spec, t *files.Table, begin func(column int) playbook.Playbook,
) (Record, error) {
	study := store.Study{Name: name, Setup: store.Setup{Columns: columns}}
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
	return d.record(ctx, study)
}

// TryRows reads a further file whole and tells what adding its rows would bring.
func (d *Desk) TryRows(ctx context.Context, s *state.Study, from intake.Source, f intake.Further) (intake.FurtherReport, error) {
	return intake.TryFurther(ctx, s, from, f, d.progress)
}

// AddRows adds the rows of a further file as respondents, in one edit of the study.
func (d *Desk) AddRows(ctx context.Context, id int64, revision int, from intake.Source, f intake.Further) (StudyEffect, error) {
	return d.editStudy(ctx, id, revision, func(e editing) (StudyEffect, error) {
		a, err := intake.AddRows(ctx, e.before, from, f, d.progress)
		if err != nil {
			return StudyEffect{}, err
		}
		edit := store.StudyEdit{Before: e.record.Setup, After: a.Setup}
		return e.keep(ctx, &edit, func(tx pgx.Tx) error {
			if len(a.Before) > 0 {
				if err := store.AddColumns(ctx, e.record, intake.Repeat(a.Before, e.before.Respondents()))(tx); err != nil {
					return err
				}
			}
			added := 0
			err := store.AddRows(ctx, e.record, a.Rows, &edit.After, &added)(tx)
			edit.Summary = "Added " + report.Plural(added, "respondent")
			return err
		})
	})
}

// TryColumns reads a second file whole and tells what its columns would bring.
func (d *Desk) TryColumns(ctx context.Context, s *state.Study, from intake.Source, j intake.Join) (intake.JoinReport, error) {
	return intake.TryJoin(ctx, s, from, j, d.progress)
}

// AddColumns adds columns of a second file to the respondents with the same key, in one edit of the study.
func (d *Desk) AddColumns(ctx context.Context, id int64, revision int, from intake.Source, j intake.Join) (StudyEffect, error) {
	return d.editStudy(ctx, id, revision, func(e editing) (StudyEffect, error) {
		a, matched, err := intake.AddColumns(ctx, e.before, from, j, d.progress)
		if err != nil {
			return StudyEffect{}, err
		}
		edit := store.StudyEdit{Before: e.record.Setup, After: a.Setup}
		edit.Summary = "Added " + report.Plural(len(j.Columns), "column") + " to " + report.Plural(matched, "respondent")
		return e.keep(ctx, &edit, store.AddColumns(ctx, e.record, a.Rows))
	})
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
	d.mu.Lock()
	d.studies[kept.ID] = &openStudy{next, time.Now()} // from now on no question is opened with the one before
	d.mu.Unlock()
	for _, q := range d.openQuestions(kept.ID) {
		if err := q.renew(ctx, next); err != nil {
			d.forgetStudy(kept.ID)
			return err
		}
	}
	d.Events.Send(Event{Kind: "studies", Study: kept.ID, Revision: kept.Revision})
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
	return nil
}
