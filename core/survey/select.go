package survey

import (
	"fmt"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"
)

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
			return nil, fmt.Errorf(
				"%w: %q takes one number or date, and a variable that has them; %q is a %s", ErrValue, op, v.Name, v.Role,
			)
		}
		limit, err := v.asked(values[0])
		if err != nil {
			return nil, err
		}
		return v.having(func(x float64) bool {
			return op == "<" && x < limit || op == "<=" && x <= limit || op == ">" && x > limit || op == ">=" && x >= limit
		}), nil
	}
	return nil, fmt.Errorf("%w: there is no comparison %q; there are %s", ErrValue, op, strings.Join(Operators, " "))
}

// asked reads the number or ISO date that a condition compares with.
func (v *Variable) asked(value string) (float64, error) {
	if v.Role == Date {
		return parseDate(value, "")
	}
	return parseNumber(value, v.Unit, false)
}

// having is the set of respondents whose number meets a condition.
func (v *Variable) having(condition func(float64) bool) *roaring.Bitmap {
	set := make([]uint64, (len(v.Numbers)+63)/64)
	for i, x := range v.Numbers {
		if condition(x) {
			set[i>>6] |= 1 << (i & 63)
		}
	}
	return roaring.FromDense(set, false)
}

// equal is the set of respondents with that value, however it is written.
func (v *Variable) equal(value string, n int) (*roaring.Bitmap, error) {
	if value == Missing {
		return roaring.Flip(v.filled, 0, uint64(n)), nil
	}
	if v.Numbers != nil {
		x, err := v.asked(value)
		if err != nil {
			return nil, err
		}
		return v.having(func(y float64) bool { return x == y }), nil
	}
	if set, ok := v.with(value); ok { // as it is written, before another that differs in case
		return set, nil
	}
	for i, known := range v.Values {
		if strings.EqualFold(known, value) {
			return v.sets[i], nil
		}
	}
	for _, c := range v.Called {
		if strings.EqualFold(c.From, value) && !strings.EqualFold(c.To, value) {
			return v.equal(c.To, n)
		}
	}
	return nil, fmt.Errorf("%w: %q has no value %q", ErrValue, v.Name, value)
}
