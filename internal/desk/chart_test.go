package desk_test

import (
	"aftermath/internal/kept"
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/oneof"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
	"aftermath/internal/view/chart"
)

// What columns are made of is kept under a name for all questions of a study, and goes along into its copy and its back-up.
func TestColumnsAreKept(t *testing.T) {
	d, q := open(t, sample...)
	names := func(study int64) (out []string) {
		sets, err := keeper(d).ColumnSets(ctx, study)
		require.NoError(t, err)
		for _, s := range sets {
			out = append(out, fmt.Sprint(s.Name, s.Nests))
		}
		return out
	}
	require.NoError(t, keeper(d).KeepColumnSet(ctx, q.StudyID, kept.ColumnSet{Name: " Who \n where ", Nests: [][]string{{"route"}}}))
	require.NoError(t, keeper(d).KeepColumnSet(ctx, q.StudyID, kept.ColumnSet{Name: "Who where", Nests: [][]string{{"route", "recommend"}, {"route"}}}))
	require.NoError(t, keeper(d).KeepColumnSet(ctx, q.StudyID, kept.ColumnSet{Name: "Another", Nests: [][]string{{"route"}}}))
	require.ErrorIs(t, keeper(d).KeepColumnSet(ctx, q.StudyID, kept.ColumnSet{Name: " ", Nests: [][]string{{"route"}}}), state.ErrRequest)
	require.ErrorIs(t, keeper(d).KeepColumnSet(ctx, 99, kept.ColumnSet{Name: "x", Nests: [][]string{{"route"}}}), store.ErrNotFound)
	want := []string{"Another[[route]]", "Who where[[route recommend] [route]]"}
	assert.Equal(t, want, names(q.StudyID), "the later of one name")
	assert.Equal(t, want, names(copied(t, d, "copy", q)[0].StudyID))
	require.NoError(t, keeper(d).DropColumnSet(ctx, q.StudyID, "Another"))
	require.NoError(t, keeper(d).DropColumnSet(ctx, q.StudyID, "Another"))
	assert.Equal(t, want[1:], names(q.StudyID))
}

