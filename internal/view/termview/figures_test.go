package termview_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/crosstab"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/termview"
	"aftermath/internal/view/viewtest"
)

var ctx = context.Background()

// unstored is a question in no store.
type unstored struct{ state *state.State }

func (u unstored) State() *state.State { return u.state }

func (u unstored) Focus(f focus.Focus) (*roaring.Bitmap, error) { return f.Answers(ctx, u.state) }

// ferries opens the demo's first question, without a store.
func ferries(t testing.TB, n int) unstored { return unstored{viewtest.Ferries(t, n)} }

// size is how many answers are behind conditions.
func size(t testing.TB, q unstored, f focus.Focus, more ...focus.Condition) int {
	t.Helper()
	set, err := q.Focus(append(append(focus.Focus{}, f...), more...))
	require.NoError(t, err)
	return int(set.GetCardinality())
}

// Every figure of every table, tree and chart is the number of answers that pressing it opens.
func TestEveryFigureOfTermsCanBeRead(t *testing.T) {
	q := ferries(t, 1500)
	s := q.State()
	for _, f := range []focus.Focus{nil, {focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"Northern"}}), focus.Not(focus.Coded{})}} {
		base := size(t, q, f)
		for row, kind := range []string{1: "term", 2: "row", 3: "row"} {
			if row == 0 {
				continue
			}
			table, err := termview.Terms(ctx, s, f, termview.TermQuery{Row: row, Descending: true, Limit: 40})
			require.NoError(t, err)
			require.Equal(t, base, table.Base)
			require.NotEmpty(t, table.Terms)
			for _, x := range table.Terms {
				own := termview.Subject{Kind: kind, Text: x.Label}.Condition()
				require.Equal(t, size(t, q, f, own), x.Answers, x.Label)
				require.Equal(t, size(t, q, f, own, focus.Not(focus.Coded{})), x.Uncoded, x.Label)
				sum := 0
				for _, n := range x.Strip {
					sum += n
				}
				require.Equal(t, x.Answers, sum, "everybody has a sailing date")
			}
		}
		for _, x := range []termview.Subject{{Kind: "term", Text: "queue"}, {Kind: "row", Text: "car deck"}, {Kind: "rule", Text: "car +4w deck / lane"}, {Kind: "rule", Text: "queue + wait"}} {
			own := x.Condition()
			page, err := termview.Context(ctx, s, f, x, terms.ByAfter, false, 0, 10)
			require.NoError(t, err)
			assert.Equal(t, size(t, q, f, own), page.Answers, x.Text)
			assert.GreaterOrEqual(t, page.Total, page.Answers)
			for _, l := range page.Lines {
				assert.Contains(t, strings.Join(strings.Fields(s.Answers[l.Answer]), " "), l.Hit)
			}
			company, err := termview.CompanyOf(ctx, s, f, x, 1, 20)
			require.NoError(t, err)
			require.Equal(t, page.Answers, company.Answers)
			for _, c := range company.Terms {
				require.Equal(t, size(t, q, f, own, focus.Is(focus.Term{Label: c.Label})), c.Both, c.Label)
			}
			for _, c := range company.Segments {
				require.Equal(
					t, size(t, q, f, own, focus.Is(focus.Variable{Name: c.Variable, Op: "=", Values: []string{c.Value}})), c.Answers,
				)
			}
			line, err := termview.TimelineOf(ctx, s, f, []termview.Subject{x}, termview.TimeQuery{Unit: "week"})
			require.NoError(t, err)
			for i, p := range line.Lines[0].Points {
				require.Equal(t, size(t, q, f, line.Periods[i].Only...), line.Periods[i].Base)
				require.Equal(t, size(t, q, f, append([]focus.Condition{own}, line.Periods[i].Only...)...), p.Answers)
			}
		}
		tree, err := termview.Branches(ctx, s, f, termview.Subject{Kind: "term", Text: "queue"}, terms.Shape{Depth: 2, Breadth: 4, Least: 2}, false)
		require.NoError(t, err)
		for _, b := range tree.After.Branches {
			require.Equal(t, size(t, q, f, focus.Is(focus.Words{Rule: "queue =" + b.Word})), b.Answers, b.Word)
		}
		for _, b := range tree.Before.Branches {
			require.Equal(t, size(t, q, f, focus.Is(focus.Words{Rule: "=" + b.Word + " queue"})), b.Answers, b.Word)
		}
		passing, err := termview.Branches(ctx, s, f, termview.Subject{Kind: "term", Text: "queue"}, terms.Shape{Depth: 2, Breadth: 4, Least: 2}, true)
		require.NoError(t, err)
		for n, side := range []terms.Branch{passing.Before, passing.After} {
			for _, b := range side.Branches {
				along := func(words ...string) focus.Condition {
					return focus.Is(focus.Branch{Of: "term", Text: "queue", Words: words, Follow: n})
				}
				require.Equal(t, size(t, q, f, along(b.Word)), b.Answers, b.Word)
				for _, deeper := range b.Branches {
					require.Equal(t, size(t, q, f, along(b.Word, deeper.Word)), deeper.Answers, deeper.Word)
				}
				term, _ := s.View.Find(b.Word)
				require.False(t, s.View.Terms[term].Stop, "%s is passed over", b.Word)
			}
		}
		net, err := termview.NetworkOf(ctx, s, f, termview.NetworkQuery{Terms: 80, Measure: terms.ByG2, Least: 3.84, Both: 3, Links: 60})
		require.NoError(t, err)
		require.NotEmpty(t, net.Links)
		for _, l := range net.Links {
			require.Equal(
				t,
				size(
					t, q, f, focus.Is(focus.Term{Label: net.Nodes[l.From].Label}),
					focus.Is(focus.Term{Label: net.Nodes[l.To].Label}),
				),
				l.Both,
			)
		}
		for _, c := range net.Clusters {
			require.Equal(
				t, size(t, q, f, focus.Is(focus.Words{Rule: "2 of (" + strings.Join(c.Terms, " / ") + ")"})), c.Answers, c.Terms,
			)
		}
	}
}

