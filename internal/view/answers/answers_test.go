package answers_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/viewtest"
)

// Pages are stretches of one list: together they hold each answer of the focus once, in the order of the file, as it was written, with
// the categories that it has and why.
func TestPagesHoldEachAnswerOnce(t *testing.T) {
	s := viewtest.Ferries(t, 300)
	to := s.Scheme
	leaf := s.Coding.Results[1].ID
	to.Decisions = to.Decisions.With([]scheme.Marks{
		{Category: leaf, To: scheme.On, Origin: scheme.Origin{By: "Ann", Note: "odd"}, Respondents: []survey.Respondent{3, 8}},
		{Category: "", To: scheme.On, Respondents: []survey.Respondent{5}},
	})
	s, err := s.With(t.Context(), to, scheme.Touched{Decisions: true})
	require.NoError(t, err)
	f := focus.Focus{focus.Is(focus.Words{Rule: "queue / wait"})}
	for _, f := range []focus.Focus{nil, f} {
		set, err := f.Answers(t.Context(), s)
		require.NoError(t, err)
		var all []answers.Answer
		for offset := 0; ; offset += 7 {
			page, err := answers.List(t.Context(), s, f, 0, offset, 7)
			require.NoError(t, err)
			require.Equal(t, int(set.GetCardinality()), page.Total)
			if len(page.Answers) == 0 {
				break
			}
			all = append(all, page.Answers...)
		}
		rows := set.ToArray()
		require.Len(t, all, len(rows))
		for i, a := range all {
			row := rows[i]
			require.Equal(t, s.Respondent(int(row)), a.Number)
			var written strings.Builder
			hits := 0
			for _, p := range a.Parts {
				written.WriteString(p.Text)
				if p.Hit {
					hits++
				}
			}
			require.Equal(t, s.Answers[row], written.String())
			require.Equal(t, len(f) > 0, hits > 0, "what the focus speaks of is marked: %q", written.String())
			require.Equal(t, a.Number == 5, a.Settled)
			var has []string
			for _, r := range s.Coding.Results {
				if len(r.Children) == 0 && r.Answers.Contains(row) {
					has = append(has, r.ID)
				}
			}
			var codes []string
			for _, c := range a.Codes {
				codes = append(codes, c.ID)
				require.True(t, c.ByHand || len(c.Rules) > 0, "there is a reason")
				if c.ByHand {
					require.Equal(t, scheme.Origin{By: "Ann", Note: "odd"}, c.Origin)
				}
			}
			require.Equal(t, has, codes)
		}
	}
	from, err := answers.List(t.Context(), s, nil, 100, -2, 5)
	require.NoError(t, err)
	assert.Equal(t, survey.Respondent(98), from.Answers[0].Number, "from an answer on, and back")
}
