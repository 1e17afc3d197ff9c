package desk_test

import (
	. "aftermath/internal/desk"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/demo"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/review"
)

// startedOf is a question of the demo under its starting frame, and what its answers meant: by topic, the rows.
func startedOf(t *testing.T, question string) (*state.State, map[string]*roaring.Bitmap) {
	_, truth := truthOf(t, question)
	p, err := demo.Playbook(question)
	require.NoError(t, err)
	var answers []string
	column := map[string]int{demo.Change: 10, demo.Enjoy: 11}[question]
	for _, row := range demo.Make(demo.Seed, demo.Respondents).Rows {
		answers = append(answers, row[column])
	}
	return unstoredOf(t, p, answers...), truth
}

// meantBy is what the categories of the starting frames stand for, in the generator's own topics.
var meantBy = map[string][]string{
	"Boarding / Waiting and queues": {"Queues"}, "Boarding / Car deck order": {"Car deck order"},
	"Boarding / Signs and lanes": {"Signs and lanes"}, "Timetable / Late running": {"Delays"}, "Timetable / Cancelled": {"Cancellations"},
	"Timetable / More sailings": {"More sailings"}, "Timetable / Bus and train links": {"Bus and train links"},
	"On board / Food and drink": {"Food quality", "Food prices", "Food and drink"}, "On board / Toilets": {"Toilets"},
	"On board / Noise and screens": {"Noise"}, "On board / Wi-fi": {"Wifi"}, "On board / Staff and help": {"Rude staff", "Help from staff"},
	"Price of travel": {"Fares"}, "Nothing to change": {"Nothing to change"},
	"At sea / Views": {"Views"}, "At sea / Wildlife": {"Wildlife"}, "At sea / Fresh air": {"Deck and fresh air"},
	"On board / Kind staff": {"Friendly crew"}, "On board / Peace and quiet": {"Calm"}, "Quick and on time": {"Quick and on time"},
	"Nothing": {"Nothing enjoyed"},
}

// The suggester on the demo, from its starting frame. Tested on answers of topics that it has not seen, it tells most categories;
// of what is left, its chances are what they say, and the likely ones come first.
func TestSuggesterAgainstTheTruth(t *testing.T) {
	for _, question := range []string{demo.Change, demo.Enjoy} {
		s, truth := startedOf(t, question)
		m, err := review.SuggesterOf(ctx, s, nil)
		require.NoError(t, err)
		tested := m.Tested
		t.Logf("%s: macro F1 %.3f, of answers as if left %.3f; chances off by %.4f, as if left %.4f",
			question, tested.AsIs.MacroF1, tested.AsLeft.MacroF1, tested.AsIs.Off, tested.AsLeft.Off)
		assert.GreaterOrEqual(t, tested.AsIs.MacroF1, 0.8)
		assert.LessOrEqual(t, tested.AsIs.Off, 0.05)
		assert.LessOrEqual(t, tested.AsLeft.Off, 0.05)

		right := func(category string, row uint32) bool {
			return slices.ContainsFunc(meantBy[category], func(topic string) bool { return truth[topic] != nil && truth[topic].Contains(row) })
		}
		queue, err := review.QueueOf(ctx, s, review.Left, review.QueueQuery{Order: review.Surest, Limit: 10_000})
		require.NoError(t, err)
		gain, off := 0, 0.0
		var found []int
		var bands [10]struct{ expected, seen float64 }
		for _, a := range queue.Answers {
			chance, seen := 0.0, 0.0
			if len(a.Likely) > 0 {
				if chance = a.Likely[0].Chance; right(a.Likely[0].Name, uint32(a.Number)) {
					seen = 1
				}
			}
			b := &bands[min(int(chance*10), 9)]
			b.expected, b.seen = b.expected+chance, b.seen+seen
			gain += int(seen)
			found = append(found, gain)
		}
		for _, b := range bands {
			off += max(b.expected-b.seen, b.seen-b.expected) / float64(queue.Total)
		}
		at := slices.IndexFunc(found, func(n int) bool { return float64(n) >= 0.8*float64(gain) }) + 1
		t.Logf("%s: of %d left, 80 %% of what is likely and right among the first %d; chances off by %.4f on average",
			question, queue.Total, at, off)
		assert.LessOrEqual(t, float64(at), 0.4*float64(queue.Total), "in a random order it takes 0.8 of them")
		assert.LessOrEqual(t, off, 0.07)
	}
}

