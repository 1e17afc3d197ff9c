package desk_test

import (
	. "aftermath/internal/desk"
	"aftermath/internal/kept"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/report"
)

func texts(d report.Document) (out []string) {
	for _, s := range d.Sections {
		if text, is := s.Content.(report.TextContent); is {
			out = append(out, text.Block.Text)
		} else {
			out = append(out, "")
		}
	}
	return out
}

// Changes of a report are kept one after the other, taken back and done again; who comes second is told, and nothing is lost.
func TestReportsAreChanged(t *testing.T) {
	d, w := open(t, sample...)
	word := func(id, text string) report.Block { return block(id, report.TextPart{Text: text}) }
	r, err := keeper(d).AddReport(ctx, w.StudyID, " Autumn \n ", []report.Block{word("a", "one")})
	require.NoError(t, err)
	assert.Equal(t, "Autumn", r.Name)
	change := func(c kept.ReportChange) error {
		made, err := keeper(d).ChangeReport(ctx, w.StudyID, r.ID, c)
		if err == nil {
			r = made
		}
		return err
	}
	says := func() []string {
		s, err := keeper(d).Report(ctx, w.StudyID, r.ID)
		require.NoError(t, err)
		return texts(s.Page)
	}
	put := func(texts ...string) kept.ReportChange {
		blocks := []report.Block{}
		for _, x := range texts {
			blocks = append(blocks, word(x, x))
		}
		return kept.ReportChange{ReportSeen: kept.ReportSeen{Revision: r.Revision}, ReportEdit: kept.SetBlocks{Blocks: blocks}}
	}
	require.NoError(t, change(put("one", "two")))
	stale := put("mine")
	require.NoError(t, change(put("one", "two", "three")))
	require.ErrorIs(t, change(stale), ErrConflict)
	assert.Equal(t, []string{"one", "two", "three"}, says())

	step := func(e kept.ReportEdit) error {
		return change(kept.ReportChange{ReportSeen: kept.ReportSeen{Revision: r.Revision}, ReportEdit: e})
	}
	require.NoError(t, step(kept.UndoReport{}))
	require.NoError(t, step(kept.UndoReport{}))
	require.ErrorIs(t, step(kept.UndoReport{}), ErrNothing)
	assert.Equal(t, []string{"one"}, says())
	require.NoError(t, step(kept.RedoReport{}))
	assert.Equal(t, []string{"one", "two"}, says())
	require.NoError(t, change(put("other")))
	require.ErrorIs(t, step(kept.RedoReport{}), ErrNothing, "another way was taken")
	require.NoError(t, step(kept.UndoReport{}))
	assert.Equal(t, []string{"one", "two"}, says())

	// What is put in from elsewhere goes to the end, whatever was seen of the report; quotes stand together.
	of1 := report.OfQuestion{Question: w.ID}
	quote := func(id string, of survey.Respondent) kept.ReportChange {
		return kept.ReportChange{ReportEdit: kept.AddBlocks{Blocks: []report.Block{
			block(id, report.QuotesPart{OfQuestion: of1, Quotes: []report.Quote{{Respondent: of}}}),
		}}}
	}
	require.NoError(t, change(quote("q1", 0)))
	require.NoError(t, change(quote("q2", 3)))
	s, err := keeper(d).Report(ctx, w.StudyID, r.ID)
	require.NoError(t, err)
	require.Len(t, s.Page.Sections, 3)
	assert.Equal(t, "The queue was long", quotes(s.Page.Sections[2])[0].Text)
	assert.Equal(t, "cold tea, didn’t like it", quotes(s.Page.Sections[2])[1].Text)

	for what, bad := range map[string][]report.Block{
		"an id twice":           {word("a", ""), word("a", "")},
		"a chart of nothing":    {block("a", report.ChartPart{OfQuestion: of1})},
		"a question that isn't": {block("a", report.MethodPart{OfQuestion: report.OfQuestion{Question: w.ID + 1}})},
		"no question":           {block("a", report.MethodPart{})},
		"nothing of a quote":    {block("a", report.QuotesPart{OfQuestion: of1, Quotes: []report.Quote{{From: 3, To: 3}}})},
		"what can't be stored":  {word("a", "\x00")},
	} {
		require.ErrorIs(t, change(kept.ReportChange{ReportSeen: kept.ReportSeen{Revision: r.Revision}, ReportEdit: kept.SetBlocks{Blocks: bad}}), state.ErrRequest, what)
	}
	_, err = keeper(d).Report(ctx, w.StudyID+1, r.ID)
	require.ErrorIs(t, err, ErrNotFound, "a report is of its study only")
	require.NoError(t, keeper(d).DropReport(ctx, w.StudyID, r.ID, true))
	require.NoError(t, keeper(d).DropReport(ctx, w.StudyID, r.ID, false))
	assert.Len(t, says(), 3)
}

