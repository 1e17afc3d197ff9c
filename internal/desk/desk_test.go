package desk_test

import (
	. "aftermath/internal/desk"
	"aftermath/internal/view/effect"

	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"aftermath/internal/view/termview"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/oneof"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/data"
)

func TestEditsAreKeptAndUndone(t *testing.T) {
	d, q := open(t, sample...)
	made := edit(t, q, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue"}})
	assert.Equal(t, []effect.CategoryEffect{{ID: id(t, q, "Waiting"), Name: "Waiting", Gained: 2}}, made.Categories)
	preview, err := q.Preview(scheme.MergeTerms{Label: "queue", Terms: []string{"tailback"}})
	require.NoError(t, err)
	made = edit(t, q, scheme.MergeTerms{Label: "queue", Terms: []string{"tailback"}})
	assert.Equal(t, preview.Categories, made.Categories, "what was previewed is what came")
	assert.Equal(t, []uint32{0, 1, 2}, coded(q)["Waiting"])
	edit(t, q, scheme.Decide{Category: id(t, q, "Waiting"), Answers: []survey.Respondent{3}, To: scheme.On})
	edit(t, q, scheme.Decide{Category: id(t, q, "Waiting"), Answers: []survey.Respondent{0}, To: scheme.Off})
	edit(t, q, scheme.Settle{Answers: []survey.Respondent{6}, On: true})
	assert.Equal(t, []uint32{1, 2, 3}, coded(q)["Waiting"])

	// A program that starts anew finds all of it.
	again := anew(d, q)
	assert.Equal(t, coded(q), coded(again))
	assert.Equal(t, q.State().Scheme, again.State().Scheme)
	assert.True(t, again.State().Decisions.Settled.Contains(6))
	o, err := data.OverviewOf(ctx, again.State(), nil)
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"answered": 5, "no answer": 1, "missing": 1, "empty": 0}, o.Statuses)
	assert.Equal(t, []int{3, 1, 1}, []int{o.Coded, o.Settled, o.Left})

	// A category that is removed takes its decisions along, and undo brings both back.
	edit(t, again, scheme.RemoveCategory{Category: id(t, again, "Waiting")})
	assert.Empty(t, coded(again))
	for range 3 {
		_, err = again.Undo()
		require.NoError(t, err)
	}
	assert.Equal(t, []uint32{0, 1, 2, 3}, coded(again)["Waiting"])
	_, err = again.Redo()
	require.NoError(t, err)
	assert.Equal(t, []uint32{1, 2, 3}, coded(again)["Waiting"])
	edit(t, again, scheme.Hide{Terms: []string{"boat"}})
	_, err = again.Redo()
	assert.ErrorIs(t, err, ErrNothing, "a new edit leaves nothing to redo")
}

func TestTwoWindowsDoNotOverwriteEachOther(t *testing.T) {
	_, q := open(t, sample...)
	seen := q.State().Revision
	edit(t, q, scheme.Hide{Terms: []string{"boat"}})
	_, err := q.Edit(seen, scheme.Hide{Terms: []string{"tea"}})
	assert.ErrorIs(t, err, store.ErrConflict)
	assert.Equal(t, []string{"boat"}, q.State().Scheme.Lexicon.StopWords.Add)
}

// Another program on the same database may have been faster: the edit is refused, and the next look shows what is stored.
func TestTwoProgramsDoNotOverwriteEachOther(t *testing.T) {
	d, q := open(t, sample...)
	require.Zero(t, q.State().Revision) // it is open here
	other := anew(d, q)
	edit(t, other, scheme.Hide{Terms: []string{"boat"}})
	_, err := q.Edit(q.State().Revision, scheme.Hide{Terms: []string{"tea"}})
	assert.ErrorIs(t, err, store.ErrConflict)
	again := q
	assert.Equal(t, []string{"boat"}, again.State().Scheme.Lexicon.StopWords.Add)
	edit(t, again, scheme.Hide{Terms: []string{"tea"}})
}

