package desk

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/report/chart"
	"aftermath/internal/desk/report/document"
	"aftermath/internal/desk/state"
)

func texts(d document.Document) (out []string) {
	for _, s := range d.Sections {
		out = append(out, s.Text)
	}
	return out
}

// Changes of a report are kept one after the other, taken back and done again; who comes second is told, and nothing is lost.
func TestReportsAreChanged(t *testing.T) {
	d, w := open(t, sample...)
	word := func(id, text string) document.Block { return document.Block{ID: id, Kind: "text", Text: text} }
	r, err := d.AddReport(ctx, w.StudyID, " Autumn \n ", []document.Block{word("a", "one")})
	require.NoError(t, err)
	assert.Equal(t, "Autumn", r.Name)
	change := func(c ReportChange) error {
		made, err := d.ChangeReport(ctx, w.StudyID, r.ID, c)
		if err == nil {
			r = made
		}
		return err
	}
	says := func() []string {
		s, err := d.Report(ctx, w.StudyID, r.ID)
		require.NoError(t, err)
		return texts(s.Page)
	}
	put := func(texts ...string) ReportChange {
		c := ReportChange{Revision: r.Revision, Kind: "blocks"}
		for _, x := range texts {
			c.Blocks = append(c.Blocks, word(x, x))
		}
		return c
	}
	require.NoError(t, change(put("one", "two")))
	stale := put("mine")
	require.NoError(t, change(put("one", "two", "three")))
	require.ErrorIs(t, change(stale), ErrConflict)
	assert.Equal(t, []string{"one", "two", "three"}, says())

	step := func(kind string) error { return change(ReportChange{Revision: r.Revision, Kind: kind}) }
	require.NoError(t, step("undo"))
	require.NoError(t, step("undo"))
	require.ErrorIs(t, step("undo"), ErrNothing)
	assert.Equal(t, []string{"one"}, says())
	require.NoError(t, step("redo"))
	assert.Equal(t, []string{"one", "two"}, says())
	require.NoError(t, change(put("other")))
	require.ErrorIs(t, step("redo"), ErrNothing, "another way was taken")
	require.NoError(t, step("undo"))
	assert.Equal(t, []string{"one", "two"}, says())

	// What is put in from elsewhere goes to the end, whatever was seen of the report; quotes stand together.
	quote := func(id string, of survey.Respondent) ReportChange {
		return ReportChange{Kind: "add", Blocks: []document.Block{
			{ID: id, Kind: "quotes", Question: w.ID, Quotes: []document.Quote{{Respondent: of}}},
		}}
	}
	require.NoError(t, change(quote("q1", 0)))
	require.NoError(t, change(quote("q2", 3)))
	s, err := d.Report(ctx, w.StudyID, r.ID)
	require.NoError(t, err)
	require.Len(t, s.Page.Sections, 3)
	assert.Equal(t, "The queue was long", s.Page.Sections[2].Said[0].Text)
	assert.Equal(t, "cold tea, didn’t like it", s.Page.Sections[2].Said[1].Text)

	for what, bad := range map[string][]document.Block{
		"an id twice":           {word("a", ""), word("a", "")},
		"a chart of nothing":    {{ID: "a", Kind: "chart", Question: w.ID}},
		"a question that isn't": {{ID: "a", Kind: "method", Question: w.ID + 1}},
		"no question":           {{ID: "a", Kind: "method"}},
		"nothing of a quote":    {{ID: "a", Kind: "quotes", Question: w.ID, Quotes: []document.Quote{{From: 3, To: 3}}}},
		"what can't be stored":  {word("a", "\x00")},
	} {
		require.ErrorIs(t, change(ReportChange{Revision: r.Revision, Kind: "blocks", Blocks: bad}), state.ErrRequest, what)
	}
	_, err = d.Report(ctx, w.StudyID+1, r.ID)
	require.ErrorIs(t, err, ErrNotFound, "a report is of its study only")
	require.NoError(t, d.DropReport(ctx, w.StudyID, r.ID, true))
	require.NoError(t, d.DropReport(ctx, w.StudyID, r.ID, false))
	assert.Len(t, says(), 3)
}

