package desk_test

import (
	"context"
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	knownwords "aftermath/core/words"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/effect"
	"aftermath/internal/view/termview"
)

func TestLexiconEdits(t *testing.T) {
	_, q := open(t, sample...)
	book := func() lexicon.Lexicon { return q.State().Scheme.Lexicon }
	answersOf := func(term string) int { return size(t, q, nil, focus.Is(focus.Term{Label: term})) }

	edit(t, q, scheme.MergeTerms{Label: "queue", Terms: []string{"tailback", "cold tea", "lat*"}})
	assert.Equal(t, 5, answersOf("queue"))
	edit(t, q, scheme.SplitMerge{Label: "queue", Variants: []string{"queues"}})
	assert.Equal(t, []string{"queues"}, book().Parted, "the label would reach it, so it is separated by hand")
	assert.Equal(t, 1, answersOf("queues"))
	edit(t, q, scheme.SplitMerge{Label: "queue", Variants: []string{"cold tea"}})
	assert.Equal(t, 4, answersOf("queue"))
	edit(t, q, scheme.JoinWords{Words: []string{"queues"}})
	edit(t, q, scheme.RenameMerge{Label: "queue", Name: "waiting line"})
	assert.Equal(t, 4, answersOf("waiting line"), "the old label still counts")
	edit(t, q, scheme.PartWords{Words: []string{"queues"}, From: "queue"})
	edit(t, q, scheme.MergeTerms{Label: "waiting line", Terms: []string{"queues"}})
	assert.Empty(t, book().Parted, "what is merged again is no longer parted")

	// A term list is made, used by a rule, renamed with it, and undone.
	edit(t, q, scheme.PutOnList{List: "@warm", Entries: []string{"tea", "tea", "coffee"}})
	edit(t, q, scheme.AddCategory{Name: "Drinks", Rules: []string{`@warm + cold`}})
	assert.Equal(t, []uint32{3}, coded(q)["Drinks"])
	edit(t, q, scheme.RenameList{List: "@warm", Name: "hot drinks"})
	assert.Equal(t, []string{`@"hot drinks" + cold`}, q.State().Scheme.Frame[0].Rules)
	assert.Equal(t, []uint32{3}, coded(q)["Drinks"])
	state, err := termview.LexiconOf(ctx, q.State())
	require.NoError(t, err)
	assert.Equal(t, termview.ListFigures{Answers: 1, Unseen: []string{"coffee"}, Used: []string{"Drinks"}}, state.Lists[0])
	edit(t, q, scheme.TakeOffList{List: "hot drinks", Entries: []string{"tea"}})
	assert.Empty(t, coded(q)["Drinks"])
	_, err = q.Undo()
	require.NoError(t, err)
	assert.Equal(t, []uint32{3}, coded(q)["Drinks"])

	// Inflections off: every form by itself.
	assert.Equal(t, 1, answersOf("boats"))
	edit(t, q, scheme.JoinInflections{On: false})
	assert.Equal(t, 0, answersOf("boats"))
	edit(t, q, scheme.KeepApart{Label: "late", Terms: []string{"plate"}})
	assert.True(t, book().KeptApart("plate", "late"))
	edit(t, q, scheme.SuggestAgain{Label: "late", Terms: []string{"plate"}})
	assert.Empty(t, book().Apart)

	// Another language brings its own base list and phrases of refusal along, and reads everything anew.
	edit(t, q, scheme.SetLanguage{Language: "de"})
	assert.Equal(t, "de", book().StopWords.Base)
	assert.Equal(t, "de", q.State().Scheme.Language)
	edit(t, q, scheme.SetLanguage{Language: scheme.UnknownLanguage})
	assert.Empty(t, book().StopWords.Base)
	for _, bad := range []scheme.Edit{scheme.SetLanguage{Language: "xx"}, scheme.SetBaseStopWords{Language: "xx"}, scheme.PutOnList{List: "negators"}, scheme.PutOnList{},
		scheme.TakeOffList{List: "nope"}, scheme.PartWords{}, scheme.PartWords{Words: []string{"two words"}}, scheme.RenameMerge{Label: "nope", Name: "x"},
		scheme.RenameList{List: "@nope", Name: "x"}, scheme.KeepApart{}, scheme.AddLexiconRows{}, scheme.MergeTerms{Label: "x", Terms: []string{"!!"}}} {
		before := q.State()
		_, err := q.Edit(before.Revision, bad)
		assert.ErrorIs(t, err, scheme.ErrEdit, bad.Kind())
		assert.Same(t, before, q.State())
	}
}