func TestCompareAndCorpusAddUp(t *testing.T) {
	q := ferries(t, 2000)
	s := q.State()
	is := func(not bool, values ...string) focus.Condition {
		return focus.Condition{Test: focus.Variable{Name: "passenger type", Op: "=", Values: values}, Inversion: focus.Inversion{Not: not}}
	}
	for b, other := range map[string]focus.Condition{"Tourist": is(false, "Tourist"), "": is(true, "Commuter")} {
		c, err := termview.Compare(ctx, s, nil, termview.CompareQuery{By: "passenger type", A: "Commuter", B: b, Least: 5, Limit: 1000})
		require.NoError(t, err)
		assert.Equal(t, size(t, q, nil, is(false, "Commuter")), c.A.Answers)
		assert.Equal(t, size(t, q, nil, other), c.B.Answers)
		assert.Zero(t, c.More)
		for i, x := range c.Terms {
			own := focus.Is(focus.Term{Label: x.Label})
			require.Equal(t, size(t, q, nil, own, is(false, "Commuter")), x.A, x.Label)
			require.Equal(t, size(t, q, nil, own, other), x.B, x.Label)
			if last := c.Terms[max(i, 1)-1]; i > 0 && (last.AShare >= last.BShare) == (x.AShare >= x.BShare) {
				require.GreaterOrEqual(t, last.G2OfAnswers, x.G2OfAnswers)
			}
		}
		few, err := termview.Compare(ctx, s, nil, termview.CompareQuery{By: "passenger type", A: "Commuter", B: b, Least: 5, Limit: 3})
		require.NoError(t, err)
		assert.Equal(t, len(c.Terms), len(few.Terms)+few.More, "what is not listed is counted")
	}
	_, err := termview.Compare(ctx, s, nil, termview.CompareQuery{By: "passenger type", A: "Commuter", B: "Commuter", Limit: 1})
	assert.ErrorIs(t, err, state.ErrRequest)
	_, err = termview.Compare(ctx, s, nil, termview.CompareQuery{By: "passenger type", A: "Pirate", Limit: 1})
	assert.ErrorContains(t, err, `has no value "Pirate"`)

	corpus, err := termview.CorpusOf(ctx, s, nil, "passenger type")
	require.NoError(t, err)
	answers, words := 0, 0
	for _, f := range corpus.Figures[1:] {
		answers, words = answers+f.Answers, words+f.Words
		assert.Less(t, f.Richness, float64(f.Distinct)+1)
	}
	assert.Equal(t, corpus.Figures[0].Answers, answers)
	assert.Equal(t, corpus.Figures[0].Words, words)
	last := corpus.Coverage[len(corpus.Coverage)-1]
	assert.Equal(t, corpus.Terms, last.Terms)
	assert.InDelta(t, 1, last.Share, 1e-9, "all terms cover all words")
	for i := 1; i < len(corpus.Telling); i++ {
		assert.GreaterOrEqual(t, corpus.Telling[i].Share, corpus.Telling[i-1].Share)
	}
}