// The first ten groups of the demo, put into categories as they are offered, code a third of what was left, and rightly.
func TestGroupsAgainstTheTruth(t *testing.T) {
	for _, question := range []string{demo.Change, demo.Enjoy} {
		s, truth := startedOf(t, question)
		_, err := review.SuggesterOf(ctx, s, nil) // learned by then
		require.NoError(t, err)
		groups, err := review.GroupsOf(ctx, s, nil)
		require.NoError(t, err)
		coded := roaring.New()
		given, right, before, rightBefore := 0, 0, 0, 0
		for _, r := range s.Coding.Results {
			if len(r.Children) > 0 {
				continue
			}
			meant := roaring.New()
			for _, topic := range meantBy[r.PathName()] {
				if truth[topic] != nil {
					meant.Or(truth[topic])
				}
			}
			before, rightBefore = before+int(r.Answers.GetCardinality()), rightBefore+int(r.Answers.AndCardinality(meant))
		}
		for _, g := range groups.Groups[:10] {
			of := roaring.New()
			if telling, is := g.GroupKind.(review.Telling); is {
				tried, err := s.Coding.Try(ctx, telling.Rule)
				require.NoError(t, err)
				of.Or(roaring.And(tried.Answers, s.Reading.Index.Answered()))
				of.AndNot(s.Coding.Coded)
			} else {
				for _, p := range g.Answers {
					of.Add(uint32(p))
				}
			}
			require.Equal(t, g.Gained, int(of.GetCardinality()), g.GroupKind)
			most := uint64(0)
			for _, topic := range truth {
				most = max(most, topic.AndCardinality(of))
			}
			given, right = given+g.Gained, right+int(most)
			coded.Or(of)
		}
		was, is := float64(rightBefore)/float64(before), float64(right+rightBefore)/float64(given+before)
		t.Logf("%s: ten groups code %d of %d left; %.3f of what they give is right, of all that is coded %.3f, which was %.3f",
			question, coded.GetCardinality(), groups.Left, float64(right)/float64(given), is, was)
		assert.GreaterOrEqual(t, float64(coded.GetCardinality()), float64(groups.Left)/3)
		assert.GreaterOrEqual(t, is, min(was, 0.85)-0.001)
		assert.GreaterOrEqual(t, float64(right)/float64(given), 0.84)
	}
}

var orders = []review.Order{review.OfFile, review.Surest, review.Doubtful, review.Longest, review.Newest, review.Random}

// Every queue holds each answer of its focus once, and going on from any answer misses and repeats none, whatever is decided.
func TestQueuesHoldEachAnswerOnce(t *testing.T) {
	said := []string{"late boat", "late again", "the boat was late", "long queue", "a queue at the pier", "no queue", "cold tea",
		"tea and a queue", "nothing", "the pier", "late tea", "queue queue", "tea", "sunny", "windy and late"}
	rapid.Check(t, func(rt *rapid.T) {
		answers := rapid.SliceOfN(rapid.SampledFrom(said), 8, 40).Draw(rt, "answers")
		p := playbook.New("en")
		p.Frame = frame.Frame{{Name: "Late", Rules: []string{"late"}}, {Name: "Waiting", Rules: []string{"queue"}}}
		p.Frame.Complete(nil, 0)
		s := unstoredOf(t, p, answers...)
		for range rapid.IntRange(0, 3).Draw(rt, "decisions") {
			at := survey.Respondent(rapid.IntRange(0, len(answers)-1).Draw(rt, "whom"))
			to := s.Scheme
			to.Decisions = to.Decisions.With([]scheme.Marks{{To: scheme.On, Respondents: []survey.Respondent{at}}})
			next, err := s.With(ctx, to, scheme.Touched{Decisions: true})
			require.NoError(rt, err)
			s = next
		}
		want, err := review.Left.Answers(ctx, s)
		require.NoError(rt, err)
		for _, order := range orders {
			var got []uint32
			q := review.QueueQuery{Order: order, Limit: 3}
			for {
				page, err := review.QueueOf(ctx, s, review.Left, q)
				require.NoError(rt, err)
				require.Equal(rt, int(want.GetCardinality()), page.Total)
				if len(page.Answers) == 0 {
					break
				}
				for _, a := range page.Answers {
					got = append(got, uint32(a.Number))
				}
				q.From, q.Offset = &page.Answers[len(page.Answers)-1].Number, 1
			}
			require.ElementsMatch(rt, want.ToArray(), got, "%s", order)
			// From an answer that is not in it, both ways meet: what comes before and what comes after are all.
			from := survey.Respondent(rapid.IntRange(0, len(answers)-1).Draw(rt, "from"))
			before, err := review.QueueOf(ctx, s, review.Left, review.QueueQuery{Order: order, From: &from, Limit: 1})
			require.NoError(rt, err)
			i := slices.Index(got, uint32(from))
			if i >= 0 {
				require.Equal(rt, i, before.Offset)
			}
			// The one before it is the last of those that come before, also where it is not in the queue itself.
			back, err := review.QueueOf(ctx, s, review.Left, review.QueueQuery{Order: order, From: &from, Offset: -1, Limit: 1})
			require.NoError(rt, err)
			if before.Offset == 0 {
				require.Empty(rt, back.Answers)
			} else {
				require.Equal(rt, got[before.Offset-1], uint32(back.Answers[0].Number))
			}
		}
	})
}

