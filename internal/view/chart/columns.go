package chart

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Nest is the columns of a segment, or of several nested in one another.
type Nest struct {
	Variables []string `json:"variables" doc:"the outer first"`
	Label     string   `json:"label" doc:"their short labels"`
	Missing   int      `json:"missing" doc:"answers of the base without a value: they are in none of its columns"`
	Several   bool     `json:"several" doc:"a respondent may be in several columns, so columns are held against the rest only"`
	Ordered   bool     `json:"ordered" doc:"its columns stand in an order of their own: trends are tested"`
	Paired    int      `json:"paired" doc:"persons of whom there are answers in several columns"`
	Empty     int      `json:"empty" doc:"combinations of values that nobody in the base has: they are no columns"`
}

// Column is a column of a table. The first is the total.
type Column struct {
	Key        string      `json:"key" doc:"names it whatever the other columns are; empty for the total"`
	Letter     string      `json:"letter" doc:"what other columns call it by; empty for the total"`
	Name       string      `json:"name" doc:"its value, or All"`
	Values     []string    `json:"values" doc:"of the variables of its nest, the outer first"`
	Nest       int         `json:"nest" doc:"place of its nest, from 0; -1 for the total"`
	Group      int         `json:"group" doc:"columns of one group are held against each other; -1 for the total"`
	Conditions focus.Focus `json:"conditions" doc:"narrow a focus to its answers"`
}

// columns are a table's, with the groups to count them by.
type columns struct {
	nests  []Nest
	list   []Column
	groups []crosstab.Group
	base   *roaring.Bitmap // of the whole table
}

// columnsOf makes the columns in a base. With one nest, answers without a value in it are left out of the table; with several, of
// the columns of the nest only.
func columnsOf(ctx context.Context, s *state.State, of [][]*survey.Variable, base *roaring.Bitmap) (columns, error) {
	c := columns{base: base, nests: []Nest{}}
	filled := focus.Focus{}
	if len(of) == 1 {
		c.base = base.Clone()
		for _, v := range of[0] {
			c.base.And(v.Filled())
			filled = append(filled, having(v))
		}
	}
	c.list = []Column{{Name: "All", Values: []string{}, Nest: -1, Group: -1, Conditions: filled}}
	for _, vs := range of {
		if err := c.nest(ctx, s, vs, base); err != nil {
			return c, err
		}
	}
	return c, nil
}

func having(v *survey.Variable) focus.Condition {
	return focus.Not(focus.Variable{Name: v.Name, Op: "=", Values: []string{survey.Missing}})
}

// nest adds the columns of variables that are nested in one another.
func (c *columns) nest(ctx context.Context, s *state.State, vs []*survey.Variable, base *roaring.Bitmap) error {
	inner := vs[len(vs)-1]
	n := Nest{Several: inner.Role == survey.Several, Ordered: inner.Ordered()}
	var labels []string
	filled := base.Clone()
	for _, v := range vs {
		n.Variables = append(n.Variables, v.Name)
		labels = append(labels, v.Spec.Short())
		filled.And(v.Filled())
	}
	n.Label = strings.Join(labels, " / ")
	n.Missing = view.CountWithout(base, filled)
	var persons []int32
	if inner.Role == survey.Wave {
		var err error
		if persons, err = s.Study.Persons(ctx); err != nil {
			return err
		}
	}
	at := len(c.nests)
	open := func(set *roaring.Bitmap, values []string, conditions focus.Focus) error {
		g := crosstab.Group{Nest: at, Apart: !n.Several, Ordered: n.Ordered, Persons: persons}
		for _, value := range s.Study.InTime(inner) {
			in := roaring.And(set, inner.With(value))
			if len(vs) > 1 && in.IsEmpty() {
				n.Empty++
				continue
			}
			if len(c.list) > maxColumns {
				return fmt.Errorf(
					"%w: that makes more than %d columns; take fewer segments, or variables with fewer values", state.ErrRequest, maxColumns,
				)
			}
			g.Columns = append(g.Columns, in)
			column := Column{
				Letter: crosstab.Letters(len(c.list) - 1), Name: value, Values: append(values[:len(values):len(values)], value), Nest: at,
				Group: len(c.groups), Conditions: conditions.With(is(inner, value)),
			}
			column.Key = keyOf(n.Variables, column.Values)
			c.list = append(c.list, column)
		}
		if len(g.Columns) > 0 {
			c.groups = append(c.groups, g)
		}
		return nil
	}
	if err := within(s.Study, vs[:len(vs)-1], filled, nil, nil, open); err != nil {
		return err
	}
	if persons != nil {
		several := roaring.New()
		for _, g := range c.groups {
			if g.Nest == at {
				several.Or(state.InSeveral(persons, g.Columns))
			}
		}
		n.Paired = int(several.GetCardinality())
	}
	c.nests = append(c.nests, n)
	return nil
}

// within visits the combinations of values of the outer variables.
func within(
	study *state.Study, outer []*survey.Variable, set *roaring.Bitmap, values []string, conditions focus.Focus,
	visit func(set *roaring.Bitmap, values []string, conditions focus.Focus) error,
) error {
	if len(outer) == 0 {
		return visit(set, values, conditions)
	}
	v := outer[0]
	for _, value := range study.InTime(v) {
		err := within(
			study, outer[1:], roaring.And(set, v.With(value)), append(values[:len(values):len(values)], value),
			conditions.With(is(v, value)), visit,
		)
		if err != nil {
			return err
		}
	}
	return nil
}

func is(v *survey.Variable, value string) focus.Condition {
	return focus.Is(focus.Variable{Name: v.Name, Op: "=", Values: []string{value}})
}

func keyOf(variables, values []string) string {
	key, err := json.Marshal([][]string{variables, values}) // strings only
	if err != nil {
		panic(err)
	}
	return string(key)
}
