package kept

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/demo"
	"aftermath/internal/desk"
	"aftermath/internal/files"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/report"
)

// HaveDemo loads the demo study, unless one of its name is there.
func (k *Keeper) HaveDemo(ctx context.Context) error {
	all, err := k.desk.Studies(ctx, false)
	if err != nil || slices.ContainsFunc(all, func(r desk.Record) bool { return r.Name == demo.Name }) {
		return err
	}
	_, err = k.LoadDemo(ctx)
	return err
}

// LoadDemo loads the demo study as a new one, with a report.
func (k *Keeper) LoadDemo(ctx context.Context) (desk.Record, error) {
	name, err := k.desk.FreeName(ctx, demo.Name)
	if err != nil {
		return desk.Record{}, err
	}
	var bad error
	table := &files.Table{Columns: demo.Columns, Rows: demo.Make(demo.Seed, demo.Respondents).Rows}
	out, err := k.desk.LoadTable(ctx, name, demo.Specs(), table, func(column int) playbook.Playbook {
		p, err := demo.Playbook(demo.Columns[column])
		bad = errors.Join(bad, err)
		return p
	})
	if err = errors.Join(err, bad); err != nil {
		return out, err
	}
	return out, k.addDemoReport(ctx, out)
}

// addDemoReport puts a report into the demo study, with a part of each kind.
func (k *Keeper) addDemoReport(ctx context.Context, of desk.Record) error {
	ids := map[string]int64{}
	for _, q := range of.Questions {
		ids[q.Name] = q.ID
	}
	change, enjoy := ids[demo.Change], ids[demo.Enjoy]
	q, err := k.desk.Question(ctx, change)
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
	_, err = k.AddReport(ctx, of.ID, "What passengers said in 2026", blocks)
	return err
}
