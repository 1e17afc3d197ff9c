package desk_test

import (
	"cmp"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/demo"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/code"
	"aftermath/internal/view/review"
)

// truthOf is a question of the demo under its lexicon with an empty frame, and what its answers meant: by topic, the rows.
func truthOf(t *testing.T, question string) (*state.State, map[string]*roaring.Bitmap) {
	made := demo.Make(demo.Seed, demo.Respondents)
	column := map[string]int{demo.Change: 10, demo.Enjoy: 11}[question]
	var answers []string
	for _, row := range made.Rows {
		answers = append(answers, row[column])
	}
	truth := map[string]*roaring.Bitmap{}
	for i, row := range made.Truth {
		for topic := range strings.SplitSeq(row[2], ";") {
			if row[1] == question && topic != "" {
				if truth[topic] == nil {
					truth[topic] = roaring.New()
				}
				truth[topic].Add(uint32(i / 2)) // two questions a respondent
			}
		}
	}
	p, err := demo.Playbook(question)
	require.NoError(t, err)
	p.Frame = nil
	return unstoredOf(t, p, answers...), truth
}

// From ten answers of a topic, the best of the rules that are offered finds most of the others: F1, the mean of the twelve most
// frequent topics of each question and of ten draws of examples.
func TestRulesFromExamplesAgainstTheTruth(t *testing.T) {
	const topics, draws = 12, 10
	all := 0.0
	for _, question := range []string{demo.Change, demo.Enjoy} {
		s, truth := truthOf(t, question)
		var names []string
		for n, set := range truth {
			set.And(s.Reading.Index.Answered())
			names = append(names, n)
		}
		slices.SortFunc(names, func(a, b string) int {
			return cmp.Or(int(truth[b].GetCardinality())-int(truth[a].GetCardinality()), strings.Compare(a, b))
		})
		mean := 0.0
		for _, n := range names[:topics] {
			for seed := range uint64(draws) {
				list := truth[n].ToArray()
				r := rand.New(rand.NewPCG(seed, 7))
				r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
				var given []survey.Respondent
				for _, row := range list[:10] {
					given = append(given, s.Respondent(int(row)))
				}
				induced, err := code.Induce(ctx, s, nil, code.ExampleQuery{In: given})
				require.NoError(t, err)
				require.LessOrEqual(t, len(induced.Offers), 5)
				best := 0.0
				for _, o := range induced.Offers {
					tried, err := s.Coding.Try(ctx, o.Rule)
					require.NoError(t, err)
					found := tried.Answers
					require.Equal(t, int(found.GetCardinality()), o.Matches)
					require.Equal(t, 10-len(o.Missed), int(found.AndCardinality(roaring.BitmapOf(list[:10]...))))
					best = max(best, 2*float64(found.AndCardinality(truth[n]))/float64(found.GetCardinality()+truth[n].GetCardinality()))
				}
				mean += best / topics / draws
			}
		}
		t.Logf("%s: from ten examples each of %d topics, mean F1 %.3f", question, topics, mean)
		assert.GreaterOrEqual(t, mean, 0.68)
		all += mean / 2
	}
	t.Logf("both questions: mean F1 %.3f", all)
	assert.GreaterOrEqual(t, all, 0.7)
}

// Examples, the rule made of them and what it misses are one edit, and one undo.
func TestExamplesBecomeACategory(t *testing.T) {
	_, w := open(t, sample...)
	induced, err := code.Induce(ctx, w.State(), nil, code.ExampleQuery{In: []survey.Respondent{0, 1}, Out: []survey.Respondent{6}})
	require.NoError(t, err)
	require.NotEmpty(t, induced.Offers)
	offer := induced.Offers[0]
	assert.Equal(t, "queue", offer.Rule)
	assert.Empty(t, offer.Missed)
	assert.Empty(t, offer.Wrong)
	_, err = code.Induce(ctx, w.State(), nil, code.ExampleQuery{In: []survey.Respondent{0}, Out: []survey.Respondent{0}})
	require.ErrorIs(t, err, state.ErrRequest)

	edit(t, w, scheme.AddCategory{Name: "Waiting", Rules: []string{offer.Rule}, On: []survey.Respondent{2}, Off: []survey.Respondent{1}})
	r := w.State().Coding.Results[0]
	assert.Equal(t, []uint32{0, 2}, r.Answers.ToArray())
	_, err = w.Undo()
	require.NoError(t, err)
	assert.Empty(t, w.State().Coding.Results)
	assert.Empty(t, w.State().Scheme.Decisions.All())
	_, err = w.Redo()
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 2}, w.State().Coding.Results[0].Answers.ToArray())
}