func TestWhatRises(t *testing.T) {
	q := ferries(t, 3000)
	r, err := termview.RisingOf(ctx, q.State(), nil, termview.TimeQuery{By: "wave"}, "", 50)
	require.NoError(t, err)
	assert.Equal(t, "Autumn 2026", r.Now, "waves stand in the order of their dates, not of the alphabet")
	require.NotEmpty(t, r.Terms, "the waves differ in the demo")
	for i, x := range r.Terms {
		assert.Greater(t, x.Share, x.Past)
		assert.LessOrEqual(t, x.P, 0.05)
		assert.Equal(t, x.Now+x.Before, x.Strip[0]+x.Strip[1])
		if i > 0 {
			assert.GreaterOrEqual(t, x.P, r.Terms[i-1].P)
		}
	}
	for _, x := range r.Fell {
		assert.Less(t, x.Share, x.Past)
		assert.LessOrEqual(t, x.P, 0.05)
	}
	assert.Equal(t, []termview.Moved{{Name: r.Periods[0].Name}, {Name: r.Now, Rose: len(r.Terms), Fell: len(r.Fell)}}, r.Each)
	first, err := termview.RisingOf(ctx, q.State(), nil, termview.TimeQuery{By: "wave"}, r.Periods[0].Name, 50)
	require.NoError(t, err)
	assert.Empty(t, first.Terms, "nothing lies before the first")
	_, err = termview.RisingOf(ctx, q.State(), nil, termview.TimeQuery{By: "wave"}, "Winter", 50)
	assert.ErrorIs(t, err, state.ErrRequest)
}

