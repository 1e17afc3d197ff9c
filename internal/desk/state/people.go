package state

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/internal/desk/cells"
)

type categoryCountsKey struct{}

func (categoryCountsKey) Most() int { return 1 }

// CategoryCounts is, by row, how many categories an answer has; what a net has only since a category in it has it does not count
// twice. The caller must not change it.
func (s *State) CategoryCounts(ctx context.Context) ([]float64, error) {
	return Remember(ctx, s.Memo, categoryCountsKey{}, func(ctx context.Context) ([]float64, error) {
		counts := make([]float64, len(s.Answers))
		for _, r := range s.Coding.Results {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			for it := r.Carries().Iterator(); it.HasNext(); {
				counts[it.Next()]++
			}
		}
		return counts, nil
	})
}

type personsKey struct{}

func (personsKey) Most() int { return 1 }

// Persons is, by row, the person that an answer is of, by the first column of identifiers: rows with the same identifier are of one
// person; -1 where there is none. It is nil where no identifier stands twice. The caller must not change it.
func (s *Study) Persons(ctx context.Context) ([]int32, error) {
	return Remember(ctx, s.Memo, personsKey{}, func(ctx context.Context) ([]int32, error) {
		column := slices.IndexFunc(s.Columns, func(c survey.Spec) bool { return c.Role == survey.Identifier })
		if column < 0 {
			return nil, nil
		}
		came := s.Cells.AsCame(column, cells.ToCompare)
		numbers, persons, twice := map[string]int32{}, make([]int32, len(came)), false
		for row, cell := range came {
			if row%4096 == 0 && ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if cell = strings.TrimSpace(cell); cell == "" || slices.Contains(s.Columns[column].Missing, cell) {
				persons[row] = -1
				continue
			}
			number, known := numbers[cell]
			if !known {
				number = int32(len(numbers))
				numbers[cell] = number
			}
			twice = twice || known
			persons[row] = number
		}
		if !twice {
			return nil, nil
		}
		return persons, nil
	})
}

// InSeveral are the persons that have answers in more than one of some sets.
func InSeveral(persons []int32, sets []*roaring.Bitmap) *roaring.Bitmap {
	once, twice := roaring.New(), roaring.New()
	for _, set := range sets {
		of := crosstab.Persons(persons, set)
		twice.Or(roaring.And(once, of))
		once.Or(of)
	}
	return twice
}

// InTime gives a variable's values by the mean date of their respondents, where the study has dates and the values were
// not put in an order by hand; else as charts show them. Names of periods are in order by themselves.
func (s *Study) InTime(v *survey.Variable) []string {
	at := slices.IndexFunc(s.Variables, func(d *survey.Variable) bool { return d.Role == survey.Date })
	if v.Role != survey.Wave || len(v.Order) > 0 || at < 0 {
		return v.Values
	}
	mean := map[string]float64{}
	for _, value := range v.Values {
		sum, n := 0.0, 0.0
		for it := v.With(value).Iterator(); it.HasNext(); {
			if d := s.Variables[at].Numbers[it.Next()]; !math.IsNaN(d) {
				sum, n = sum+d, n+1
			}
		}
		if n == 0 {
			return v.Values
		}
		mean[value] = sum / n
	}
	out := slices.Clone(v.Values)
	slices.SortStableFunc(out, func(a, b string) int { return cmp.Compare(mean[a], mean[b]) })
	return out
}
