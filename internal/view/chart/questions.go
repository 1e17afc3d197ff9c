package chart

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// SideBySideQuery asks for several questions of a study in one table. Only, Sort and Least do not count.
type SideBySideQuery struct {
	Query
	Questions string `query:"questions" json:"questions,omitempty" doc:"JSON: the names of the questions, in their order; left out: all of the study"`
}

// SideBySide is the categories of several questions side by side, each question with the same columns.
type SideBySide struct {
	Questions []QuestionColumns  `json:"questions"`
	Rows      []SharedRow        `json:"rows" doc:"categories of any of the questions, as in the frame of the first, those of the others last in their nets; then what sums up"`
	All       []string           `json:"all" doc:"the questions of the study"`
	Segments  []view.SegmentName `json:"segments"`
	By        [][]string         `json:"by" doc:"the variables that the columns of each question are made of"`
	Mentions  bool               `json:"mentions" doc:"shares are of mentions, not of answers"`
	Weighted  bool               `json:"weighted"`
	Weight    string             `json:"weight,omitempty"`
	Notes     []string           `json:"notes"`
	Small     int                `json:"small" doc:"unweighted base under which a column is marked"`
	Tiny      int                `json:"tiny" doc:"unweighted base under which no share is shown"`
}

// QuestionColumns is a question with its columns.
type QuestionColumns struct {
	ID         int64           `json:"id"`
	Name       string          `json:"name"`
	Columns    []Column        `json:"columns" doc:"the total first"`
	Bases      []crosstab.Base `json:"bases" doc:"by column"`
	Conditions focus.Focus     `json:"conditions" doc:"narrow a focus of this question to its base"`
}

// SharedRow is a category by its name, whichever questions have it.
type SharedRow struct {
	Kind  string        `json:"kind" enum:"category,any,uncoded"`
	Name  string        `json:"name"`
	Path  string        `json:"path" doc:"with the nets that it stands in: categories of the same are one row"`
	Short string        `json:"short" doc:"in the first question that has it"`
	Depth int           `json:"depth"`
	Top   int           `json:"top" doc:"colour of its top category, in the first question that has it"`
	Cells []SharedCells `json:"cells" doc:"by question"`
}

// SharedCells is a row in a question.
type SharedCells struct {
	Cells      []crosstab.Cell `json:"cells" doc:"by column; none where the question has no such category"`
	Conditions focus.Focus     `json:"conditions" doc:"narrow a focus of that question to its answers"`
}

// SideBySideOf counts the categories of several questions in one table. The focus may speak of respondents only: what was said to one
// question is not said of another.
func SideBySideOf(ctx context.Context, s *state.State, f focus.Focus, q SideBySideQuery) (SideBySide, error) {
	out := SideBySide{
		Questions: []QuestionColumns{}, Rows: []SharedRow{}, All: []string{}, Segments: segmentsOf(s), By: [][]string{}, Notes: []string{},
		Small: crosstab.SmallBase, Tiny: crosstab.TinyBase,
	}
	for _, c := range s.Study.Columns {
		if c.Role == survey.OpenEnded {
			out.All = append(out.All, c.Name)
		}
	}
	for _, c := range f {
		if c.Scope().On != focus.OnRespondents {
			return out, fmt.Errorf(
				"%w: the focus speaks of what was said to this question; questions are held side by side for the same respondents: "+
					"take everything out of the focus but variables", state.ErrRequest,
			)
		}
	}
	names, err := q.names(out.All)
	if err != nil {
		return out, err
	}
	q.Only, q.Sort, q.Least, q.Where, q.Group = "", "frame", 0, "", "" // each question has categories and fields of its own
	if q.By == "" {
		q.By = "[]"
	}
	for _, name := range names {
		one, err := asked(ctx, s, name)
		if err != nil {
			return out, err
		}
		c, err := ChartOf(ctx, one, f, q.Query)
		if err != nil {
			return out, fmt.Errorf("%s: %w", name, err)
		}
		out.add(one, c)
	}
	slices.SortStableFunc(out.Rows, func(a, b SharedRow) int { return cmp.Compare(lastRows[a.Kind], lastRows[b.Kind]) })
	out.Notes = append([]string{
		"Each question on its own base. Categories of the same name, nets included, are one row; a blank: the question has no such category. " +
			"Questions were put to the same people, so they are not tested against each other.",
	}, out.Notes...)
	return out, nil
}

