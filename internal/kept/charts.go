package kept

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"aftermath/core/oneof"
	"aftermath/internal/desk"
	"aftermath/internal/desk/earlier"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
	"aftermath/internal/view/chart"
)

// NewChart is a chart to be kept.
type NewChart struct {
	Name  string       `json:"name" minLength:"1" maxLength:"200"`
	Note  string       `json:"note,omitempty" maxLength:"5000"`
	Drawn chart.Design `json:"drawn"`
}

// KeptChart is a chart that was kept under a name: its figures are those of now.
type KeptChart struct {
	ID    int64        `json:"id"`
	Name  string       `json:"name"`
	Note  string       `json:"note,omitempty"`
	Drawn chart.Design `json:"drawn"`
	By    string       `json:"by,omitempty" doc:"who kept it"`
	// At is when it was kept, or looked over last.
	At      time.Time `json:"at"`
	Changed bool      `json:"changed" doc:"its figures are other ones than when it was kept, or looked over last"`
	Problem string    `json:"problem,omitempty" doc:"why it can't be drawn any more"`
	Gone    bool      `json:"gone,omitempty" doc:"deleted; it can be brought back"`
}

// KeptCharts lists the charts of a question that were kept, the newest first, and says which have other figures by now.
func (k *Keeper) KeptCharts(ctx context.Context, q *desk.Question) ([]KeptChart, error) {
	all, err := k.store.Charts(ctx, q.ID)
	if err != nil {
		return nil, err
	}
	s := q.State()
	out := []KeptChart{}
	for _, c := range all {
		one := KeptChart{ID: c.ID, Name: c.Name, Note: c.Note, By: c.By, At: c.At, Gone: c.Gone != nil}
		if one.Drawn, err = designOf(c); err != nil {
			return nil, err
		}
		if !one.Gone {
			now, err := figuresOf(ctx, s, one.Drawn)
			switch {
			case ctx.Err() != nil:
				return nil, ctx.Err()
			case err != nil:
				one.Problem = err.Error()
			}
			one.Changed = err == nil && now != c.Figures
		}
		out = append(out, one)
	}
	return out, nil
}

// figuresOf sums up the figures of a chart.
func figuresOf(ctx context.Context, s *state.State, d chart.Design) (string, error) {
	f, err := d.Figures(ctx, s, d.Focus)
	if err != nil {
		return "", err
	}
	return chart.Sum(f), nil
}

// KeepChart keeps a chart under a name, and gives its number. What can't be drawn is not kept.
func (k *Keeper) KeepChart(ctx context.Context, q *desk.Question, c NewChart) (id int64, err error) {
	made := store.Chart{QuestionID: q.ID}
	err = k.putChart(ctx, q, &made, c)
	return made.ID, err
}

// ChartChange is a change of a kept chart. What is left out stays as it was; a note that is null is cleared.
type ChartChange struct {
	Name  oneof.Optional[string] `json:"name,omitzero" maxLength:"200"`
	Note  oneof.Optional[string] `json:"note,omitzero" maxLength:"5000"`
	Drawn *chart.Design          `json:"drawn,omitempty"`
}

// ChangeChart changes the name, note or drawing of a kept chart, and takes note of its figures as they are now.
func (k *Keeper) ChangeChart(ctx context.Context, q *desk.Question, id int64, c ChartChange) error {
	kept, err := k.store.Chart(ctx, q.ID, id)
	if err != nil {
		return err
	}
	to := NewChart{Name: c.Name.Or(kept.Name), Note: c.Note.Or(kept.Note)}
	if c.Drawn != nil {
		to.Drawn = *c.Drawn
	} else if to.Drawn, err = designOf(kept); err != nil {
		return err
	}
	return k.putChart(ctx, q, &kept, to)
}

// designOf is what a kept chart is made of.
func designOf(c store.Chart) (d chart.Design, err error) {
	data, err := earlier.Design(c.Drawn)
	if err == nil {
		err = json.Unmarshal(data, &d)
	}
	if err != nil {
		return d, fmt.Errorf("chart %d: %w", c.ID, err)
	}
	return d, nil
}

func (k *Keeper) putChart(ctx context.Context, q *desk.Question, to *store.Chart, c NewChart) error {
	if to.Name = state.OneLine(c.Name); to.Name == "" {
		return fmt.Errorf("%w: a chart needs a name", state.ErrRequest)
	}
	err := c.Drawn.Check()
	if err != nil {
		return err
	}
	if to.Figures, err = figuresOf(ctx, q.State(), c.Drawn); err != nil {
		return err
	}
	if to.Drawn, err = json.Marshal(c.Drawn); err != nil {
		return err
	}
	to.Note = c.Note
	if strings.ContainsRune(to.Name+to.Note, 0) || strings.Contains(string(to.Drawn), `\u0000`) {
		return fmt.Errorf("%w: a null character can't be stored; take it out", state.ErrRequest)
	}
	to.By = desk.Maker(ctx)
	return k.store.PutChart(ctx, to)
}

// DropChart deletes a kept chart, or brings it back.
func (k *Keeper) DropChart(ctx context.Context, question, id int64, away bool) error {
	return k.store.DropChart(ctx, question, id, away)
}

// ColumnSet is what the columns of a table are made of, kept under a name for all questions of a study.
type ColumnSet struct {
	Name  string     `json:"name" minLength:"1" maxLength:"200"`
	Nests [][]string `json:"nests" minItems:"1" maxItems:"50" doc:"lists of variables; those of one list are nested, the outer first"`
}

// ColumnSets lists what was kept for the columns of tables of a study, by name.
func (k *Keeper) ColumnSets(ctx context.Context, study int64) ([]ColumnSet, error) {
	all, err := k.store.ColumnSets(ctx, study)
	out := []ColumnSet{}
	for _, c := range all {
		one := ColumnSet{Name: c.Name}
		if err := json.Unmarshal(c.Nests, &one.Nests); err != nil {
			return nil, fmt.Errorf("columns %q: %w", c.Name, err)
		}
		out = append(out, one)
	}
	return out, err
}

// KeepColumnSet keeps what columns are made of under its name, in place of an earlier one of that name.
func (k *Keeper) KeepColumnSet(ctx context.Context, study int64, c ColumnSet) error {
	if _, err := k.store.Study(ctx, study); err != nil {
		return err
	}
	if c.Name = state.OneLine(c.Name); c.Name == "" {
		return fmt.Errorf("%w: it needs a name", state.ErrRequest)
	}
	nests, err := json.Marshal(c.Nests)
	if err != nil {
		return err
	}
	if strings.ContainsRune(c.Name, 0) || strings.Contains(string(nests), `\u0000`) {
		return fmt.Errorf("%w: a null character can't be stored; take it out", state.ErrRequest)
	}
	return k.store.KeepColumnSet(ctx, store.ColumnSet{StudyID: study, Name: c.Name, Nests: nests})
}

// DropColumnSet forgets what was kept under a name; what is not there is no error.
func (k *Keeper) DropColumnSet(ctx context.Context, study int64, name string) error {
	return k.store.DropColumnSet(ctx, study, state.OneLine(name))
}