// Of four waves, each one's figures are those of the wave itself against all before it.
func TestWhatMovesInEachWave(t *testing.T) {
	var waves, answers []string
	for i := range 800 {
		wave, answer := i/200, "the boat"
		if often := []int{20, 20, 3, 20}[wave]; i%often == 0 {
			answer = "the wifi"
		}
		waves, answers = append(waves, fmt.Sprint("w", wave+1)), append(answers, answer)
	}
	s, err := state.Unstored(ctx, []survey.Spec{
		{Name: "wave", Role: survey.Wave}, {Name: "answer", Role: survey.OpenEnded},
	}, [][]string{waves, answers}, 1, playbook.New("en"))
	require.NoError(t, err)
	all, err := termview.RisingOf(ctx, s, nil, termview.TimeQuery{}, "", 9)
	require.NoError(t, err)
	assert.Equal(t, []termview.Moved{{Name: "w1"}, {Name: "w2"}, {Name: "w3", Rose: 1, Fell: 1}, {Name: "w4", Rose: 1, Fell: 1}}, all.Each)
	third, err := termview.RisingOf(ctx, s, nil, termview.TimeQuery{}, "w3", 9)
	require.NoError(t, err)
	require.Len(t, third.Terms, 1)
	assert.Equal(t, []any{"wifi", 66, 20, 2}, []any{third.Terms[0].Label, third.Terms[0].Now, third.Terms[0].Before, third.Tested})
	assert.Equal(t, []int{10, 10, 66, 10}, third.Terms[0].Strip)
	require.Len(t, third.Fell, 1)
	assert.Equal(t, []any{"boat", 134, 380}, []any{third.Fell[0].Label, third.Fell[0].Now, third.Fell[0].Before})
	// One-sided, both terms, both ways: four tests of the same two p.
	assert.InDelta(t, 2*crosstab.MoreThanBefore(66, 200, 20, 400), third.Terms[0].P, 1e-12)
}

func TestTermFilters(t *testing.T) {
	q := ferries(t, 800)
	s := q.State()
	list := func(want termview.TermQuery) (labels []string) {
		want.Limit, want.Descending = 100_000, true
		table, err := termview.Terms(ctx, s, nil, want)
		require.NoError(t, err)
		assert.Equal(t, table.Total, len(table.Terms))
		for _, x := range table.Terms {
			labels = append(labels, x.Label)
		}
		return labels
	}
	all := list(termview.TermQuery{})
	for _, x := range list(termview.TermQuery{Answers: 20}) {
		assert.GreaterOrEqual(t, size(t, q, nil, focus.Is(focus.Term{Label: x})), 20)
	}
	assert.Subset(t, all, list(termview.TermQuery{Letters: 6}))
	assert.NotContains(t, list(termview.TermQuery{Letters: 6}), "queue")
	assert.Contains(t, list(termview.TermQuery{Search: "tailb"}), "queue", "a member is found")
	assert.Contains(t, list(termview.TermQuery{Search: "que*"}), "queue")
	assert.NotContains(t, list(termview.TermQuery{Search: "ueu*"}), "queue", "a pattern is of the whole word")
	assert.NotContains(t, list(termview.TermQuery{NotMerged: true}), "queue")
	assert.NotContains(t, list(termview.TermQuery{NotInRules: true}), "wait")
	negators, _ := s.View.Entries(lexicon.Negators)
	assert.Subset(t, negators, list(termview.TermQuery{List: lexicon.Negators}))
	assert.Contains(t, list(termview.TermQuery{List: lexicon.Negators}), "never")
	assert.Contains(t, list(termview.TermQuery{Stop: true}), "the")
	_, err := termview.Terms(ctx, s, nil, termview.TermQuery{List: "nobody", Limit: 1})
	assert.ErrorIs(t, err, state.ErrRequest)
	byWord := list(termview.TermQuery{Sort: "distinct"})
	assert.NotEqual(t, all, byWord)
}

// A page holds what the whole table holds there, however it is sorted.
func TestPagesAreStretchesOfTheWhole(t *testing.T) {
	q := ferries(t, 600)
	for _, sort := range []string{"answers", "times", "uncoded", "distinct", "term"} {
		for _, down := range []bool{true, false} {
			whole, err := termview.Terms(ctx, q.State(), nil, termview.TermQuery{Sort: sort, Descending: down, Limit: 10_000})
			require.NoError(t, err)
			for _, at := range []int{0, 7, 60, whole.Total - 3} {
				page, err := termview.Terms(ctx, q.State(), nil, termview.TermQuery{Sort: sort, Descending: down, Offset: at, Limit: 20})
				require.NoError(t, err)
				require.Equal(t, whole.Terms[at:min(at+20, whole.Total)], page.Terms, "%s from %d", sort, at)
			}
		}
	}
}