// lastRows are what sums up, below the categories.
var lastRows = map[string]int{RowAny: 1, RowUncoded: 2}

// names are those of the questions that are asked for.
func (q SideBySideQuery) names(all []string) (names []string, err error) {
	if q.Questions == "" {
		return all, nil
	}
	if err := json.Unmarshal([]byte(q.Questions), &names); err != nil {
		return nil, fmt.Errorf("%w: the questions can't be read: %w", state.ErrRequest, err)
	}
	if len(names) == 0 || len(slices.Compact(slices.Sorted(slices.Values(names)))) < len(names) {
		return nil, fmt.Errorf("%w: choose questions, each once", state.ErrRequest)
	}
	return names, nil
}

// asked is a question of the study by its name.
func asked(ctx context.Context, s *state.State, name string) (*state.State, error) {
	if s.Study.Columns[s.Column].Named(name) {
		return s, nil
	}
	if s.Links.Sibling == nil {
		return nil, fmt.Errorf("%w: there is no question %q here", state.ErrRequest, name)
	}
	return s.Links.Sibling(ctx, name)
}

// add puts a question at the right: its rows fall to those of the same path. Others stand last in their net, or last of all.
func (b *SideBySide) add(s *state.State, c Chart) {
	at := len(b.Questions)
	b.Questions = append(b.Questions, QuestionColumns{
		ID: s.ID, Name: s.Study.Columns[s.Column].Name, Columns: c.Columns, Bases: c.Bases, Conditions: c.Conditions,
	})
	for i := range b.Rows {
		b.Rows[i].Cells = append(b.Rows[i].Cells, noCells())
	}
	b.Mentions, b.Weighted, b.Weight = c.Query.Base == BaseMentions, c.Weighted, c.Weight
	if at == 0 {
		for _, n := range c.Nests {
			b.By = append(b.By, n.Variables)
		}
	}
	for _, n := range c.Notes {
		if !slices.Contains(b.Notes, n) {
			b.Notes = append(b.Notes, n)
		}
	}
	var above []string // the path of the row that stands last at each depth
	for i, r := range c.Rows {
		above = append(above[:r.Depth], r.Path)
		to := b.row(r.Kind, r.Path)
		if to < 0 {
			to = b.end(above[:r.Depth])
			row := SharedRow{Kind: r.Kind, Name: r.Name, Path: r.Path, Short: r.Short, Depth: r.Depth, Top: r.Top}
			for range b.Questions {
				row.Cells = append(row.Cells, noCells())
			}
			b.Rows = slices.Insert(b.Rows, to, row)
		}
		b.Rows[to].Cells[at] = SharedCells{Cells: c.Cells[i], Conditions: r.Conditions}
	}
}

func noCells() SharedCells { return SharedCells{Cells: []crosstab.Cell{}, Conditions: focus.Focus{}} }

// row is the place of a row, or -1.
func (b *SideBySide) row(kind, path string) int {
	return slices.IndexFunc(b.Rows, func(x SharedRow) bool { return x.Kind == kind && x.Path == path })
}

// end is where a row that is new in a net stands: behind what is in the net already; without a net, behind all.
func (b *SideBySide) end(nets []string) int {
	if len(nets) == 0 {
		return len(b.Rows)
	}
	net := b.row(RowCategory, nets[len(nets)-1])
	to := net + 1
	for to < len(b.Rows) && b.Rows[to].Depth > b.Rows[net].Depth {
		to++
	}
	return to
}
