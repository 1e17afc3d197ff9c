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

// Join says how a second file adds columns to respondents: both have a column with the same keys.
type Join struct {
	Key     string       `json:"key" doc:"column of the study"`
	FileKey string       `json:"fileKey" doc:"column of the file"`
	Columns []JoinColumn `json:"columns" doc:"what is added"`
	Loose   bool         `json:"loose,omitempty" doc:"keys that differ in case or white space only are the same"`
}

// key is by what a cell is looked for.
func (j Join) key(cell string) string {
	if j.Loose {
		return looseKey(cell)
	}
	return strings.TrimSpace(cell)
}

func looseKey(cell string) string { return strings.ToLower(strings.Join(strings.Fields(cell), "")) }

// JoinColumn is a column of the file, and what it is called and used as in the study.
type JoinColumn struct {
	From string `json:"from"`
	survey.Spec
}

// JoinReport is what a join would bring. Lists hold at most 1,000 different keys.
type JoinReport struct {
	Matched      int         `json:"matched" doc:"respondents that have a row in the file"`
	Without      int         `json:"without" doc:"respondents that have none; they are blank there"`
	WithoutKeys  []string    `json:"withoutKeys"`
	Unused       int         `json:"unused" doc:"rows of the file whose key no respondent has; they are left out"`
	UnusedKeys   []string    `json:"unusedKeys"`
	Repeated     int         `json:"repeated" doc:"rows of the file whose key an earlier row has; the first one counts"`
	RepeatedKeys []string    `json:"repeatedKeys"`
	Shared       int         `json:"shared" doc:"respondents who share their key with another; each gets the row"`
	SharedKeys   []string    `json:"sharedKeys"`
	Almost       int         `json:"almost" doc:"of the unused rows: those whose key a respondent has but for case or white space"`
	Notes        files.Notes `json:"notes"`
	Revision     int         `json:"revision" doc:"of the study"`
}

// joined is a join worked out: the cells to add to each respondent.
type joined struct {
	report  JoinReport
	columns []survey.Spec
	cells   [][]string // by respondent; nil: none
}

// list adds a key to a list of samples.
func list(to *[]string, key string) {
	if len(*to) < maxListed && !slices.Contains(*to, key) {
		*to = append(*to, key)
	}
}

func join(ctx context.Context, s *state.Study, from Source, j Join, progress Progress) (joined, error) {
	out := joined{
		report: JoinReport{
			WithoutKeys:  []string{},
			UnusedKeys:   []string{},
			RepeatedKeys: []string{},
			SharedKeys:   []string{},
			Revision:     s.Revision,
		},
	}
	for _, c := range j.Columns {
		out.columns = append(out.columns, c.Spec)
	}
	r := &out.report
	refuse := func(format string, args ...any) (joined, error) {
		return out, fmt.Errorf("%w: "+format, append([]any{state.ErrRequest}, args...)...)
	}
	key := slices.IndexFunc(s.Columns, func(c survey.Spec) bool { return c.Name == j.Key })
	if key < 0 {
		return refuse("there is no column %q in the study", j.Key)
	}
	if err := survey.CheckNames(append(slices.Clone(s.Columns), out.columns...), s.Derived); err != nil {
		return out, err
	}
	var at []int
	fileKey := -1
	columns := func(names []string) error {
		if fileKey = slices.Index(names, j.FileKey); fileKey < 0 {
			return fmt.Errorf("%w: there is no column %q in the file", state.ErrRequest, j.FileKey)
		}
		for _, c := range j.Columns {
			i := slices.Index(names, c.From)
			if i < 0 {
				return fmt.Errorf("%w: there is no column %q in the file", state.ErrRequest, c.From)
			}
			at = append(at, i)
		}
		return nil
	}
	holders, loosely := map[string]int{}, map[string]bool{} // respondents by key
	for _, cell := range s.Cells.AsCame(key, cells.ToCompare) {
		if k := j.key(cell); k != "" {
			holders[k]++
			loosely[looseKey(cell)] = true
		}
	}
	rows := map[string][]string{}
	err := from.rows(ctx, "reading", progress, &r.Notes, columns, func(cells []string) ([]string, error) {
		k := j.key(cells[fileKey])
		switch {
		case holders[k] == 0:
			r.Unused++
			if loosely[looseKey(k)] {
				r.Almost++
			}
			list(&r.UnusedKeys, k)
			return nil, nil
		case rows[k] != nil:
			r.Repeated++
			list(&r.RepeatedKeys, k)
			return nil, nil
		}
		row := make([]string, len(at))
		for i, from := range at {
			row[i] = cells[from]
		}
		rows[k] = row
		return row, nil
	})(dropRow)
	if err != nil {
		return out, err
	}
	out.cells = make([][]string, s.Respondents())
	shown := s.Cells.Shown(key)
	for i, cell := range s.Cells.AsCame(key, cells.ToCompare) {
		k := j.key(cell)
		out.cells[i] = rows[k]
		switch {
		case rows[k] == nil:
			r.Without++
			list(&r.WithoutKeys, strings.TrimSpace(shown[i]))
		default:
			r.Matched++
			if holders[k] > 1 {
				r.Shared++
				list(&r.SharedKeys, strings.TrimSpace(cell))
			}
		}
	}
	return out, nil
}

// TryJoin reads a second file whole and tells what its columns would bring.
func TryJoin(ctx context.Context, s *state.Study, from Source, j Join, progress Progress) (JoinReport, error) {
	out, err := join(ctx, s, from, j, progress)
	return out.report, err
}

// AddColumns makes further cells for the store, of all respondents in their order, from a second file with the same keys. It
// gives how many of them have a row there.
func AddColumns(
	ctx context.Context, s *state.Study, from Source, j Join, progress Progress,
) (a Addition, matched int, err error) {
	if len(j.Columns) == 0 {
		return a, 0, fmt.Errorf("%w: no column of the file was chosen", state.ErrRequest)
	}
	out, err := join(ctx, s, from, j, progress)
	if err != nil {
		return a, 0, err
	}
	if out.report.Matched == 0 {
		return a, 0, fmt.Errorf("%w: no respondent has a row in the file; choose other key columns", state.ErrRequest)
	}
	blank := make([]string, len(out.columns))
	check := checker(out.columns)
	a.Setup = store.Setup{Rows: s.Rows, Columns: append(slices.Clone(s.Columns), out.columns...), Derived: s.Derived, Under: s.Under}
	a.Rows = func(row func([]string) error) error {
		for _, cells := range out.cells {
			if cells == nil {
				cells = blank
			}
			cells, err := check(cells)
			if err != nil {
				return err
			}
			if err := row(cells); err != nil {
				return err
			}
		}
		return nil
	}
	return a, out.report.Matched, nil
}
