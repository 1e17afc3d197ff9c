package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/jackc/pgx/v5"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// SetupEdit is one change to what a study's columns are. Kind says which of the other parts count.
type SetupEdit struct {
	Kind    string          `json:"kind" enum:"column,columns,rename,derive,remove variable,study name,under answers,divide"`
	Column  *survey.Spec    `json:"column,omitempty" doc:"column: all of it; its name says which"`
	Columns []survey.Spec   `json:"columns,omitempty" maxItems:"2000" doc:"columns: several at once, each as in column"`
	To      string          `json:"to,omitempty" doc:"rename: the new name of the column; as it is if left out"`
	Values  []survey.Called `json:"values,omitempty" maxItems:"2000" doc:"rename: values of the column, by what they are called now, with their new names"`
	Derived *survey.Derived `json:"derived,omitempty" doc:"derive: the variable; it takes the place of one of that name"`
	Name    string          `json:"name,omitempty" doc:"rename: the column; remove variable: a derived one; study name: the new one"`
	Names   []string        `json:"names,omitempty" maxItems:"20" doc:"under answers: the variables that stand there; none for the usual ones"`
	Divide  *files.Split    `json:"divide,omitempty" doc:"divide: how the answers of a column are cut into several"`
}

// apply changes a setup and says in a few words what was done.
func (e SetupEdit) apply(to *store.Setup) (summary string, err error) {
	if data, _ := json.Marshal(e); strings.Contains(string(data), `\u0000`) {
		return "", fmt.Errorf("%w: a name holds a null character, which can't be stored; take it out", state.ErrRequest)
	}
	to.Columns, to.Derived = slices.Clone(to.Columns), slices.Clone(to.Derived)
	switch {
	case e.Kind == "column" && e.Column != nil:
		return putColumn(to, *e.Column)
	case e.Kind == "columns" && len(e.Columns) > 0:
		for _, c := range e.Columns {
			if summary, err = putColumn(to, c); err != nil {
				return "", err
			}
		}
		if len(e.Columns) > 1 {
			summary = fmt.Sprintf("Changed how %d columns are read", len(e.Columns))
		}
		return summary, nil
	case e.Kind == "rename":
		return e.rename(to)
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
	case e.Kind == "under answers":
		for _, name := range e.Names {
			if !slices.ContainsFunc(to.Columns, func(c survey.Spec) bool { return c.Name == name }) &&
				!slices.ContainsFunc(to.Derived, func(d survey.Derived) bool { return d.Name == name }) {
				return "", fmt.Errorf("%w: there is no column or variable %q", state.ErrRequest, name)
			}
		}
		to.Under = e.Names
		return "Chose what stands under an answer", nil
	case e.Kind == "study name":
		name, err := studyName(e.Name)
		to.Name = name
		return "Renamed the study to " + name, err
	}
	return "", fmt.Errorf("%w: there is no edit %q of a study, or a part of it is missing", state.ErrRequest, e.Kind)
}

// putColumn puts what a column is in the place of what it was, and says in a few words what that changes.
func putColumn(to *store.Setup, c survey.Spec) (summary string, err error) {
	i := slices.IndexFunc(to.Columns, func(was survey.Spec) bool { return was.Name == c.Name })
	if i < 0 {
		return "", fmt.Errorf("%w: there is no column %q", state.ErrRequest, c.Name)
	}
	summary = "Changed how " + c.Name + " is read"
	was := to.Columns[i]
	if was.Role != c.Role {
		article := "a"
		if strings.ContainsAny(string(c.Role[:1]), "aeiou") {
			article = "an"
		}
		summary = fmt.Sprintf("Made %s %s %s column", c.Name, article, c.Role)
	}
	if was.Label = c.Label; reflect.DeepEqual(was, c) {
		summary = fmt.Sprintf("Labelled %s as %s", c.Name, c.Short())
	}
	to.Columns[i] = c
	if !slices.ContainsFunc(to.Columns, func(c survey.Spec) bool { return c.Role == survey.OpenEnded }) {
		return "", fmt.Errorf("%w: no column would be open-ended any more", state.ErrRequest)
	}
	return summary, nil
}

