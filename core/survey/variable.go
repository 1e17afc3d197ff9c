// Package survey holds what is known of the respondents: variables with their roles and values.
package survey

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

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

// Spec says what a column is.
type Spec struct {
	Name      string `json:"name"`
	Role      Role   `json:"role" enum:"identifier,open-ended,segment,several answers,number,date,weight,wave,left out"`
	Delimiter string `json:"delimiter,omitempty" doc:"several answers: what stands between two values"`
}

// ErrValue is behind every error about a cell that does not fit its column's role.
var ErrValue = errors.New("value")

// Variable is a column of all respondents, read by its role. It does not change once made.
type Variable struct {
	Spec
	Values  []string  // distinct, in the order charts show them
	Numbers []float64 // number, weight; date as days since 1970-01-01; NaN where missing
	sets    []*roaring.Bitmap
	filled  *roaring.Bitmap
}

// NewVariable reads the cells of all respondents. The row in an error counts as in the file, its header being row 1.
func NewVariable(spec Spec, cells []string) (*Variable, error) {
	v := &Variable{Spec: spec, filled: roaring.New()}
	numeric := spec.Role == Number || spec.Role == Weight || spec.Role == Date
	if numeric {
		v.Numbers = make([]float64, len(cells))
	}
	rows := map[string][]uint32{}
	for i, cell := range cells {
		cell = strings.TrimSpace(cell)
		if numeric {
			n, err := parse(spec.Role, cell)
			if err != nil {
				return nil, fmt.Errorf("row %d, column %q: %w", i+2, spec.Name, err)
			}
			v.Numbers[i] = n
		}
		if cell == "" {
			continue
		}
		v.filled.Add(uint32(i))
		switch spec.Role {
		case Several:
			for _, part := range splitValues(cell, spec.Delimiter) {
				rows[part] = append(rows[part], uint32(i))
			}
		case Segment, Wave, Number:
			rows[cell] = append(rows[cell], uint32(i))
		}
	}
	for value := range rows {
		v.Values = append(v.Values, value)
	}
	slices.SortFunc(v.Values, CompareValues)
	for _, value := range v.Values {
		set := roaring.New()
		set.AddMany(rows[value]) // a value given twice by one respondent counts once
		v.sets = append(v.sets, set)
	}
	return v, nil
}

// parse reads a number or an ISO date; nothing is NaN. A weight may not be negative.
func parse(role Role, cell string) (float64, error) {
	if cell == "" {
		return math.NaN(), nil
	}
	if role == Date {
		d, err := time.Parse(time.DateOnly, cell)
		if err != nil {
			return 0, fmt.Errorf("%w %q is no date; write it as 2026-03-14", ErrValue, cell)
		}
		return float64(d.Unix() / 86400), nil
	}
	n, err := strconv.ParseFloat(cell, 64)
	if err != nil || math.IsInf(n, 0) || math.IsNaN(n) {
		return 0, fmt.Errorf("%w %q is no number", ErrValue, cell)
	}
	if role == Weight && n < 0 {
		return 0, fmt.Errorf("%w %q: a weight may not be negative", ErrValue, cell)
	}
	return n, nil
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
	if i := slices.Index(v.Values, value); i >= 0 {
		return v.sets[i]
	}
	return roaring.New()
}

// Missing names the respondents without a value in conditions.
const Missing = "missing"

// Operators of a condition on a variable.
var Operators = []string{"=", "!=", "<", "<=", ">", ">="}

// Select is the set of respondents that meet a condition; n is the number of respondents. Values are compared as text
// for "=" and "!=" (case-blind), as numbers or ISO dates for the others. A missing value satisfies only "= missing".
func (v *Variable) Select(op string, values []string, n int) (*roaring.Bitmap, error) {
	switch op {
	case "=", "!=":
		set := roaring.New()
		for _, value := range values {
			part, err := v.equal(value, n)
			if err != nil {
				return nil, err
			}
			set.Or(part)
		}
		if op == "!=" {
			return roaring.AndNot(v.filled, set), nil
		}
		return set, nil
	case "<", "<=", ">", ">=":
		if v.Numbers == nil || len(values) != 1 {
			return nil, fmt.Errorf("%w: %q takes one number or date, and a variable that has them; %q is a %s", ErrValue, op, v.Name, v.Role)
		}
		role := v.Role
		if role == Weight {
			role = Number
		}
		limit, err := parse(role, values[0])
		if err != nil {
			return nil, err
		}
		set := roaring.New()
		for i, x := range v.Numbers {
			if op == "<" && x < limit || op == "<=" && x <= limit || op == ">" && x > limit || op == ">=" && x >= limit {
				set.Add(uint32(i))
			}
		}
		return set, nil
	}
	return nil, fmt.Errorf("%w: there is no comparison %q; there are %s", ErrValue, op, strings.Join(Operators, " "))
}

// equal is the set of respondents with that value, however it is written.
func (v *Variable) equal(value string, n int) (*roaring.Bitmap, error) {
	if value == Missing {
		return roaring.Flip(v.filled, 0, uint64(n)), nil
	}
	if v.Numbers != nil {
		x, err := parse(v.Role, value)
		if err != nil {
			return nil, err
		}
		set := roaring.New()
		for i, y := range v.Numbers {
			if x == y {
				set.Add(uint32(i))
			}
		}
		return set, nil
	}
	for i, known := range v.Values {
		if strings.EqualFold(known, value) {
			return v.sets[i], nil
		}
	}
	return nil, fmt.Errorf("%w: %q has no value %q", ErrValue, v.Name, value)
}