// A report says what its charts, findings and answers say now; what was frozen says what they said then.
func TestReportsFollowAndFreeze(t *testing.T) {
	d, w := open(t, sample...)
	edit(t, w, scheme.AddCategory{Name: "Late", Rules: []string{"late"}})
	late := id(t, w, "Late")
	q := chart.Query{By: "route", Sort: "size"}
	f := focus.Focus{focus.Not(focus.Category{ID: late})}
	of := report.OfQuestion{Question: w.ID}
	drawn := func(p chart.Plan) chart.Design { return chart.Design{Plan: p, Look: chart.Look{Focus: f}} }
	blocks := []report.Block{
		block("c", report.ChartPart{OfQuestion: of, Heading: report.Heading{Title: "By route"}, Drawn: drawn(chart.TablePlan{Query: q})}),
		block("f", report.FindingPart{OfQuestion: of, Finding: report.Found{Category: late, Variable: "route", Value: "North"}}),
		block("q", report.QuotesPart{OfQuestion: of, Quotes: []report.Quote{{Respondent: 3}, {Respondent: 99}}}),
		block("m", report.MethodPart{OfQuestion: of}),
		block("t", report.ChartPart{OfQuestion: of, Drawn: drawn(chart.TogetherPlan{TogetherQuery: chart.TogetherQuery{With: "route"}})}),
		block("n", report.ChartPart{OfQuestion: of, Drawn: drawn(chart.MeansQuery{Of: "recommend"})}),
	}
	r, err := keeper(d).AddReport(ctx, w.StudyID, "Autumn", blocks)
	require.NoError(t, err)
	page := func() report.Document {
		p, err := keeper(d).ReportPage(ctx, w.StudyID, r.ID, 0)
		require.NoError(t, err)
		return p
	}
	same := func(a, b any) {
		x, err := json.Marshal(a)
		require.NoError(t, err)
		y, err := json.Marshal(b)
		require.NoError(t, err)
		require.JSONEq(t, string(x), string(y))
	}
	now := page()
	want, err := chart.ChartOf(ctx, w.State(), f, q)
	require.NoError(t, err)
	same(chart.AnyFigures{Figures: want}, figuresIn(now.Sections[0]))
	pairs, err := chart.TogetherOf(ctx, w.State(), f, chart.TogetherQuery{With: "route"})
	require.NoError(t, err)
	same(chart.AnyFigures{Figures: pairs}, figuresIn(now.Sections[4]))
	means, err := chart.MeansOf(ctx, w.State(), f, chart.MeansQuery{Of: "recommend"})
	require.NoError(t, err)
	same(chart.AnyFigures{Figures: means}, figuresIn(now.Sections[5]))
	assert.Equal(t, [][]string{{"Late"}}, [][]string{now.Sections[0].Categories[0].Path})
	assert.Contains(t, now.Sections[1].Problem, "too few", "bases of four can't be tested")
	assert.True(t, quotes(now.Sections[2])[1].Gone)
	assert.Equal(t, []string{"late"}, method(now.Sections[3]).Categories[0].Rules)
	assert.Equal(t, 2, method(now.Sections[3]).Coded)

	// A quote is cut by characters, and by those of the text that it was cut in.
	cut := blocks
	cut[2].Part = report.QuotesPart{OfQuestion: of, Quotes: []report.Quote{{Respondent: 3, From: 10, To: 16, Of: quotes(now.Sections[2])[0].Of}}}
	r, err = keeper(d).ChangeReport(ctx, w.StudyID, r.ID, kept.ReportChange{ReportSeen: kept.ReportSeen{Revision: r.Revision}, ReportEdit: kept.SetBlocks{Blocks: cut}})
	require.NoError(t, err)
	said := quotes(page().Sections[2])[0]
	assert.Equal(t, []any{"didn’t", true, true}, []any{said.Text, said.Before, said.After})

	frozen, err := keeper(d).Freeze(ctx, w.StudyID, r.ID, "as sent")
	require.NoError(t, err)
	then, err := keeper(d).FrozenPage(ctx, w.StudyID, r.ID, frozen.ID)
	require.NoError(t, err)
	same(now.Sections[0], then.Sections[0])
	assert.Equal(t, "didn’t", quotes(then.Sections[2])[0].Text)
	assert.Empty(t, quotes(then.Sections[2])[0].Whole, "what was left out is not in it")

	edit(t, w, scheme.WriteRule{Category: late, Rule: "queue"})
	assert.Equal(t, 3, method(page().Sections[3]).Coded)
	again, err := keeper(d).ReportPage(ctx, w.StudyID, r.ID, frozen.ID)
	require.NoError(t, err)
	same(then, again)
	edit(t, w, scheme.RemoveCategory{Category: late})
	assert.NotEmpty(t, page().Sections[0].Problem)
	assert.Empty(t, page().Sections[3].Problem, "the others stand")

	// A copy of the study has the report, of its own questions.
	copied, err := d.CopyStudy(ctx, w.StudyID)
	require.NoError(t, err)
	reports, err := keeper(d).Reports(ctx, copied.ID)
	require.NoError(t, err)
	require.Len(t, reports, 1)
	theirs, err := keeper(d).Report(ctx, copied.ID, reports[0].ID)
	require.NoError(t, err)
	assert.Equal(t, copied.Questions[0].ID, theirs.Page.Sections[0].Content.(report.ChartContent).Block.Question)
	assert.Equal(t, "didn’t", quotes(theirs.Page.Sections[2])[0].Text)
	assert.Equal(t, "as sent", theirs.Frozen[0].Name)
}

