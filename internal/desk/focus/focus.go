// Package focus is the set of answers that everything on the screen speaks of, as a list of conditions.
package focus

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/internal/desk/state"
)

// Focus is the set of answers that meet all conditions. Without a condition on the status it speaks of the answered.
type Focus []Condition

// MaxConditions is how many conditions a focus may have.
const MaxConditions = 200

// Parse reads a focus as the address line carries it: JSON, empty for all answers.
func Parse(s string) (Focus, error) {
	if s == "" {
		return nil, nil
	}
	var f Focus
	if err := json.Unmarshal([]byte(s), &f); err != nil {
		if errors.Is(err, state.ErrRequest) {
			return nil, err
		}
		return nil, fmt.Errorf("%w: the focus can't be read: %w", state.ErrRequest, err)
	}
	if len(f) > MaxConditions {
		return nil, fmt.Errorf("%w: a focus has up to %d conditions", state.ErrRequest, MaxConditions)
	}
	return f, nil
}

// MarshalJSON writes the list of conditions, which is never null.
func (f Focus) MarshalJSON() ([]byte, error) { return json.Marshal(append([]Condition{}, f...)) }

// With is the focus narrowed by a further condition; the given one stays as it is.
func (f Focus) With(c Condition) Focus { return append(slices.Clone(f), c) }

// Key names what a focus says: two have the same key just when they have the same conditions, in whatever order.
type Key string

// Key gives the one key of the focus. Everything that is kept for a focus is kept under it.
func (f Focus) Key() Key {
	parts := make([]string, len(f))
	for i, c := range f {
		data, err := json.Marshal(c) // strings and numbers only
		if err != nil {
			panic(err)
		}
		parts[i] = string(data)
	}
	slices.Sort(parts)
	return Key(strings.Join(slices.Compact(parts), ","))
}

type setKey struct{ focus Key }

func (setKey) Most() int { return 64 }

// Answers works out the rows of a focus. The caller must not change the set.
func (f Focus) Answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	return state.Remember(
		ctx, s.Memo, setKey{f.Key()}, func(ctx context.Context) (*roaring.Bitmap, error) { return f.narrow(ctx, s) },
	)
}

func (f Focus) narrow(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	ix := s.Reading.Index
	set := ix.Answered().Clone()
	if slices.ContainsFunc(f, func(c Condition) bool { return c.Scope().Unanswered }) {
		set.AddRange(0, uint64(ix.Len()))
	}
	for _, c := range f {
		part, err := c.answers(ctx, s)
		if err != nil {
			return nil, err
		}
		if c.Not {
			set.AndNot(part)
		} else {
			set.And(part)
		}
	}
	return set, nil
}