// A playbook carries all of the lexicon, and what it counts is the same without a store.
func TestLexiconTravelsInThePlaybook(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, scheme.MergeTerms{Label: "queue", Terms: []string{"tailback"}})
	edit(t, q, scheme.PartWords{Words: []string{"queues"}, From: "queue"})
	edit(t, q, scheme.PutOnList{List: "warm", Entries: []string{"tea"}})
	edit(t, q, scheme.KeepApart{Label: "late", Terms: []string{"plate"}})
	file, err := q.State().Scheme.File()
	require.NoError(t, err)
	book, err := playbook.Parse(file)
	require.NoError(t, err)
	assert.Equal(t, q.State().Scheme.Lexicon, book.Lexicon)
	other, err := state.Unstored(ctx, q.State().Study.Columns, shownCells(q.State().Study), 4, book)
	require.NoError(t, err)
	want, err := termview.Terms(ctx, q.State(), nil, termview.TermQuery{Limit: 100})
	require.NoError(t, err)
	got, err := termview.Terms(ctx, other, nil, termview.TermQuery{Limit: 100})
	require.NoError(t, err)
	assert.Equal(t, want, got)
}

// A suggestion that is taken or refused does not come up again; taking it says beforehand what it changes.
func TestSuggestionsAreTakenAndRefused(t *testing.T) {
	var rows [][]string
	for i := range 60 {
		rows = append(
			rows,
			[]string{"", "North", "5", "1", []string{"slow delivery", "the delivery came", "no luggage", "lost luggage here"}[i%4]},
		)
	}
	rows = append(
		rows, []string{"", "South", "5", "1", "delivry"}, []string{"", "South", "5", "1", "a delivry"},
		[]string{"", "South", "5", "1", "lugage gone"}, []string{"", "South", "5", "1", "lugage"},
	)
	_, q := open(t, rows...)
	edit(t, q, scheme.AddCategory{Name: "Delivery", Rules: []string{"delivery"}})
	ask := func() termview.Suggestions {
		t.Helper()
		var out termview.Suggestions
		require.Eventually(t, func() bool {
			var err error
			out, err = termview.SuggestionsOf(ctx, q.State(), "misspelt", false, 0, 10)
			require.NoError(t, err)
			return !out.Running
		}, 10e9, 1e6)
		return out
	}
	found := ask()
	require.Equal(t, 2, found.Total)
	assert.Equal(t, "delivery", found.List[0].Term)
	assert.Equal(t, []termview.VariantInfo{{Text: "delivry", Times: 2, Edits: []string{"e left out"}}}, found.List[0].Variants)
	take := scheme.MergeTerms{Label: "delivery", Terms: []string{"delivry"}}
	tried, err := q.Preview(take)
	require.NoError(t, err)
	assert.Equal(t, []effect.CategoryEffect{{ID: id(t, q, "Delivery"), Name: "Delivery", Gained: 2}}, tried.Categories)
	edit(t, q, take)
	edit(t, q, scheme.KeepApart{Label: "luggage", Terms: []string{"lugage"}})
	found = ask()
	assert.Zero(t, found.Total)
	assert.Equal(t, 1, found.Refused)
	assert.Len(t, coded(q)["Delivery"], 32)
	_, err = q.Undo()
	require.NoError(t, err)
	assert.Equal(t, 1, ask().Total)

	// What was refused before anybody looked can be suggested again; what was given up stays so until it is asked for anew.
	edit(t, q, scheme.KeepApart{Label: "luggage", Terms: []string{"lugage"}})
	_, err = termview.SuggestionsOf(ctx, q.State(), "", true, 0, 0)
	require.NoError(t, err)
	assert.Zero(t, ask().Total)
	edit(t, q, scheme.SuggestAgain{Label: "luggage", Terms: []string{"lugage"}})
	assert.Equal(t, 1, ask().Total)
	// The search in these few answers is over at once: asked for anew and given up in the same moment, it is one or the other.
	_, err = termview.SuggestionsOf(gone(), q.State(), "", true, 0, 0)
	require.ErrorIs(t, err, context.Canceled)
	termview.StopSuggestions(q.State())
	given := ask()
	assert.NotEqual(t, given.Stopped, given.Total > 0, "what was given up lists nothing until it is asked for anew")
	_, err = termview.SuggestionsOf(ctx, q.State(), "", true, 0, 0)
	require.NoError(t, err)
	assert.Equal(t, 1, ask().Total)
}

