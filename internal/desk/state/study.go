package state

import (
	"context"
	"fmt"
	"reflect"
	"slices"

	"aftermath/core/survey"
	"aftermath/internal/desk/cells"
)

// Setup is what a study is made of: its respondents and what their columns are.
type Setup struct {
	ID       int64
	Name     string
	Revision int
	Rows     survey.Rows
	Columns  []survey.Spec
	Derived  []survey.Derived
	Under    []string // names of the variables that stand under an answer; none: those that say most as a rule
}

// Study is a study in memory. It does not change once made.
type Study struct {
	Setup
	survey.Set
	Cells cells.Cells
	Memo  *Memo // what was worked out of it

	profiles []*Memo // of each column; a column that stays as it is keeps its own
}

// NewStudy reads the columns of cells as they came. What an earlier state of the study has read of the same cells is used again.
func NewStudy(setup Setup, came [][]string, masking cells.Masking, earlier *Study) (*Study, error) {
	answers := func(column int) bool { return setup.Columns[column].Role == survey.OpenEnded }
	return newStudy(setup, cells.New(came[:len(setup.Columns)], answers, masking), earlier)
}

// With reads the same cells by another setup of the same respondents, which may have fewer columns.
func (s *Study) With(setup Setup) (*Study, error) { return s.made(setup, s.Cells.Masking()) }

// Masked is the study under another masking: itself, where it is the same.
func (s *Study) Masked(m cells.Masking) (*Study, error) {
	if m.Equal(s.Cells.Masking()) {
		return s, nil
	}
	return s.made(s.Setup, m)
}

func (s *Study) made(setup Setup, m cells.Masking) (*Study, error) {
	came := make([][]string, len(setup.Columns))
	for i := range came {
		came[i] = s.Cells.AsCame(i, cells.ToStore)
	}
	return NewStudy(setup, came, m, s)
}

func newStudy(setup Setup, of cells.Cells, earlier *Study) (*Study, error) {
	s := &Study{Setup: setup, Cells: of, Memo: NewMemo()}
	if earlier != nil && (!slices.Equal(earlier.Rows, setup.Rows) || !earlier.Cells.Masking().Equal(of.Masking())) {
		earlier = nil
	}
	var known survey.Set
	if earlier != nil {
		known = earlier.Set
	}
	var err error
	if s.Set, err = survey.Build(setup.Columns, setup.Derived, of.Variables(setup.Columns), known); err != nil {
		return nil, err
	}
	for i, spec := range setup.Columns {
		if earlier != nil && i < len(earlier.Columns) && reflect.DeepEqual(spec, earlier.Columns[i]) {
			s.profiles = append(s.profiles, earlier.profiles[i])
			continue
		}
		s.profiles = append(s.profiles, NewMemo())
	}
	return s, nil
}

// Weight is the name of the variable with the weights, empty where there is none.
func (s *Study) Weight() string {
	for _, v := range s.Variables {
		if v.Role == survey.Weight {
			return v.Name
		}
	}
	return ""
}

// Respondents is the number of rows.
func (s *Study) Respondents() int { return s.Rows.Len() }

type profileKey struct{}

func (profileKey) Most() int { return 1 }

// Profile is what there is to know of a column.
func (s *Study) Profile(ctx context.Context, column int) (survey.Profile, error) {
	return Remember(ctx, s.profiles[column], profileKey{}, func(ctx context.Context) (survey.Profile, error) {
		return survey.NewProfile(ctx, s.Columns[column], s.Cells.Variable(s.Columns, column))
	})
}

// Variable finds a variable by its name.
func (s *Study) Variable(name string) (*survey.Variable, error) {
	if v, ok := s.Find(name); ok {
		return v, nil
	}
	return nil, fmt.Errorf("%w: there is no variable %q", ErrRequest, name)
}

// Making is what a derived variable would be.
type Making struct {
	Problem string              `json:"problem,omitempty"`
	Values  []survey.ValueCount `json:"values"`
	Missing int                 `json:"missing" doc:"respondents without a value"`
}

// TryDerived works a derived variable out without keeping it.
func (s *Study) TryDerived(e survey.Derived) Making {
	m := Making{Values: []survey.ValueCount{}}
	v, err := s.Derive(e)
	if err != nil {
		m.Problem = err.Error()
		return m
	}
	for _, value := range v.Values {
		m.Values = append(m.Values, survey.ValueCount{Value: value, Count: int(v.With(value).GetCardinality())})
	}
	m.Missing = s.Respondents() - int(v.Filled().GetCardinality())
	if v.Filled().IsEmpty() {
		m.Problem = "nobody would have a value"
	}
	return m
}
