// Package survey holds what is known of the respondents: variables with their roles and values, and how further ones
// are made of them.
package survey

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"
)

// Role is what a column of a file is used as.
type Role string

// The roles. A column that is left out is kept as it came, and comes out again in exports.
const (
	Identifier Role = "identifier"
	OpenEnded  Role = "open-ended"
	Segment    Role = "segment"
	Several    Role = "several answers"
	Number     Role = "number"
	Date       Role = "date"
	Weight     Role = "weight"
	Wave       Role = "wave"
	LeftOut    Role = "left out"
)

// Roles lists all roles.
var Roles = []Role{Identifier, OpenEnded, Segment, Several, Number, Date, Weight, Wave, LeftOut}

// Spec says what a column is, and how its cells are read.
type Spec struct {
	Name      string   `json:"name"`
	Was       []string `json:"was,omitempty" doc:"earlier names: rules, focuses and files still find the column by them"`
	Called    []Called `json:"called,omitempty" doc:"values that are called otherwise than the cells say"`
	Label     string   `json:"label,omitempty" doc:"a short name, for the line under answers, charts and files"`
	Role      Role     `json:"role" enum:"identifier,open-ended,segment,several answers,number,date,weight,wave,left out"`
	Delimiter string   `json:"delimiter,omitempty" doc:"several answers: what stands between two values"`
	Missing   []string `json:"missing,omitempty" doc:"cells that count as missing, such as 99 or refused"`
	Order     []string `json:"order,omitempty" doc:"values in the order in which charts show them; the others follow"`
	Days      string   `json:"days,omitempty" enum:"dmy,mdy" doc:"dates such as 04/03/2026: the day or the month first"`
	Unit      string   `json:"unit,omitempty" doc:"numbers: what may stand before or after them, such as min or £"`
	Comma     bool     `json:"comma,omitempty" doc:"numbers: the comma is the decimal sign"`
}

// Called is a value that goes by another name than its cells say; rules and focuses find it by both.
type Called struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Named says whether a column has a name now, or had it earlier; case aside.
func (s Spec) Named(name string) bool {
	same := func(n string) bool { return strings.EqualFold(n, name) }
	return same(s.Name) || slices.ContainsFunc(s.Was, same)
}

// value is what a cell's value is called.
func (s Spec) value(cell string) string {
	for _, c := range s.Called {
		if c.From == cell {
			return c.To
		}
	}
	return cell
}

// Shown is a cell with its values as they are called.
func (s Spec) Shown(cell string) string {
	cell = strings.TrimSpace(cell)
	switch {
	case len(s.Called) == 0:
		return cell
	case s.Role == Several:
		return strings.Join(s.parts(cell), ", ")
	}
	return s.value(cell)
}

// parts are the values of a cell that holds several.
func (s Spec) parts(cell string) []string {
	parts := splitValues(cell, s.Delimiter)
	if len(s.Called) > 0 {
		for i := range parts {
			parts[i] = s.value(parts[i])
		}
	}
	return parts
}

// ByName finds a variable by its name, else by an earlier one; case aside.
func ByName(variables []*Variable, name string) (*Variable, bool) {
	for _, v := range variables {
		if strings.EqualFold(v.Name, name) {
			return v, true
		}
	}
	for _, v := range variables {
		if v.Named(name) {
			return v, true
		}
	}
	return nil, false
}

// Short is the short label of a column, or its name if it has none.
func (s Spec) Short() string { return cmp.Or(s.Label, s.Name) }

// ErrValue is behind every error about a cell that does not fit its column's role.
var ErrValue = errors.New("value")

// Variable is a column of all respondents, read by its role. It does not change once made.
type Variable struct {
	Spec
	Values  []string  // distinct, in the order charts show them
	Numbers []float64 // number, weight; date as days since 1970-01-01; NaN where missing
	Hours   []int8    // date: the hour of the day, -1 where none is given; nil where none gives one
	Odd     int       // filled cells that are no number or no date: they count as missing
	sets    []*roaring.Bitmap
	filled  *roaring.Bitmap
	ordered bool // its values follow each other by how it is made

	index  sync.Once // values do not change once made
	places map[string]int
}

