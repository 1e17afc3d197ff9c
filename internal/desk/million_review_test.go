package desk_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/view/code"
	"aftermath/internal/view/review"
)

// BenchmarkMillionReview goes through what the frame leaves of a million answers: learning, each queue the first time and again,
// groups, and a decision with the queue after it.
func BenchmarkMillionReview(b *testing.B) {
	w := millionQuestion(b)
	s := w.State()
	left, err := review.Left.Answers(ctx, s)
	require.NoError(b, err)
	b.Logf("%d answers left of %d", left.GetCardinality(), len(s.Answers))
	once := func(name string, ask func()) {
		start := time.Now()
		ask()
		first := time.Since(start)
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				ask()
			}
			b.ReportMetric(float64(first.Microseconds())/1000, "ms-first")
		})
	}
	page := func(order review.Order) func() {
		return func() {
			q, err := review.QueueOf(ctx, s, review.Left, review.QueueQuery{Order: order, Limit: 20, Likely: true})
			require.NoError(b, err)
			require.Len(b, q.Answers, 20)
		}
	}
	once("learning", func() { _, err := review.SuggesterOf(ctx, s, nil); require.NoError(b, err) })
	for _, order := range orders {
		once("queue "+string(order), page(order))
	}
	once("drafts", func() { _, err := code.DraftsOf(ctx, s, nil, ""); require.NoError(b, err) })
	once("groups", func() { _, err := review.GroupsOf(ctx, s, nil); require.NoError(b, err) })
	once("coverage by segment", func() { _, err := review.CoverageOf(ctx, s, nil, "route"); require.NoError(b, err) })
	once("likely by 95 %", func() { _, err := review.SureOf(ctx, s, nil, 0.95); require.NoError(b, err) })
	on := []survey.Respondent{survey.Respondent(left.Minimum())}
	category := s.Coding.Results[len(s.Coding.Results)-1].ID
	b.Run("a decision", func(b *testing.B) {
		for b.Loop() {
			to := s.Scheme
			to.Decisions = to.Decisions.With([]scheme.Marks{{Category: category, To: scheme.On, Respondents: on}})
			_, err := s.With(ctx, to, scheme.Touched{Decisions: true})
			require.NoError(b, err)
		}
	})
	b.Run("the surest after a decision", func(b *testing.B) {
		for b.Loop() {
			to := s.Scheme
			to.Decisions = to.Decisions.With([]scheme.Marks{{Category: category, To: scheme.On, Respondents: on}})
			next, err := s.With(ctx, to, scheme.Touched{Decisions: true})
			require.NoError(b, err)
			_, err = review.QueueOf(ctx, next, review.Left, review.QueueQuery{Order: review.Surest, Limit: 6})
			require.NoError(b, err)
			next.LetGo(s)
		}
	})
}
