package desk

import (
	"context"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/terms"
	"aftermath/internal/demo"
)

// ferries opens the demo's first question, without a store.
func ferries(t testing.TB, n int) *Question {
	book, err := demo.Playbook(demo.Change)
	require.NoError(t, err)
	cells := make([][]string, len(demo.Columns))
	for _, row := range demo.Make(3, n).Rows {
		for i, c := range row {
			cells[i] = append(cells[i], c)
		}
	}
	q, err := Unstored(ctx, demo.Specs(), cells, 10, book)
	require.NoError(t, err)
	return q
}

// size is how many answers are behind conditions.
func size(t testing.TB, q *Question, f Focus, more ...Condition) int {
	t.Helper()
	set, err := q.Focus(q.State(), append(append(Focus{}, f...), more...))
	require.NoError(t, err)
	return int(set.GetCardinality())
}

// Every figure of every table, tree and chart is the number of answers that pressing it opens.
func TestEveryFigureOfTermsCanBeRead(t *testing.T) {
	q := ferries(t, 1500)
	s := q.State()
	for _, f := range []Focus{nil, {{Kind: "variable", Name: "route", Op: "=", Values: []string{"Northern"}}, {Kind: "coded", Not: true}}} {
		base := size(t, q, f)
		for row, kind := range []string{1: "term", 2: "row", 3: "row"} {
			if row == 0 {
				continue
			}
			table, err := q.Terms(s, f, TermQuery{Row: row, Descending: true, Limit: 40})
			require.NoError(t, err)
			require.Equal(t, base, table.Base)
			require.NotEmpty(t, table.Terms)
			for _, x := range table.Terms {
				own := Condition{Kind: kind, Text: x.Label}
				require.Equal(t, size(t, q, f, own), x.Answers, x.Label)
				require.Equal(t, size(t, q, f, own, Condition{Kind: "coded", Not: true}), x.Uncoded, x.Label)
				sum := 0
				for _, n := range x.Strip {
					sum += n
				}
				require.Equal(t, x.Answers, sum, "everybody has a sailing date")
			}
		}
		for _, x := range []Subject{{"term", "queue"}, {"row", "car deck"}, {"rule", "car +4w deck / lane"}, {"rule", "queue + wait"}} {
			own := x.condition()
			page, err := q.Context(s, f, x, terms.ByAfter, 0, 10)
			require.NoError(t, err)
			assert.Equal(t, size(t, q, f, own), page.Answers, x.Text)
			assert.GreaterOrEqual(t, page.Total, page.Answers)
			for _, l := range page.Lines {
				assert.Contains(t, strings.Join(strings.Fields(q.Answers[l.Answer]), " "), l.Hit)
			}
			company, err := q.Company(s, f, x, 1, 20)
			require.NoError(t, err)
			require.Equal(t, page.Answers, company.Answers)
			for _, c := range company.Terms {
				require.Equal(t, size(t, q, f, own, Condition{Kind: "term", Text: c.Label}), c.Both, c.Label)
			}
			for _, c := range company.Segments {
				require.Equal(t, size(t, q, f, own, Condition{Kind: "variable", Name: c.Variable, Op: "=", Values: []string{c.Value}}), c.Answers)
			}
			line, err := q.Timeline(s, f, []Subject{x}, TimeQuery{Unit: "week"})
			require.NoError(t, err)
			for i, p := range line.Lines[0].Points {
				require.Equal(t, size(t, q, f, line.Periods[i].Only...), line.Periods[i].Base)
				require.Equal(t, size(t, q, f, append([]Condition{own}, line.Periods[i].Only...)...), p.Answers)
			}
		}
		tree, err := q.Branches(s, f, Subject{"term", "queue"}, terms.Shape{Depth: 2, Breadth: 4, Least: 2})
		require.NoError(t, err)
		for _, b := range tree.After.Branches {
			require.Equal(t, size(t, q, f, Condition{Kind: "words", Text: "queue =" + b.Word}), b.Answers, b.Word)
		}
		for _, b := range tree.Before.Branches {
			require.Equal(t, size(t, q, f, Condition{Kind: "words", Text: "=" + b.Word + " queue"}), b.Answers, b.Word)
		}
		net, err := q.Network(s, f, NetworkQuery{Terms: 80, Measure: terms.ByG2, Least: 3.84, Both: 3, Links: 60})
		require.NoError(t, err)
		require.NotEmpty(t, net.Links)
		for _, l := range net.Links {
			require.Equal(t, size(t, q, f, Condition{Kind: "term", Text: net.Nodes[l.From].Label}, Condition{Kind: "term", Text: net.Nodes[l.To].Label}), l.Both)
		}
		for _, c := range net.Clusters {
			require.Equal(t, size(t, q, f, Condition{Kind: "words", Text: "2 of (" + strings.Join(c.Terms, " / ") + ")"}), c.Answers, c.Terms)
		}
	}
}

