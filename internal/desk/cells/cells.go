// Package cells holds the cells of a study as they came, and decides what of them may be seen: everything that is worked out of
// answers, shown or written goes by Shown. As they came they leave only by AsCame, which asks what for.
package cells

import (
	"context"
	"maps"
	"runtime"
	"slices"
	"strconv"

	"aftermath/core/parallel"
	"aftermath/core/survey"
	"aftermath/core/text"
)

// Masking is what a study masks: by question that asks for personal data to be masked, the texts that were found to be none.
// Where one question asks for it, all cells are masked: a row holds the answers to all, and what is known of who gave them.
type Masking map[int64][]string

// With is the masking once a question asks for it, or does not; pass are the texts that it found to be none.
func (m Masking) With(question int64, on bool, pass []string) Masking {
	out := maps.Clone(m)
	if out == nil {
		out = Masking{}
	}
	delete(out, question)
	if on {
		out[question] = pass
	}
	return out
}

// Equal says whether two maskings mask the same.
func (m Masking) Equal(other Masking) bool { return maps.EqualFunc(m, other, slices.Equal[[]string]) }

// Masker finds what is masked; nil where nothing is.
func (m Masking) Masker() *text.Masker {
	if len(m) == 0 {
		return nil
	}
	masker := text.NewMasker(m.passed())
	return &masker
}

// passed are the texts that one of the questions found to be no personal data.
func (m Masking) passed() (all []string) {
	for _, texts := range m {
		all = append(all, texts...)
	}
	return all
}

// Hides says whether all that is masked under another masking is masked under this one too.
func (m Masking) Hides(all Masking) bool {
	shows := func(text string) bool { return !slices.Contains(all.passed(), text) }
	return len(all) == 0 || len(m) > 0 && !slices.ContainsFunc(m.passed(), shows)
}

// Purpose is a reason to work on cells as they came.
type Purpose int

// The purposes. Of none of them a cell is shown.
const (
	ToCount   Purpose = iota + 1 // numbers, dates and weights, and where personal data stands
	ToCompare                    // keys and rows of files that are added, and rows of the same person
	ToStore                      // cells that are cut into others
	// ToList shows personal data to somebody who may see it.
	ToList
)

// Cells are the cells of a study. They do not change once made.
type Cells struct {
	came, shown [][]string // by column and row; the same column where nothing in it is masked
	masking     Masking
}

// New makes the cells of columns as they came. Answers says which columns hold answers: in others, personal data of different people
// stays different when masked, so that values and identifiers do.
func New(came [][]string, answers func(column int) bool, m Masking) Cells {
	c := Cells{came: came, shown: came, masking: m}
	masker := m.Masker()
	if masker == nil {
		return c
	}
	c.shown = make([][]string, len(came))
	for column, cells := range came {
		masked := make([]string, len(cells))
		const chunk = 5000
		// Without a deadline there is no error.
		_ = parallel.Each(context.Background(), runtime.GOMAXPROCS(0), (len(cells)+chunk-1)/chunk, func() func(int) {
			return func(i int) {
				for row := i * chunk; row < min((i+1)*chunk, len(cells)); row++ {
					masked[row] = masker.Mask(cells[row])
				}
			}
		})
		switch {
		case slices.Equal(masked, cells): // most columns hold nothing of the kind, and take no room twice
			masked = cells
		case !answers(column):
			keepApart(cells, masked)
		}
		c.shown[column] = masked
	}
	return c
}

// keepApart numbers masked cells that read the same and did not come the same, in the order in which they came.
func keepApart(came, masked []string) {
	known, times := map[string]string{}, map[string]int{}
	for row := range came {
		if masked[row] == came[row] {
			continue
		}
		name, there := known[came[row]]
		if !there {
			name = masked[row]
			if times[name]++; times[name] > 1 {
				name += " " + strconv.Itoa(times[name])
			}
			known[came[row]] = name
		}
		masked[row] = name
	}
}

// Masking is what is masked.
func (c Cells) Masking() Masking { return c.masking }

// Columns is how many columns there are.
func (c Cells) Columns() int { return len(c.came) }

// Shown are the cells of a column as they may be shown, by row.
func (c Cells) Shown(column int) []string { return c.shown[column] }

// AsCame are the cells of a column as they came, by row.
func (c Cells) AsCame(column int, _ Purpose) []string { return c.came[column] }

// Variables are the cells that variables are read from: numbers, dates and weights as they came, everything else as it may be shown.
func (c Cells) Variables(columns []survey.Spec) [][]string {
	out := make([][]string, len(c.came))
	for i := range columns {
		out[i] = c.Variable(columns, i)
	}
	return out
}

// Variable is one column of Variables.
func (c Cells) Variable(columns []survey.Spec, column int) []string {
	if columns[column].Role.Numeric() {
		return c.AsCame(column, ToCount)
	}
	return c.Shown(column)
}