// A kept chart says when its figures changed since; what can't be drawn any more says why; a deleted one comes back.
func TestKeptChartsFollow(t *testing.T) {
	d, q := open(t, sample...)
	asked, err := d.Question(ctx, q.ID)
	require.NoError(t, err)
	edit(t, q, scheme.AddCategory{Name: "Late", Rules: []string{"late"}})
	edit(t, q, scheme.AddCategory{Name: "Other"})
	other := q.State().Coding.Results[1].ID
	drawn := chart.Design{
		Plan: chart.TablePlan{Query: chart.Query{By: "route", Weighted: true}}, Look: chart.Look{Focus: focus.Focus{}, As: "heat"},
	}
	require.NoError(t, failed(keeper(d).KeepChart(ctx, asked, kept.NewChart{Name: " By \n route ", Note: "for Thursday", Drawn: drawn})))
	only := drawn
	only.Plan = chart.TablePlan{Query: chart.Query{By: "route", Weighted: true, Only: `["` + other + `"]`}}
	require.NoError(t, failed(keeper(d).KeepChart(ctx, asked, kept.NewChart{Name: "One", Drawn: only})))
	bad := drawn
	bad.Plan = chart.TablePlan{Query: chart.Query{By: "nope"}}
	require.ErrorIs(t, failed(keeper(d).KeepChart(ctx, asked, kept.NewChart{Name: "x", Drawn: bad})), state.ErrRequest)
	require.ErrorIs(t, failed(keeper(d).KeepChart(ctx, asked, kept.NewChart{Name: " ", Drawn: drawn})), state.ErrRequest)
	list := func() []kept.KeptChart {
		out, err := keeper(d).KeptCharts(ctx, asked)
		require.NoError(t, err)
		for i := range out {
			out[i].At = out[0].At
		}
		return out
	}
	charts := list()
	require.Len(t, charts, 2)
	assert.Equal(t, []string{"One", "By route"}, []string{charts[0].Name, charts[1].Name})
	assert.Equal(t, drawn, charts[1].Drawn)
	assert.False(t, charts[0].Changed || charts[1].Changed)

	edit(t, q, scheme.WriteRule{Category: q.State().Coding.Results[0].ID, Rule: "queue"})
	charts = list()
	assert.True(t, charts[1].Changed, "the categories of more answers")
	edit(t, q, scheme.RemoveCategory{Category: other})
	charts = list()
	assert.Contains(t, charts[0].Problem, "is gone")
	require.NoError(t, keeper(d).ChangeChart(ctx, asked, charts[1].ID, kept.ChartChange{Name: oneof.Given("Routes")}))
	assert.Equal(t, []any{"Routes", "for Thursday", drawn}, []any{list()[1].Name, list()[1].Note, list()[1].Drawn}, "what was left out stays")
	assert.False(t, list()[1].Changed, "it was looked over")
	require.NoError(t, keeper(d).DropChart(ctx, q.ID, charts[1].ID, true))
	assert.True(t, list()[1].Gone)
	require.NoError(t, keeper(d).DropChart(ctx, q.ID, charts[1].ID, false))
	assert.False(t, list()[1].Gone)
	assert.ErrorIs(t, keeper(d).DropChart(ctx, q.ID+1, charts[1].ID, true), store.ErrNotFound, "another question's")
	assert.ErrorIs(t, keeper(d).ChangeChart(ctx, asked, 99, kept.ChartChange{Name: oneof.Given("x")}), store.ErrNotFound)
	// So do charts that are no table by segments.
	for name, plan := range map[string]chart.Plan{
		"means": chart.MeansQuery{Of: "recommend"}, "pairs": chart.TogetherPlan{TogetherQuery: chart.TogetherQuery{With: "route"}, Measure: "both"},
	} {
		of := chart.Design{Plan: plan, Look: chart.Look{As: plan.Forms()[0]}}
		wrong := chart.Design{Plan: plan, Look: chart.Look{As: "bars"}}
		require.ErrorIs(t, failed(keeper(d).KeepChart(ctx, asked, kept.NewChart{Name: "x", Drawn: wrong})), state.ErrRequest)
		require.NoError(t, failed(keeper(d).KeepChart(ctx, asked, kept.NewChart{Name: name, Drawn: of})))
		assert.False(t, list()[0].Changed, name)
		rule := "tea / " + name // nobody says that, but the tea is no longer coded after it is taken back
		edit(t, q, scheme.WriteRule{Category: q.State().Coding.Results[0].ID, Rule: rule})
		assert.True(t, list()[0].Changed, name)
		undo(t, q, 1)
		assert.False(t, list()[0].Changed, name)
		require.NoError(t, keeper(d).DropChart(ctx, q.ID, list()[0].ID, true))
	}
	copy := copied(t, d, "copy", q)[0]
	also, err := d.Question(ctx, copy.ID)
	require.NoError(t, err)
	there, err := keeper(d).KeptCharts(ctx, also)
	require.NoError(t, err)
	there = slices.DeleteFunc(there, func(k kept.KeptChart) bool { return k.Gone })
	assert.Equal(t, []string{"One", "Routes"}, []string{there[0].Name, there[1].Name})
	assert.False(t, there[1].Changed, "the copy has the same figures")
}

