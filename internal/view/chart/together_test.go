package chart_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/chart"
)

// Which categories come together is what counting answer by answer gives, in any focus; what is opened are the very answers.
func TestTogetherIsCounted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 60).Draw(t, "n")
		names := []string{"alpha", "beta", "gamma", "delta"}
		cells := make([][]string, 2)
		for range n {
			words := ""
			for _, name := range names {
				if rapid.IntRange(0, 2).Draw(t, "has") == 0 {
					words += " " + name
				}
			}
			cells[0] = append(cells[0], rapid.SampledFrom([]string{"x", "y", "z", ""}).Draw(t, "group"))
			cells[1] = append(cells[1], "so"+words)
		}
		book := playbook.New("en")
		book.Frame = frame.Frame{
			{Name: "net", Children: []frame.Category{{Name: "a", Rules: []string{"alpha"}}, {Name: "b", Rules: []string{"beta"}}}},
			{Name: "c", Rules: []string{"gamma"}}, {Name: "d", Rules: []string{"delta"}},
		}
		book.Frame.Complete(nil, 0)
		specs := []survey.Spec{{Name: "group", Role: survey.Segment}, {Name: "answer", Role: survey.OpenEnded}}
		s, err := state.Unstored(ctx, specs, cells, 1, book)
		require.NoError(t, err)
		with := rapid.SampledFrom([]string{"", "group"}).Draw(t, "with")
		level := rapid.SampledFrom([]string{"all", "nets", "categories"}).Draw(t, "rows")
		var f focus.Focus
		if slices.Contains(cells[0], "x") && slices.Contains(cells[0], "y") && rapid.Bool().Draw(t, "narrow") {
			f = focus.Focus{focus.Is(focus.Variable{Name: "group", Op: "=", Values: []string{"x", "y"}})}
		}
		got, err := chart.TogetherOf(ctx, s, f, chart.TogetherQuery{Rows: level, With: with})
		require.NoError(t, err)

		has := func(name string, row int) bool {
			r, ok := s.Coding.Of(name)
			return ok && r.Answers.Contains(uint32(row))
		}
		inBase := func(row int) bool {
			group := cells[0][row]
			return (f == nil || group == "x" || group == "y") && (with == "" || group != "")
		}
		holds := func(node chart.TogetherNode, row int) bool {
			if node.Kind == "value" {
				return cells[0][row] == node.Name
			}
			return has(node.Conditions[0].Test.(focus.Category).ID, row)
		}
		count := func(test func(row int) bool) (k int) {
			for row := range n {
				if inBase(row) && test(row) {
					k++
				}
			}
			return k
		}
		require.Equal(t, count(func(int) bool { return true }), got.Base)
		var pairs []string
		var raw []float64
		for _, p := range got.Pairs {
			a, b := got.Nodes[p.A], got.Nodes[p.B]
			pairs = append(pairs, a.Path+" + "+b.Path)
			both := count(func(row int) bool { return holds(a, row) && holds(b, row) })
			ka, kb := count(func(row int) bool { return holds(a, row) }), count(func(row int) bool { return holds(b, row) })
			require.Equal(t, []int{both, ka, kb}, []int{p.Both, a.Answers, b.Answers})
			if ka > 0 && kb > 0 {
				require.InDelta(t, float64(both)*float64(got.Base)/(float64(ka)*float64(kb)), p.Lift, 1e-9)
				require.InDelta(t, float64(both)/float64(ka+kb-both), p.Jaccard, 1e-9)
			}
			g2 := 0.0 // of the four cells, one after the other
			for _, cell := range [][3]int{
				{both, ka, kb}, {ka - both, ka, got.Base - kb}, {kb - both, got.Base - ka, kb},
				{got.Base - ka - kb + both, got.Base - ka, got.Base - kb},
			} {
				if cell[0] > 0 {
					g2 += 2 * float64(cell[0]) * math.Log(float64(cell[0])*float64(got.Base)/(float64(cell[1])*float64(cell[2])))
				}
			}
			raw = append(raw, math.Erfc(math.Sqrt(max(g2, 0)/2)))
			expected := math.Inf(1)
			for _, x := range []int{ka, got.Base - ka} {
				for _, y := range []int{kb, got.Base - kb} {
					expected = min(expected, float64(x)*float64(y)/float64(max(got.Base, 1)))
				}
			}
			require.Equal(t, p.P < 0.05 && expected >= 5, p.Sure)
			open := slices.Concat(f, got.Narrow, a.Conditions, b.Conditions)
			set, err := open.Answers(ctx, s)
			require.NoError(t, err)
			require.EqualValues(t, both, set.GetCardinality())
		}
		for i, p := range got.Pairs { // the least of p × tests / rank, over those that are no surer
			least := 1.0
			for _, other := range raw {
				if other < raw[i] {
					continue
				}
				rank := 0
				for _, q := range raw {
					if q <= other {
						rank++
					}
				}
				least = min(least, other*float64(len(raw))/float64(rank))
			}
			require.InDelta(t, least, p.P, 1e-6)
		}
		groups := 0
		for _, node := range got.Nodes {
			if node.Kind == "value" {
				groups++
			}
		}
		categories := len(got.Nodes) - groups
		want := map[string]int{"all": 8, "nets": 3, "categories": 6}[level] // of five, the net's two pairs are none
		if with != "" {
			want = categories * groups
		}
		require.Len(t, pairs, want, fmt.Sprint(pairs))
	})
}
