package intake_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/survey"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
)

var ctx = context.Background()

// csvSource is a file on its way in.
func csvSource(t testing.TB, lines ...string) intake.Source {
	path := filepath.Join(t.TempDir(), "x.csv")
	require.NoError(t, os.WriteFile(path, []byte(strings.Join(lines, "\n")), 0o600))
	return intake.Source{Path: path, Size: 1, Recipe: files.Recipe{Format: files.Delimited, Delimiter: ",", Headers: 1}}
}

// A table is joined by going through the file for each respondent.
func TestJoinAgainstLookingUp(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		key := rapid.SampledFrom([]string{"a", "b", "c", " a", "d ", "", "e", "A", "C ", "p 1", "P1"})
		loose := rapid.Bool().Draw(rt, "loose")
		ours := rapid.SliceOfN(key, 1, 12).Draw(rt, "ours")
		theirs := rapid.SliceOfN(key, 1, 12).Draw(rt, "theirs")
		answers := make([]string, len(ours))
		lines := []string{"k,city"}
		for i, k := range theirs {
			lines = append(lines, fmt.Sprintf("%q,place %d", k, i))
		}
		study, err := state.NewStudy(state.Setup{Rows: survey.FirstRows(len(ours)),
			Columns: []survey.Spec{
				{Name: "key", Role: survey.Identifier}, {Name: "answer", Role: survey.OpenEnded},
			}}, [][]string{ours, answers}, nil, nil)
		require.NoError(rt, err)
		join := intake.Join{
			Key:     "key",
			FileKey: "k",
			Loose:   loose,
			Columns: []intake.JoinColumn{{From: "city", Spec: survey.Spec{Name: "town", Role: survey.Segment}}},
		}
		report, err := intake.TryJoin(ctx, study, csvSource(t, lines...), join, nothing)
		require.NoError(rt, err)
		want, cells := intake.JoinReport{}, []string{}
		loosely := func(a, b string) bool {
			return strings.EqualFold(strings.ReplaceAll(a, " ", ""), strings.ReplaceAll(b, " ", ""))
		}
		same := func(a, b string) bool {
			return (strings.TrimSpace(a) == strings.TrimSpace(b) || loose && loosely(a, b)) && strings.TrimSpace(a) != ""
		}
		among := func(k string, list []string) int {
			return slices.IndexFunc(list, func(o string) bool { return same(k, o) })
		}
		for i, k := range ours {
			at := among(k, theirs)
			if at < 0 {
				want.Without++
				cells = append(cells, "")
				continue
			}
			want.Matched++
			cells = append(cells, fmt.Sprint("place ", at))
			if among(k, slices.Delete(slices.Clone(ours), i, i+1)) >= 0 {
				want.Shared++
			}
		}
		for i, k := range theirs {
			switch {
			case among(k, ours) < 0:
				want.Unused++
				if strings.TrimSpace(k) != "" && slices.ContainsFunc(ours, func(o string) bool { return loosely(k, o) }) {
					want.Almost++
				}
			case among(k, theirs) < i:
				want.Repeated++
			}
		}
		require.Equal(rt, []int{want.Matched, want.Without, want.Shared, want.Unused, want.Repeated, want.Almost},
			[]int{report.Matched, report.Without, report.Shared, report.Unused, report.Repeated, report.Almost})
		if want.Matched == 0 {
			return
		}
		a, matched, err := intake.AddColumns(ctx, study, csvSource(t, lines...), join, nothing)
		require.NoError(rt, err)
		require.Equal(rt, want.Matched, matched)
		var got []string
		require.NoError(rt, a.Rows(func(cells []string) error { got = append(got, cells...); return nil }))
		require.Equal(rt, cells, got, "the first row of a key counts")
	})
}

func nothing(string, int, int) {}
