package code

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
	"aftermath/internal/view/answers"
)

// TwoRules are two rules that are compared.
type TwoRules struct {
	A    string `json:"a" maxLength:"20000"`
	B    string `json:"b" maxLength:"20000"`
	Show string `json:"show,omitempty" enum:"a,both,b" doc:"which examples are wanted; both if left out"`
}

// Beside is what two rules find in a focus.
type Beside struct {
	Base     int          `json:"base" doc:"answers in the focus"`
	OnlyA    int          `json:"onlyA"`
	Both     int          `json:"both"`
	OnlyB    int          `json:"onlyB"`
	UncodedA int          `json:"uncodedA" doc:"of those that only the first finds, without any category"`
	UncodedB int          `json:"uncodedB"`
	Examples answers.Page `json:"examples"`
	crosstab.CoOccurrence
}

// BesideOf holds two rules against each other.
func BesideOf(ctx context.Context, s *state.State, f focus.Focus, of TwoRules) (Beside, error) {
	out := Beside{Examples: answers.Page{Answers: []answers.Answer{}}}
	set, err := f.Answers(ctx, s)
	if err != nil {
		return out, err
	}
	var found [2]*roaring.Bitmap
	for i, src := range []string{of.A, of.B} {
		tried, err := s.Coding.Try(ctx, src)
		if err != nil {
			return out, err
		}
		if !tried.Readable() {
			return out, fmt.Errorf("%w: %q can't be read: %s", state.ErrRequest, state.Shortened(src, 200), tried.Problems[0].Message)
		}
		found[i] = roaring.And(tried.Answers, set)
	}
	a, both, b := roaring.AndNot(found[0], found[1]), roaring.And(found[0], found[1]), roaring.AndNot(found[1], found[0])
	out.Base = int(set.GetCardinality())
	out.OnlyA, out.Both, out.OnlyB = int(a.GetCardinality()), int(both.GetCardinality()), int(b.GetCardinality())
	out.UncodedA, out.UncodedB = view.CountWithout(a, s.Coding.Coded), view.CountWithout(b, s.Coding.Coded)
	out.CoOccurrence = crosstab.NewCoOccurrence(out.Both, out.OnlyA+out.Both, out.OnlyB+out.Both, out.Base)
	shown, marked := both, focus.Focus{focus.Is(focus.Words{Rule: of.A}), focus.Is(focus.Words{Rule: of.B})}
	switch of.Show {
	case "a":
		shown, marked = a, marked[:1]
	case "b":
		shown, marked = b, marked[1:]
	}
	out.Examples = answers.Examples(s, shown, marked, 30)
	return out, nil
}
