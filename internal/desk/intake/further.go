package intake

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// Further says how the rows of a further file become respondents of a study.
type Further struct {
	Columns []ColumnTo `json:"columns" doc:"for each column of the file, in its order"`
	Fill    []Fill     `json:"fill,omitempty" doc:"columns that the file does not have, and what its rows say there"`
	Skip    bool       `json:"skip,omitempty" doc:"rows whose identifier a respondent of the study has are passed over"`
}

// ColumnTo says where a column of a further file goes.
type ColumnTo struct {
	Column string       `json:"column"`
	To     string       `json:"to,omitempty" doc:"a column of the study; empty: left out, unless it is new"`
	New    *survey.Spec `json:"new,omitempty" doc:"a further column; those who are there already have it blank"`
}

// Fill is what all rows of a file say in a column.
type Fill struct {
	Column string `json:"column" doc:"of the study; a new one is a wave"`
	Value  string `json:"value"`
	Before string `json:"before,omitempty" doc:"a new column: what those who are there already say"`
}

// FurtherReport is what adding the rows of a file would bring.
type FurtherReport struct {
	Rows     int           `json:"rows"`
	Blank    []string      `json:"blank" doc:"columns of the study that the new rows have blank"`
	LeftOut  []string      `json:"leftOut" doc:"columns of the file that are left out"`
	Known    int           `json:"known" doc:"rows whose identifier a respondent has already"`
	Samples  []string      `json:"samples" doc:"the first of these identifiers"`
	Values   []FreshValues `json:"values" doc:"values that no respondent has yet"`
	Notes    files.Notes   `json:"notes"`
	Revision int           `json:"revision" doc:"of the study"`
}

// FreshValues are the values of a column that are new.
type FreshValues struct {
	Column string              `json:"column"`
	Values []survey.ValueCount `json:"values" doc:"the most frequent; at most 12"`
	More   int                 `json:"more" doc:"values not listed"`
}

// GuessFurther matches the columns of a further file with those of the study by name, case and blanks aside.
func GuessFurther(s *state.Study, columns []survey.Guess) Further {
	f := Further{Columns: []ColumnTo{}}
	plain := func(name string) string { return strings.ToLower(state.OneLine(name)) }
	taken := map[string]bool{}
	for _, c := range columns {
		to := ColumnTo{Column: c.Name}
		for _, known := range s.Columns {
			same := func(name string) bool { return plain(name) == plain(c.Name) }
			if (same(known.Name) || slices.ContainsFunc(known.Was, same)) && !taken[known.Name] && to.To == "" {
				to.To = known.Name
				taken[known.Name] = true
			}
		}
		f.Columns = append(f.Columns, to)
	}
	return f
}

// plan is a Further checked against a study: where each cell of a new row comes from.
type plan struct {
	setup  store.Setup // its rows are still those of the study
	from   []int       // by column of the study as it will be: the file's column, or -1
	value  []string    // what stands there if none does
	before []string    // of the new columns: what those who are there already say
}

func newPlan(s *state.Study, f Further) (plan, error) {
	p := plan{setup: store.Setup{Rows: s.Rows, Columns: slices.Clone(s.Columns), Derived: s.Derived, Under: s.Under}}
	refuse := func(format string, args ...any) (plan, error) {
		return p, fmt.Errorf("%w: "+format, append([]any{state.ErrRequest}, args...)...)
	}
	from := map[string]int{}
	for i, c := range f.Columns {
		to := c.To
		if c.New != nil {
			to = c.New.Name
			p.setup.Columns = append(p.setup.Columns, *c.New)
			p.before = append(p.before, "")
		}
		if to == "" {
			continue
		}
		if _, twice := from[to]; twice {
			return refuse("two columns of the file go to %q", to)
		}
		from[to] = i
	}
	values := map[string]string{}
	for _, fill := range f.Fill {
		if _, twice := from[fill.Column]; twice {
			return refuse("%q comes from the file, so it can't be filled", fill.Column)
		}
		values[fill.Column] = fill.Value
		if !slices.ContainsFunc(p.setup.Columns, func(c survey.Spec) bool { return c.Name == fill.Column }) {
			p.setup.Columns = append(p.setup.Columns, survey.Spec{Name: fill.Column, Role: survey.Wave})
			p.before = append(p.before, fill.Before)
		}
	}
	if err := survey.CheckNames(p.setup.Columns, p.setup.Derived); err != nil {
		return p, err
	}
	answers := false
	for _, c := range p.setup.Columns {
		i, ok := from[c.Name]
		if !ok {
			i = -1
		}
		delete(from, c.Name)
		answers = answers || ok && c.Role == survey.OpenEnded
		p.from, p.value = append(p.from, i), append(p.value, values[c.Name])
	}
	for to := range from {
		return refuse("there is no column %q in the study", to)
	}
	if !answers {
		return refuse("no column of the file goes to an open-ended one, so the new respondents would say nothing")
	}
	return p, nil
}

