package desk_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/require"

	"aftermath/core/playbook"
	"aftermath/core/terms"
)

// BenchmarkMillionTerms asks what the Terms view asks, of a million answers of about 20 words. Each is asked five times; the
// median counts.
func BenchmarkMillionTerms(b *testing.B) {
	texts := millionAnswers(million)
	book := playbook.New("en")
	book.Lexicon = demoLexicon(b)
	reading, err := book.Read(context.Background(), texts, 2, nil)
	require.NoError(b, err)
	view := book.View(reading)
	c := terms.NewCounter(view, nil)
	all, coded := reading.Index.Answered(), roaring.New()
	for a := uint32(0); a < million; a += 3 {
		coded.Add(a)
	}
	third := roaring.New()
	for a := uint32(1); a < million; a += 3 {
		third.Add(a)
	}
	queue, ok := view.Find("queue")
	require.True(b, ok)
	places := must(terms.Places(context.Background(), reading.Index, view.Phrases(queue), all))
	counted := must(c.Count(context.Background(), all, coded, 2))
	slices.SortFunc(counted.Rows, func(x, y terms.Row) int { return y.Answers - x.Answers })
	var top []int
	for _, r := range counted.Rows {
		if len(top) < 300 && !view.Terms[r.Terms[0]].Stop {
			top = append(top, int(r.Terms[0]))
		}
	}
	for _, x := range []struct {
		name string
		do   func()
	}{
		{"term table", func() { _, _ = c.Count(context.Background(), all, coded, 2) }},
		{"term table in a third", func() { _, _ = c.Count(context.Background(), third, coded, 2) }},
		{"distinctiveness", func() { _, _ = c.Distinct(context.Background(), all, 2) }},
		{"two in a row", func() { _, _ = c.CountRows(context.Background(), all, coded, 2, 2, false) }},
		{"three in a row", func() { _, _ = c.CountRows(context.Background(), all, coded, 3, 2, false) }},
		{"context, found and sorted", func() {
			terms.Sort(reading.Index, must(terms.Places(context.Background(), reading.Index, view.Phrases(queue), all)), terms.ByAfter)
		}},
		{"branches", func() {
			terms.Branches(reading.Index, places, true, terms.Shape{Depth: 3, Breadth: 8, Least: 2})
			terms.Branches(reading.Index, places, false, terms.Shape{Depth: 3, Breadth: 8, Least: 2})
		}},
		{"co-occurrence of the top 300", func() {
			_, _, _ = c.Network(context.Background(), all, top, terms.NetworkQuery{Measure: terms.ByG2, Both: 5, Most: 120}, 2)
		}},
		{"suggestions", func() {
			_, err := terms.Suggester{Counter: c, Language: "en", Workers: 2}.Find(context.Background())
			require.NoError(b, err)
		}},
		{"other stop words", func() { view.With(view.Lexicon) }},
		{"another lexicon", func() { book.View(reading) }},
	} {
		b.Run(x.name, func(b *testing.B) {
			for b.Loop() {
				var took []time.Duration
				for range 5 {
					start := time.Now()
					x.do()
					took = append(took, time.Since(start))
				}
				slices.Sort(took)
				b.ReportMetric(float64(took[2].Microseconds())/1000, "ms-median")
			}
		})
	}
	b.Logf("%d distinct words, %d places of queue", reading.Index.Vocabulary(), len(places))
}
