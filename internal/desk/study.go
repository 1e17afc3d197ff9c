package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"

	"github.com/jackc/pgx/v5"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/store"
)

// Study is a study in memory. It does not change once made.
type Study struct {
	store.Study
	survey.Set
	Cells [][]string // by column, as they came

	profiles []func() survey.Profile // each worked out when it is first asked for
	strip    func() *strip

	periodsMade *periodsCache
}

func newStudy(record store.Study, cells [][]string, earlier *Study) (*Study, error) {
	s := &Study{Study: record, Cells: cells, periodsMade: &periodsCache{made: map[string]*survey.Variable{}}}
	s.strip = sync.OnceValue(func() *strip { return newStrip(s) })
	var err error
	var known survey.Set
	if earlier != nil && earlier.Respondents == record.Respondents {
		known = earlier.Set
	}
	if s.Set, err = survey.Build(record.Columns, record.Derived, cells, known); err != nil {
		return nil, err
	}
	for i, spec := range record.Columns {
		if earlier != nil && earlier.Respondents == record.Respondents && i < len(earlier.Columns) && same(spec, earlier.Columns[i]) {
			s.profiles = append(s.profiles, earlier.profiles[i])
			continue
		}
		s.profiles = append(s.profiles, sync.OnceValue(func() survey.Profile { return survey.NewProfile(spec, cells[i]) }))
	}
	return s, nil
}

// Profile is what there is to know of a column.
func (s *Study) Profile(column int) survey.Profile { return s.profiles[column]() }

// Variable finds a variable by its name.
func (s *Study) Variable(name string) (*survey.Variable, error) {
	if v, ok := s.Find(name); ok {
		return v, nil
	}
	return nil, fmt.Errorf("%w: there is no variable %q", ErrRequest, name)
}

// Study opens a study.
func (d *Desk) Study(ctx context.Context, id int64) (*Study, error) {
	return slot(d, d.studies, id).get(func() (*Study, error) {
		record, err := d.Store.Study(ctx, id)
		if err != nil {
			return nil, err
		}
		cells, err := d.Store.Columns(ctx, record)
		if err != nil {
			return nil, err
		}
		return newStudy(record, cells, nil)
	})
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
	to.Columns, to.Derived = slices.Clone(to.Columns), slices.Clone(to.Derived)
	switch {
	case e.Kind == "column" && e.Column != nil:
		i := slices.IndexFunc(to.Columns, func(c survey.Spec) bool { return c.Name == e.Column.Name })
		if i < 0 {
			return "", fmt.Errorf("%w: there is no column %q", ErrRequest, e.Column.Name)
		}
		summary = "Changed how " + e.Column.Name + " is read"
		if to.Columns[i].Role != e.Column.Role {
			summary = fmt.Sprintf("Made %s a %s column", e.Column.Name, e.Column.Role)
		}
		to.Columns[i] = *e.Column
		if !slices.ContainsFunc(to.Columns, func(c survey.Spec) bool { return c.Role == survey.OpenEnded }) {
			return "", fmt.Errorf("%w: no column would be open-ended any more", ErrRequest)
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
			return "", fmt.Errorf("%w: %q is not a variable that was made of others", ErrRequest, e.Name)
		}
		return "Removed the variable " + e.Name, nil
	}
	return "", fmt.Errorf("%w: there is no edit %q of a study, or a part of it is missing", ErrRequest, e.Kind)
}

// EditStudy makes an edit on the revision of a study that the caller has seen, and keeps it. It fails with
// store.ErrConflict if the study is at another revision by now.
func (d *Desk) EditStudy(ctx context.Context, id int64, revision int, e SetupEdit) (string, error) {
	d.setup.Lock()
	defer d.setup.Unlock()
	before, err := d.Study(ctx, id)
	if err != nil {
		return "", err
	}
	after := before.Setup
	summary, err := e.apply(&after)
	if err != nil {
		return "", err
	}
	record := before.Study
	record.Setup = after
	next, err := newStudy(record, before.Cells, before) // a column that can't be read so is refused before it is stored
	if err != nil {
		return "", err
	}
	if e.Kind == "derive" && next.Failed[e.Derived.Name] != nil { // later, when its source changes, it may fail and be said
		return "", next.Failed[e.Derived.Name]
	}
	edit := store.StudyEdit{Summary: summary, Before: before.Setup, After: after}
	return summary, d.keepStudy(ctx, before, revision, &edit, nil, func(kept store.Study) (*Study, error) {
		next.Study = kept
		return next, nil
	})
}