func TestCompareAndCorpusAddUp(t *testing.T) {
	q := ferries(t, 2000)
	s := q.State()
	is := func(not bool, values ...string) Condition {
		return Condition{Kind: "variable", Name: "passenger type", Op: "=", Values: values, Not: not}
	}
	for b, other := range map[string]Condition{"Tourist": is(false, "Tourist"), "": is(true, "Commuter")} {
		c, err := q.Compare(s, nil, CompareQuery{By: "passenger type", A: "Commuter", B: b, Least: 5, Limit: 1000})
		require.NoError(t, err)
		assert.Equal(t, size(t, q, nil, is(false, "Commuter")), c.A.Answers)
		assert.Equal(t, size(t, q, nil, other), c.B.Answers)
		assert.Zero(t, c.More)
		for i, x := range c.Terms {
			own := Condition{Kind: "term", Text: x.Label}
			require.Equal(t, size(t, q, nil, own, is(false, "Commuter")), x.A, x.Label)
			require.Equal(t, size(t, q, nil, own, other), x.B, x.Label)
			if i > 0 && c.Terms[i-1].Ratio >= 0 == (x.Ratio >= 0) {
				require.GreaterOrEqual(t, c.Terms[i-1].G2, x.G2)
			}
		}
		few, err := q.Compare(s, nil, CompareQuery{By: "passenger type", A: "Commuter", B: b, Least: 5, Limit: 3})
		require.NoError(t, err)
		assert.Equal(t, len(c.Terms), len(few.Terms)+few.More, "what is not listed is counted")
	}
	_, err := q.Compare(s, nil, CompareQuery{By: "passenger type", A: "Commuter", B: "Commuter", Limit: 1})
	assert.ErrorIs(t, err, ErrRequest)
	_, err = q.Compare(s, nil, CompareQuery{By: "passenger type", A: "Pirate", Limit: 1})
	assert.ErrorContains(t, err, `has no value "Pirate"`)

	corpus, err := q.Corpus(s, nil, "passenger type")
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
	r, err := q.Rising(q.State(), nil, TimeQuery{By: "wave"}, "", 50)
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
	first, err := q.Rising(q.State(), nil, TimeQuery{By: "wave"}, r.Periods[0].Name, 50)
	require.NoError(t, err)
	assert.Empty(t, first.Terms, "nothing lies before the first")
	_, err = q.Rising(q.State(), nil, TimeQuery{By: "wave"}, "Winter", 50)
	assert.ErrorIs(t, err, ErrRequest)
}

