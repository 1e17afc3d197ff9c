package desk

import (
	"context"
	"fmt"

	"aftermath/core/survey"
	"aftermath/internal/demo"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/report"
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
	on := func(question int64) report.OfQuestion { return report.OfQuestion{Question: question} }
	drawn := func(as string, query chart.Query) chart.Design {
		return chart.Design{Plan: chart.TablePlan{Query: query}, Look: chart.Look{As: as}}
	}
	found := func(variable, value string, path ...string) report.Part {
		return report.FindingPart{
			OfQuestion: on(change), Finding: report.Found{Category: key(path...), Variable: variable, Value: value},
		}
	}
	quoted := func(respondents ...survey.Respondent) (out []report.Quote) {
		for _, r := range respondents {
			out = append(out, report.Quote{Respondent: r})
		}
		return out
	}
	parts := []report.Part{
		report.TextPart{Text: demo.ReportText},
		report.ChartPart{
			OfQuestion: on(change), Heading: report.Heading{Title: "What passengers want changed, by who they are"},
			Drawn: drawn("bars", chart.Query{By: "passenger type", Rows: "nets", Sort: "size"}),
		},
		found("passenger type", "Commuter", "Timetable", "Late running"),
		found("passenger type", "Tourist", "On board", "Food and drink"),
		report.QuotesPart{OfQuestion: on(change), Heading: report.Heading{Title: "In their words"}, Quotes: quoted(914, 1108, 158, 312)},
		report.ChartPart{
			OfQuestion: on(enjoy), Heading: report.Heading{Title: "What they enjoyed, spring and autumn"},
			Drawn: drawn("dots", chart.Query{By: "wave", Rows: "categories", Sort: "size"}),
		},
		report.ChartPart{
			OfQuestion: on(change), Heading: report.Heading{Title: "All categories by wave and route"},
			Drawn: drawn("table", chart.Query{By: `[["wave"],["route"]]`}),
		},
		report.MethodPart{OfQuestion: on(change)},
	}
	blocks := make([]report.Block, len(parts))
	for i, p := range parts {
		blocks[i] = report.Block{BlockID: report.BlockID{ID: fmt.Sprintf("demo-%d", i)}, Part: p}
	}
	_, err = d.AddReport(ctx, of.ID, "What passengers said in 2026", blocks)
	return err
}
