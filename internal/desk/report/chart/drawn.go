package chart

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"

	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Drawn is all that a chart is made of: what it is of, and how it is drawn. It is a table by segments, unless it is made of means,
// of what comes together, or of what the same people said.
type Drawn struct {
	Focus     focus.Focus      `json:"focus" doc:"the answers that it is of"`
	Query     Query            `json:"query" doc:"of a table by segments"`
	Means     *MeansQuery      `json:"means,omitempty" doc:"a number with and without each category, instead of a table"`
	Together  *TogetherQuery   `json:"together,omitempty" doc:"which categories come together, instead of a table"`
	Flow      *FlowQuery       `json:"flow,omitempty" doc:"what the same people said at two times, instead of a table"`
	Questions *SideBySideQuery `json:"questions,omitempty" doc:"several questions side by side, instead of a table of one"`
	As        string           `json:"as,omitempty" enum:"bars,stack,table,dots,heat,lines,multiples,often,matrix,network,flow" doc:"how it is drawn; left out: bars of a table, often of means, a matrix of what comes together, a flow of the same people, a table of several questions"`
	Cells     string           `json:"cells,omitempty" maxLength:"300" doc:"what the cells of a table hold besides the share"`
	Measure   string           `json:"measure,omitempty" enum:"lift,both,jaccard,g2" doc:"what is said of categories that come together; lift if left out"`
}

// Figures are those of a chart: one of them is set.
type Figures struct {
	Chart     *Chart      `json:"chart,omitempty"`
	Means     *Means      `json:"means,omitempty"`
	Together  *Together   `json:"together,omitempty"`
	Flow      *Flow       `json:"flow,omitempty"`
	Questions *SideBySide `json:"questions,omitempty"`
}

// Check says what is wrong with how a chart is made.
func (d Drawn) Check() error {
	forms, kinds := []string{"bars", "stack", "table", "dots", "heat", "lines", "multiples"}, 0
	if d.Means != nil {
		forms, kinds = []string{"often", "table"}, kinds+1
	}
	if d.Together != nil {
		forms, kinds = []string{"matrix", "network", "table"}, kinds+1
	}
	if d.Flow != nil {
		forms, kinds = []string{"flow", "table"}, kinds+1
	}
	if d.Questions != nil {
		forms, kinds = []string{"table"}, kinds+1
	}
	switch {
	case kinds > 1:
		return fmt.Errorf("%w: a chart is of one kind", state.ErrRequest)
	case d.As != "" && !slices.Contains(forms, d.As):
		return fmt.Errorf("%w: this chart can't be drawn as %s", state.ErrRequest, d.As)
	case len(d.Focus) > focus.MaxConditions:
		return fmt.Errorf("%w: a focus has up to %d conditions", state.ErrRequest, focus.MaxConditions)
	}
	return nil
}

// Figures works out the figures of a chart.
func (d Drawn) Figures(ctx context.Context, s *state.State) (out Figures, err error) {
	switch {
	case d.Means != nil:
		out.Means, err = made(MeansOf(ctx, s, d.Focus, *d.Means))
	case d.Together != nil:
		out.Together, err = made(TogetherOf(ctx, s, d.Focus, *d.Together))
	case d.Flow != nil:
		out.Flow, err = made(FlowOf(ctx, s, d.Focus, *d.Flow))
	case d.Questions != nil:
		out.Questions, err = made(SideBySideOf(ctx, s, d.Focus, *d.Questions))
	default:
		out.Chart, err = made(ChartOf(ctx, s, d.Focus, d.Query))
	}
	return out, err
}

func made[T any](of T, err error) (*T, error) {
	if err != nil {
		return nil, err
	}
	return &of, nil
}

// Sum is the same for two figures just when they have the same rows, columns and counts.
func (f Figures) Sum() string {
	sum := sha256.New()
	out := json.NewEncoder(sum)
	say := func(of ...any) { _ = out.Encode(of) } // a hash takes all
	if c := f.Chart; c != nil {
		for i, column := range c.Columns {
			say(column.Key, c.Bases[i])
		}
		for i, row := range c.Rows {
			say(row.Kind, row.ID, row.Path)
			for _, cell := range c.Cells[i] {
				say(cell.Answers, cell.Weighted)
			}
		}
	}
	if m := f.Means; m != nil {
		say(m.Of, m.Edges, m.All)
		for _, r := range m.Rows {
			say(r.Kind, r.ID, r.Path, r.With, r.Without)
		}
	}
	if t := f.Together; t != nil {
		say(t.Base)
		for _, n := range t.Nodes {
			say(n.Kind, n.Path, n.Answers)
		}
		for _, p := range t.Pairs {
			say(p.A, p.B, p.Both)
		}
	}
	if b := f.Questions; b != nil {
		for _, q := range b.Questions {
			for i, column := range q.Columns {
				say(q.ID, column.Key, q.Bases[i])
			}
		}
		for _, r := range b.Rows {
			say(r.Kind, r.Path)
			for _, of := range r.Cells {
				for _, cell := range of.Cells {
					say(cell.Answers, cell.Weighted)
				}
			}
		}
	}
	if w := f.Flow; w != nil {
		say(w.By, w.From, w.To, w.Persons, w.Links)
		for _, n := range w.Nodes {
			say(n.ID, n.Name, n.Before, n.After, n.Both)
		}
	}
	return hex.EncodeToString(sum.Sum(nil))
}