func TestTermFilters(t *testing.T) {
	q := ferries(t, 800)
	s := q.State()
	list := func(want TermQuery) (labels []string) {
		want.Limit, want.Descending = 100_000, true
		table, err := q.Terms(s, nil, want)
		require.NoError(t, err)
		assert.Equal(t, table.Total, len(table.Terms))
		for _, x := range table.Terms {
			labels = append(labels, x.Label)
		}
		return labels
	}
	all := list(TermQuery{})
	for _, x := range list(TermQuery{Answers: 20}) {
		assert.GreaterOrEqual(t, size(t, q, nil, Condition{Kind: "term", Text: x}), 20)
	}
	assert.Subset(t, all, list(TermQuery{Letters: 6}))
	assert.NotContains(t, list(TermQuery{Letters: 6}), "queue")
	assert.Contains(t, list(TermQuery{Search: "tailb"}), "queue", "a member is found")
	assert.Contains(t, list(TermQuery{Search: "que*"}), "queue")
	assert.NotContains(t, list(TermQuery{Search: "ueu*"}), "queue", "a pattern is of the whole word")
	assert.NotContains(t, list(TermQuery{NotMerged: true}), "queue")
	assert.NotContains(t, list(TermQuery{NotInRules: true}), "wait")
	negators, _ := s.View.Entries(lexicon.Negators)
	assert.Subset(t, negators, list(TermQuery{List: lexicon.Negators}))
	assert.Contains(t, list(TermQuery{List: lexicon.Negators}), "never")
	assert.Contains(t, list(TermQuery{Stop: true}), "the")
	_, err := q.Terms(s, nil, TermQuery{List: "nobody", Limit: 1})
	assert.ErrorIs(t, err, ErrRequest)
	byWord := list(TermQuery{Sort: "distinct"})
	assert.NotEqual(t, all, byWord)
}

// A page holds what the whole table holds there, however it is sorted.
func TestPagesAreStretchesOfTheWhole(t *testing.T) {
	q := ferries(t, 600)
	for _, sort := range []string{"answers", "times", "uncoded", "distinct", "term"} {
		for _, down := range []bool{true, false} {
			whole, err := q.Terms(q.State(), nil, TermQuery{Sort: sort, Descending: down, Limit: 10_000})
			require.NoError(t, err)
			for _, at := range []int{0, 7, 60, whole.Total - 3} {
				page, err := q.Terms(q.State(), nil, TermQuery{Sort: sort, Descending: down, Offset: at, Limit: 20})
				require.NoError(t, err)
				require.Equal(t, whole.Terms[at:min(at+20, whole.Total)], page.Terms, "%s from %d", sort, at)
			}
		}
	}
}

