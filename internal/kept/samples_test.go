package kept

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"aftermath/core/survey"
	"aftermath/internal/store"
	"aftermath/internal/view/review"
)

// The answers that were coded stand for all answers of the parts in which any was coded, each part by itself.
func TestSampleWeights(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, given := sampled{}, review.Given{}
		want, at := 0.0, survey.Respondent(0)
		for i := range rapid.IntRange(1, 4).Draw(t, "parts") {
			drawn := rapid.IntRange(1, 6).Draw(t, "drawn")
			all, coded := drawn+rapid.IntRange(0, 20).Draw(t, "more"), 0
			s.how.Parts = append(s.how.Parts, review.Stratum{Answers: all, Drawn: drawn})
			for range drawn {
				s.members = append(s.members, store.SampleMember{Number: at, Stratum: i})
				if rapid.Bool().Draw(t, "coded") {
					given[at] = nil
					coded++
				}
				at++
			}
			if coded > 0 {
				want += float64(all)
			}
		}
		weight, sum := s.weights(given), 0.0
		for p := range given {
			sum += weight(p)
		}
		assert.InDelta(t, want, sum, 1e-9)
	})
}
