// Package review is what the view Review asks for beside the answers themselves: what is left, in what order, what it is likely to
// be; what was decided by hand; and how good the coding is.
package review

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"aftermath/core/agreement"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
)

// Given is what somebody gave answers: by respondent, the keys of the categories.
type Given map[survey.Respondent][]string

// AgreementTable is how far the coding agrees with a coder, or one coder with another.
type AgreementTable struct {
	agreement.Result
	Apart []Apart `json:"apart" doc:"for each category, in the same order: whose answers the two give it differently"`
	Gone  int     `json:"gone" doc:"coded answers of respondents who are not in the data now"`
}

// Apart is the answers of a sample that only one of the two gives a category.
type Apart struct {
	Only   []survey.Respondent `json:"only" doc:"respondents whose answers only the coding gives it; at most 500"`
	Missed []survey.Respondent `json:"missed" doc:"respondents whose answers only the sample gives it; at most 500"`
}

const mostApart = 500

// AgreementOf holds the coding, decisions by hand included, against what a coder gave. With another coder, it is held against
// them instead: what the first gave stands in the place of the coding. Weight is how many answers one of the sample stands for.
func AgreementOf(
	ctx context.Context, s *state.State, given Given, other Given, weight func(survey.Respondent) float64,
) (AgreementTable, error) {
	weighed := func(row uint32) float64 { return weight(s.Respondent(int(row))) }
	sample, gone := byRow(s, given)
	out := AgreementTable{Apart: []Apart{}, Gone: gone}
	if other == nil {
		out.Result = agreement.Of(s.Coding, sample, weighed)
	} else {
		second, _ := byRow(s, other)
		out.Result = agreement.Between(s.Coding, sample, second, weighed)
	}
	for _, c := range out.Categories {
		out.Apart = append(out.Apart, Apart{respondents(s, c.OnlyRows), respondents(s, c.MissedRows)})
	}
	return out, ctx.Err()
}

func byRow(s *state.State, given Given) (out agreement.Sample, gone int) {
	out = agreement.Sample{}
	for p, categories := range given {
		row, there := s.Study.Rows.Row(p)
		if !there {
			gone++
			continue
		}
		out[uint32(row)] = map[string]bool{}
		for _, c := range categories {
			out[uint32(row)][c] = true
		}
	}
	return out, gone
}

// ReadSample reads a sample that was coded elsewhere: a table with the columns id and category.
func ReadSample(s *state.State, table [][]string) (Given, error) {
	column, err := identifier(s)
	if err != nil {
		return nil, err
	}
	row := agreement.ByID(len(s.Answers), func(row int) string { return s.Cell(row, column) })
	sample, err := agreement.Read(table, s.Scheme.Frame, row)
	if errors.Is(err, agreement.ErrSample) {
		return nil, fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	if err != nil {
		return nil, err
	}
	out := Given{}
	for row, categories := range sample {
		p := s.Respondent(int(row))
		out[p] = []string{}
		for c := range categories {
			out[p] = append(out[p], c)
		}
		slices.Sort(out[p])
	}
	return out, nil
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