func TestLexiconEdits(t *testing.T) {
	_, q := open(t, sample...)
	book := func() lexicon.Lexicon { return q.State().Playbook.Lexicon }
	answersOf := func(term string) int { return size(t, q, nil, Condition{Kind: "term", Text: term}) }

	edit(t, q, Edit{Kind: "merge", Label: "queue", Terms: []string{"tailback", "cold tea", "lat*"}})
	assert.Equal(t, 5, answersOf("queue"))
	edit(t, q, Edit{Kind: "split", Label: "queue", Terms: []string{"queues"}})
	assert.Equal(t, []string{"queues"}, book().Parted, "the label would reach it, so it is parted by hand")
	assert.Equal(t, 1, answersOf("queues"))
	edit(t, q, Edit{Kind: "split", Label: "queue", Terms: []string{"cold tea"}})
	assert.Equal(t, 4, answersOf("queue"))
	edit(t, q, Edit{Kind: "join", Terms: []string{"queues"}})
	edit(t, q, Edit{Kind: "rename", Label: "queue", Name: "waiting line"})
	assert.Equal(t, 4, answersOf("waiting line"), "the old label still counts")
	edit(t, q, Edit{Kind: "part", Label: "queue", Terms: []string{"queues"}})
	edit(t, q, Edit{Kind: "merge", Label: "waiting line", Terms: []string{"queues"}})
	assert.Empty(t, book().Parted, "what is merged again is no longer parted")

	// A term list is made, used by a rule, renamed with it, and undone.
	edit(t, q, Edit{Kind: "list", Label: "@warm", Terms: []string{"tea", "tea", "coffee"}})
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Drinks", Rules: []string{`@warm + cold`}}})
	assert.Equal(t, []uint32{3}, coded(q)["Drinks"])
	edit(t, q, Edit{Kind: "rename", Label: "@warm", Name: "hot drinks"})
	assert.Equal(t, []string{`@"hot drinks" + cold`}, q.State().Playbook.Frame[0].Rules)
	assert.Equal(t, []uint32{3}, coded(q)["Drinks"])
	state := q.Lexicon(q.State())
	assert.Equal(t, ListFigures{Answers: 1, Unseen: []string{"coffee"}, Used: []string{"Drinks"}}, state.Lists[0])
	edit(t, q, Edit{Kind: "unlist", Label: "hot drinks", Terms: []string{"tea"}})
	assert.Empty(t, coded(q)["Drinks"])
	_, err := q.Undo(ctx, false)
	require.NoError(t, err)
	assert.Equal(t, []uint32{3}, coded(q)["Drinks"])

	// Inflections off: every form by itself.
	assert.Equal(t, 1, answersOf("boats"))
	edit(t, q, Edit{Kind: "inflections", To: "off"})
	assert.Equal(t, 0, answersOf("boats"))
	edit(t, q, Edit{Kind: "apart", Label: "late", Terms: []string{"plate"}})
	assert.True(t, book().KeptApart("plate", "late"))
	edit(t, q, Edit{Kind: "suggest again", Label: "late", Terms: []string{"plate"}})
	assert.Empty(t, book().Apart)

	// Another language brings its own base list and phrases of refusal along, and reads everything anew.
	edit(t, q, Edit{Kind: "language", Label: "de"})
	assert.Equal(t, "de", book().StopWords.Base)
	assert.Equal(t, "de", q.State().Playbook.Language)
	edit(t, q, Edit{Kind: "language", Label: Unknown})
	assert.Empty(t, book().StopWords.Base)
	for _, bad := range []Edit{{Kind: "language", Label: "xx"}, {Kind: "base", Label: "xx"}, {Kind: "list", Label: "negators"}, {Kind: "list"}, {Kind: "unlist", Label: "nope"},
		{Kind: "part"}, {Kind: "part", Terms: []string{"two words"}}, {Kind: "rename", Label: "nope", Name: "x"}, {Kind: "rename", Label: "@nope", Name: "x"}, {Kind: "apart"}, {Kind: "lexicon"},
		{Kind: "merge", Label: "x", Terms: []string{"!!"}}} {
		before := q.State()
		_, err := q.Edit(ctx, before.Revision, bad)
		assert.ErrorIs(t, err, ErrRequest, bad.Kind)
		assert.Same(t, before, q.State())
	}
}

// A playbook carries all of the lexicon, and what it counts is the same without a store.
func TestLexiconTravelsInThePlaybook(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, Edit{Kind: "merge", Label: "queue", Terms: []string{"tailback"}})
	edit(t, q, Edit{Kind: "part", Label: "queue", Terms: []string{"queues"}})
	edit(t, q, Edit{Kind: "list", Label: "warm", Terms: []string{"tea"}})
	edit(t, q, Edit{Kind: "apart", Label: "late", Terms: []string{"plate"}})
	file, err := q.State().Playbook.File()
	require.NoError(t, err)
	book, err := playbook.Parse(file)
	require.NoError(t, err)
	assert.Equal(t, q.State().Playbook.Lexicon, book.Lexicon)
	other, err := Unstored(ctx, q.State().Study.Columns, q.State().Study.Cells, 4, book)
	require.NoError(t, err)
	want, err := q.Terms(q.State(), nil, TermQuery{Limit: 100})
	require.NoError(t, err)
	got, err := other.Terms(other.State(), nil, TermQuery{Limit: 100})
	require.NoError(t, err)
	assert.Equal(t, want, got)
}

