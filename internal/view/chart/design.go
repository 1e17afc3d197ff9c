package chart

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"

	"aftermath/core/oneof"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Design is all that a chart is made of: what its figures are, of which answers, and how they are drawn.
type Design struct {
	Plan
	Look
}

// Look is what a chart of any kind is set to.
type Look struct {
	Focus focus.Focus `json:"focus" doc:"the answers that it is of"`
	As    string      `json:"as,omitempty" enum:"bars,stack,table,dots,heat,lines,multiples,often,matrix,network,flow" doc:"how it is drawn, one of the ways of its kind; left out: the usual one"`
}

// Plan says what figures a chart has. Each kind is a type with what it needs and nothing else; Plans lists them.
type Plan interface {
	oneof.Kinded
	// Forms are the ways in which the figures can be drawn, the usual one first.
	Forms() []string
	// Figures works the figures out for the answers in a focus. They are of the same kind as the plan.
	Figures(ctx context.Context, s *state.State, f focus.Focus) (Figures, error)
}

// Plans are all kinds of charts there are, each with nothing in it.
var Plans = []Plan{TablePlan{}, MeansQuery{}, TogetherPlan{}, FlowQuery{}, SideBySideQuery{}}

// Figures are those of a chart.
type Figures interface {
	oneof.Kinded
	// counts tells all rows, columns and counts, in their order.
	counts(tell func(...any))
}

// FigureKinds are the figures of each kind of chart, with nothing in them.
var FigureKinds = []Figures{Chart{}, Means{}, Together{}, Flow{}, SideBySide{}}

// AnyFigures are figures of any kind, as JSON has them.
type AnyFigures struct{ Figures }

// MarshalJSON writes the figures with their kind.
func (f AnyFigures) MarshalJSON() ([]byte, error) { return oneof.Encode(f.Figures) }

// UnmarshalJSON reads figures that were kept, perhaps by another version of this program.
func (f *AnyFigures) UnmarshalJSON(data []byte) (err error) {
	f.Figures, err = oneof.DecodeKept("chart", FigureKinds, data)
	return err
}

// MarshalJSON writes the design with its kind.
func (d Design) MarshalJSON() ([]byte, error) { return oneof.Encode(d.Plan, d.Look) }