// rename gives a column another name, and its values others. What names them finds them by both; what the setup itself
// says of them goes along.
func (e SetupEdit) rename(to *store.Setup) (summary string, err error) {
	i := slices.IndexFunc(to.Columns, func(c survey.Spec) bool { return c.Name == e.Name })
	name := state.OneLine(e.To)
	switch {
	case i < 0:
		return "", fmt.Errorf("%w: there is no column %q", state.ErrRequest, e.Name)
	case (name == "" || name == e.Name) && len(e.Values) == 0:
		return "", fmt.Errorf("%w: nothing changes", state.ErrRequest)
	case utf8.RuneCountInString(name) > 200:
		return "", fmt.Errorf("%w: the name of a column has at most 200 letters", state.ErrRequest)
	}
	c := to.Columns[i]
	summary = fmt.Sprintf("Renamed values of %s", c.Name)
	if name != "" && name != c.Name {
		summary = fmt.Sprintf("Renamed %s to %s", c.Name, name)
		c.Was = slices.DeleteFunc(append(slices.Clone(c.Was), c.Name), func(was string) bool { return was == name })
		c.Name = name
	}
	if len(e.Values) > 0 && c.Role != survey.Segment && c.Role != survey.Wave && c.Role != survey.Several {
		return "", fmt.Errorf("%w: %q is a %s; only the values of segments, waves and several answers have names", state.ErrRequest, c.Name, c.Role)
	}
	c.Called, c.Order = slices.Clone(c.Called), slices.Clone(c.Order)
	for _, v := range e.Values {
		value := state.OneLine(v.To)
		if value == "" {
			return "", fmt.Errorf("%w: %q needs a name", state.ErrRequest, v.From)
		}
		callValue(&c, v.From, value)
	}
	for d := range to.Derived {
		made := &to.Derived[d]
		made.Of, made.Groups = slices.Clone(made.Of), slices.Clone(made.Groups)
		for o := range made.Of {
			if made.Of[o] != e.Name {
				continue
			}
			made.Of[o] = c.Name
			for g := range made.Groups {
				made.Groups[g].Values = slices.Clone(made.Groups[g].Values)
				for _, v := range e.Values {
					replace(made.Groups[g].Values, v.From, state.OneLine(v.To))
				}
			}
		}
	}
	to.Under = slices.Clone(to.Under)
	replace(to.Under, e.Name, c.Name)
	to.Columns[i] = c
	return summary, survey.CheckNames(to.Columns, to.Derived)
}

// callValue gives a value another name than it has now.
func callValue(c *survey.Spec, now, name string) {
	renamed := false
	for i := range c.Called {
		if c.Called[i].To == now {
			c.Called[i].To, renamed = name, true
		}
	}
	if !renamed {
		c.Called = append(c.Called, survey.Called{From: now, To: name})
	}
	c.Called = slices.DeleteFunc(c.Called, func(v survey.Called) bool { return v.From == v.To })
	replace(c.Order, now, name)
}

func replace(in []string, from, to string) {
	for i := range in {
		if in[i] == from {
			in[i] = to
		}
	}
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

// EditStudy makes an edit on the revision of a study that the caller has seen, and keeps it.
func (d *Desk) EditStudy(ctx context.Context, id int64, revision int, change SetupEdit) (StudyEffect, error) {
	return d.editStudy(ctx, id, revision, func(e editing) (StudyEffect, error) {
		if change.Kind == "divide" && change.Divide != nil {
			return e.divide(ctx, *change.Divide)
		}
		after := e.record.Setup
		summary, err := change.apply(&after)
		if err != nil {
			return StudyEffect{}, err
		}
		record := e.record
		record.Setup = after
		// A column that can't be read so is refused before it is stored.
		next, err := e.before.With(setupOf(record))
		if err != nil {
			return StudyEffect{}, err
		}
		if change.Kind == "rename" {
			if err := valuesKeptApart(change, e.before); err != nil {
				return StudyEffect{}, err
			}
		}
		// Later, when its source changes, it may fail, and be said.
		if change.Kind == "derive" {
			if err := next.Failed[change.Derived.Name]; err != nil {
				return StudyEffect{}, err
			}
			if v, ok := next.Find(change.Derived.Name); ok && v.Filled().IsEmpty() {
				return StudyEffect{}, fmt.Errorf("%w %q: nobody would have a value", survey.ErrDerived, change.Derived.Name)
			}
		}
		return e.keep(ctx, &store.StudyEdit{Summary: summary, Before: e.record.Setup, After: after}, nil)
	})
}

// valuesKeptApart refuses a name that another value has, or had earlier: two values would become one, or a rule that
// names the other would find this one.
func valuesKeptApart(e SetupEdit, before *state.Study) error {
	v, ok := before.Find(e.Name)
	if !ok {
		return nil
	}
	for _, renamed := range e.Values {
		name := state.OneLine(renamed.To)
		other := func(value string) bool {
			return strings.EqualFold(value, name) && !strings.EqualFold(value, renamed.From)
		}
		earlier := func(c survey.Called) bool { return strings.EqualFold(c.From, name) && c.To != renamed.From }
		if slices.ContainsFunc(v.Values, other) || slices.ContainsFunc(v.Called, earlier) {
			return fmt.Errorf(
				"%w: another value is called %q, or was; to count them together, make a variable of groups", state.ErrRequest, name,
			)
		}
		if !slices.Contains(v.Values, renamed.From) {
			return fmt.Errorf("%w: %q has no value %q", state.ErrRequest, e.Name, renamed.From)
		}
	}
	return nil
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
