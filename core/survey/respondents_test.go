package survey

import (
	"slices"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Rows and respondents, held against a plain list of who stands in which row.
func TestRowsAndRespondents(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var rows Rows
		list := []Respondent{}
		next := Respondent(0)
		for range rapid.IntRange(0, 4).Draw(t, "additions") {
			next += Respondent(rapid.IntRange(0, 3).Draw(t, "taken away before"))
			n := rapid.IntRange(0, 4).Draw(t, "added")
			rows = rows.With(next, n)
			for range n {
				list = append(list, next)
				next++
			}
		}
		require.NoError(t, rows.Check())
		require.Equal(t, len(list), rows.Len())
		where := map[Respondent]int{}
		for row, p := range list {
			where[p] = row
			require.Equal(t, p, rows.Respondent(row))
		}
		set := RespondentsOf(
			rapid.SliceOf(
				rapid.Custom(func(t *rapid.T) Respondent { return Respondent(rapid.IntRange(0, 20).Draw(t, "p")) }),
			).Draw(t, "set")...)
		want := roaring.New()
		for p := range next + 3 {
			row, ok := rows.Row(p)
			at, there := where[p]
			require.Equal(t, there, ok)
			if there {
				require.Equal(t, at, row)
				if set.Has(p) {
					want.Add(uint32(row))
				}
			}
			from := 0
			for from < len(list) && list[from] < p {
				from++
			}
			require.Equal(t, from, rows.RowFrom(p))
		}
		got := rows.Of(set)
		require.True(t, want.Equals(got), "%v %v", want, got)
		back := rows.Respondents(got)
		require.True(t, set.And(rows.Respondents(rangeOf(len(list)))).Same(back))
		got.Add(uint32(len(list) + 2))
		require.True(t, back.Same(rows.Respondents(got)), "what is no row is nobody")
		require.Equal(t, list, rows.Set().List())
		left := slices.DeleteFunc(slices.Clone(list), set.Has)
		without := rows.Without(set)
		require.NoError(t, without.Check())
		require.Equal(t, left, without.Set().List())
		require.Equal(t, len(left), without.Len())
	})
}

func rangeOf(n int) *roaring.Bitmap {
	b := roaring.New()
	b.AddRange(0, uint64(n))
	return b
}
