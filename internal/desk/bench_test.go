package desk_test

import (
	. "aftermath/internal/desk"
	"context"
	"math/rand/v2"
	"slices"
	"testing"

	"aftermath/internal/view/termview"

	"github.com/stretchr/testify/require"

	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/internal/demo"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/code"
	"aftermath/internal/view/data"
)

// load puts rows of the demo into a store of their own, with its playbook, and opens the first question.
func load(b *testing.B, rows [][]string) *window {
	s, err := store.Open(context.Background(), pgtest.Database(b))
	require.NoError(b, err)
	b.Cleanup(func() { s.Close() })
	d := New(s)
	book, err := demo.Playbook(demo.Change)
	require.NoError(b, err)
	study, err := d.LoadTable(
		context.Background(), "Bench", demo.Specs(), &files.Table{Columns: demo.Columns, Rows: rows},
		func(int) playbook.Playbook { return book },
	)
	require.NoError(b, err)
	return &window{d, study.Questions[0].ID, study.ID}
}

// BenchmarkViews asks for what each view shows, on the demo with 50,000 respondents.
func BenchmarkViews(b *testing.B) {
	ctx := context.Background()
	q := load(b, demo.Make(11, 50_000).Rows)
	northern := focus.Focus{focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"Northern"}})}

	view := func(name string, ask func(state *state.State, f focus.Focus) error) {
		for where, f := range map[string]focus.Focus{"all": nil, "in a focus": northern} {
			b.Run(name+" "+where, func(b *testing.B) {
				for b.Loop() {
					require.NoError(b, ask(q.State(), f))
				}
			})
		}
	}
	view("terms", func(s *state.State, f focus.Focus) error {
		_, err := termview.Terms(ctx, s, f, termview.TermQuery{Limit: 100})
		return err
	})
	view("answers", func(s *state.State, f focus.Focus) error {
		_, err := answers.List(ctx, s, f, 0, 20_000, 50)
		return err
	})
	view("frame", func(s *state.State, f focus.Focus) error { _, err := code.Frame(ctx, s, f, ""); return err })
	view("chart", func(s *state.State, f focus.Focus) error {
		_, err := chart.ChartOf(ctx, s, f, chart.Query{By: "passenger type", Weighted: true})
		return err
	})
	view("cleaning", func(s *state.State, f focus.Focus) error { _, err := clean.CleaningOf(ctx, s, f, 14, 3); return err })
	for _, rule := range []string{"queue / wait", "car +6w line / lane", `"more seats"`, "@crew +5w rude - queue", `re"\d+ min"`} {
		view("rule "+rule, func(s *state.State, f focus.Focus) error {
			_, err := code.PreviewRule(ctx, s, f, code.RuleQuery{Rule: rule, Category: "c2", Show: "new", By: "passenger type"})
			return err
		})
	}
	edits := map[string]scheme.Edit{
		"hide a term":     scheme.Hide{Terms: []string{"boat"}},
		"merge two terms": scheme.MergeTerms{Label: "seat", Terms: []string{"chair"}},
	}
	for name, e := range edits {
		b.Run("preview: "+name, func(b *testing.B) {
			for b.Loop() {
				_, err := q.Preview(e)
				require.NoError(b, err)
			}
		})
	}
}

// demoLexicon is the lexicon that the demo begins with.
func demoLexicon(b *testing.B) lexicon.Lexicon {
	book, err := demo.Playbook(demo.Change)
	require.NoError(b, err)
	return book.Lexicon
}

// BenchmarkLexiconEdits changes the lexicon of 100,000 answers with some 60,000 different terms, and asks for what is on the
// screen then: the table and the rail.
func BenchmarkLexiconEdits(b *testing.B) {
	ctx := context.Background()
	rows := respondents(100_000)
	chance := rand.New(rand.NewPCG(1, 1))
	for i := range rows {
		row := slices.Clone(rows[i])
		word := ""
		for range 3 + chance.IntN(2) {
			word += []string{"ka", "lo", "mi", "ner", "tu", "sol", "pra", "vin", "ed", "ost", "bri", "qua", "zel", "hom", "fy", "gan", "rit", "mus", "dor", "pel"}[chance.IntN(20)]
		}
		row[10] += " " + rows[(i*7919)%len(rows)][11] + " " + word
		rows[i] = row
	}
	q := load(b, rows)
	show := func() {
		table, err := termview.Terms(ctx, q.State(), nil, termview.TermQuery{Descending: true, Limit: 100})
		require.NoError(b, err)
		require.Greater(b, table.Total, 50_000)
		_, err = data.OverviewOf(ctx, q.State(), nil)
		require.NoError(b, err)
	}
	show()
	edits := map[string][2]scheme.Edit{
		"stop word": {scheme.Hide{Terms: []string{"boat"}}, scheme.Show{Terms: []string{"boat"}}},
		"merge":     {scheme.MergeTerms{Label: "seat", Terms: []string{"chair", "place to sit"}}, scheme.SplitMerge{Label: "seat"}},
		"list":      {scheme.PutOnList{List: "warm", Entries: []string{"tea", "coffee"}}, scheme.TakeOffList{List: "warm"}},
	}
	for name, e := range edits {
		b.Run(name, func(b *testing.B) {
			for i := 0; b.Loop(); i++ {
				_, err := q.Edit(q.State().Revision, e[i%2])
				require.NoError(b, err)
			}
		})
	}
	b.Run("table and rail after a merge", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			b.StopTimer()
			_, err := q.Edit(q.State().Revision, edits["merge"][i%2])
			require.NoError(b, err)
			b.StartTimer()
			show()
		}
	})
}