// What was learned of one coding says so when the coding has changed, and never speaks of a category that is gone.
func TestLikelyFollowsTheCoding(t *testing.T) {
	var rows [][]string
	for i, end := range []string{"", "again", "this time", "as ever", "in March", "last night", "both ways", "today"} {
		for _, a := range []string{"toilet filthy", "toilet smelly floor", "queue at the gate", "long queue gate", "filthy floor", "gate ages"} {
			rows = append(rows, []string{fmt.Sprint(i, a), "North", "", "1", a + " " + end})
		}
	}
	_, w := open(t, rows...)
	edit(t, w, category("Toilets", "toilet"))
	edit(t, w, category("Waiting", "queue"))
	left := func() review.Queue {
		q, err := review.QueueOf(ctx, w.State(), review.Left, review.QueueQuery{Order: review.Surest, Limit: 100})
		require.NoError(t, err)
		return q
	}
	q := left()
	require.Len(t, q.Answers, 16)
	assert.True(t, q.Learned.Current)
	for _, a := range q.Answers {
		want := map[bool]string{true: "Toilets", false: "Waiting"}[strings.Contains(rows[a.Number][4], "filthy")]
		require.NotEmpty(t, a.Likely)
		assert.Equal(t, want, a.Likely[0].Name)
		assert.NotEmpty(t, a.Likely[0].For)
		assert.Greater(t, a.Likely[0].Chance, 0.5)
	}
	sure, err := review.SureOf(ctx, w.State(), nil, 0.5)
	require.NoError(t, err)
	require.Len(t, sure.Categories, 2)
	assert.Equal(t, 16, sure.Answers)
	m, err := review.SuggesterOf(ctx, w.State(), nil)
	require.NoError(t, err)
	last := m.Thresholds[len(m.Thresholds)-1]
	assert.Equal(t, []int{16, 16}, []int{last.Answers, last.Pairs})
	assert.InDelta(t, sure.Wrong, last.Wrong, 1e-9)

	tried, err := review.TryTexts(ctx, w.State(), []string{"the toilet!", "filthy, smelly", "Das Boot", ""})
	require.NoError(t, err)
	assert.Equal(t, "Toilets", tried[0].Codes[0].Name)
	assert.True(t, tried[0].Parts[1].Hit)
	assert.Empty(t, tried[1].Codes)
	assert.Equal(t, "Toilets", tried[1].Likely[0].Name)
	assert.Equal(t, "missing", tried[3].Status)

	// Put on unread, they are marked so, and teach nothing.
	toilets := sure.Categories[0]
	edit(t, w, scheme.Several{Summary: "Put on", Decide: []scheme.Decide{
		{Category: toilets.ID, Answers: toilets.Answers, To: scheme.On, Suggested: true},
	}})
	d, err := review.DecisionsOf(ctx, w.State(), nil)
	require.NoError(t, err)
	assert.ElementsMatch(t, toilets.Answers, d.Categories[0].Suggested)
	assert.Empty(t, d.Categories[0].Added)
	suggested, err := w.Focus(focus.Focus{focus.Is(focus.Decided{Which: "suggested"})})
	require.NoError(t, err)
	assert.Equal(t, len(toilets.Answers), int(suggested.GetCardinality()))
	require.Eventually(t, func() bool { return left().Learned.Current }, 20*time.Second, 5*time.Millisecond)
	assert.Equal(t, q.Learned.Given, left().Learned.Given)
	edit(t, w, scheme.Decide{Category: toilets.ID, Answers: toilets.Answers[:1], To: scheme.On})
	assert.Equal(t, len(toilets.Answers)-1, w.State().Scheme.Decisions.Suggested(toilets.ID).Len(), "looked at")

	waiting := sure.Categories[1].ID
	edit(t, w, scheme.RemoveCategory{Category: waiting})
	for _, a := range left().Answers {
		for _, l := range a.Likely {
			assert.NotEqual(t, waiting, l.ID)
		}
	}
	undo(t, w, 3)
	assert.Empty(t, w.State().Scheme.Decisions.All())
}

