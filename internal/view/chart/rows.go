package chart

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Kinds of rows.
const (
	RowCategory = "category"
	RowValue    = "value"   // any category that has a value of a field
	RowHidden   = "hidden"  // a category with few answers: it stands below, in what RowOthers sums up
	RowOthers   = "others"  // any of the hidden ones
	RowAny      = "any"     // any category at all
	RowUncoded  = "uncoded" // none
)

// Row is a row of a table.
type Row struct {
	Kind       string      `json:"kind" enum:"category,value,hidden,others,any,uncoded"`
	ID         string      `json:"id" doc:"key of the category, or = and the value of a field; empty for rows that sum up"`
	Name       string      `json:"name"`
	Path       string      `json:"path" doc:"with the nets that it stands in"`
	Short      string      `json:"short"`
	Depth      int         `json:"depth" doc:"nets above it that are rows too"`
	Net        bool        `json:"net,omitempty"`
	Top        int         `json:"top" doc:"colour of its top category"`
	Conditions focus.Focus `json:"conditions" doc:"narrow a focus to its answers"`

	result  *frame.Result
	value   string          // of the field by which categories are grouped
	members []*frame.Result // of a RowValue: the categories that have the value
	answers *roaring.Bitmap
}

// rowsOf are the rows of a query in a base: the values of the field by which they are grouped, if there is one, then categories as in
// the frame, those with few answers, and what sums up.
func rowsOf(s *state.State, q Query, base *roaring.Bitmap) ([]Row, error) {
	only, err := q.only()
	if err != nil {
		return nil, err
	}
	where, err := q.where(s.Scheme.Fields)
	if err != nil {
		return nil, err
	}
	var group frame.Field
	if q.Group != "" {
		var ok bool
		if group, ok = s.Scheme.Fields.Find(q.Group); !ok {
			return nil, fmt.Errorf("%w: the field %q, by which rows are grouped, is gone; choose another", state.ErrRequest, q.Group)
		}
	}
	for _, id := range only {
		if _, ok := s.Coding.Of(id); !ok {
			return nil, fmt.Errorf("%w: a chosen category is gone; choose the rows anew", state.ErrRequest)
		}
	}
	var shown, hidden []Row
	var grouped []*frame.Result
	for _, r := range s.Coding.Results {
		switch {
		case only != nil:
			if !slices.Contains(only, r.ID) {
				continue
			}
		case q.Rows == "nets" && q.Group == "" && len(r.Path) > 1, q.Rows == "categories" && len(r.Children) > 0:
			continue
		}
		if !among(where, r.Category) {
			continue
		}
		if grouped = append(grouped, r); q.Group != "" && q.Rows == "nets" {
			continue
		}
		row := Row{
			Kind: RowCategory, ID: r.ID, Name: r.Name, Path: r.PathName(), Short: r.Short, Net: len(r.Children) > 0, Top: r.Top,
			Conditions: focus.Focus{focus.Is(focus.Category{ID: r.ID})}, result: r, value: r.Fields[group.Name], answers: r.Answers,
		}
		if q.Least > 0 && int(r.Answers.AndCardinality(base)) < q.Least {
			row.Kind, row.Name, row.Depth = RowHidden, row.Path, 1
			hidden = append(hidden, row)
		} else {
			shown = append(shown, row)
		}
	}
	rows := shown
	if q.Group != "" {
		rows = append(valueRows(group, grouped), shown...)
	}
	if len(hidden) > 0 {
		rows = append(append(rows, othersOf(hidden)), hidden...)
	}
	rows = append(rows, Row{
		Kind: RowAny, Name: "Any category", Path: "Any category", Top: -1, Conditions: focus.Focus{focus.Is(focus.Coded{})},
		answers: s.Coding.Coded,
	})
	if q.Base != BaseCoded && q.Base != BaseMentions { // there is nobody uncoded among the coded
		rows = append(rows, Row{
			Kind: RowUncoded, Name: "Not coded", Path: "Not coded", Top: -1, Conditions: focus.Focus{focus.Not(focus.Coded{})},
			answers: roaring.AndNot(base, s.Coding.Coded),
		})
	}
	return rows, nil
}

// among says whether a category has one of the values that each field must have.
func among(where map[string][]string, c *frame.Category) bool {
	for name, values := range where {
		if !slices.Contains(values, c.Fields[name]) {
			return false
		}
	}
	return true
}

