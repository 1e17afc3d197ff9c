// Package review is what the view Review asks for beside the answers themselves: how good the coding is.
package review

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"aftermath/core/agreement"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// AgreementTable is how far the coding agrees with a sample that somebody coded by hand elsewhere.
type AgreementTable struct {
	agreement.Result
	Apart []Apart `json:"apart" doc:"for each category, in the same order: whose answers the two give it differently"`
}

// Apart is the answers of a sample that only one of the two gives a category.
type Apart struct {
	Only   []survey.Respondent `json:"only" doc:"respondents whose answers only the coding gives it; at most 500"`
	Missed []survey.Respondent `json:"missed" doc:"respondents whose answers only the sample gives it; at most 500"`
}

const mostApart = 500

// AgreementOf holds the coding, decisions by hand included, against a sample: a table with the columns id and category.
func AgreementOf(ctx context.Context, s *state.State, table [][]string) (AgreementTable, error) {
	column, err := identifier(s)
	if err != nil {
		return AgreementTable{}, err
	}
	row := agreement.ByID(len(s.Answers), func(row int) string { return s.Cell(row, column) })
	sample, err := agreement.Read(table, s.Scheme.Frame, row)
	if errors.Is(err, agreement.ErrSample) {
		return AgreementTable{}, fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	if err != nil {
		return AgreementTable{}, err
	}
	out := AgreementTable{Result: agreement.Of(s.Coding, sample), Apart: []Apart{}}
	for _, c := range out.Categories {
		out.Apart = append(out.Apart, Apart{respondents(s, c.OnlyRows), respondents(s, c.MissedRows)})
	}
	return out, ctx.Err()
}

func respondents(s *state.State, rows []uint32) []survey.Respondent {
	out := []survey.Respondent{}
	for _, row := range rows[:min(len(rows), mostApart)] {
		out = append(out, s.Respondent(int(row)))
	}
	return out
}

// identifier is the first column that tells respondents apart.
func identifier(s *state.State) (column int, err error) {
	column = slices.IndexFunc(s.Study.Columns, func(c survey.Spec) bool { return c.Role == survey.Identifier })
	if column < 0 {
		return 0, fmt.Errorf("%w: no column of the study tells respondents apart; say in Data which one is an identifier", state.ErrRequest)
	}
	return column, nil
}

// Blind draws a random sample of a focus to be coded elsewhere: rows with the columns id, answer and category, the last of them
// empty. Nothing says how it is coded here. The same seed draws the same; a larger sample begins with the smaller one.
func Blind(ctx context.Context, s *state.State, f focus.Focus, size int, seed uint64) ([][]string, error) {
	column, err := identifier(s)
	if err != nil {
		return nil, err
	}
	set, err := f.Answers(ctx, s)
	if err != nil {
		return nil, err
	}
	out := [][]string{{"id", "answer", "category"}}
	for _, p := range s.DrawnInOrder(set, size, seed) {
		if row, there := s.Study.Rows.Row(p); there {
			answer := s.Original(row).All()
			out = append(out, []string{s.Cell(row, column), answer, ""})
		}
	}
	return out, ctx.Err()
}
