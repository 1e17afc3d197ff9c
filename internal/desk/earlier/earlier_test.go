package earlier_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/text"
	"aftermath/internal/desk/earlier"
	"aftermath/internal/desk/focus"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/report"
)

// What was written until 2026-12, and what it is now. What it is now stays as it is.
var forms = []struct {
	what     string
	rewrite  func([]byte) ([]byte, error)
	into     func() any
	was, now string
}{
	{
		"a focus with fields that said nothing", earlier.Focus, func() any { return &focus.Focus{} },
		`[{"kind":"coded","text":"x","not":true},{"kind":"sample","n":3},{"kind":"term"},{"kind":"alike"}]`,
		`[{"kind":"coded","not":true},{"kind":"sample","n":3,"text":"random"},{"kind":"term","text":""},{"kind":"alike"}]`,
	},
	{
		"a table", earlier.Design, func() any { return &chart.Design{} },
		`{"focus":null,"query":{"by":"route","base":"coded","weighted":true,"least":3},"as":"heat","cells":"answers"}`,
		`{"kind":"table","focus":[],"as":"heat","cells":"answers","by":"route","base":"coded","weighted":true,"least":3}`,
	},
	{
		"means", earlier.Design, func() any { return &chart.Design{} },
		`{"focus":[{"kind":"settled"}],"query":{"base":"answered"},"means":{"of":"recommend","base":"coded"},"as":"often"}`,
		`{"kind":"means","focus":[{"kind":"settled"}],"of":"recommend","base":"coded","as":"often"}`,
	},
	{
		"what comes together", earlier.Design, func() any { return &chart.Design{} },
		`{"focus":[],"query":{},"together":{"with":"route"},"measure":"g2","cells":"answers"}`,
		`{"kind":"together","focus":[],"with":"route","measure":"g2"}`,
	},
	{
		"questions side by side", earlier.Design, func() any { return &chart.Design{} },
		`{"focus":[],"query":{},"questions":{"by":"route","questions":"[\"a\"]"}}`,
		`{"kind":"questions","focus":[],"by":"route","questions":"[\"a\"]"}`,
	},
	{
		"the parts of a report", earlier.Blocks, func() any { return &[]report.Block{} },
		`[{"id":"a","kind":"text","text":"so","title":"x"},
		  {"id":"b","kind":"chart","question":7,"title":"T","drawn":{"focus":null,"query":{"by":"route"}},"table":true},
		  {"id":"c","kind":"finding","question":7,"finding":{"focus":null,"category":"c1","variable":"route","value":"North"}},
		  {"id":"d","kind":"quotes","question":7},{"id":"e","kind":"method","question":7,"title":"How","note":"x"}]`,
		`[{"id":"a","kind":"text","text":"so"},
		  {"id":"b","kind":"chart","question":7,"title":"T","drawn":{"kind":"table","focus":[],"by":"route"},"table":true},
		  {"id":"c","kind":"finding","question":7,"finding":{"focus":[],"category":"c1","variable":"route","value":"North"}},
		  {"id":"d","kind":"quotes","question":7,"quotes":[]},{"id":"e","kind":"method","question":7,"title":"How"}]`,
	},
}

func TestEarlierForms(t *testing.T) {
	for _, f := range forms {
		for _, given := range []string{f.was, f.now} {
			got, err := f.rewrite([]byte(given))
			require.NoError(t, err, f.what)
			assert.JSONEq(t, f.now, string(got), f.what)
			into := f.into()
			require.NoError(t, json.Unmarshal(got, into), f.what)
			again, err := json.Marshal(into)
			require.NoError(t, err)
			assert.JSONEq(t, f.now, string(again), f.what)
		}
	}
	_, err := earlier.Blocks([]byte(`[`))
	assert.Error(t, err)
}

// A frozen report says what it said, to the last digit.
func TestEarlierPage(t *testing.T) {
	const was = `{"study":"S","name":"R","at":"2026-11-30T12:00:00Z","sections":[
		{"id":"a","kind":"text","text":"so","revision":0},
		{"id":"b","kind":"chart","question":7,"title":"T","about":"Q","revision":4,"categories":[{"id":"c1","path":["A","B"]}],
		 "drawn":{"focus":[],"query":{"by":"route"},"means":{"of":"recommend"}},"means":{"of":"recommend","all":{"mean":7.123456789012345}}},
		{"id":"c","kind":"chart","question":7,"revision":4,"drawn":{"focus":[],"query":{"by":"route"}},"chart":{"cells":[[{"answers":9}]]}},
		{"id":"d","kind":"quotes","question":7,"revision":4,"quotes":[{"respondent":3}],"said":[{"text":"tea"}]},
		{"id":"e","kind":"chart","question":7,"revision":4,"problem":"gone","drawn":{"focus":[],"query":{}}}]}`
	data, err := earlier.Page([]byte(was))
	require.NoError(t, err)
	twice, err := earlier.Page(data)
	require.NoError(t, err)
	assert.JSONEq(t, string(data), string(twice))
	var page report.Document
	require.NoError(t, json.Unmarshal(data, &page))
	require.Len(t, page.Sections, 5)
	assert.Equal(t, report.TextContent{Block: report.TextPart{Text: "so"}}, page.Sections[0].Content)
	means := page.Sections[1].Content.(report.ChartContent)
	assert.Equal(t, 7.123456789012345, means.Figures.Figures.(chart.Means).All.Mean)
	assert.Equal(t, "T", means.Block.Title)
	assert.Equal(t, []any{"Q", 4, []string{"A", "B"}}, []any{page.Sections[1].About, page.Sections[1].Revision, page.Sections[1].Categories[0].Path})
	assert.Equal(t, 9, page.Sections[2].Content.(report.ChartContent).Figures.Figures.(chart.Chart).Cells[0][0].Answers)
	assert.Equal(t, "tea", page.Sections[3].Content.(report.QuotesContent).Said[0].Text)
	assert.Equal(t, "gone", page.Sections[4].Problem)
	assert.Nil(t, page.Sections[4].Content.(report.ChartContent).Figures)
}

// What takes an edit back is read with the settings that each step has, whoever wrote more into it.
func TestEarlierPatch(t *testing.T) {
	for _, was := range []string{
		`{"cleaning":[{"at":1,"out":2,"in":[{"step":"glued","mode":"drop"},{"step":"emoji","mode":"drop","phones":true}]}]}`,
		`{"cleaning":[{"at":1,"out":2,"in":[{"step":"glued"},{"step":"emoji","mode":"drop"}]}]}`,
	} {
		p, err := earlier.Patch([]byte(was))
		require.NoError(t, err)
		assert.Equal(t, scheme.Splices[text.Step]{{At: 1, Out: 2, In: text.Steps(text.GluedStep{}, text.EmojiStep{Mode: "drop"})}}, p.Cleaning)
	}
	p, err := earlier.Patch([]byte(`{"whole":{"aftermath":1,"language":"en","cleaning":[{"step":"glued","rules":[]}]}}`))
	require.NoError(t, err)
	assert.Equal(t, text.Steps(text.GluedStep{}), p.Whole.Cleaning)
	_, err = earlier.Patch([]byte(`{"cleaning":[{"in":[{"step":"polish"}]}]}`))
	assert.ErrorContains(t, err, "polish")
}
