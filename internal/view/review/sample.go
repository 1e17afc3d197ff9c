package review

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Draw says how a sample is drawn.
type Draw struct {
	Name string `json:"name" minLength:"1" maxLength:"200"`
	Size int    `json:"size" minimum:"1" maximum:"20000"`
	Seed uint64 `json:"seed" doc:"the same draws the same"`
	// By parts the answers first; the same number is drawn from each part, as far as it has so many.
	By    string      `json:"by,omitempty" doc:"= for coded and not, else the name of a variable; empty for one part"`
	Focus focus.Focus `json:"focus" doc:"of which it is drawn"`
}

// ByCoded parts answers into those that are coded and those that are not.
const ByCoded = "="

// Stratum is a part of the answers that was drawn from.
type Stratum struct {
	Value   string `json:"value"`
	Answers int    `json:"answers" doc:"in the part"`
	Drawn   int    `json:"drawn"`
}

// Drawn is a sample: its parts, and its members in the order in which they are coded, which is random.
type Drawn struct {
	Parts   []Stratum
	Members []Member
}

// Member is an answer of a sample with the number of its part.
type Member struct {
	Respondent survey.Respondent
	Stratum    int
}

const mostParts = 200

// DrawSample draws a sample.
func DrawSample(ctx context.Context, s *state.State, d Draw) (Drawn, error) {
	set, err := d.Focus.Answers(ctx, s)
	if err != nil {
		return Drawn{}, err
	}
	names, sets, err := partsBy(s, roaring.And(set, s.Reading.Index.Answered()), d.By)
	if err != nil {
		return Drawn{}, err
	}
	out := Drawn{}
	sizes := make([]int, len(sets))
	for i, set := range sets {
		sizes[i] = int(set.GetCardinality())
	}
	for i, n := range shared(d.Size, sizes) {
		drawn := s.DrawnInOrder(sets[i], n, d.Seed)
		out.Parts = append(out.Parts, Stratum{names[i], sizes[i], len(drawn)})
		for _, p := range drawn {
			out.Members = append(out.Members, Member{p, i})
		}
	}
	if len(out.Members) == 0 {
		return out, fmt.Errorf("%w: the focus holds no answers to draw from", state.ErrRequest)
	}
	// Coders may stop half-way: what they have coded by then is a random part of each part.
	slices.SortStableFunc(out.Members, func(a, b Member) int {
		return cmp.Compare(frame.Lot(uint32(a.Respondent), d.Seed), frame.Lot(uint32(b.Respondent), d.Seed))
	})
	return out, ctx.Err()
}

// partsBy parts a set of rows, each row into one part.
func partsBy(s *state.State, set *roaring.Bitmap, by string) (names []string, sets []*roaring.Bitmap, err error) {
	switch by {
	case "":
		return []string{""}, []*roaring.Bitmap{set}, nil
	case ByCoded:
		return []string{"coded", "not coded"}, []*roaring.Bitmap{roaring.And(set, s.Coding.Coded), roaring.AndNot(set, s.Coding.Coded)}, nil
	}
	v, err := s.Study.Variable(by)
	if err != nil {
		return nil, nil, err
	}
	if len(v.Values) > mostParts {
		return nil, nil, fmt.Errorf("%w: %q has %d values; a sample is drawn from up to %d parts", state.ErrRequest, by, len(v.Values), mostParts)
	}
	rest := set.Clone()
	for _, value := range v.Values {
		part := roaring.And(rest, v.With(value)) // who has several values is in the part of the first
		rest.AndNot(part)
		names, sets = append(names, value), append(sets, part)
	}
	if !rest.IsEmpty() {
		names, sets = append(names, "no value"), append(sets, rest)
	}
	return names, sets, nil
}

// shared parts a number among parts, evenly, but no part gets more than it holds.
func shared(n int, holds []int) []int {
	out := make([]int, len(holds))
	for n > 0 {
		open := 0
		for i := range holds {
			if out[i] < holds[i] {
				open++
			}
		}
		if open == 0 {
			break
		}
		each := max(1, n/open)
		for i := range holds {
			more := min(each, holds[i]-out[i], n)
			out[i], n = out[i]+more, n-more
		}
	}
	return out
}

// BlindAnswer is an answer as it is coded blind: nothing says how it is coded.
type BlindAnswer struct {
	Number survey.Respondent `json:"number"`
	Parts  []focus.Part      `json:"parts"`
	Who    []state.About     `json:"who"`
}

// BlindOf gives an answer to be coded blind.
func BlindOf(s *state.State, row int) BlindAnswer {
	return BlindAnswer{s.Respondent(row), focus.Focus{}.Marker(s).Parts(row), s.Who(row)}
}

// BlindTable is the answers of a sample to be coded elsewhere: rows with the columns id, answer and category, the last empty.
func BlindTable(s *state.State, members []survey.Respondent) ([][]string, error) {
	column, err := identifier(s)
	if err != nil {
		return nil, err
	}
	out := [][]string{{"id", "answer", "category"}}
	for _, p := range members {
		if row, there := s.Study.Rows.Row(p); there {
			out = append(out, []string{s.Cell(row, column), s.Original(row).Text, ""})
		}
	}
	return out, nil
}

// CleanName is a name without blanks around it.
func CleanName(name string) string { return strings.Join(strings.Fields(name), " ") }