// row is a row of the file as it will stand in the study.
func (p plan) row(cells []string) []string {
	out := make([]string, len(p.from))
	for i, from := range p.from {
		if out[i] = p.value[i]; from >= 0 {
			out[i] = cells[from]
		}
	}
	return out
}

// known are the identifiers of the respondents who are there, and the column they stand in; -1 where the file brings none.
func (p plan) known(s *state.Study) (column int, known map[string]bool) {
	known = map[string]bool{}
	for i, c := range s.Columns {
		if c.Role == survey.Identifier && p.from[i] >= 0 {
			for _, cell := range s.Cells[i] {
				if cell = strings.TrimSpace(cell); cell != "" {
					known[cell] = true
				}
			}
			return i, known
		}
	}
	return -1, known
}

// maxListed is how many samples a report lists.
const maxListed = 1000

// anyColumns takes a file's columns as they are: they were matched with those of the study before.
func anyColumns([]string) error { return nil }

// dropRow stores nothing: the file is only looked at.
func dropRow([]string) error { return nil }

// TryFurther reads a further file whole and tells what adding its rows would bring.
func TryFurther(ctx context.Context, s *state.Study, from Source, f Further, progress Progress) (FurtherReport, error) {
	out := FurtherReport{Blank: []string{}, LeftOut: []string{}, Samples: []string{}, Values: []FreshValues{}, Revision: s.Revision}
	p, err := newPlan(s, f)
	if err != nil {
		return out, err
	}
	for _, c := range f.Columns {
		if c.To == "" && c.New == nil {
			out.LeftOut = append(out.LeftOut, c.Column)
		}
	}
	id, known := p.known(s)
	fresh := make([]freshValues, len(s.Columns))
	for i, c := range s.Columns {
		if p.from[i] < 0 && p.value[i] == "" {
			out.Blank = append(out.Blank, c.Name)
		}
		if v, ok := s.Find(c.Name); ok && (c.Role == survey.Segment || c.Role == survey.Wave) {
			fresh[i] = newFreshValues(v)
		}
	}
	check := checker(p.setup.Columns)
	err = from.rows(ctx, "reading", progress, &out.Notes, anyColumns, func(cells []string) ([]string, error) {
		row, err := check(p.row(cells))
		if err != nil {
			return nil, err
		}
		if id >= 0 && known[strings.TrimSpace(row[id])] {
			out.Known++
			list(&out.Samples, strings.TrimSpace(row[id]))
			if f.Skip {
				return nil, nil
			}
		}
		out.Rows++
		for i, f := range fresh {
			f.add(row[i])
		}
		return row, nil
	})(dropRow)
	for i, f := range fresh {
		if len(f.counts) > 0 {
			top := survey.TopValues(f.counts)
			out.Values = append(out.Values, FreshValues{s.Columns[i].Name, top, len(f.counts) - len(top)})
		}
	}
	return out, err
}

// freshValues counts the values of a column that a variable does not have.
type freshValues struct {
	known  map[string]bool
	counts map[string]int
}

func newFreshValues(v *survey.Variable) freshValues {
	f := freshValues{map[string]bool{}, map[string]int{}}
	for _, value := range append(slices.Clone(v.Values), v.Spec.Missing...) {
		f.known[value] = true
	}
	for _, c := range v.Called {
		f.known[c.From] = true
	}
	return f
}

func (f freshValues) add(cell string) {
	if cell = strings.TrimSpace(cell); f.counts != nil && cell != "" && !f.known[cell] {
		f.counts[cell]++
	}
}

// Addition is further data on its way into a study.
type Addition struct {
	Setup  store.Setup // the study's, as it will be; rows that are added are still to come
	Before []string    // what those who are there say in the columns that are new; none if there are none
	Rows   store.Rows
}

// AddRows makes rows for the store of a further file.
func AddRows(ctx context.Context, s *state.Study, from Source, f Further, progress Progress) (Addition, error) {
	p, err := newPlan(s, f)
	if err != nil {
		return Addition{}, err
	}
	check := checker(p.setup.Columns)
	notes := new(files.Notes)
	id, known := p.known(s)
	rows := from.rows(ctx, "loading", progress, notes, anyColumns, func(cells []string) ([]string, error) {
		row := p.row(cells)
		if f.Skip && id >= 0 && known[strings.TrimSpace(row[id])] {
			return nil, nil
		}
		return check(row)
	})
	return Addition{p.setup, p.before, rows}, nil
}

// Repeat gives the same row n times.
func Repeat(cells []string, n int) store.Rows {
	return func(row func([]string) error) error {
		for range n {
			if err := row(cells); err != nil {
				return err
			}
		}
		return nil
	}
}