// Charted says whether the role's values part respondents into groups.
func (r Role) Charted() bool { return r == Segment || r == Several || r == Wave || r == Number }

// Ordered says whether the values stand in an order of their own, from low to high or from early to late: waves and numbers,
// bands and periods, those that all begin with a number, and those that were put in an order by hand.
func (v *Variable) Ordered() bool {
	if v.ordered || v.Role == Number || v.Role == Wave {
		return true
	}
	if v.Role != Segment || len(v.Values) < 2 {
		return false
	}
	byHand := !slices.ContainsFunc(v.Values, func(value string) bool { return !slices.Contains(v.Order, value) })
	numbered := !slices.ContainsFunc(v.Values, func(value string) bool { _, ok := leading(value); return !ok })
	return byHand || numbered
}

// Numeric says whether the role's cells are read as numbers.
func (r Role) Numeric() bool { return r == Number || r == Weight || r == Date }

// NewVariable reads the cells of all respondents. A cell of a number or date that can't be read as one counts as missing
// (see Odd); a weight that can't is an error. The row in an error counts as in the file, its header being row 1.
func NewVariable(spec Spec, cells []string) (*Variable, error) {
	v := &Variable{Spec: spec, filled: roaring.New()}
	if spec.Role.Numeric() {
		v.Numbers = make([]float64, len(cells))
	}
	read := spec.reader()
	rows := map[string][]uint32{}
	for i, cell := range cells {
		value, number, err := read(cell)
		if spec.Role == Date && number == number {
			v.hour(i, len(cells), cell)
		}
		if err != nil {
			if spec.Role == Weight {
				return nil, fmt.Errorf("row %d, column %q: %w", i+2, spec.Name, err)
			}
			v.Odd++
		}
		if v.Numbers != nil {
			v.Numbers[i] = number
		}
		if value == "" {
			continue
		}
		v.filled.Add(uint32(i))
		switch spec.Role {
		case Several:
			for _, part := range spec.parts(value) {
				rows[part] = append(rows[part], uint32(i))
			}
		case Segment, Wave, Number:
			rows[value] = append(rows[value], uint32(i))
		}
	}
	for value := range rows {
		v.Values = append(v.Values, value)
	}
	v.sort()
	for _, value := range v.Values {
		set := roaring.New()
		set.AddMany(rows[value]) // a value given twice by one respondent counts once
		v.sets = append(v.sets, set)
	}
	return v, nil
}

// hour keeps the hour of a date that is written with a time.
func (v *Variable) hour(row, rows int, cell string) {
	h := hourOf(cell)
	if h < 0 && v.Hours == nil {
		return
	}
	if v.Hours == nil {
		v.Hours = slices.Repeat([]int8{-1}, rows)
	}
	v.Hours[row] = h
}

// sort brings the values into the given order, the others after them by CompareValues.
func (v *Variable) sort() {
	place := map[string]int{}
	for i, value := range v.Order {
		place[value] = i + 1
	}
	slices.SortFunc(v.Values, func(a, b string) int {
		x, y := place[a], place[b]
		if x == 0 {
			x = len(place) + 1
		}
		if y == 0 {
			y = len(place) + 1
		}
		if x != y {
			return x - y
		}
		return CompareValues(a, b)
	})
}