func TestStopWordsShapeListsNeverRules(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue"}})
	labels := func(stop bool) (out []string) {
		table, err := termview.Terms(ctx, q.State(), nil, termview.TermQuery{Stop: stop, Limit: 100, Descending: true})
		require.NoError(t, err)
		for _, term := range table.Terms {
			out = append(out, term.Label)
		}
		return
	}
	require.Contains(t, labels(false), "queue")
	edit(t, q, scheme.Hide{Terms: []string{"queue"}})
	assert.NotContains(t, labels(false), "queue")
	assert.Contains(t, labels(true), "queue")
	assert.Equal(t, []uint32{0, 1}, coded(q)["Waiting"])
	edit(t, q, scheme.Show{Terms: []string{"queue"}})
	assert.Contains(t, labels(false), "queue")
}

func TestRenamingRewritesRules(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, scheme.AddCategory{Name: "People"})
	edit(t, q, scheme.AddCategory{Parent: id(t, q, "People"), Name: "Crew", Rules: []string{"late"}})
	edit(t, q, scheme.AddCategory{Name: "Both", Rules: []string{"{People / Crew} + boat"}})
	before := coded(q)["Both"]
	require.NotEmpty(t, before)
	edit(t, q, scheme.ChangeCategory{Category: id(t, q, "People"), Name: oneof.Given("Food / drink")})
	edit(t, q, scheme.MoveCategory{Category: id(t, q, "Food / drink", "Crew")})
	p, _ := q.State().Scheme.Frame.ByPath([]string{"Both"})
	assert.Equal(t, []string{"{Crew} + boat"}, p.Rules)
	assert.Equal(t, before, coded(q)["Both"])
}

func TestFocusNarrowsEverything(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue"}})
	s := q.State()
	for _, c := range []struct {
		focus string
		want  []uint32
	}{
		{``, []uint32{0, 1, 2, 3, 6}},
		{`[{"kind":"variable","name":"route","op":"=","values":["North"]}]`, []uint32{0, 1}},
		{`[{"kind":"variable","name":"recommend","op":"<=","values":["5"]},{"kind":"coded","not":true}]`, []uint32{3, 6}},
		{`[{"kind":"words","text":"late - boat"}]`, []uint32{6}},
		{`[{"kind":"term","text":"queues"}]`, []uint32{0, 1}},
		{`[{"kind":"category","id":"` + id(t, q, "Waiting") + `","not":true}]`, []uint32{2, 3, 6}},
		{`[{"kind":"status","text":"no answer"}]`, []uint32{4}},
		{`[{"kind":"step","text":"contractions"}]`, []uint32{3}},
		{`[{"kind":"answers","answers":[5]}]`, []uint32{5}},
	} {
		f, err := focus.Parse(c.focus)
		require.NoError(t, err)
		set, err := q.Focus(f)
		require.NoError(t, err)
		assert.Equal(t, c.want, set.ToArray(), c.focus)
		page, err := answers.List(ctx, s, f, 0, 0, 10)
		require.NoError(t, err)
		assert.Len(t, page.Answers, len(c.want))
	}
	for _, bad := range []string{`{`, `[{"kind":"words","text":"((("}]`, `[{"kind":"variable","name":"nope","values":["x"]}]`, `[{"kind":"variable","name":"route","values":["West"]}]`, `[{"kind":"category","id":"c99"}]`} {
		f, err := focus.Parse(bad)
		if err == nil {
			_, err = q.Focus(f)
		}
		assert.ErrorIs(t, err, state.ErrRequest, bad)
	}
}

func TestHighlightsSitOnTheOriginal(t *testing.T) {
	_, q := open(
		t, []string{"1", "North", "1", "1", "<b>Long</b> queues &amp; we didn’t board. Queue!"},
		[]string{"2", "South", "1", "1", "no"},
	)
	f := focus.Focus{focus.Is(focus.Words{Rule: `long queue / didn't / =queue`})}
	page, err := answers.List(ctx, q.State(), f, 0, 0, 1)
	require.NoError(t, err)
	var marked []string
	whole := ""
	for _, p := range page.Answers[0].Parts {
		whole += p.Text
		if p.Hit {
			marked = append(marked, p.Text)
		}
	}
	assert.Equal(t, q.State().Answers[0], whole)
	assert.Equal(t, []string{"Long", "queues", "didn’t", "Queue"}, marked)
}