// Decisions say who made them and why; undo and a copy keep that.
func TestDecisionsSayWhoMadeThem(t *testing.T) {
	d, w := open(t, sample...)
	edit(t, w, category("Late", "late"))
	late := id(t, w, "Late")
	_, err := d.Edit(MadeBy(ctx, "Ann"), w.ID, w.State().Revision, scheme.Decide{
		Category: late, Answers: []survey.Respondent{0}, To: scheme.On, Note: "stood there for ages",
	})
	require.NoError(t, err)
	_, err = d.Edit(MadeBy(ctx, "Ben"), w.ID, w.State().Revision, scheme.Decide{Category: late, Answers: []survey.Respondent{6}, To: scheme.Off})
	require.NoError(t, err)
	check := func(w *window) {
		t.Helper()
		found, err := review.DecisionsOf(ctx, w.State(), nil)
		require.NoError(t, err)
		require.Len(t, found.Made, 2)
		assert.ElementsMatch(t, []string{"Ann", "Ben"}, []string{found.Made[0].By, found.Made[1].By})
		require.Len(t, found.Notes, 1)
		assert.Equal(t, "stood there for ages", found.Notes[0].Note)
		by, err := w.Focus(focus.Focus{focus.Is(focus.Decided{Which: "by", By: "Ann"})})
		require.NoError(t, err)
		assert.Equal(t, []uint32{0}, by.ToArray())
		apart, err := w.Focus(focus.Focus{focus.Is(focus.Decided{Which: "apart"})})
		require.NoError(t, err)
		assert.Equal(t, []uint32{0, 6}, apart.ToArray())
	}
	check(w)
	check(anew(d, w))
	undo(t, w, 2)
	_, err = w.Redo()
	require.NoError(t, err)
	_, err = w.Redo()
	require.NoError(t, err)
	check(w)
	q, err := d.Question(ctx, w.ID)
	require.NoError(t, err)
	lines, err := d.Revisions(ctx, q, 10)
	require.NoError(t, err)
	assert.Equal(t, []string{"Ben", "Ann", ""}, []string{lines[0].By, lines[1].By, lines[2].By})
}

// Coverage by segment adds up to the whole, each answer counted once.
func TestCoverageAddsUp(t *testing.T) {
	_, w := open(t, sample...)
	edit(t, w, category("Late", "late"))
	edit(t, w, scheme.Settle{Answers: []survey.Respondent{2}, On: true})
	c, err := review.CoverageOf(ctx, w.State(), nil, "route")
	require.NoError(t, err)
	assert.Equal(t, review.CoverageLine{Answered: 5, Coded: 2, Settled: 1, Left: 2}, c.All)
	assert.Equal(t, []review.CoverageLine{
		{Value: "North", Answered: 2, Coded: 1, Left: 1}, {Value: "South", Answered: 3, Coded: 1, Settled: 1, Left: 1},
	}, c.Values)
	assert.Nil(t, c.Without, "who has no value says nothing")
	_, err = review.CoverageOf(ctx, w.State(), nil, "nope")
	require.ErrorIs(t, err, state.ErrRequest)
}

// Answers that are nearly alike come in groups of what is left alone, and a focus finds them again.
func TestAlikeAnswersComeTogether(t *testing.T) {
	var answers []string
	for i := range 6 {
		answers = append(answers, fmt.Sprint("please open the bar on deck two in the evening for foot passengers too ", i), fmt.Sprint("rain ", i))
	}
	p := playbook.New("en")
	p.Frame = frame.Frame{{Name: "Rain", Rules: []string{"rain"}}}
	p.Frame.Complete(nil, 0)
	s := unstoredOf(t, p, answers...)
	to := s.Scheme
	to.Decisions = to.Decisions.With([]scheme.Marks{{Category: "c1", To: scheme.On, Respondents: []survey.Respondent{0}}})
	s, err := s.With(ctx, to, scheme.Touched{Decisions: true})
	require.NoError(t, err)
	found, err := review.AlikeOf(ctx, s, nil)
	require.NoError(t, err)
	require.Len(t, found.Groups, 1)
	g := found.Groups[0]
	assert.Equal(t, []survey.Respondent{2, 4, 6, 8, 10}, g.Answers, "the coded one is not left")
	near := g.GroupKind.(review.NearWords)
	again, err := review.Left.With(focus.Is(focus.Alike{Like: int(near.Like) + 1, Percent: near.Nearly})).Answers(ctx, s)
	require.NoError(t, err)
	assert.Equal(t, []uint32{2, 4, 6, 8, 10}, again.ToArray())
}
