// Package agreement holds a coding against a sample that somebody coded by hand: how good the coding is, per category and in all.
package agreement

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/naming"
)

// Sample is answers that were coded by hand, each with all its categories: by row, the keys of categories without children;
// none where somebody found that no category applies.
type Sample map[uint32]map[string]bool

// ErrSample is behind every error about a sample that was read.
var ErrSample = errors.New("sample")

// Read reads a sample from a table with the columns "id" and "category": a row for each category of an answer, and one without
// a category for an answer that has none. A category is named by its path, by its code, or by its own name where no other has
// it. Row gives the row of an answer by the id of its respondent. Errors wrap ErrSample and name the line, counted from 1 with
// the header.
func Read(table [][]string, f frame.Frame, row func(id string) (uint32, bool)) (Sample, error) {
	if len(table) < 2 {
		return nil, fmt.Errorf("%w: the table holds no answers", ErrSample)
	}
	id, category := -1, -1
	for i, name := range table[0] {
		switch strings.ToLower(strings.TrimSpace(name)) {
		case "id":
			id = i
		case "category":
			category = i
		}
	}
	if id < 0 || category < 0 {
		return nil, fmt.Errorf("%w: the columns are %q; it needs one called id and one called category", ErrSample, table[0])
	}
	named := names(f)
	out := Sample{}
	for i, line := range table[1:] {
		cell := func(at int) string {
			if at < len(line) {
				return strings.TrimSpace(line[at])
			}
			return ""
		}
		if cell(id) == "" && cell(category) == "" {
			continue
		}
		at, ok := row(cell(id))
		if !ok {
			return nil, fmt.Errorf("%w: line %d: there is no respondent %q in the data", ErrSample, i+2, cell(id))
		}
		if out[at] == nil {
			out[at] = map[string]bool{}
		}
		if cell(category) == "" {
			continue
		}
		keys := named[strings.ToLower(cell(category))]
		if len(keys) != 1 {
			return nil, fmt.Errorf(
				"%w: line %d: %q names %d categories without others inside; write the path, as in %q", ErrSample, i+2, cell(category), len(keys),
				naming.Path([]string{"People", "Friendly crew"}),
			)
		}
		out[at][keys[0]] = true
	}
	return out, nil
}

// ByID finds rows by the id of their respondent, as Read asks for them; an id that two rows have finds none.
func ByID(rows int, id func(row int) string) func(id string) (uint32, bool) {
	at, twice := map[string]uint32{}, map[string]bool{}
	for row := range rows {
		id := strings.TrimSpace(id(row))
		_, again := at[id]
		twice[id] = twice[id] || again
		at[id] = uint32(row)
	}
	return func(id string) (uint32, bool) {
		row, ok := at[id]
		return row, ok && !twice[id]
	}
}

// names are what categories without children can be called by, in lower case, with the keys of those that are called so.
func names(f frame.Frame) map[string][]string {
	out := map[string][]string{}
	for p := range f.All() {
		if len(p.Children) > 0 {
			continue
		}
		called := map[string]bool{
			strings.ToLower(p.PathName()): true, strings.ToLower(p.Name): true, strconv.Itoa(p.Code): true,
		}
		for name := range called {
			out[name] = append(out[name], p.ID)
		}
	}
	for p := range f.All() { // a path goes before names that read the same
		if name := strings.ToLower(p.PathName()); len(p.Children) == 0 && len(out[name]) > 1 {
			out[name] = []string{p.ID}
		}
	}
	return out
}

// Result is how far a coding agrees with a sample.
type Result struct {
	Answers    int               `json:"answers" doc:"of the sample"`
	Whole      int               `json:"whole" doc:"answers of which all categories are the same"`
	Overall    Overall           `json:"overall" doc:"all categories together"`
	Categories []CategoryFigures `json:"categories" doc:"those without others inside, in the order of the frame"`
	Instead    []Instead         `json:"instead" doc:"categories that stand in the place of others, the most frequent first; at most 40"`
}

// Overall is the figures of all categories together.
type Overall struct {
	crosstab.Agreement
	MacroF1 float64 `json:"macroF1" doc:"mean F1 of the categories that the coding or the sample gives to any answer"`
	Alpha   float64 `json:"alpha" doc:"Krippendorff's alpha for nominal data over all pairs of answer and category, without weights"`
}

// CategoryFigures is how far the coding of a category agrees.
type CategoryFigures struct {
	ID   string `json:"id"`
	Name string `json:"name" doc:"its path"`
	crosstab.Agreement
	OnlyRows   []uint32 `json:"-"` // those that only the coding gives it
	MissedRows []uint32 `json:"-"` // those that only the sample gives it
}