func names(columns []chart.Column) (out []string) {
	for _, c := range columns {
		out = append(out, c.Name)
	}
	return out
}

func TestChartCountsWhatItShows(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, scheme.AddCategory{Name: "Late", Rules: []string{"late"}})
	c, err := chart.ChartOf(ctx, q.State(), nil, chart.Query{By: "route", Weighted: true})
	require.NoError(t, err)
	assert.Equal(t, []string{"All", "North", "South"}, names(c.Columns))
	assert.Equal(t, 1.5/5.5, c.Cells[0][0].Share, "weights 0.5 and 1 of 1, 0.5, 2, 1, 1")
	assert.Equal(t, 2, c.Cells[0][0].Answers)
	assert.Equal(t, 0.5/1.5, c.Cells[0][1].Share)
	assert.Equal(t, []string{chart.RowAny, chart.RowUncoded}, []string{c.Rows[1].Kind, c.Rows[2].Kind})
	assert.Equal(t, 3, c.Cells[2][0].Answers, "not coded")
	c, err = chart.ChartOf(ctx, q.State(), nil, chart.Query{By: "route", Base: chart.BaseRespondents})
	require.NoError(t, err)
	assert.Equal(t, 6, c.Bases[0].Answers)
	assert.Equal(t, 1, c.Nests[0].Missing, "respondent 5 has no route")
	_, err = chart.ChartOf(ctx, q.State(), nil, chart.Query{By: "nope"})
	assert.ErrorIs(t, err, state.ErrRequest)
}

func TestLoadIsWholeOrNotAtAll(t *testing.T) {
	s, err := store.Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	defer s.Close()
	d := New(s)
	specs := []survey.Spec{{Name: "n", Role: survey.Weight}, {Name: "answer", Role: survey.OpenEnded}}
	source := func(rows ...string) intake.Source {
		path := filepath.Join(t.TempDir(), "x.csv")
		require.NoError(t, os.WriteFile(path, []byte("n,answer\n"+strings.Join(rows, "\n")), 0o600))
		return intake.Source{Path: path, Size: 1, Recipe: files.Recipe{Format: files.Delimited, Delimiter: ",", Headers: 1}}
	}
	_, _, err = d.Load(ctx, "x", specs, source("1,a", "two,b"), "en")
	assert.EqualError(t, err, `nothing was loaded: row 2 of the data, column "n": value "two" is no number`)
	_, _, err = d.Load(ctx, "x", specs, source("1,a", "2,\"b"), "en")
	assert.ErrorContains(t, err, "nothing was loaded: file: row 3")
	rows := make([]string, 300_000)
	for i := range rows {
		rows[i] = fmt.Sprint(i, ",a")
	}
	cancelled, cancel := context.WithCancel(ctx)
	events, stop := d.Events.Listen()
	defer stop()
	go func() {
		for e := range events {
			if e.Kind == "progress" && e.Done > 0 {
				cancel()
				return
			}
		}
	}()
	_, _, err = d.Load(cancelled, "x", specs, source(rows...), "en")
	assert.ErrorIs(t, err, context.Canceled)
	all, err := s.Studies(ctx, false)
	require.NoError(t, err)
	assert.Empty(t, all)
}

func TestSheetShowsEveryStep(t *testing.T) {
	var rows [][]string
	for i := range 50 {
		rows = append(rows, []string{fmt.Sprint(i), "North", "1", "1", "it’s plain"})
	}
	rows[40][4], rows[45][4] = "soooo late", "<p>tags</p>"
	_, q := open(t, rows...)
	c, err := clean.CleaningOf(ctx, q.State(), nil, 6, 3)
	require.NoError(t, err)
	var shown []string
	for _, p := range c.Proof {
		shown = append(shown, q.State().Answers[p.Number])
	}
	assert.True(t, slices.Contains(shown, rows[40][4]) && slices.Contains(shown, rows[45][4]), strings.Join(shown, "\n"))
}
