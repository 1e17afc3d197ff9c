// Package viewtest opens questions for tests of views, without a database.
package viewtest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"aftermath/internal/demo"
	"aftermath/internal/desk/state"
)

// Ferries is the first question of the demo study, answered by so many.
func Ferries(t testing.TB, respondents int) *state.State {
	t.Helper()
	book, err := demo.Playbook(demo.Change)
	require.NoError(t, err)
	cells := make([][]string, len(demo.Columns))
	for _, row := range demo.Make(3, respondents).Rows {
		for i, c := range row {
			cells[i] = append(cells[i], c)
		}
	}
	s, err := state.Unstored(t.Context(), demo.Specs(), cells, 10, book)
	require.NoError(t, err)
	return s
}