func TestStripsNeedNoDates(t *testing.T) {
	_, q := open(t, sample...)
	table, err := termview.Terms(ctx, q.State(), nil, termview.TermQuery{Limit: 100})
	require.NoError(t, err)
	assert.Empty(t, table.Strip.By)
	assert.Len(t, table.Strip.Buckets, 7)
	assert.Equal(t, []int{1, 1, 1, 1, 0, 0, 1}, table.Strip.Bases)
	assert.False(t, math.IsNaN(table.Terms[0].Distinct))
	line, err := termview.TimelineOf(ctx, q.State(), nil, []termview.Subject{{Kind: "term", Text: "queue"}}, termview.TimeQuery{})
	require.NoError(t, err)
	assert.Empty(t, line.By, "there is no time to draw it over")
}

// gone is the context of a caller who has left.
func gone() context.Context {
	gone, leave := context.WithCancel(ctx)
	leave()
	return gone
}

// What is said of a merge before it is made is what it has then, what it takes from terms it doesn't name included.
func TestMergesSayWhatTheyTake(t *testing.T) {
	_, q := open(t,
		[]string{"1", "North", "3", "1", "the parcel came"}, []string{"2", "North", "3", "1", "parcels everywhere"},
		[]string{"3", "North", "3", "1", "package here"}, []string{"4", "North", "3", "1", "packages, packaging"},
		[]string{"5", "North", "3", "1", "packer"}, []string{"6", "North", "3", "1", "up"},
	)
	e, err := q.Preview(scheme.MergeTerms{Label: "parcel", Terms: []string{"pack*"}})
	require.NoError(t, err)
	require.Len(t, e.Merged, 1)
	assert.Equal(t, []any{"parcel", 2, 5, false}, []any{e.Merged[0].Label, e.Merged[0].Before, e.Merged[0].After, e.Merged[0].Hidden})
	assert.ElementsMatch(t, []effect.TermTaken{
		{Label: "package", Words: []string{"package", "packages", "packaging"}, Times: 3},
		{Label: "packer", Words: []string{"packer"}, Times: 1},
	}, e.Merged[0].Takes)
	e, err = q.Preview(scheme.MergeTerms{Label: "parcel", Terms: []string{"up"}})
	require.NoError(t, err)
	assert.Equal(t, []bool{true}, []bool{e.Merged[0].Hidden}, "up is a stop word")
	kept := edit(t, q, scheme.MergeTerms{Label: "parcel", Terms: []string{"up"}})
	assert.Equal(t, e.Merged, kept.Merged)
	e, err = q.Preview(scheme.Hide{Terms: []string{"package"}})
	require.NoError(t, err)
	assert.Empty(t, e.Merged)
}

