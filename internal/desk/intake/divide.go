package intake

import (
	"context"
	"fmt"
	"slices"

	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/cells"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// Divided is what cutting the answers of a column does: each part becomes a row of its own, with all that the respondent
// said elsewhere but to other open-ended columns, which stays with the first part.
type Divided struct {
	Cut      int      `json:"cut" doc:"answers of several parts"`
	Parts    int      `json:"parts" doc:"of these"`
	Rows     int      `json:"rows" doc:"of the study then"`
	Longest  int      `json:"longest" doc:"parts of the answer with the most"`
	Samples  []Sample `json:"samples" doc:"the first answers that are cut"`
	Revision int      `json:"revision" doc:"of the study"`
}

// Sample is an answer with its parts.
type Sample struct {
	Number survey.Respondent `json:"number" doc:"of the respondent"`
	Parts  []string          `json:"parts"`
}

// How much of answers that are cut is shown.
const (
	maxCutShown   = 5
	maxPartsShown = 8
	maxPartRunes  = 300
)

// divider cuts the answers of a study.
type divider struct {
	study  *state.Study
	column int
	cut    func(text string) []string
	names  [3]string // of the columns that say where a part stands
}

func newDivider(s *state.Study, d files.Split) (divider, error) {
	out := divider{study: s, column: slices.IndexFunc(s.Columns, func(c survey.Spec) bool { return c.Name == d.Column })}
	if out.column < 0 || s.Columns[out.column].Role != survey.OpenEnded {
		return out, fmt.Errorf("%w: %q is no open-ended column; only answers can be cut into parts", state.ErrRequest, d.Column)
	}
	var err error
	if out.cut, err = text.NewDivider(d.Division); err != nil {
		return out, fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	taken := func(name string) bool {
		return slices.ContainsFunc(s.Columns, func(c survey.Spec) bool { return c.Name == name || slices.Contains(c.Was, name) }) ||
			slices.ContainsFunc(s.Derived, func(v survey.Derived) bool { return v.Name == name })
	}
	for n := 1; ; n++ {
		free := true
		for i, name := range []string{files.DocumentColumn, files.PartColumn, files.PositionColumn} {
			if out.names[i] = name; n > 1 {
				out.names[i] = fmt.Sprintf("%s %d", name, n)
			}
			free = free && !taken(out.names[i])
		}
		if free {
			return out, nil
		}
	}
}

// each visits the rows of the study with their parts: a blank answer is one part.
func (d divider) each(ctx context.Context, do func(row int, parts []string) error) error {
	for row, answer := range d.study.Cells.AsCame(d.column, cells.ToStore) {
		if row%1000 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		parts := d.cut(answer)
		if len(parts) < 2 {
			parts = []string{answer}
		}
		if err := do(row, parts); err != nil {
			return err
		}
	}
	return nil
}

// TryDivide tells what cutting answers would do.
func TryDivide(ctx context.Context, s *state.Study, how files.Split) (Divided, error) {
	out := Divided{Samples: []Sample{}, Revision: s.Revision}
	d, err := newDivider(s, how)
	if err != nil {
		return out, err
	}
	err = d.each(ctx, func(row int, parts []string) error {
		if out.Rows += len(parts); len(parts) == 1 {
			return nil
		}
		out.Cut++
		out.Parts += len(parts)
		out.Longest = max(out.Longest, len(parts))
		if len(out.Samples) < maxCutShown {
			shown := Sample{Number: s.Rows.Respondent(row)}
			for _, p := range parts[:min(len(parts), maxPartsShown)] {
				shown.Parts = append(shown.Parts, state.Shortened(p, maxPartRunes))
			}
			out.Samples = append(out.Samples, shown)
		}
		return nil
	})
	return out, err
}

// DivideRows makes rows for the store of the answers that are cut: they stand in the place of their respondents.
func DivideRows(ctx context.Context, s *state.Study, how files.Split) (Addition, error) {
	d, err := newDivider(s, how)
	if err != nil {
		return Addition{}, err
	}
	out := Addition{Setup: store.Setup{Rows: s.Rows, Columns: slices.Clone(s.Columns), Derived: s.Derived, Under: s.Under}}
	for i, role := range []survey.Role{survey.LeftOut, survey.LeftOut, survey.Segment} {
		c := survey.Spec{Name: d.names[i], Role: role}
		if role == survey.Segment {
			c.Order = slices.Clone(files.Positions)
		}
		out.Setup.Columns = append(out.Setup.Columns, c)
	}
	if err := survey.CheckNames(out.Setup.Columns, out.Setup.Derived); err != nil {
		return out, err
	}
	out.Before = func(row func([]string) error) error {
		for i := range s.Respondents() {
			if err := row(files.Place(i+1, 0, 1)); err != nil {
				return err
			}
		}
		return nil
	}
	var instead []Instead
	there := s.Rows.Set().List()
	out.Rows = func(put func([]string) error) error {
		n := 0
		return d.each(ctx, func(row int, parts []string) error {
			if len(parts) == 1 {
				return nil
			}
			for i, part := range parts {
				instead = append(instead, Instead{Of: there[row], Row: n})
				n++
				if err := put(append(d.cells(row, i, part), files.Place(row+1, i, len(parts))...)); err != nil {
					return err
				}
			}
			return nil
		})
	}
	out.Instead = func() []Instead { return instead }
	return out, nil
}

// cells are those of the row of a part.
func (d divider) cells(row, part int, words string) []string {
	out := make([]string, len(d.study.Columns), len(d.study.Columns)+3)
	for i, c := range d.study.Columns {
		switch {
		case i == d.column:
			out[i] = words
		case c.Role != survey.OpenEnded || part == 0:
			out[i] = d.study.Cells.AsCame(i, cells.ToStore)[row]
		}
	}
	return out
}
