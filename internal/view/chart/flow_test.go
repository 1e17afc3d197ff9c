package chart_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/chart"
)

// What the same people said at two times is what following each of them gives, in any focus; what is opened are their answers.
func TestFlowFollowsPeople(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 40).Draw(t, "n")
		cells := make([][]string, 4) // id, wave, route, answer
		for range n {
			words := rapid.SampledFrom([]string{"", "n/a", "so", "so alpha", "so beta", "so alpha beta", "so gamma"}).Draw(t, "words")
			for i, cell := range []string{
				rapid.SampledFrom([]string{"1", "2", "3", "4", "5", "6", ""}).Draw(t, "id"),
				rapid.SampledFrom([]string{"first", "second", "third", ""}).Draw(t, "wave"),
				rapid.SampledFrom([]string{"x", "y"}).Draw(t, "route"), words,
			} {
				cells[i] = append(cells[i], cell)
			}
		}
		book := playbook.New("en")
		book.Frame = frame.Frame{
			{Name: "net", Rules: []string{"gamma"}, Children: []frame.Category{{Name: "a", Rules: []string{"alpha"}}}}, {Name: "b", Rules: []string{"beta"}},
		}
		book.Frame.Complete(nil, 0)
		specs := []survey.Spec{
			{Name: "id", Role: survey.Identifier}, {Name: "wave", Role: survey.Wave}, {Name: "route", Role: survey.Segment},
			{Name: "answer", Role: survey.OpenEnded},
		}
		s, err := state.Unstored(ctx, specs, cells, 3, book)
		require.NoError(t, err)
		var f focus.Focus
		if slices.Contains(cells[2], "x") && rapid.Bool().Draw(t, "narrow") {
			f = focus.Focus{focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"x"}})}
		}
		values := []string{}
		for _, w := range []string{"first", "second", "third"} {
			if slices.Contains(cells[1], w) {
				values = append(values, w)
			}
		}
		if len(values) < 2 {
			return
		}
		q := chart.FlowQuery{By: "wave", From: values[0], To: values[1], Rows: rapid.SampledFrom([]string{"", "nets", "categories"}).Draw(t, "rows")}
		got, err := chart.FlowOf(ctx, s, f, q)
		require.NoError(t, err)

		// One after the other, by hand.
		type person struct{ before, after []int }
		people := map[string]*person{}
		answered := func(row int) bool { return cells[3][row] != "" && cells[3][row] != "n/a" }
		for row := range n {
			id := cells[0][row]
			if id == "" || !answered(row) {
				continue
			}
			if people[id] == nil {
				people[id] = &person{}
			}
			switch cells[1][row] {
			case q.From:
				people[id].before = append(people[id].before, row)
			case q.To:
				people[id].after = append(people[id].after, row)
			}
		}
		repeated := false
		for row, id := range cells[0] {
			repeated = repeated || id != "" && slices.Contains(cells[0][:row], id)
		}
		if !repeated {
			require.Empty(t, got.By)
			return
		}
		has := func(rows []int, word string) bool {
			return slices.ContainsFunc(rows, func(row int) bool {
				switch word {
				case "none":
					return cells[3][row] == "so"
				case "alpha": // the net, or what is in it
					if q.Rows != "categories" && cells[3][row] == "so gamma" {
						return true
					}
				}
				return slices.Contains([]string{"so " + word, "so alpha beta"}, cells[3][row])
			})
		}
		inFocus := func(row int) bool { return f == nil || cells[2][row] == "x" }
		words := []string{"alpha", "beta", "none"}
		persons := 0
		links := map[chart.FlowLink]bool{}
		counts := make([][3]int, 3)
		for i, a := range words {
			for j, b := range words {
				k := 0
				for _, p := range people {
					if len(p.before) > 0 && len(p.after) > 0 && slices.ContainsFunc(append(slices.Clone(p.before), p.after...), inFocus) {
						if has(p.before, a) && has(p.after, b) {
							k++
						}
					}
				}
				if k > 0 {
					links[chart.FlowLink{From: i, To: j, Persons: k}] = true
				}
			}
		}
		for _, p := range people {
			if len(p.before) == 0 || len(p.after) == 0 || !slices.ContainsFunc(append(slices.Clone(p.before), p.after...), inFocus) {
				continue
			}
			persons++
			for i, word := range words {
				before, after := has(p.before, word), has(p.after, word)
				for k, is := range []bool{before, after, before && after} {
					if is {
						counts[i][k]++
					}
				}
			}
		}
		require.Equal(t, persons, got.Persons)
		require.Len(t, got.Links, len(links))
		who, err := s.Study.Persons(ctx)
		require.NoError(t, err)
		for _, l := range got.Links {
			require.True(t, links[l], "%v", l)
			open := slices.Concat(f, got.Narrow, got.Nodes[l.From].FromFocus, got.Nodes[l.To].ToFocus)
			rows, err := open.Answers(ctx, s)
			require.NoError(t, err)
			require.EqualValues(t, l.Persons, crosstab.Persons(who, rows).GetCardinality(), fmt.Sprint(open))
		}
		for i, c := range counts {
			node := got.Nodes[i]
			require.Equal(t, c, [3]int{node.Before, node.After, node.Both}, node.Name)
		}
	})
}