// reader makes the function that reads a column's cells: what a cell says without the white space around it, empty where
// it is missing, and its number, NaN where it has none.
func (s Spec) reader() func(cell string) (value string, number float64, err error) {
	missing := map[string]bool{}
	for _, m := range s.Missing {
		missing[strings.ToLower(strings.TrimSpace(m))] = true
	}
	numeric := s.Role.Numeric()
	type read struct {
		value  string
		number float64
		err    error
	}
	known := map[string]read{} // numbers and dates that were read already
	return func(cell string) (string, float64, error) {
		cell = strings.TrimSpace(cell)
		if cell == "" || len(missing) > 0 && missing[strings.ToLower(cell)] {
			return "", math.NaN(), nil
		}
		if !numeric {
			if len(s.Called) > 0 && s.Role != Several {
				cell = s.value(cell)
			}
			return cell, math.NaN(), nil
		}
		r, ok := known[cell]
		if !ok {
			r = read{value: cell}
			if r.number, r.err = s.number(cell); r.err != nil {
				r.value, r.number = "", math.NaN()
			} else if s.Role == Number { // 1 and 1.0 are one value
				r.value = strconv.FormatFloat(r.number, 'f', -1, 64)
			}
			if len(known) < maxKnown {
				known[cell] = r
			}
		}
		return r.value, r.number, r.err
	}
}

// maxKnown is how many different cells a reader remembers.
const maxKnown = 10_000

// number reads a cell of a number, weight or date.
func (s Spec) number(cell string) (float64, error) {
	if s.Role == Date {
		return parseDate(cell, s.Days)
	}
	n, err := parseNumber(cell, s.Unit, s.Comma)
	if err == nil && s.Role == Weight && n < 0 {
		return 0, fmt.Errorf("%w %q: a weight may not be negative", ErrValue, cell)
	}
	return n, err
}

// WeightCheck makes a function that says what is wrong with a cell of a weight; for other roles it is nil.
func (s Spec) WeightCheck() func(cell string) error {
	if s.Role != Weight {
		return nil
	}
	read := s.reader()
	return func(cell string) error { _, _, err := read(cell); return err }
}

func splitValues(cell, delimiter string) []string {
	if delimiter == "" {
		delimiter = ";"
	}
	var out []string
	for part := range strings.SplitSeq(cell, delimiter) {
		if part = strings.TrimSpace(part); part != "" {
			out = append(out, part)
		}
	}
	return out
}

// CompareValues puts values in the order charts show them: by their leading number where both have one, else by the
// alphabet.
func CompareValues(a, b string) int {
	x, okX := leading(a)
	y, okY := leading(b)
	switch {
	case okX && okY && x != y:
		if x < y {
			return -1
		}
		return 1
	case okX != okY:
		if okX {
			return -1
		}
		return 1
	}
	if c := strings.Compare(strings.ToLower(a), strings.ToLower(b)); c != 0 {
		return c
	}
	return strings.Compare(a, b)
}

func leading(s string) (float64, bool) {
	end := 0
	for end < len(s) && (s[end] >= '0' && s[end] <= '9' || s[end] == '.' || end == 0 && s[end] == '-') {
		end++
	}
	n, err := strconv.ParseFloat(s[:end], 64)
	return n, err == nil
}

// Filled is the set of respondents with a value. The caller must not change it.
func (v *Variable) Filled() *roaring.Bitmap { return v.filled }

// With is the set of respondents with that value. The caller must not change it.
func (v *Variable) With(value string) *roaring.Bitmap {
	if set, ok := v.with(value); ok {
		return set
	}
	return roaring.New()
}

func (v *Variable) with(value string) (*roaring.Bitmap, bool) {
	v.index.Do(func() {
		v.places = make(map[string]int, len(v.Values))
		for i, value := range v.Values {
			v.places[value] = i
		}
	})
	i, ok := v.places[value]
	if !ok {
		return nil, false
	}
	return v.sets[i], true
}

// Of lists the values of the respondent in a row.
func (v *Variable) Of(row int) (values []string) {
	for i, set := range v.sets {
		if set.Contains(uint32(row)) {
			values = append(values, v.Values[i])
		}
	}
	return values
}

// Unsaid is the variable with its values, of one respondent who has none of them.
func (v *Variable) Unsaid() *Variable {
	out := &Variable{Spec: v.Spec, Values: v.Values, filled: roaring.New()}
	for range v.Values {
		out.sets = append(out.sets, out.filled)
	}
	if v.Numbers != nil {
		out.Numbers = []float64{math.NaN()}
	}
	return out
}
