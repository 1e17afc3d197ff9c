// Package view holds what the figures of all views share. What a view shows is a function of a state, a focus and a query, in the
// package of the view below this one: it knows no store, no events and no HTTP.
package view

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
)

// MaxColumns is how many values a variable may have that tables and charts are made by.
const MaxColumns = 60

// Splits says whether the values of a variable part respondents into two groups or more, and not into too many.
func Splits(v *survey.Variable) bool {
	return v.Role.Charted() && len(v.Values) > 1 && len(v.Values) <= MaxColumns
}

// SegmentName is a variable that answers can be separated by.
type SegmentName struct {
	Name   string `json:"name"`
	Role   string `json:"role"`
	Values int    `json:"values"`
}

// NameOf names a variable.
func NameOf(v *survey.Variable) SegmentName {
	return SegmentName{v.Name, string(v.Role), len(v.Values)}
}

// Share is a part of a whole, 0 to 1; of nothing 0.
func Share(part, whole int) float64 {
	if whole == 0 {
		return 0
	}
	return float64(part) / float64(whole)
}

// Plural counts things in words.
func Plural(n int, thing string) string {
	if n == 1 {
		return "one " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}

// CountWithout is the number of answers in a that are not in b.
func CountWithout(a, b *roaring.Bitmap) int { return int(a.GetCardinality() - a.AndCardinality(b)) }

// Each does n things on all processors. It gives up with an error when ctx ends.
func Each(ctx context.Context, n int, do func(i int)) error {
	return parallel.Each(ctx, state.Workers(), n, func() func(int) { return do })
}
