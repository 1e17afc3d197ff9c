package desk_test

import (
	"context"
	"fmt"
	"io"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/export"
	"aftermath/internal/view/chart"
)

// charted is a question of a million answers with 60 categories, and segments of 40 columns in all.
func charted(b *testing.B) *state.State {
	texts := millionAnswers(million)
	segments := map[string]int{"twelve": 12, "dozen": 12, "eight": 8, "five": 5, "three": 3}
	columns := []survey.Spec{{Name: "answer", Role: survey.OpenEnded}, {Name: "weight", Role: survey.Weight}, {Name: "score", Role: survey.Number}}
	cells := [][]string{texts, make([]string, million), make([]string, million)}
	for i := range million {
		cells[1][i] = []string{"0.7", "1", "1.4"}[i*31%3]
		cells[2][i] = fmt.Sprint(i * 7 % 11)
	}
	persons := make([]string, million) // of two answers each
	for i := range persons {
		persons[i] = fmt.Sprint("P", i/2)
	}
	columns, cells = append(columns, survey.Spec{Name: "person", Role: survey.Identifier}), append(cells, persons)
	for _, name := range []string{"twelve", "dozen", "eight", "five", "three"} {
		column := make([]string, million)
		for i := range column {
			column[i] = fmt.Sprintf("value %02d", (uint32(i)*2654435761>>8+uint32(len(name)))%uint32(segments[name]))
		}
		columns, cells = append(columns, survey.Spec{Name: name, Role: survey.Segment}), append(cells, column)
	}
	book := playbook.New("en")
	reading, err := book.Read(context.Background(), texts[:100_000], 2, nil)
	require.NoError(b, err)
	ix := reading.Index
	for w := range uint32(ix.Vocabulary()) { // words that one answer in fifty or more has
		if word := ix.Surface(w); len(ix.Postings(w)) >= 2_000 && len(word) > 3 && len(book.Frame) < 60 {
			book.Frame = append(book.Frame, frame.Category{Name: "Has " + word, Rules: []string{`"` + word + `"`}})
		}
	}
	require.Len(b, book.Frame, 60)
	book.Frame.Complete(nil, 0)
	s, err := state.Unstored(ctx, columns, cells, 0, book)
	require.NoError(b, err)
	return s
}

// BenchmarkMillionChart makes tables with all their tests of a million answers, beside the counts alone asked of PostgreSQL over a
// coded table with indexes, and writes the coded data.
func BenchmarkMillionChart(b *testing.B) {
	s := charted(b)
	table := func(q chart.Query) func() {
		return func() {
			_, err := chart.ChartOf(ctx, s, nil, q)
			require.NoError(b, err)
		}
	}
	conn := connect(b)
	keep := func(sql string) {
		_, err := conn.Exec(ctx, sql)
		require.NoError(b, err)
	}
	keep("create unlogged table said (answer int, category smallint)")
	keep("create unlogged table who (answer int, twelve smallint)")
	var pairs [][2]int
	for c, r := range s.Coding.Results {
		for it := r.Answers.Iterator(); it.HasNext(); {
			pairs = append(pairs, [2]int{int(it.Next()), c})
		}
	}
	v, err := s.Study.Variable("twelve")
	require.NoError(b, err)
	var who [][2]int
	for c, value := range v.Values {
		for it := v.With(value).Iterator(); it.HasNext(); {
			who = append(who, [2]int{int(it.Next()), c})
		}
	}
	for name, rows := range map[string][][2]int{"said": pairs, "who": who} {
		second := map[string]string{"said": "category", "who": "twelve"}[name]
		_, err := conn.CopyFrom(ctx, pgx.Identifier{name}, []string{"answer", second},
			pgx.CopyFromSlice(len(rows), func(i int) ([]any, error) { return []any{rows[i][0], rows[i][1]}, nil }))
		require.NoError(b, err)
	}
	keep("create index on said (category, answer)")
	keep("create unique index on who (answer) include (twelve)")
	keep("vacuum analyze said")
	keep("vacuum analyze who")
	const asked = "select category, twelve, count(*) from said join who using (answer) group by 1, 2"
	var ours, theirs time.Duration
	for b.Loop() {
		ours = median(table(chart.Query{By: "twelve"}))
		theirs = median(func() { keep(asked) })
	}
	b.ReportMetric(ours.Seconds()*1000, "ms-12-columns")
	b.ReportMetric(theirs.Seconds()*1000, "ms-PostgreSQL")
	b.ReportMetric(theirs.Seconds()/ours.Seconds(), "times-faster")
	b.ReportMetric(float64(len(pairs))/million, "categories/answer")
	for name, ask := range map[string]func(){
		"12-columns-weighted": table(chart.Query{By: "twelve", Weighted: true}),
		"nested-12x12":        table(chart.Query{By: `[["twelve","dozen"]]`}),
		"mentions":            table(chart.Query{By: "twelve", Base: chart.BaseMentions}),
		"findings-40": func() {
			f, err := chart.FindingsOf(ctx, s, nil, chart.Query{})
			require.NoError(b, err)
			require.Equal(b, 60*40, f.Tested)
		},
		"together-60": func() {
			_, err := chart.TogetherOf(ctx, s, nil, chart.TogetherQuery{})
			require.NoError(b, err)
		},
		"same-people": func() {
			f, err := chart.FlowOf(ctx, s, nil, chart.FlowQuery{By: "three"})
			require.NoError(b, err)
			require.Positive(b, f.Persons)
		},
		"means": func() {
			_, err := chart.MeansOf(ctx, s, nil, chart.MeansQuery{})
			require.NoError(b, err)
		},
	} {
		b.ReportMetric(median(ask).Seconds()*1000, "ms-"+name)
	}
	data := export.Coded{
		Data:  export.Data{Columns: []string{"answer"}, Cell: s.Cell, ID: -1, Decisions: s.Decisions},
		Index: s.Reading.Index, Coding: s.Coding, Shape: export.Wide,
	}
	for _, format := range []string{"csv", "ndjson", "parquet"} {
		of, err := export.CodedFormatOf(format)
		require.NoError(b, err)
		took := median(func() { require.NoError(b, data.Write(ctx, io.Discard, of)) })
		b.ReportMetric(million/took.Seconds(), "rows/s-"+format)
	}
}