// Questions side by side: each has the figures that it has alone, under its own name; whatever the frames, a category is one row, in
// its net; and what was said to one question narrows none of the others.
func TestQuestionsSideBySide(t *testing.T) {
	specs := []survey.Spec{
		{Name: "route", Role: survey.Segment}, {Name: "weight", Role: survey.Weight},
		{Name: "change", Role: survey.OpenEnded}, {Name: "enjoy", Role: survey.OpenEnded},
	}
	cells := make([][]string, len(specs))
	words := []string{"tea", "boat", "late", "quiet"}
	for i := range 60 {
		for k, cell := range []string{[]string{"North", "South", ""}[i%3], fmt.Sprint(1 + i%2), words[i%4], words[(i*7+i/5)%4]} {
			cells[k] = append(cells[k], cell)
		}
	}
	var first, second *state.State
	rapid.Check(t, func(rt *rapid.T) {
		asked := func(id int64, column int) *state.State {
			book := playbook.New("en")
			for n, name := range rapid.Permutation([]string{"Food", "Sea", "Calm"}).Draw(rt, "nets")[:rapid.IntRange(0, 3).Draw(rt, "number")] {
				net := frame.Category{Name: name, Rules: []string{words[n]}}
				for _, kid := range rapid.Permutation([]string{"A", "B", "C"}).Draw(rt, "kids")[:rapid.IntRange(0, 3).Draw(rt, "kids of it")] {
					net.Children = append(net.Children, frame.Category{Name: kid, Rules: []string{rapid.SampledFrom(words).Draw(rt, "rule")}})
				}
				book.Frame = append(book.Frame, net)
			}
			book.Frame.Complete(nil, 0)
			s, err := state.Unstored(ctx, specs, cells, column, book)
			require.NoError(rt, err)
			s.ID = id
			return s
		}
		first, second = asked(7, 2), asked(8, 3)
		first.Links.Sibling = func(_ context.Context, name string) (*state.State, error) {
			if name == "enjoy" {
				return second, nil
			}
			return nil, state.ErrRequest
		}
		q := chart.SideBySideQuery{Query: chart.Query{
			By: rapid.SampledFrom([]string{"", `[["route"]]`}).Draw(rt, "by"), Weighted: rapid.Bool().Draw(rt, "weighted"),
			Base: rapid.SampledFrom([]string{"answered", "coded", "respondents", "mentions"}).Draw(rt, "base"),
			Rows: rapid.SampledFrom([]string{"all", "nets", "categories"}).Draw(rt, "rows"),
		}}
		var f focus.Focus
		if rapid.Bool().Draw(rt, "focus") {
			f = focus.Focus{focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"North"}})}
		}
		got, err := chart.SideBySideOf(ctx, first, f, q)
		require.NoError(rt, err)
		require.Len(rt, got.Questions, 2)
		alone := q.Query
		alone.Sort = "frame"
		if alone.By == "" {
			alone.By = "[]"
		}
		for i, s := range []*state.State{first, second} {
			want, err := chart.ChartOf(ctx, s, f, alone)
			require.NoError(rt, err)
			require.Equal(rt, []any{s.ID, want.Bases}, []any{got.Questions[i].ID, got.Questions[i].Bases})
			has := map[string][]crosstab.Cell{}
			for r, row := range want.Rows {
				has[row.Kind+row.Path] = want.Cells[r]
			}
			for _, row := range got.Rows {
				require.Equal(rt, append([]crosstab.Cell{}, has[row.Kind+row.Path]...), row.Cells[i].Cells, row.Path)
				delete(has, row.Kind+row.Path)
			}
			require.Empty(rt, has, "each row once")
		}
		var nets []string
		for _, row := range got.Rows { // each stands in the net that its path names
			nets = append(nets[:row.Depth], row.Path)
			if row.Depth > 0 {
				require.Equal(rt, row.Path, nets[row.Depth-1]+" / "+row.Name)
			}
		}
	})
	_, err := chart.SideBySideOf(ctx, first, focus.Focus{focus.Is(focus.Words{Rule: "tea"})}, chart.SideBySideQuery{})
	require.ErrorIs(t, err, state.ErrRequest)
	for _, names := range []string{`["nope"]`, `[]`, `["change","change"]`, `x`} {
		_, err = chart.SideBySideOf(ctx, first, nil, chart.SideBySideQuery{Questions: names})
		require.ErrorIs(t, err, state.ErrRequest, names)
	}
	one, err := chart.SideBySideOf(ctx, first, nil, chart.SideBySideQuery{Questions: `["enjoy"]`})
	require.NoError(t, err)
	assert.Equal(t, second.ID, one.Questions[0].ID)
}

func TestTableRefusesWhatItCantMake(t *testing.T) {
	_, q := open(t, sample...)
	for _, bad := range []chart.Query{
		{By: "nope"}, {By: `[["route","route"]]`}, {By: `[[]]`}, {By: `[1]`}, {Only: `["gone"]`}, {Only: "x"}, {Base: "x"}, {Correction: "x"},
	} {
		_, err := chart.ChartOf(ctx, q.State(), nil, bad)
		require.ErrorIs(t, err, state.ErrRequest, bad)
	}
}