// Instead is answers to which only the coding gives one category, and only the sample another.
type Instead struct {
	Only    string   `json:"only" doc:"path of the category that only the coding gives"`
	Missed  string   `json:"missed" doc:"path of the one that only the sample gives"`
	Answers int      `json:"answers"`
	Rows    []uint32 `json:"-"`
}

const mostInstead = 40

// Of holds a coding against a sample. Weight, if given, is that of an answer by its row.
func Of(c *frame.Coding, s Sample, weight func(row uint32) float64) Result {
	coding := func(r *frame.Result, row uint32) bool { return r.Answers.Contains(row) }
	given := func(r *frame.Result, row uint32) bool { return s[row][r.ID] }
	return held(c, slices.Sorted(maps.Keys(s)), coding, given, weight)
}

// Between holds what one coder gave against another, over the answers that both coded: the first stands in the place of the
// coding.
func Between(c *frame.Coding, first, second Sample, weight func(row uint32) float64) Result {
	var rows []uint32
	for row := range first {
		if _, both := second[row]; both {
			rows = append(rows, row)
		}
	}
	slices.Sort(rows)
	by := func(s Sample) gives { return func(r *frame.Result, row uint32) bool { return s[row][r.ID] } }
	return held(c, rows, by(first), by(second), weight)
}

// gives says whether somebody gives a category to an answer.
type gives func(r *frame.Result, row uint32) bool

func held(c *frame.Coding, rows []uint32, first, second gives, weight func(row uint32) float64) Result {
	out := Result{Answers: len(rows), Categories: []CategoryFigures{}, Instead: []Instead{}}
	same := roaring.BitmapOf(rows...)
	var all [4]crosstab.Weighed
	var units [][]int
	sum, counted := 0.0, 0
	for _, r := range c.Results {
		if len(r.Children) > 0 {
			continue
		}
		x := CategoryFigures{ID: r.ID, Name: r.PathName()}
		var n [4]crosstab.Weighed // both, only the first, only the second, neither
		for _, row := range rows {
			w := 1.0
			if weight != nil {
				w = weight(row)
			}
			has, given := first(r, row), second(r, row)
			switch {
			case has && given:
				n[0].Add(w)
			case has:
				n[1].Add(w)
				x.OnlyRows = append(x.OnlyRows, row)
			case given:
				n[2].Add(w)
				x.MissedRows = append(x.MissedRows, row)
			default:
				n[3].Add(w)
			}
			if has != given {
				same.Remove(row)
			}
			units = append(units, []int{number(has), number(given)})
		}
		x.Agreement = crosstab.NewAgreement(n[0], n[1], n[2], n[3])
		for i := range all {
			all[i] = all[i].Plus(n[i])
		}
		if n[0].N+n[1].N+n[2].N > 0 {
			sum, counted = sum+x.F1, counted+1
		}
		out.Categories = append(out.Categories, x)
	}
	out.Whole = int(same.GetCardinality())
	out.Overall.Agreement = crosstab.NewAgreement(all[0], all[1], all[2], all[3])
	if counted > 0 {
		out.Overall.MacroF1 = sum / float64(counted)
	}
	out.Overall.Alpha, _ = crosstab.Alpha(units)
	out.Instead = instead(out.Categories)
	return out
}

// instead finds which categories stand in the place of which others.
func instead(categories []CategoryFigures) []Instead {
	missed := map[uint32][]int{}
	for i, c := range categories {
		for _, row := range c.MissedRows {
			missed[row] = append(missed[row], i)
		}
	}
	out := []Instead{}
	for _, c := range categories {
		for other, rows := range parted(c.OnlyRows, missed) {
			out = append(out, Instead{c.Name, categories[other].Name, len(rows), rows})
		}
	}
	slices.SortFunc(out, func(a, b Instead) int {
		return cmp.Or(b.Answers-a.Answers, cmp.Compare(a.Only, b.Only), cmp.Compare(a.Missed, b.Missed))
	})
	return out[:min(len(out), mostInstead)]
}

// parted are rows by what else was missed in them.
func parted(rows []uint32, missed map[uint32][]int) map[int][]uint32 {
	out := map[int][]uint32{}
	for _, row := range rows {
		for _, other := range missed[row] {
			out[other] = append(out[other], row)
		}
	}
	return out
}

func number(b bool) int {
	if b {
		return 1
	}
	return 0
}
