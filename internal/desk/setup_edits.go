package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"unicode/utf8"

	"aftermath/core/oneof"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// SetupEdit is one change to what a study's columns are. Each kind is a type with what it needs and nothing else; SetupEdits lists
// them.
type SetupEdit interface {
	oneof.Kinded
	// perform makes the edit on a study under its lock, and keeps it.
	perform(ctx context.Context, e editing) (StudyEffect, error)
}

// SetupEdits are all edits of a study there are, each with nothing in it.
var SetupEdits = []SetupEdit{
	SetColumn{}, SetColumns{}, RenameColumn{}, DeriveVariable{}, RemoveVariable{}, NameStudy{}, ChooseUnderAnswers{}, DivideColumn{},
}

// AnySetupEdit is an edit of a study of any kind, as JSON has it.
type AnySetupEdit struct{ SetupEdit }

// MarshalJSON writes the edit with its kind.
func (a AnySetupEdit) MarshalJSON() ([]byte, error) { return oneof.Encode(a.SetupEdit) }

// UnmarshalJSON reads an edit. What its kind does not know is an error, and so is what it lacks.
func (a *AnySetupEdit) UnmarshalJSON(data []byte) (err error) {
	if a.SetupEdit, err = oneof.Decode("edit of a study", SetupEdits, data); err != nil {
		return fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	return nil
}

// EditStudy makes an edit on the revision of a study that the caller has seen, and keeps it.
func (d *Desk) EditStudy(ctx context.Context, id int64, revision int, change SetupEdit) (StudyEffect, error) {
	if data, _ := json.Marshal(change); strings.Contains(string(data), `\u0000`) {
		return StudyEffect{}, fmt.Errorf("%w: a name holds a null character, which can't be stored; take it out", state.ErrRequest)
	}
	return d.editStudy(ctx, id, revision, func(e editing) (StudyEffect, error) { return change.perform(ctx, e) })
}

// setup keeps a changed setup. Apply changes a copy of it and says in a few words what was done; check, which may be nil, refuses
// what would be read otherwise than is meant.
func (e editing) setup(
	ctx context.Context, apply func(to *store.Setup) (summary string, err error), check func(next *state.Study) error,
) (StudyEffect, error) {
	after := e.record.Setup
	after.Columns, after.Derived = slices.Clone(after.Columns), slices.Clone(after.Derived)
	summary, err := apply(&after)
	if err != nil {
		return StudyEffect{}, err
	}
	record := e.record
	record.Setup = after
	// A column that can't be read so is refused before it is stored.
	next, err := e.before.With(setupOf(record))
	if err == nil && check != nil {
		err = check(next)
	}
	if err != nil {
		return StudyEffect{}, err
	}
	return e.keep(ctx, &store.StudyEdit{Summary: summary, Before: e.record.Setup, After: after}, nil)
}

// SetColumn says what a column is.
type SetColumn struct {
	Column survey.Spec `json:"column" doc:"all of it; its name says which"`
}

// Kind is column.
func (SetColumn) Kind() string { return "column" }

func (c SetColumn) perform(ctx context.Context, e editing) (StudyEffect, error) {
	return e.setup(ctx, func(to *store.Setup) (string, error) { return putColumn(to, c.Column) }, nil)
}

// SetColumns says what several columns are.
type SetColumns struct {
	Columns []survey.Spec `json:"columns" minItems:"1" maxItems:"2000" doc:"each as in column"`
}

// Kind is columns.
func (SetColumns) Kind() string { return "columns" }

func (c SetColumns) perform(ctx context.Context, e editing) (StudyEffect, error) {
	return e.setup(ctx, c.apply, nil)
}

func (c SetColumns) apply(to *store.Setup) (summary string, err error) {
	if len(c.Columns) == 0 {
		return "", fmt.Errorf("%w: no column is named", state.ErrRequest)
	}
	for _, column := range c.Columns {
		if summary, err = putColumn(to, column); err != nil {
			return "", err
		}
	}
	if len(c.Columns) > 1 {
		summary = fmt.Sprintf("Changed how %d columns are read", len(c.Columns))
	}
	return summary, nil
}

// DeriveVariable makes a variable of others.
type DeriveVariable struct {
	Derived survey.Derived `json:"derived" doc:"the variable; it takes the place of one of that name"`
}

// Kind is derive.
func (DeriveVariable) Kind() string { return "derive" }

func (v DeriveVariable) perform(ctx context.Context, e editing) (StudyEffect, error) {
	return e.setup(ctx, v.apply, func(next *state.Study) error {
		// Later, when its source changes, it may fail, and be said.
		if err := next.Failed[v.Derived.Name]; err != nil {
			return err
		}
		if made, ok := next.Find(v.Derived.Name); ok && made.Filled().IsEmpty() {
			return fmt.Errorf("%w %q: nobody would have a value", survey.ErrDerived, v.Derived.Name)
		}
		return nil
	})
}

func (v DeriveVariable) apply(to *store.Setup) (summary string, err error) {
	i := slices.IndexFunc(to.Derived, func(d survey.Derived) bool { return d.Name == v.Derived.Name })
	if i >= 0 {
		to.Derived[i] = v.Derived
		return "Changed the variable " + v.Derived.Name, nil
	}
	to.Derived = append(to.Derived, v.Derived)
	return "Made the variable " + v.Derived.Name, survey.CheckNames(to.Columns, to.Derived)
}

// RemoveVariable removes a variable that was made of others.
type RemoveVariable struct {
	Name string `json:"name"`
}

// Kind is remove variable.
func (RemoveVariable) Kind() string { return "remove variable" }

func (v RemoveVariable) perform(ctx context.Context, e editing) (StudyEffect, error) {
	return e.setup(ctx, func(to *store.Setup) (string, error) {
		n := len(to.Derived)
		to.Derived = slices.DeleteFunc(to.Derived, func(d survey.Derived) bool { return d.Name == v.Name })
		if len(to.Derived) == n {
			return "", fmt.Errorf("%w: %q is not a variable that was made of others", state.ErrRequest, v.Name)
		}
		return "Removed the variable " + v.Name, nil
	}, nil)
}

// ChooseUnderAnswers says which variables stand under an answer.
type ChooseUnderAnswers struct {
	Names []string `json:"names,omitempty" maxItems:"20" doc:"the variables that stand there; none for the usual ones"`
}

// Kind is under answers.
func (ChooseUnderAnswers) Kind() string { return "under answers" }

func (c ChooseUnderAnswers) perform(ctx context.Context, e editing) (StudyEffect, error) {
	return e.setup(ctx, func(to *store.Setup) (string, error) {
		for _, name := range c.Names {
			if !slices.ContainsFunc(to.Columns, func(c survey.Spec) bool { return c.Name == name }) &&
				!slices.ContainsFunc(to.Derived, func(d survey.Derived) bool { return d.Name == name }) {
				return "", fmt.Errorf("%w: there is no column or variable %q", state.ErrRequest, name)
			}
		}
		to.Under = c.Names
		return "Chose what stands under an answer", nil
	}, nil)
}

// NameStudy gives a study another name.
type NameStudy struct {
	Name string `json:"name"`
}

// Kind is study name.
func (NameStudy) Kind() string { return "study name" }

func (n NameStudy) perform(ctx context.Context, e editing) (StudyEffect, error) {
	return e.setup(ctx, func(to *store.Setup) (summary string, err error) {
		to.Name, err = studyName(n.Name)
		return "Renamed the study to " + to.Name, err
	}, nil)
}

// DivideColumn cuts the answers of a column into several.
type DivideColumn struct {
	How files.Split `json:"divide"`
}

// Kind is divide.
func (DivideColumn) Kind() string { return "divide" }

func (c DivideColumn) perform(ctx context.Context, e editing) (StudyEffect, error) {
	return e.divide(ctx, c.How)
}

// RenameColumn gives a column another name, and its values others. What names them finds them by both; what the setup itself says
// of them goes along.
type RenameColumn struct {
	Name   string          `json:"name" doc:"the column"`
	To     string          `json:"to,omitempty" doc:"its new name; as it is if left out"`
	Values []survey.Called `json:"values,omitempty" maxItems:"2000" doc:"values of the column, by what they are called now, with their new names"`
}

// Kind is rename.
func (RenameColumn) Kind() string { return "rename" }

func (e RenameColumn) perform(ctx context.Context, on editing) (StudyEffect, error) {
	return on.setup(ctx, e.apply, func(*state.Study) error { return e.valuesKeptApart(on.before) })
}

func (e RenameColumn) apply(to *store.Setup) (summary string, err error) {
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

// valuesKeptApart refuses a name that another value has, or had earlier: two values would become one, or a rule that
// names the other would find this one.
func (e RenameColumn) valuesKeptApart(before *state.Study) error {
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
