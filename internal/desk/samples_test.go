package desk_test

import (
	. "aftermath/internal/desk"
	"aftermath/internal/kept"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/review"
)

func questionOf(t testing.TB, w *window) *Question {
	q, err := w.desk.Question(ctx, w.ID)
	require.NoError(t, err)
	return q
}

// A sample is coded elsewhere and brought back: the figures are those of counting, and say whose answers differ.
func TestAgreementWithASample(t *testing.T) {
	d, w := open(t, sample...)
	edit(t, w, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue"}})
	edit(t, w, scheme.AddCategory{Name: "Late", Rules: []string{"late"}})
	edit(t, w, scheme.Decide{Category: w.State().Coding.Results[0].ID, Answers: []survey.Respondent{2}, To: scheme.On})
	made, err := keeper(d).MakeSample(ctx, questionOf(t, w), review.Draw{Name: "All of it", Size: 100, Seed: 1})
	require.NoError(t, err)
	blind, err := keeper(d).BlindTable(ctx, questionOf(t, w), made.ID)
	require.NoError(t, err)
	require.Len(t, blind, 6, "a header and the five that say something")
	assert.Equal(t, []string{"id", "answer", "category"}, blind[0])
	md, masked := open(t, []string{"1", "North", "9", "1", "ask me at ada@larkmoor.example"})
	edit(t, masked, scheme.MaskPersonalData{On: true})
	of, err := keeper(md).MakeSample(ctx, questionOf(t, masked), review.Draw{Name: "Masked", Size: 100})
	require.NoError(t, err)
	told, err := keeper(md).BlindTable(ctx, questionOf(t, masked), of.ID)
	require.NoError(t, err)
	assert.Equal(t, "ask me at "+text.MaskSign, told[1][1], "what is masked is in no file")

	read, err := keeper(d).ReadSample(ctx, questionOf(t, w), "By hand", "Ann", [][]string{
		{"id", "answer", "category"}, {"1", "", "Waiting"}, {"2", "", "waiting"}, {"3", "", "Late"}, {"4", "", ""}, {"7", "", "Late"},
	})
	require.NoError(t, err)
	got, err := keeper(d).AgreementWith(ctx, questionOf(t, w), read.ID, "Ann", nil)
	require.NoError(t, err)
	assert.Equal(t, []int{5, 3}, []int{got.Answers, got.Whole})
	waiting, late := got.Categories[0], got.Categories[1]
	assert.Equal(t, []int{2, 1, 0, 2}, []int{waiting.Both, waiting.Only, waiting.Missed, waiting.Neither})
	assert.Equal(t, []int{1, 1, 1, 2}, []int{late.Both, late.Only, late.Missed, late.Neither})
	assert.Equal(t, []survey.Respondent{2}, got.Apart[0].Only)
	assert.Equal(t, [][]survey.Respondent{{1}, {2}}, [][]survey.Respondent{got.Apart[1].Only, got.Apart[1].Missed})
	_, err = keeper(d).ReadSample(ctx, questionOf(t, w), "x", "", [][]string{{"id", "category"}, {"1", "Nowhere"}})
	require.ErrorIs(t, err, state.ErrRequest)
	assert.ErrorContains(t, err, "line 2")

	// A change of the rules, and the figures of before stay beside those of now; looked at again, nothing is added.
	edit(t, w, scheme.WriteRule{Category: late.ID, Rule: "late - queue", Was: "late"})
	for range 2 {
		got, err = keeper(d).AgreementWith(ctx, questionOf(t, w), read.ID, "Ann", nil)
		require.NoError(t, err)
		require.Len(t, got.History, 2)
	}
	assert.Equal(t, []int{3, 4}, []int{got.History[0].Whole, got.History[1].Whole})
	assert.Equal(t, w.State().Revision, got.History[1].Revision)

	// A copy of the study has its samples, with all that was coded.
	copied, err := d.CopyStudy(ctx, w.StudyID)
	require.NoError(t, err)
	again, err := keeper(d).Samples(ctx, copied.Questions[0].ID)
	require.NoError(t, err)
	require.Len(t, again, 2)
	assert.Equal(t, []kept.CoderInfo{{Name: "Ann", Coded: 5}}, again[0].Coders)
	require.NoError(t, keeper(d).ThrowSample(ctx, w.ID, read.ID, true))
	require.ErrorIs(t, keeper(d).ThrowSample(ctx, copied.Questions[0].ID, made.ID, true), ErrNotFound, "it is of another question")
	all, err := keeper(d).Samples(ctx, w.ID)
	require.NoError(t, err)
	assert.Equal(t, []bool{true, false}, []bool{all[0].Gone, all[1].Gone})
	require.NoError(t, keeper(d).ThrowSample(ctx, w.ID, read.ID, false))
}

// What is coded blind is kept answer by answer, and gone on with where it was left; two coders meet, and what they gave
// differently is settled between them.
func TestCodingASampleBlind(t *testing.T) {
	d, w := open(t, sample...)
	edit(t, w, category("Waiting", "queue"))
	edit(t, w, category("Late", "late"))
	waiting, late := id(t, w, "Waiting"), id(t, w, "Late")
	q := questionOf(t, w)
	made, err := keeper(d).MakeSample(MadeBy(ctx, "Ann"), q, review.Draw{Name: "Blind", Size: 4, Seed: 3})
	require.NoError(t, err)
	assert.Equal(t, "Ann", made.MadeBy)
	seen := func(coder string, place int) kept.BlindPage {
		t.Helper()
		page, err := keeper(d).BlindAt(ctx, q, made.ID, coder, place)
		require.NoError(t, err)
		return page
	}
	code := func(coder string, p survey.Respondent, categories ...string) {
		t.Helper()
		require.NoError(t, keeper(d).CodeSample(ctx, q, made.ID, coder, p, append([]string{}, categories...)))
	}
	var order []survey.Respondent
	for range 4 {
		page := seen("Ann", -1)
		assert.Equal(t, []int{4, len(order), len(order)}, []int{page.Total, page.Coded, page.Place})
		order = append(order, page.Answer.Number)
		code("Ann", page.Answer.Number, waiting)
	}
	assert.Nil(t, seen("Ann", -1).Answer, "all are coded")
	assert.Equal(t, []string{waiting}, seen("Ann", 2).Given)
	assert.Equal(t, order[0], seen("Ben", -1).Answer.Number, "another coder has not coded it")
	assert.Empty(t, seen("Ben", 0).Given, "nothing of what others gave is shown")
	code("Ben", order[0], waiting)
	code("Ben", order[1], late)
	code("Ben", order[2], late, waiting)
	require.NoError(t, keeper(d).CodeSample(ctx, q, made.ID, "Ann", order[3], nil)) // taken back
	require.Error(t, keeper(d).CodeSample(ctx, q, made.ID, "Ann", 9, []string{}))
	require.Error(t, keeper(d).CodeSample(ctx, q, made.ID, "Ann", order[0], []string{"c99"}))

	against := "Ben"
	got, err := keeper(d).AgreementWith(ctx, q, made.ID, "Ann", &against)
	require.NoError(t, err)
	assert.Equal(t, []int{3, 1}, []int{got.Answers, got.Whole})
	assert.Empty(t, got.History)
	page := seen(kept.Agreed, -1)
	assert.Equal(t, []int{2, 0}, []int{page.Total, page.Coded})
	assert.Equal(t, []kept.OthersCode{{Name: "Ann", Categories: []string{waiting}}, {Name: "Ben", Categories: []string{late}}}, page.Others)
	code(kept.Agreed, page.Answer.Number, late)
	all, err := keeper(d).Samples(ctx, w.ID)
	require.NoError(t, err)
	assert.Equal(t, []kept.CoderInfo{{Name: "Ann", Coded: 3}, {Name: "Ben", Coded: 3}, {Name: kept.Agreed, Coded: 2}}, all[0].Coders)
	assert.Equal(t, 1, all[0].Apart)
}

// A sample has as many of each part as it can, each answer once, whatever the parts; weighted, what is drawn stands for all.
func TestSamplesByParts(t *testing.T) {
	_, w := open(t, sample...)
	edit(t, w, category("Waiting", "queue"))
	rapid.Check(t, func(rt *rapid.T) {
		size := rapid.IntRange(1, 8).Draw(rt, "size")
		by := rapid.SampledFrom([]string{"", review.ByCoded, "route"}).Draw(rt, "by")
		seed := rapid.Uint64Range(0, 20).Draw(rt, "seed")
		s := w.State()
		drawn, err := review.DrawSample(ctx, s, review.Draw{Name: "x", Size: size, Seed: seed, By: by})
		require.NoError(rt, err)
		count, total, held := make([]int, len(drawn.Parts)), 0, 0
		var seen []survey.Respondent
		for _, m := range drawn.Members {
			require.NotContains(rt, seen, m.Respondent)
			seen = append(seen, m.Respondent)
			count[m.Stratum]++
		}
		for i, p := range drawn.Parts {
			require.Equal(rt, p.Drawn, count[i])
			total, held = total+p.Drawn, held+p.Answers
			for j, q := range drawn.Parts { // no part gets two more than another that holds more
				require.False(rt, p.Drawn > q.Drawn+1 && q.Drawn < q.Answers, "%v %d %d", drawn.Parts, i, j)
			}
		}
		require.Equal(rt, s.Answered(), held)
		require.Equal(rt, min(size, held), total)
		again, err := review.DrawSample(ctx, s, review.Draw{Name: "x", Size: size, Seed: seed, By: by})
		require.NoError(rt, err)
		require.Equal(rt, drawn, again)
	})
	_, err := review.DrawSample(ctx, w.State(), review.Draw{Size: 3, Focus: focus.Focus{focus.Is(focus.Words{Rule: "nowhere"})}})
	require.ErrorIs(t, err, state.ErrRequest)

	// Half of the answers are coded, but most of the sample is not: the shares are those of all answers all the same.
	var rows [][]string
	for i := range 40 {
		rows = append(rows, []string{string(rune('a' + i)), "", "", "1", []string{"queue", "boat"}[i%2]})
	}
	d, big := open(t, rows...)
	edit(t, big, category("Waiting", "queue"))
	q := questionOf(t, big)
	made, err := keeper(d).MakeSample(ctx, q, review.Draw{Name: "x", Size: 12, By: review.ByCoded})
	require.NoError(t, err)
	waiting := id(t, big, "Waiting")
	n := 0
	for _, row := range slices.Backward([]int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}) {
		page, err := keeper(d).BlindAt(ctx, q, made.ID, "Ann", row)
		require.NoError(t, err)
		given := []string{}
		if coded := page.Answer.Number%2 == 0; coded && n == 3 {
			continue // only three of the coded ones are looked at
		} else if coded {
			n++
			given = append(given, waiting)
		}
		require.NoError(t, keeper(d).CodeSample(ctx, q, made.ID, "Ann", page.Answer.Number, given))
	}
	got, err := keeper(d).AgreementWith(ctx, q, made.ID, "Ann", nil)
	require.NoError(t, err)
	assert.Equal(t, 9, got.Answers)
	assert.InDelta(t, 1, got.Categories[0].Kappa, 1e-9)
}