// A report says what its charts, findings and answers say now; what was frozen says what they said then.
func TestReportsFollowAndFreeze(t *testing.T) {
	d, w := open(t, sample...)
	edit(t, w, scheme.AddCategory{Name: "Late", Rules: []string{"late"}})
	late := id(t, w, "Late")
	q := chart.Query{By: "route", Sort: "size"}
	f := focus.Focus{{Kind: "category", ID: late, Not: true}}
	blocks := []document.Block{
		{ID: "c", Kind: "chart", Question: w.ID, Title: "By route", Drawn: &chart.Drawn{Focus: f, Query: q}},
		{ID: "f", Kind: "finding", Question: w.ID, Finding: &document.Found{Category: late, Variable: "route", Value: "North"}},
		{ID: "q", Kind: "quotes", Question: w.ID, Quotes: []document.Quote{{Respondent: 3}, {Respondent: 99}}},
		{ID: "m", Kind: "method", Question: w.ID},
		{ID: "t", Kind: "chart", Question: w.ID, Drawn: &chart.Drawn{Focus: f, Together: &chart.TogetherQuery{With: "route"}}},
		{ID: "n", Kind: "chart", Question: w.ID, Drawn: &chart.Drawn{Focus: f, Means: &chart.MeansQuery{Of: "recommend"}}},
	}
	r, err := d.AddReport(ctx, w.StudyID, "Autumn", blocks)
	require.NoError(t, err)
	page := func() document.Document {
		p, err := d.ReportPage(ctx, w.StudyID, r.ID, 0)
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
	same(want, now.Sections[0].Chart)
	pairs, err := chart.TogetherOf(ctx, w.State(), f, chart.TogetherQuery{With: "route"})
	require.NoError(t, err)
	same(chart.Figures{Together: &pairs}, now.Sections[4].Figures)
	means, err := chart.MeansOf(ctx, w.State(), f, chart.MeansQuery{Of: "recommend"})
	require.NoError(t, err)
	same(chart.Figures{Means: &means}, now.Sections[5].Figures)
	assert.Equal(t, [][]string{{"Late"}}, [][]string{now.Sections[0].Categories[0].Path})
	assert.Contains(t, now.Sections[1].Problem, "too few", "bases of four can't be tested")
	assert.True(t, now.Sections[2].Said[1].Gone)
	assert.Equal(t, []string{"late"}, now.Sections[3].Method.Categories[0].Rules)
	assert.Equal(t, 2, now.Sections[3].Method.Coded)

	// A quote is cut by characters, and by those of the text that it was cut in.
	cut := blocks
	cut[2].Quotes = []document.Quote{{Respondent: 3, From: 10, To: 16, Of: now.Sections[2].Said[0].Of}}
	r, err = d.ChangeReport(ctx, w.StudyID, r.ID, ReportChange{Revision: r.Revision, Kind: "blocks", Blocks: cut})
	require.NoError(t, err)
	said := page().Sections[2].Said[0]
	assert.Equal(t, []any{"didn’t", true, true}, []any{said.Text, said.Before, said.After})

	frozen, err := d.Freeze(ctx, w.StudyID, r.ID, "as sent")
	require.NoError(t, err)
	then, err := d.FrozenPage(ctx, w.StudyID, r.ID, frozen.ID)
	require.NoError(t, err)
	same(now.Sections[0], then.Sections[0])
	assert.Equal(t, "didn’t", then.Sections[2].Said[0].Text)
	assert.Empty(t, then.Sections[2].Said[0].Whole, "what was left out is not in it")

	edit(t, w, scheme.WriteRule{Category: late, Rule: "queue"})
	assert.Equal(t, 3, page().Sections[3].Method.Coded)
	again, err := d.ReportPage(ctx, w.StudyID, r.ID, frozen.ID)
	require.NoError(t, err)
	same(then, again)
	edit(t, w, scheme.RemoveCategory{Category: late})
	assert.NotEmpty(t, page().Sections[0].Problem)
	assert.Empty(t, page().Sections[3].Problem, "the others stand")

	// A copy of the study has the report, of its own questions.
	copied, err := d.CopyStudy(ctx, w.StudyID)
	require.NoError(t, err)
	reports, err := d.Reports(ctx, copied.ID)
	require.NoError(t, err)
	require.Len(t, reports, 1)
	theirs, err := d.Report(ctx, copied.ID, reports[0].ID)
	require.NoError(t, err)
	assert.Equal(t, copied.Questions[0].ID, theirs.Page.Sections[0].Question)
	assert.Equal(t, "didn’t", theirs.Page.Sections[2].Said[0].Text)
	assert.Equal(t, "as sent", theirs.Frozen[0].Name)
}

// A quote never shows what is masked, and is not cut by places of a text that it isn't.
func TestQuotesAreMasked(t *testing.T) {
	rows := append([][]string{}, sample...)
	rows[0] = []string{"1", "North", "3", "1", "Write to ann.lee@larkmoor.example about the queue, please"}
	d, w := open(t, rows...)
	r, err := d.AddReport(ctx, w.StudyID, "Autumn", []document.Block{
		{ID: "q", Kind: "quotes", Question: w.ID, Quotes: []document.Quote{{Respondent: 0}}},
	})
	require.NoError(t, err)
	one := func() document.Said {
		p, err := d.ReportPage(ctx, w.StudyID, r.ID, 0)
		require.NoError(t, err)
		return p.Sections[0].Said[0]
	}
	plain := one()
	require.Contains(t, plain.Text, "ann.lee")
	cut := []document.Block{{
		ID: "q", Kind: "quotes", Question: w.ID, Quotes: []document.Quote{{Respondent: 0, From: 9, To: 40, Of: plain.Of}},
	}}
	r, err = d.ChangeReport(ctx, w.StudyID, r.ID, ReportChange{Revision: r.Revision, Kind: "blocks", Blocks: cut})
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
