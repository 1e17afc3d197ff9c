package clean_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/viewtest"
)

// A step touched the answers that read otherwise with it than with those before it alone.
func TestStepsAgainstReadingWithoutThem(t *testing.T) {
	s := viewtest.Ferries(t, 400)
	got, err := clean.CleaningOf(t.Context(), s, nil, 20, 3)
	require.NoError(t, err)
	steps := s.Scheme.Cleaning
	require.GreaterOrEqual(t, len(got.Steps), len(steps))
	reading := func(n int, answer string) string {
		p, err := text.NewPipeline(s.Scheme.Language, steps[:n])
		require.NoError(t, err)
		return p.Clean(answer).Text
	}
	for i, step := range steps {
		touched := 0
		for _, answer := range s.Answers {
			if reading(i, answer) != reading(i+1, answer) {
				touched++
			}
		}
		assert.Equal(t, touched, got.Steps[i].Answers, step.Kind())
		assert.True(t, got.Steps[i].On)
	}
	for _, off := range got.Steps[len(steps):] {
		assert.False(t, off.On, off.Kind())
		assert.Zero(t, off.Answers)
	}
}

// A proof holds the whole original; carried out, it is what is read; and each step shows somewhere.
func TestProofsAreTheOriginal(t *testing.T) {
	s := viewtest.Ferries(t, 400)
	got, err := clean.CleaningOf(t.Context(), s, nil, 30, 3)
	require.NoError(t, err)
	shown := map[int]bool{}
	for _, p := range got.Proof {
		row, ok := s.Study.Rows.Row(p.Number)
		require.True(t, ok)
		var original, read strings.Builder
		for _, piece := range p.Pieces {
			original.WriteString(piece.Text)
			if piece.Struck {
				read.WriteString(piece.With)
			} else {
				read.WriteString(piece.Text)
			}
			for _, i := range piece.Steps {
				shown[i] = true
			}
		}
		assert.Equal(t, s.Answers[row], original.String())
		assert.Equal(t, s.Reading.Pipeline.Clean(s.Answers[row]).Text, read.String())
	}
	for i, step := range got.Steps[:len(s.Scheme.Cleaning)] {
		assert.Equal(t, step.Answers > 0, shown[i], step.Kind())
	}
	one, err := clean.CleaningOf(t.Context(), s, focus.Focus{focus.Is(focus.Step{ID: "links"})}, 5, 3)
	require.NoError(t, err)
	assert.NotEmpty(t, one.Proof)
}

// What other steps would change are the answers whose words differ.
func TestChangedAgainstEachAnswer(t *testing.T) {
	s := viewtest.Ferries(t, 400)
	to := s.Scheme.Clone()
	to.Cleaning = text.Steps(text.TypographyStep{}, text.AccentsStep{})
	after, err := s.With(t.Context(), to, scheme.Touched{Text: true, Lexicon: true, Frame: true})
	require.NoError(t, err)
	words := func(p *text.Pipeline, answer string) string {
		var out []string
		for _, w := range p.Clean(answer).Words {
			out = append(out, w.Surface)
		}
		return strings.Join(out, " ")
	}
	want := 0
	for _, answer := range s.Answers {
		if words(s.Reading.Pipeline, answer) != words(after.Reading.Pipeline, answer) {
			want++
		}
	}
	n, shown, err := clean.Changed(t.Context(), s, after)
	require.NoError(t, err)
	assert.Equal(t, want, n)
	assert.NotEmpty(t, shown)
}