// A suggestion that is taken or refused does not come up again; taking it says beforehand what it changes.
func TestSuggestionsAreTakenAndRefused(t *testing.T) {
	var rows [][]string
	for i := range 60 {
		rows = append(rows, []string{"", "North", "5", "1", []string{"slow delivery", "the delivery came", "no luggage", "lost luggage here"}[i%4]})
	}
	rows = append(rows, []string{"", "South", "5", "1", "delivry"}, []string{"", "South", "5", "1", "a delivry"}, []string{"", "South", "5", "1", "lugage gone"}, []string{"", "South", "5", "1", "lugage"})
	_, q := open(t, rows...)
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Delivery", Rules: []string{"delivery"}}})
	ask := func() Suggestions {
		t.Helper()
		var out Suggestions
		require.Eventually(t, func() bool {
			var err error
			out, err = q.Suggestions(ctx, q.State(), "misspelt", false, 0, 10)
			require.NoError(t, err)
			return !out.Running
		}, 10e9, 1e6)
		return out
	}
	found := ask()
	require.Equal(t, 2, found.Total)
	assert.Equal(t, "delivery", found.List[0].Term)
	assert.Equal(t, []VariantInfo{{"delivry", 2, []string{"e left out"}}}, found.List[0].Variants)
	take := Edit{Kind: "merge", Label: "delivery", Terms: []string{"delivry"}}
	effect, err := q.Preview(ctx, take)
	require.NoError(t, err)
	assert.Equal(t, []CategoryEffect{{id(t, q, "Delivery"), "Delivery", 2, 0}}, effect.Categories)
	edit(t, q, take)
	edit(t, q, Edit{Kind: "apart", Label: "luggage", Terms: []string{"lugage"}})
	found = ask()
	assert.Zero(t, found.Total)
	assert.Equal(t, 1, found.Refused)
	assert.Len(t, coded(q)["Delivery"], 32)
	_, err = q.Undo(ctx, false)
	require.NoError(t, err)
	assert.Equal(t, 1, ask().Total)

	// What was refused before anybody looked can be suggested again; what was given up stays so until it is asked for anew.
	edit(t, q, Edit{Kind: "apart", Label: "luggage", Terms: []string{"lugage"}})
	_, err = q.Suggestions(ctx, q.State(), "", true, 0, 0)
	require.NoError(t, err)
	assert.Zero(t, ask().Total)
	edit(t, q, Edit{Kind: "suggest again", Label: "luggage", Terms: []string{"lugage"}})
	assert.Equal(t, 1, ask().Total)
	look := &q.State().kept.search
	look.forget()
	underWay, cancel := context.WithCancel(ctx) // as if it were under way
	over := make(chan struct{})
	context.AfterFunc(underWay, func() { close(over) })
	look.over, look.stop = over, cancel
	q.StopSuggestions(q.State())
	given := ask()
	assert.True(t, given.Stopped)
	assert.Zero(t, given.Total)
	_, err = q.Suggestions(ctx, q.State(), "", true, 0, 0)
	require.NoError(t, err)
	assert.Equal(t, 1, ask().Total)
}

func TestStripsNeedNoDates(t *testing.T) {
	_, q := open(t, sample...)
	table, err := q.Terms(q.State(), nil, TermQuery{Limit: 100})
	require.NoError(t, err)
	assert.Empty(t, table.Strip.By)
	assert.Len(t, table.Strip.Buckets, 7)
	assert.Equal(t, []int{1, 1, 1, 1, 0, 0, 1}, table.Strip.Bases)
	assert.False(t, math.IsNaN(table.Terms[0].Distinct))
	line, err := q.Timeline(q.State(), nil, []Subject{{"term", "queue"}}, TimeQuery{})
	require.NoError(t, err)
	assert.Empty(t, line.By, "there is no time to draw it over")
}