// A quote never shows what is masked, and is not cut by places of a text that it isn't.
func TestQuotesAreMasked(t *testing.T) {
	rows := append([][]string{}, sample...)
	rows[0] = []string{"1", "North", "3", "1", "Write to ann.lee@larkmoor.example about the queue, please"}
	d, w := open(t, rows...)
	r, err := keeper(d).AddReport(ctx, w.StudyID, "Autumn", []report.Block{
		block("q", report.QuotesPart{OfQuestion: report.OfQuestion{Question: w.ID}, Quotes: []report.Quote{{Respondent: 0}}}),
	})
	require.NoError(t, err)
	one := func() report.Said {
		p, err := keeper(d).ReportPage(ctx, w.StudyID, r.ID, 0)
		require.NoError(t, err)
		return quotes(p.Sections[0])[0]
	}
	plain := one()
	require.Contains(t, plain.Text, "ann.lee")
	cut := []report.Block{block("q", report.QuotesPart{
		OfQuestion: report.OfQuestion{Question: w.ID}, Quotes: []report.Quote{{Respondent: 0, From: 9, To: 40, Of: plain.Of}},
	})}
	r, err = keeper(d).ChangeReport(ctx, w.StudyID, r.ID, kept.ReportChange{ReportSeen: kept.ReportSeen{Revision: r.Revision}, ReportEdit: kept.SetBlocks{Blocks: cut}})
	require.NoError(t, err)
	require.Equal(t, "ann.lee@larkmoor.example about", one().Text)
	edit(t, w, scheme.MaskPersonalData{On: true})
	masked := one()
	assert.NotContains(t, masked.Text+masked.Whole, "ann.lee")
	assert.False(t, masked.Before || masked.After, "where it was cut is not known in the masked text")
	assert.Contains(t, masked.Text, "about the queue, please")
	edit(t, w, scheme.MaskPersonalData{On: false})
	assert.Equal(t, "ann.lee@larkmoor.example about", one().Text)
}

func block(id string, p report.Part) report.Block {
	return report.Block{BlockID: report.BlockID{ID: id}, Part: p}
}

// figuresIn, quotes and method are what a section says.
func figuresIn(s report.Section) *chart.AnyFigures {
	return s.Content.(report.ChartContent).Figures
}
func quotes(s report.Section) []report.Said  { return s.Content.(report.QuotesContent).Said }
func method(s report.Section) *report.Method { return s.Content.(report.MethodContent).Method }