// The ledger's filters by word class and by everyday speech keep what the table says, and sort by the same figure.
func TestWordClassesAndEverydaySpeech(t *testing.T) {
	_, q := open(t,
		[]string{"1", "North", "3", "1", "the ferry left late, the ferry left"}, []string{"2", "North", "3", "1", "ferry wifi 7 quickly"},
		[]string{"3", "North", "3", "1", "a man ran"},
	)
	s := q.State()
	list := func(want termview.TermQuery) (labels []string, table termview.TermTable) {
		want.Limit, want.Descending = 100, true
		table, err := termview.Terms(ctx, s, nil, want)
		require.NoError(t, err)
		for _, x := range table.Terms {
			labels = append(labels, x.Label)
		}
		return labels, table
	}
	nouns, _ := list(termview.TermQuery{Class: "noun"})
	assert.Subset(t, nouns, []string{"ferry", "man"})
	assert.NotContains(t, nouns, "quickly")
	adverbs, _ := list(termview.TermQuery{Class: "adverb"})
	assert.Contains(t, adverbs, "quickly")
	others, _ := list(termview.TermQuery{Class: termview.OtherClass})
	assert.Contains(t, others, "7")
	assert.NotContains(t, others, "ferry")

	_, all := list(termview.TermQuery{Sort: "everyday"})
	require.True(t, all.Everyday)
	spoken := knownwords.Of("en")
	last := math.Inf(1)
	for _, x := range all.Terms {
		require.LessOrEqual(t, x.Everyday, last)
		last = x.Everyday
		usual := 0.0
		for _, m := range x.Members {
			usual += spoken.Said(m.Word)
		}
		if want := (1e6*float64(x.Times)/float64(all.Words) + 1) / (usual + 1); x.Label != "7" {
			require.InDelta(t, want, x.Everyday, 1e-6*want, x.Label)
		} else {
			require.Zero(t, x.Everyday, "a number is no word of everyday speech")
		}
	}
	few, _ := list(termview.TermQuery{Everyday: all.Terms[0].Everyday})
	assert.Equal(t, []string{all.Terms[0].Label}, few)
	_, pairs := list(termview.TermQuery{Row: 2})
	assert.False(t, pairs.Everyday)
}

// A copied block is listed with just the answers that its focus has, and marked there; a piece of it is not listed beside it.
func TestCopiedBlocksAreListed(t *testing.T) {
	block := "we regret that the ferry to the island is cancelled until further notice today"
	_, q := open(t,
		[]string{"1", "North", "3", "1", "first " + block}, []string{"2", "North", "3", "1", block + ". Second"},
		[]string{"3", "North", "3", "1", "Third, " + block + " and more"}, []string{"4", "North", "3", "1", "the ferry to the island"},
	)
	near, err := clean.NearOf(ctx, q.State(), 100)
	require.NoError(t, err)
	require.Len(t, near.Blocks, 1)
	b := near.Blocks[0]
	assert.Equal(t, []any{block, 14, 3}, []any{b.Row, b.Words, b.Answers})
	f := focus.Focus{focus.Is(focus.Block{Text: b.Row})}
	set, err := q.Focus(f)
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 1, 2}, set.ToArray())
	parts := f.Marker(q.State()).Parts(2)
	assert.Equal(t, []focus.Part{{Text: "Third, "}, {Text: block, Hit: true}, {Text: " and more"}}, parts)
	set, err = q.Focus(focus.Focus{focus.Is(focus.Block{Text: "ferry nobody says"})})
	require.NoError(t, err)
	assert.True(t, set.IsEmpty())
}

// Of two words here and one there, what is written most often stays.
func TestJoinedWordsTakeTheUsualForm(t *testing.T) {
	var rows [][]string
	for i := range 12 {
		rows = append(rows, []string{fmt.Sprint(i), "North", "3", "1", []string{"slow check in here", "slow check in", "checkin was slow"}[i%3]})
	}
	_, q := open(t, rows...)
	found := func() termview.Suggestions {
		out, err := termview.SuggestionsOf(ctx, q.State(), "joined", false, 0, 10)
		require.NoError(t, err)
		return out
	}
	require.Eventually(t, func() bool { return !found().Running }, 20*time.Second, 20*time.Millisecond)
	list := found().List
	require.Len(t, list, 1)
	assert.Equal(t, []any{"check in", 8, "checkin", 4}, []any{list[0].Term, list[0].Times, list[0].Variants[0].Text, list[0].Variants[0].Times})
	edit(t, q, scheme.MergeTerms{Label: list[0].Term, Terms: []string{list[0].Variants[0].Text}})
	assert.Empty(t, found().List)
}