// valueRows are a row for each value of a field, in their order, and one for the categories without any.
func valueRows(f frame.Field, of []*frame.Result) (rows []Row) {
	of = slices.Clone(of)
	slices.SortStableFunc(of, func(a, b *frame.Result) int { return f.Compare(a.Category, b.Category) })
	for _, r := range of {
		value := r.Fields[f.Name]
		if len(rows) == 0 || rows[len(rows)-1].value != value {
			name := value
			if value == "" {
				name = "no " + f.Name
			}
			rows = append(rows, Row{
				Kind: RowValue, ID: "=" + value, Name: name, Path: f.Name + ": " + cmp.Or(value, "none"), Net: true, Top: -1, value: value,
				answers: roaring.New(),
			})
		}
		last := &rows[len(rows)-1]
		last.members = append(last.members, r)
		last.answers.Or(r.Answers)
	}
	for i := range rows {
		var keys []string
		for _, r := range rows[i].members {
			keys = append(keys, r.ID)
		}
		rows[i].Conditions = focus.Focus{focus.Is(focus.Category{AnyOf: keys})}
	}
	return rows
}

func othersOf(hidden []Row) Row {
	name := fmt.Sprintf("%d more", len(hidden))
	row := Row{Kind: RowOthers, Name: name, Path: name, Top: -1, answers: roaring.New()}
	var keys []string
	for _, h := range hidden {
		keys = append(keys, h.ID)
		row.answers.Or(h.answers)
	}
	row.Conditions = focus.Focus{focus.Is(focus.Category{AnyOf: keys})}
	return row
}

// arrange puts the rows of a table in the order that is asked for: categories below the nearest of their nets that is a row and has
// the same value of the field by which rows are grouped, else below their value; those with few answers below what sums them up. It
// gives the places of the rows in their order.
func arrange(rows []Row, t crosstab.Table, sort string, fields frame.Fields, columns []Column) []int {
	compare := orderOf(rows, t, sort, fields, columns)
	place, values := map[*frame.Result]int{}, map[string]int{}
	for i, r := range rows {
		switch r.Kind {
		case RowCategory:
			place[r.result] = i
		case RowValue:
			values[r.value] = i
		}
	}
	below := map[int][]int{} // by the place of a net, -1 at the top
	var others, last, hidden []int
	for i, r := range rows {
		switch r.Kind {
		case RowValue:
			below[-1] = append(below[-1], i)
		case RowCategory:
			net := -1
			for at := r.result.Net(); at != nil && net < 0; at = at.Net() {
				if p, ok := place[at]; ok && rows[p].value == r.value {
					net = p
				}
			}
			if value, ok := values[r.value]; ok && net < 0 {
				net = value
				rows[i].Name = r.Path // its net is not above it
			}
			below[net] = append(below[net], i)
		case RowHidden:
			hidden = append(hidden, i)
		case RowOthers:
			others = append(others, i)
		default:
			last = append(last, i)
		}
	}
	var order []int
	var put func(net, depth int)
	put = func(net, depth int) {
		slices.SortStableFunc(below[net], compare)
		for _, i := range below[net] {
			rows[i].Depth = depth
			order = append(order, i)
			put(i, depth+1)
		}
	}
	put(-1, 0)
	slices.SortStableFunc(hidden, compare)
	return slices.Concat(order, others, hidden, last)
}

// sortByField begins an order by a field, whose name follows.
const sortByField = "field:"

// orderOf compares the places of two rows; 0 leaves them as in the frame. A column or field that is gone does too.
func orderOf(rows []Row, t crosstab.Table, sort string, fields frame.Fields, columns []Column) func(a, b int) int {
	if name, is := strings.CutPrefix(sort, sortByField); is {
		f, _ := fields.Find(name)
		return func(a, b int) int {
			if rows[a].result == nil || rows[b].result == nil || f.FieldType == nil {
				return 0
			}
			return f.Compare(rows[a].result.Category, rows[b].result.Category)
		}
	}
	column := slices.IndexFunc(columns, func(c Column) bool { return c.Key == sort })
	switch {
	case sort == "name":
		return func(a, b int) int {
			return strings.Compare(strings.ToLower(rows[a].Name), strings.ToLower(rows[b].Name))
		}
	case sort == "size":
		column = 0
	case sort == "" || column < 0:
		return func(a, b int) int { return 0 }
	}
	return func(a, b int) int { return cmp.Compare(t.Cells[b][column].Share, t.Cells[a][column].Share) }
}

// mentionsUnder gives, by row, the places of the categories whose mentions it counts: all in it.
func mentionsUnder(results []*frame.Result, rows []Row) [][]int {
	inside := func(in func(r *frame.Result) bool) (out []int) {
		for i, r := range results {
			if in(r) {
				out = append(out, i)
			}
		}
		return out
	}
	var hidden []*frame.Result
	for _, row := range rows {
		if row.Kind == RowHidden {
			hidden = append(hidden, row.result)
		}
	}
	var under [][]int
	for _, row := range rows {
		under = append(under, inside(func(r *frame.Result) bool {
			switch row.Kind {
			case RowAny:
				return true
			case RowOthers:
				return slices.ContainsFunc(hidden, r.In)
			case RowValue:
				return slices.ContainsFunc(row.members, r.In)
			}
			return r.In(row.result)
		}))
	}
	return under
}