// What was found of a rule stands beside it until it changes, and speaks only of what it still catches.
func TestChecksOfRules(t *testing.T) {
	_, w := open(t, sample...)
	edit(t, w, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue / late"}, Unless: []string{"boat"}})
	id := w.State().Coding.Results[0].ID
	drawn, err := code.SampleOf(ctx, w.State(), id, "queue / late", 50, 1)
	require.NoError(t, err)
	assert.Equal(t, 2, drawn.Matches, "what its “unless” takes away is not looked at")
	require.Len(t, drawn.Answers, 2)
	check := scheme.CheckRule{Category: id, Rule: "queue / late", Matches: 2, Right: []survey.Respondent{0}, Wrong: []survey.Respondent{6}}
	edit(t, w, check)
	line := func() code.RuleLine {
		table, err := code.Frame(ctx, w.State(), nil, "")
		require.NoError(t, err)
		return table.Categories[0].Hits[0]
	}
	found := line().Checked
	require.NotNil(t, found)
	assert.Equal(t, []int{1, 1, 2, 2}, []int{found.Right, found.Wrong, found.Matches, found.Now})
	assert.InDelta(t, 0.5, found.Precision, 1e-9)
	assert.InDelta(t, 0.0945, found.Low, 1e-4) // Wilson, 1 of 2
	assert.InDelta(t, 0.9055, found.High, 1e-4)

	edit(t, w, scheme.WriteRule{Category: id, Rule: "boat / long", Was: "boat", Unless: true})
	assert.Equal(t, []int{0, 1, 2, 1}, []int{line().Checked.Right, line().Checked.Wrong, line().Checked.Matches, line().Checked.Now})
	edit(t, w, scheme.WriteRule{Category: id, Rule: "queue", Was: "queue / late"})
	assert.Nil(t, line().Checked)
	_, err = w.Undo()
	require.NoError(t, err)
	assert.NotNil(t, line().Checked)
	for _, bad := range []scheme.Edit{
		scheme.CheckRule{Category: id, Rule: "none such", Right: []survey.Respondent{0}},
		scheme.CheckRule{Category: id, Rule: "queue / late", Right: []survey.Respondent{0}, Wrong: []survey.Respondent{0}},
		scheme.CheckRule{Category: id, Rule: "queue / late", Right: []survey.Respondent{99}},
	} {
		_, err := w.Preview(bad)
		require.ErrorIs(t, err, scheme.ErrEdit)
	}
}

// Several changes are one edit, all or none.
func TestSeveralAtOnce(t *testing.T) {
	_, w := open(t, sample...)
	for _, name := range []string{"A", "B", "C"} {
		edit(t, w, scheme.AddCategory{Name: name, Rules: []string{"late", map[string]string{"A": "queue", "B": "tea", "C": "pier"}[name]}})
	}
	id := func(i int) string { return w.State().Coding.Results[i].ID }
	before := w.State().Scheme.Frame
	_, err := w.Edit(w.State().Revision, scheme.Several{
		Summary: "Deleted two", Remove: []scheme.RemoveCategory{{Category: id(0)}, {Category: "c99"}},
	})
	require.ErrorIs(t, err, scheme.ErrEdit)
	assert.Equal(t, before, w.State().Scheme.Frame)
	edit(t, w, scheme.ReplaceInRules{Find: "late", With: "late / slow"})
	assert.Equal(t, "late / slow", w.State().Scheme.Frame[2].Rules[0])
	edit(t, w, scheme.Several{
		Summary: "Moved a rule", Rules: []scheme.WriteRule{{Category: id(0), Was: "queue"}, {Category: id(1), Rule: "queue"}},
		Remove: []scheme.RemoveCategory{{Category: id(2)}},
	})
	assert.Equal(t, []string{"late / slow", "tea", "queue"}, w.State().Scheme.Frame[1].Rules)
	assert.Len(t, w.State().Scheme.Frame, 2)
	for range 2 {
		_, err = w.Undo()
		require.NoError(t, err)
	}
	assert.Equal(t, before, w.State().Scheme.Frame)
}

// Each decision is against the rules, one way or the other, or needless; taking the needless ones back changes no coding.
func TestDecisionsAgainstTheRules(t *testing.T) {
	_, w := open(t, sample...)
	edit(t, w, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue"}})
	id := w.State().Coding.Results[0].ID
	rapid.Check(t, func(rt *rapid.T) {
		on := map[survey.Respondent]bool{}
		for _, p := range []survey.Respondent{0, 1, 2, 3, 6} {
			if to := rapid.SampledFrom([]scheme.Mark{scheme.On, scheme.Off, scheme.ByRules}).Draw(rt, "to"); to != scheme.ByRules {
				edit(t, w, scheme.Decide{Category: id, Answers: []survey.Respondent{p}, To: to})
				on[p] = to == scheme.On
			}
		}
		d, err := review.DecisionsOf(ctx, w.State(), nil)
		require.NoError(rt, err)
		require.Equal(rt, len(on), d.Answers)
		var needless []survey.Respondent
		for p, put := range on {
			rules := p < 2 // the first two speak of a queue
			c := d.Categories[0]
			require.Equal(rt, put && !rules, slices.Contains(c.Added, p))
			require.Equal(rt, !put && rules, slices.Contains(c.Taken, p))
			require.Equal(rt, put == rules, slices.Contains(c.Needless, p))
			if put == rules {
				needless = append(needless, p)
			}
		}
		if len(needless) > 0 {
			effect := edit(t, w, scheme.Several{
				Summary: "Took back", Decide: []scheme.Decide{{Category: id, Answers: needless, To: scheme.ByRules}},
			})
			require.Empty(rt, effect.Categories)
		}
		edit(t, w, scheme.Decide{Category: id, Answers: []survey.Respondent{0, 1, 2, 3, 6}, To: scheme.ByRules})
	})
}
