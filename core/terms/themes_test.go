package terms_test

import (
	"context"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/lexicon"
	"aftermath/core/terms"
)

// What is said as a place, and what the whole study is about, names no subject.
func TestThemesAreSubjects(t *testing.T) {
	texts := slices.Concat(
		times(20, "cold in the lobby", "nobody at the lobby", "dust behind your lobby", "lobby"),
		times(20, "towels were damp", "more towels", "no towels", "thin towels"),
		times(20, "the boat squeaks", "your boat is dull", "a dull boat", "boat"),
		times(120, "fine", "as ever", "much the same"),
	)
	v := view(t, lexicon.Default("en"), texts...)
	found := func(study string) (out []string) {
		s := terms.Suggester{Counter: terms.NewCounter(v, nil), Language: "en", Workers: 2}
		themes, err := s.Themes(context.Background(), v.Index.Answered(), study)
		require.NoError(t, err)
		for _, theme := range themes {
			out = append(out, v.Terms[theme[0][0]].Label)
		}
		return out
	}
	all := found("")
	assert.Subset(t, all, []string{"towels", "boat"})
	assert.NotContains(t, all, "lobby")
	for _, name := range []string{"Boats 2026", "Ferries"} { // a ferry is a boat
		of := found(name)
		assert.Contains(t, of, "towels")
		assert.NotContains(t, of, "boat")
	}
}
