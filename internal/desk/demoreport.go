package desk

import (
	"context"
	"fmt"

	"aftermath/core/survey"
	"aftermath/internal/demo"
	"aftermath/internal/desk/report/chart"
	"aftermath/internal/desk/report/document"
)

// addDemoReport puts a report into the demo study, with a part of each kind.
func (d *Desk) addDemoReport(ctx context.Context, of Record) error {
	ids := map[string]int64{}
	for _, q := range of.Questions {
		ids[q.Name] = q.ID
	}
	change, enjoy := ids[demo.Change], ids[demo.Enjoy]
	q, err := d.Question(ctx, change)
	if err != nil {
		return err
	}
	key := func(path ...string) string {
		p, ok := q.State().Scheme.Frame.ByPath(path)
		if !ok {
			panic(fmt.Sprintf("the demo has no category %v", path)) // both are ours
		}
		return p.ID
	}
	drawn := func(as string, query chart.Query) *chart.Drawn { return &chart.Drawn{Query: query, As: as} }
	found := func(variable, value string, path ...string) document.Block {
		return document.Block{
			Kind: "finding", Question: change, Finding: &document.Found{Category: key(path...), Variable: variable, Value: value},
		}
	}
	quoted := func(respondents ...survey.Respondent) (out []document.Quote) {
		for _, r := range respondents {
			out = append(out, document.Quote{Respondent: r})
		}
		return out
	}
	blocks := []document.Block{
		{Kind: "text", Text: demo.ReportText},
		{
			Kind: "chart", Question: change, Title: "What passengers want changed, by who they are",
			Drawn: drawn("bars", chart.Query{By: "passenger type", Rows: "nets", Sort: "size"}),
		},
		found("passenger type", "Commuter", "Timetable", "Late running"),
		found("passenger type", "Tourist", "On board", "Food and drink"),
		{Kind: "quotes", Question: change, Title: "In their words", Quotes: quoted(914, 1108, 158, 312)},
		{
			Kind: "chart", Question: enjoy, Title: "What they enjoyed, spring and autumn",
			Drawn: drawn("dots", chart.Query{By: "wave", Rows: "categories", Sort: "size"}),
		},
		{
			Kind: "chart", Question: change, Title: "All categories by wave and route",
			Drawn: drawn("table", chart.Query{By: `[["wave"],["route"]]`}),
		},
		{Kind: "method", Question: change},
	}
	for i := range blocks {
		blocks[i].ID = fmt.Sprintf("demo-%d", i)
	}
	_, err = d.AddReport(ctx, of.ID, "What passengers said in 2026", blocks)
	return err
}
