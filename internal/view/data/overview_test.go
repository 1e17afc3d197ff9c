package data_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/view/data"
	"aftermath/internal/view/viewtest"
)

// The figures of the rail are what going through the answers one by one gives.
func TestOverviewAgainstEachAnswer(t *testing.T) {
	s := viewtest.Ferries(t, 400)
	to := s.Scheme
	to.Decisions = to.Decisions.With([]scheme.Marks{
		{Category: s.Coding.Results[1].ID, To: scheme.On, Respondents: []survey.Respondent{3, 8, 9}},
		{Category: "", To: scheme.On, Respondents: []survey.Respondent{5, 6, 7, 8, 10, 11}},
	})
	s, err := s.With(t.Context(), to, scheme.Touched{Decisions: true})
	require.NoError(t, err)
	f := focus.Focus{focus.Is(focus.Words{Rule: "boat"})}
	got, err := data.OverviewOf(t.Context(), s, f)
	require.NoError(t, err)
	want := data.Overview{Respondents: 400, Statuses: map[string]int{}, Categories: len(s.Coding.Results), ByHand: 3}
	for _, name := range text.StatusNames {
		want.Statuses[name] = 0
	}
	noAnswers := text.NewNoAnswers(s.Reading.Pipeline, s.Scheme.NoAnswers)
	shown, hidden := map[string]bool{}, map[string]bool{}
	for row, answer := range s.Answers {
		words := s.Reading.Pipeline.Clean(answer).Words
		status := noAnswers.Status(answer, words)
		want.Statuses[text.StatusNames[status]]++
		if status != text.Answered {
			continue
		}
		want.Answered++
		speaks := false
		for _, w := range s.Reading.Index.Answer(row) {
			if term := s.View.Terms[s.View.TermOf(w)]; term.Stop {
				hidden[term.Label] = true
			} else {
				shown[term.Label] = true
			}
			speaks = speaks || s.View.Terms[s.View.TermOf(w)].Label == "boat"
		}
		if speaks {
			want.Focus++
		}
		coded := false
		for _, r := range s.Coding.Results {
			coded = coded || r.Answers.Contains(uint32(row))
		}
		switch settled := s.Decisions.Settled.Contains(uint32(row)); {
		case coded:
			want.Coded++
		case settled:
			want.Settled++
		default:
			want.Left++
		}
	}
	want.Terms, want.Hidden = len(shown), len(hidden)
	assert.Equal(t, want, got)
}
