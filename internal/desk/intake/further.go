package intake

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"aftermath/core/survey"
	"aftermath/internal/desk/cells"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// Further says how the rows of a further file become respondents of a study.
type Further struct {
	Columns []ColumnTo `json:"columns" doc:"for each column of the file, in its order"`
	Fill    []Fill     `json:"fill,omitempty" doc:"columns that the file does not have, and what its rows say there"`
	Known   string     `json:"known,omitempty" enum:"add,skip,replace" doc:"what becomes of rows whose identifier a respondent of the study has: they come in beside (add, also if left out), are passed over, or take that respondent's place"`
}

// What may become of rows whose identifier is known.
const (
	SkipKnown    = "skip"
	ReplaceKnown = "replace"
)

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
	Twice    int           `json:"twice" doc:"rows whose identifier an earlier row of the file has"`
	Replaced int           `json:"replaced" doc:"replace: respondents whose place is taken"`
	Changed  []Changed     `json:"changed" doc:"replace: open-ended columns in which some of them say something else then"`
	Values   []FreshValues `json:"values" doc:"values that no respondent has yet"`
	Notes    files.Notes   `json:"notes"`
	Revision int           `json:"revision" doc:"of the study"`
}

// Changed counts the answers that say something else after rows took the place of others: what was decided by hand on them does
// not hold for these.
type Changed struct {
	Column  string `json:"column"`
	Answers int    `json:"answers"`
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

// arrivals tells the rows of a further file whose identifier is known from the others, and makes of each what comes of it.
type arrivals struct {
	plan
	further Further
	study   *state.Study
	id      int              // the column that identifies; -1 where the file brings none
	holders map[string][]int // rows of the study by identifier
	there   []survey.Respondent
	seen    map[string]bool // identifiers of the file

	known, twice, rows int
	samples            []string
	replaced           map[int]bool // rows of the study
	changed            []int        // answers, by column
	instead            []Instead
}

func newArrivals(s *state.Study, f Further) (*arrivals, error) {
	p, err := newPlan(s, f)
	if err != nil {
		return nil, err
	}
	a := &arrivals{plan: p, further: f, study: s, id: -1, holders: map[string][]int{}, seen: map[string]bool{}, samples: []string{},
		replaced: map[int]bool{}, changed: make([]int, len(s.Columns))}
	a.id = slices.IndexFunc(s.Columns, func(c survey.Spec) bool { return c.Role == survey.Identifier })
	if a.id >= 0 && p.from[a.id] < 0 {
		a.id = -1
	}
	if a.id >= 0 {
		a.there = s.Rows.Set().List()
		for row, cell := range s.Cells.AsCame(a.id, cells.ToCompare) {
			if cell = strings.TrimSpace(cell); cell != "" {
				a.holders[cell] = append(a.holders[cell], row)
			}
		}
	}
	return a, nil
}

// arrive makes a row of the file one of the study: nil where it is passed over.
func (a *arrivals) arrive(cells []string) []string {
	row := a.row(cells)
	if a.id >= 0 {
		id := strings.TrimSpace(row[a.id])
		if a.seen[id] {
			a.twice++
		}
		a.seen[id] = id != ""
		if holders := a.holders[id]; len(holders) > 0 {
			a.known++
			list(&a.samples, id)
			switch a.further.Known {
			case SkipKnown:
				return nil
			case ReplaceKnown:
				a.replace(row, holders)
			}
		}
	}
	a.rows++
	return row
}

// replace puts a row in the place of respondents: what the file doesn't say stays as the last of them has it.
func (a *arrivals) replace(row []string, holders []int) {
	last := holders[len(holders)-1]
	for i := range a.study.Columns {
		if a.from[i] < 0 && a.value[i] == "" {
			row[i] = a.study.Cells.AsCame(i, cells.ToStore)[last]
		}
		if a.study.Columns[i].Role == survey.OpenEnded && row[i] != a.study.Cells.AsCame(i, cells.ToCompare)[last] {
			a.changed[i]++
		}
	}
	for _, h := range holders {
		a.replaced[h] = true
		a.instead = append(a.instead, Instead{Of: a.there[h], Row: a.rows})
	}
}

// maxListed is how many samples a report lists.
const maxListed = 1000

// anyColumns takes a file's columns as they are: they were matched with those of the study before.
func anyColumns([]string) error { return nil }

// dropRow stores nothing: the file is only looked at.
func dropRow([]string) error { return nil }

// TryFurther reads a further file whole and tells what adding its rows would bring.
func TryFurther(ctx context.Context, s *state.Study, from Source, f Further, progress Progress) (FurtherReport, error) {
	out := FurtherReport{
		Blank: []string{}, LeftOut: []string{}, Samples: []string{}, Values: []FreshValues{}, Changed: []Changed{}, Revision: s.Revision,
	}
	a, err := newArrivals(s, f)
	if err != nil {
		return out, err
	}
	for _, c := range f.Columns {
		if c.To == "" && c.New == nil {
			out.LeftOut = append(out.LeftOut, c.Column)
		}
	}
	fresh := make([]freshValues, len(s.Columns))
	for i, c := range s.Columns {
		if a.from[i] < 0 && a.value[i] == "" {
			out.Blank = append(out.Blank, c.Name)
		}
		if v, ok := s.Find(c.Name); ok && (c.Role == survey.Segment || c.Role == survey.Wave) {
			fresh[i] = newFreshValues(v)
		}
	}
	check := checker(a.setup.Columns)
	err = from.rows(ctx, "reading", progress, &out.Notes, anyColumns, func(cells []string) ([]string, error) {
		row := a.arrive(cells)
		if row == nil {
			return nil, nil
		}
		for i, f := range fresh {
			f.add(row[i])
		}
		return check(row)
	})(dropRow)
	for i, f := range fresh {
		if len(f.counts) > 0 {
			top := survey.TopValues(f.counts)
			out.Values = append(out.Values, FreshValues{s.Columns[i].Name, top, len(f.counts) - len(top)})
		}
		if a.changed[i] > 0 {
			out.Changed = append(out.Changed, Changed{s.Columns[i].Name, a.changed[i]})
		}
	}
	out.Rows, out.Known, out.Twice, out.Samples, out.Replaced = a.rows, a.known, a.twice, a.samples, len(a.replaced)
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

// Instead says that a new row stands in the place of a respondent: rows are counted from the first that is added, from 0.
type Instead struct {
	Of  survey.Respondent
	Row int
}

// Addition is further data on its way into a study.
type Addition struct {
	Setup   store.Setup // the study's, as it will be; rows that are added are still to come
	Before  store.Rows  // what those who are there say in the columns that are new; nil if there are none
	Rows    store.Rows
	Instead func() []Instead // once all rows have come: which of them stand in the place of whom
}

// AddRows makes rows for the store of a further file.
func AddRows(ctx context.Context, s *state.Study, from Source, f Further, progress Progress) (Addition, error) {
	a, err := newArrivals(s, f)
	if err != nil {
		return Addition{}, err
	}
	check := checker(a.setup.Columns)
	rows := from.rows(ctx, "loading", progress, new(files.Notes), anyColumns, func(cells []string) ([]string, error) {
		row := a.arrive(cells)
		if row == nil {
			return nil, nil
		}
		return check(row)
	})
	out := Addition{Setup: a.setup, Rows: rows, Instead: func() []Instead { return a.instead }}
	if len(a.before) > 0 {
		out.Before = repeat(a.before, s.Respondents())
	}
	return out, nil
}

// repeat gives the same row n times.
func repeat(cells []string, n int) store.Rows {
	return func(row func([]string) error) error {
		for range n {
			if err := row(cells); err != nil {
				return err
			}
		}
		return nil
	}
}
