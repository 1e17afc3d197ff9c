package focus

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/terms"
	"aftermath/internal/desk/state"
)

// Places lists where a condition of words stands in a set of answers: a rule, a term, or a row of terms.
func (c Condition) Places(ctx context.Context, s *state.State, set *roaring.Bitmap) ([]terms.Place, error) {
	switch c.Kind {
	case "words":
		p, problems := s.Coding.Compile(c.Text)
		if p == nil {
			return nil, fmt.Errorf("%w: %q can't be read as a rule: %s", state.ErrRequest, c.Text, problems[0].Message)
		}
		places := []terms.Place{}
		err := s.Coding.Matcher().Places(ctx, p, set, func(answer uint32, start, length int) bool {
			places = append(places, terms.Place{Answer: answer, Start: int32(start), Length: int32(length)})
			return true
		})
		return places, err
	case "row":
		_, sequence, ok := s.View.FindRow(c.Text)
		if !ok {
			return nil, fmt.Errorf("%w: %q are no two or three terms of this question", state.ErrRequest, c.Text)
		}
		return terms.Places(ctx, s.View.Index, lexicon.NewPhrases(sequence), set)
	}
	t, ok := s.View.Find(c.Text)
	if !ok {
		return nil, fmt.Errorf("%w: there is no term %q in this question", state.ErrRequest, c.Text)
	}
	return terms.Places(ctx, s.View.Index, s.View.Phrases(t), set)
}

// Hidden says of words whether they count towards a term that is hidden.
func Hidden(s *state.State) func(word uint32) bool {
	return func(word uint32) bool { return s.View.Terms[s.View.TermOf(word)].Stop }
}

// branch are the answers in which words follow a subject, or lead to it, stop words passed over.
func (c Condition) branch(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	subject := Condition{Kind: c.Op, Text: c.Text}
	if c.Op != "words" && c.Op != "term" && c.Op != "row" {
		return nil, fmt.Errorf("%w: a branch is of words, a term or a row, not of %q", state.ErrRequest, c.Op)
	}
	places, err := subject.Places(ctx, s, s.View.Index.Answered())
	if err != nil {
		return nil, err
	}
	out, skip := roaring.New(), Hidden(s)
	for _, p := range places {
		if terms.Along(s.View.Index, p, c.N == 1, skip, c.Values) {
			out.Add(p.Answer)
		}
	}
	return out, nil
}
