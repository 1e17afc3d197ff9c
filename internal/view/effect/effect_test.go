package effect_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/effect"
	"aftermath/internal/view/viewtest"
)

// What a change does to each category is what comparing the answers one by one gives; a category that goes loses all of its own.
func TestEffectAgainstEachAnswer(t *testing.T) {
	s := viewtest.Ferries(t, 500)
	leaf := func(f frame.Frame) *frame.Category { return &f[0].Children[0] }
	for what, change := range map[string]func(*scheme.Scheme) scheme.Touched{
		"a rule": func(to *scheme.Scheme) scheme.Touched {
			leaf(to.Frame).Rules = []string{"car / (("}
			return scheme.Touched{Frame: true}
		},
		"another rule": func(to *scheme.Scheme) scheme.Touched {
			leaf(to.Frame).Rules = []string{"boat"}
			return scheme.Touched{Frame: true}
		},
		"a category goes": func(to *scheme.Scheme) scheme.Touched {
			to.Frame = to.Frame[1:]
			return scheme.Touched{Frame: true}
		},
		"by hand": func(to *scheme.Scheme) scheme.Touched {
			to.Decisions = to.Decisions.With([]scheme.Marks{
				{Category: leaf(to.Frame).ID, To: scheme.On, Respondents: []survey.Respondent{1, 2, 3, 4, 5, 6}},
				{Category: to.Frame[1].Children[0].ID, To: scheme.Off, Respondents: []survey.Respondent{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}},
			})
			return scheme.Touched{Decisions: true}
		},
		"nothing": func(*scheme.Scheme) scheme.Touched { return scheme.Touched{} },
	} {
		to := s.Scheme.Clone()
		touched := change(&to)
		after, err := s.With(t.Context(), to, touched)
		require.NoError(t, err)
		got, err := effect.Of(t.Context(), s, after, what)
		require.NoError(t, err)
		want := map[string][2]int{}
		for _, path := range paths(s, after) {
			gained, lost := 0, 0
			for row := range s.Answers {
				switch was, is := has(s, path, row), has(after, path, row); {
				case is && !was:
					gained++
				case was && !is:
					lost++
				}
			}
			if gained+lost > 0 {
				want[path] = [2]int{gained, lost}
			}
		}
		found := map[string][2]int{}
		for _, c := range got.Categories {
			found[c.Name] = [2]int{c.Gained, c.Lost}
		}
		assert.Equal(t, want, found, what)
		assert.Equal(t, what == "nothing", len(want) == 0, what)
		if what == "a rule" {
			assert.NotEmpty(t, got.Misfits, "a rule that can't be read is said")
		}
	}
}

// paths are those of the categories of two states.
func paths(states ...*state.State) (out []string) {
	seen := map[string]bool{}
	for _, s := range states {
		for _, r := range s.Coding.Results {
			if !seen[r.PathName()] {
				seen[r.PathName()] = true
				out = append(out, r.PathName())
			}
		}
	}
	return out
}

func has(s *state.State, path string, row int) bool {
	for _, r := range s.Coding.Results {
		if r.PathName() == path {
			return r.Answers.Contains(uint32(row))
		}
	}
	return false
}
