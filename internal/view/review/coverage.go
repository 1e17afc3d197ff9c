package review

import (
	"context"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Coverage is how far the answers of a focus are coded, by the values of a variable.
type Coverage struct {
	All     CoverageLine   `json:"all"`
	Values  []CoverageLine `json:"values" doc:"in the order of the variable; at most 200"`
	Without *CoverageLine  `json:"without,omitempty" doc:"those without a value, if there are any"`
}

// CoverageLine is counts of answers that say something.
type CoverageLine struct {
	Value    string `json:"value"`
	Answered int    `json:"answered"`
	Coded    int    `json:"coded"`
	Settled  int    `json:"settled" doc:"not coded, and settled"`
	Left     int    `json:"left"`
}

const mostValues = 200

// CoverageOf counts what is coded and left in a focus; of a variable, if one is named.
func CoverageOf(ctx context.Context, s *state.State, f focus.Focus, variable string) (Coverage, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Coverage{}, err
	}
	set = roaring.And(set, s.Reading.Index.Answered())
	line := func(value string, of *roaring.Bitmap) CoverageLine {
		left := leftOf(s, of)
		c := CoverageLine{
			Value: value, Answered: int(of.GetCardinality()), Coded: int(of.AndCardinality(s.Coding.Coded)), Left: int(left.GetCardinality()),
		}
		c.Settled = c.Answered - c.Coded - c.Left
		return c
	}
	out := Coverage{All: line("", set), Values: []CoverageLine{}}
	if variable == "" {
		return out, nil
	}
	v, err := s.Study.Variable(variable)
	if err != nil {
		return out, err
	}
	for _, value := range v.Values[:min(len(v.Values), mostValues)] {
		out.Values = append(out.Values, line(value, roaring.And(set, v.With(value))))
	}
	if without := line("", roaring.AndNot(set, v.Filled())); without.Answered > 0 {
		out.Without = &without
	}
	return out, ctx.Err()
}
