package focus

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/text"
	"aftermath/internal/desk/state"
)

// byPerson are all answers of the people of whom an answer with one of some values of a variable says something, and has a category,
// or any or none.
func (c Condition) byPerson(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	v, err := s.Study.Variable(c.Name)
	if err != nil {
		return nil, err
	}
	persons, err := s.Study.Persons(ctx)
	if err != nil {
		return nil, err
	}
	set := roaring.New()
	for _, value := range c.Values {
		set.Or(v.With(value))
	}
	set.And(s.Reading.Index.Status(text.Answered))
	switch c.Text {
	case "any":
	case "none":
		set.AndNot(s.Coding.Coded)
	case "":
		r, ok := s.Coding.Of(c.ID)
		if !ok {
			return nil, gone("a category in the focus")
		}
		set.And(r.Answers)
	default:
		return nil, fmt.Errorf("%w: people had a category, any, or none, not %q", state.ErrRequest, c.Text)
	}
	if persons == nil {
		return set, nil // everybody answered once
	}
	who, out := crosstab.Persons(persons, set), roaring.New()
	for row, person := range persons {
		if row%4096 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if person >= 0 && who.Contains(uint32(person)) {
			out.Add(uint32(row))
		}
	}
	return out, nil
}