// UnmarshalJSON reads a design. What its kind does not know is an error, and so is what it lacks.
func (d *Design) UnmarshalJSON(data []byte) (err error) {
	d.Look = Look{}
	if d.Plan, err = oneof.Decode("chart", Plans, data, &d.Look); err != nil {
		return fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	return nil
}

// Check says what is wrong with how a chart is made.
func (d Design) Check() error {
	switch {
	case d.Plan == nil:
		return fmt.Errorf("%w: what the chart is made of is missing", state.ErrRequest)
	case d.As != "" && !slices.Contains(d.Forms(), d.As):
		return fmt.Errorf("%w: this chart can't be drawn as %s", state.ErrRequest, d.As)
	case len(d.Focus) > focus.MaxConditions:
		return fmt.Errorf("%w: a focus has up to %d conditions", state.ErrRequest, focus.MaxConditions)
	}
	return nil
}

// Sum is the same for two figures of a kind just when they have the same rows, columns and counts.
func Sum(f Figures) string {
	sum := sha256.New()
	out := json.NewEncoder(sum)
	f.counts(func(of ...any) { _ = out.Encode(of) }) // a hash takes all
	return hex.EncodeToString(sum.Sum(nil))
}

// TablePlan is a table of categories by segments.
type TablePlan struct {
	Query
	Cells string `json:"cells,omitempty" maxLength:"300" doc:"what the cells hold besides the share"`
}

// Kind is table.
func (TablePlan) Kind() string { return "table" }

// Forms are pictures of a table, and the table itself.
func (TablePlan) Forms() []string {
	return []string{"bars", "stack", "table", "dots", "heat", "lines", "multiples"}
}

// Figures counts categories by segments.
func (p TablePlan) Figures(ctx context.Context, s *state.State, f focus.Focus) (Figures, error) {
	return ChartOf(ctx, s, f, p.Query)
}

// Kind is table.
func (Chart) Kind() string { return "table" }

func (c Chart) counts(tell func(...any)) {
	for i, column := range c.Columns {
		tell(column.Key, c.Bases[i])
	}
	for i, row := range c.Rows {
		tell(row.Kind, row.ID, row.Path)
		for _, cell := range c.Cells[i] {
			tell(cell.Answers, cell.Weighted)
		}
	}
}

// Kind is means.
func (MeansQuery) Kind() string { return "means" }

// Forms are how often each category is against its mean, or a table.
func (MeansQuery) Forms() []string { return []string{"often", "table"} }

// Figures takes the mean of a number with and without each category.
func (q MeansQuery) Figures(ctx context.Context, s *state.State, f focus.Focus) (Figures, error) {
	return MeansOf(ctx, s, f, q)
}

// Kind is means.
func (Means) Kind() string { return "means" }

func (m Means) counts(tell func(...any)) {
	tell(m.Of, m.Edges, m.All)
	for _, r := range m.Rows {
		tell(r.Kind, r.ID, r.Path, r.With, r.Without)
	}
}

// TogetherPlan is which categories come together.
type TogetherPlan struct {
	TogetherQuery
	Measure string `json:"measure,omitempty" enum:"lift,both,jaccard,g2" doc:"what is said of categories that come together; lift if left out"`
}

// Kind is together.
func (TogetherPlan) Kind() string { return "together" }

// Forms are each category with each, a network of them, or a table of pairs.
func (TogetherPlan) Forms() []string { return []string{"matrix", "network", "table"} }

// Figures counts which categories come together.
func (p TogetherPlan) Figures(ctx context.Context, s *state.State, f focus.Focus) (Figures, error) {
	return TogetherOf(ctx, s, f, p.TogetherQuery)
}

// Kind is together.
func (Together) Kind() string { return "together" }

func (t Together) counts(tell func(...any)) {
	tell(t.Base)
	for _, n := range t.Nodes {
		tell(n.Kind, n.Path, n.Answers)
	}
	for _, p := range t.Pairs {
		tell(p.A, p.B, p.Both)
	}
}

// Kind is flow.
func (FlowQuery) Kind() string { return "flow" }

// Forms are bands between two times, or a table.
func (FlowQuery) Forms() []string { return []string{"flow", "table"} }

// Figures counts what the same people said at two times.
func (q FlowQuery) Figures(ctx context.Context, s *state.State, f focus.Focus) (Figures, error) {
	return FlowOf(ctx, s, f, q)
}

// Kind is flow.
func (Flow) Kind() string { return "flow" }

func (w Flow) counts(tell func(...any)) {
	tell(w.By, w.From, w.To, w.Persons, w.Links)
	for _, n := range w.Nodes {
		tell(n.ID, n.Name, n.Before, n.After, n.Both)
	}
}

// Kind is questions.
func (SideBySideQuery) Kind() string { return "questions" }

// Forms is a table.
func (SideBySideQuery) Forms() []string { return []string{"table"} }

// Figures counts the categories of several questions.
func (q SideBySideQuery) Figures(ctx context.Context, s *state.State, f focus.Focus) (Figures, error) {
	return SideBySideOf(ctx, s, f, q)
}

// Kind is questions.
func (SideBySide) Kind() string { return "questions" }

func (b SideBySide) counts(tell func(...any)) {
	for _, q := range b.Questions {
		for i, column := range q.Columns {
			tell(q.ID, column.Key, q.Bases[i])
		}
	}
	for _, r := range b.Rows {
		tell(r.Kind, r.Path)
		for _, of := range r.Cells {
			for _, cell := range of.Cells {
				tell(cell.Answers, cell.Weighted)
			}
		}
	}
}