// keepStudy stores an edit of a study and brings what is open up to date. More, which may be nil, stores what else belongs
// to it; open makes the study as it is then.
func (d *Desk) keepStudy(ctx context.Context, before *Study, revision int, edit *store.StudyEdit, more func(tx pgx.Tx) error, open func(store.Study) (*Study, error)) error {
	if revision != before.Revision {
		return store.ErrConflict
	}
	kept, err := d.Store.KeepStudy(ctx, before.Study, edit, d.scheme(ctx, before.ID), more)
	if err != nil {
		d.forgetStudy(before.ID)
		return err
	}
	return d.renew(before, kept, open)
}

// scheme is what a further question of a study begins with: the defaults, in the language of its first question.
func (d *Desk) scheme(ctx context.Context, study int64) store.Scheme {
	language := "en"
	if questions, err := d.Store.Questions(ctx, study); err == nil && len(questions) > 0 {
		language = questions[0].Scheme.Language
	}
	return func(int) playbook.Playbook { return playbook.New(language) }
}

// renew puts a study's new state in the place of the one before. Open questions go on with the new variables; if there
// are other respondents, or their column is gone, they are opened anew.
func (d *Desk) renew(before *Study, kept store.Study, open func(store.Study) (*Study, error)) error {
	next, err := open(kept)
	if err != nil {
		d.forgetStudy(before.ID)
		return err
	}
	slot(d, d.studies, before.ID).put(next)
	for _, q := range d.openQuestions(before.ID) {
		q.edit.Lock()
		if next.Respondents != before.Respondents || q.column >= len(next.Columns) {
			q.closed = true
			d.forget(q.ID)
		} else {
			state := *q.State()
			state.Study = next
			state.Coding = state.Playbook.Code(state.View, q.Answers, next.Variables, state.Decisions, state.Coding.OfOtherVariables())
			q.state.Store(&state)
		}
		q.edit.Unlock()
	}
	d.Events.Send(Event{Kind: "studies"})
	return nil
}

func (d *Desk) openQuestions(study int64) (out []*Question) {
	d.mu.Lock()
	slots := make([]*opening[*Question], 0, len(d.questions))
	for _, o := range d.questions {
		slots = append(slots, o)
	}
	d.mu.Unlock()
	for _, o := range slots {
		if q, ok := o.opened(); ok && q.StudyID == study {
			out = append(out, q)
		}
	}
	return out
}

// plural counts things in words.
func plural(n int, thing string) string {
	if n == 1 {
		return "one " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}

// forgetStudy lets a study and its questions be opened anew.
func (d *Desk) forgetStudy(id int64) {
	for _, q := range d.openQuestions(id) {
		d.forget(q.ID)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.studies, id)
}

// undoStudy takes the newest edit of a study's setup back; with again, the one that was undone last is done again.
func (d *Desk) undoStudy(ctx context.Context, id int64, again bool) (string, error) {
	d.setup.Lock()
	defer d.setup.Unlock()
	find := d.Store.StudyUndoable
	if again {
		find = d.Store.StudyRedoable
	}
	e, err := find(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return "", ErrNothing
	}
	if err != nil {
		return "", err
	}
	before, err := d.Study(ctx, id)
	if err != nil {
		return "", err
	}
	e.Undone = !again
	kept, err := d.Store.MarkStudyEdit(ctx, before.Study, e)
	if err != nil {
		d.forgetStudy(id)
		return "", err
	}
	summary := map[bool]string{false: "Undone: ", true: "Done again: "}[again] + e.Summary
	return summary, d.renew(before, kept, func(kept store.Study) (*Study, error) {
		if kept.Respondents == before.Respondents && len(kept.Columns) <= len(before.Columns) {
			return newStudy(kept, before.Cells[:len(kept.Columns)], before)
		}
		return d.fromStore(ctx, before)(kept)
	})
}

// Making is what a derived variable would be.
type Making struct {
	Problem string              `json:"problem,omitempty"`
	Values  []survey.ValueCount `json:"values"`
	Missing int                 `json:"missing" doc:"respondents without a value"`
}

// TryDerived works a derived variable out without keeping it.
func (s *Study) TryDerived(e survey.Derived) Making {
	m := Making{Values: []survey.ValueCount{}}
	v, err := s.Derive(e)
	if err != nil {
		m.Problem = err.Error()
		return m
	}
	for _, value := range v.Values {
		m.Values = append(m.Values, survey.ValueCount{Value: value, Count: int(v.With(value).GetCardinality())})
	}
	m.Missing = s.Respondents - int(v.Filled().GetCardinality())
	return m
}
