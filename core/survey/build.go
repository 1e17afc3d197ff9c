package survey

import (
	"errors"
	"fmt"
	"reflect"
	"strings"
)

// Set is what rules and charts may speak of.
type Set struct {
	Variables []*Variable
	Weights   []float64        // by respondent; nil if there are none; a missing weight counts as 0
	Failed    map[string]error // derived variables that can't be made, by name
}

// ErrSetup is behind every error about what columns are said to be.
var ErrSetup = errors.New("columns")

// Build reads the columns, given cell by cell, and makes the derived variables. A derived variable that can't be made does
// not keep the others from it. Variables of an earlier set of the same cells are used again where their column is read as
// before.
func Build(columns []Spec, derived []Derived, cells [][]string, earlier Set) (Set, error) {
	s := Set{Failed: map[string]error{}}
	for i, spec := range columns {
		switch spec.Role {
		case OpenEnded, Identifier, LeftOut:
			continue
		}
		v, known := earlier.Find(spec.Name)
		if !known || !reflect.DeepEqual(v.Spec, spec) {
			var err error
			if v, err = NewVariable(spec, cells[i]); err != nil {
				return Set{}, err
			}
		}
		s.Variables = append(s.Variables, v)
		if spec.Role == Weight && s.Weights == nil {
			s.Weights = make([]float64, len(v.Numbers))
			for i, w := range v.Numbers {
				if w == w { // not missing
					s.Weights[i] = w
				}
			}
		}
	}
	for _, d := range derived {
		v, err := s.Derive(d)
		if err != nil {
			s.Failed[d.Name] = err
			continue
		}
		s.Variables = append(s.Variables, v)
	}
	return s, nil
}

// Derive makes a variable of those in the set.
func (s Set) Derive(d Derived) (*Variable, error) {
	var of []*Variable
	for _, name := range d.Of {
		v, ok := s.Find(name)
		if !ok {
			return nil, fmt.Errorf("%w %q: there is no variable %q to make it of", ErrDerived, d.Name, name)
		}
		of = append(of, v)
	}
	if len(of) == 0 {
		return nil, fmt.Errorf("%w %q: say what it is made of", ErrDerived, d.Name)
	}
	return Derive(d, of)
}

// Find gives a variable by its name, or by an earlier one.
func (s Set) Find(name string) (*Variable, bool) {
	return ByName(s.Variables, name)
}

// CheckNames says whether columns and derived variables all have names of their own.
func CheckNames(columns []Spec, derived []Derived) error {
	seen := map[string]bool{}
	check := func(name string) error {
		low := strings.ToLower(strings.TrimSpace(name))
		if low == "" {
			return fmt.Errorf("%w: one has no name", ErrSetup)
		}
		if seen[low] {
			return fmt.Errorf("%w: there is a variable %q already", ErrSetup, name)
		}
		seen[low] = true
		return nil
	}
	for _, c := range columns {
		if err := check(c.Name); err != nil {
			return err
		}
	}
	for _, c := range columns {
		for _, was := range c.Was { // what a rule finds must be one
			for _, other := range columns {
				if other.Name != c.Name && other.Named(was) {
					return fmt.Errorf("%w: %q is a name that %q had earlier; choose another", ErrSetup, was, c.Name)
				}
			}
		}
	}
	for _, d := range derived {
		if err := check(d.Name); err != nil {
			return err
		}
	}
	return nil
}
