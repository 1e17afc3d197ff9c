package review

import (
	"context"

	"aftermath/core/classifier"
	"aftermath/core/frame"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/answers"
)

// TriedText is how a text would be coded.
type TriedText struct {
	Parts  []focus.Part   `json:"parts" doc:"the text, cut at the words that decided"`
	Status string         `json:"status"`
	Codes  []answers.Code `json:"codes"`
	Likely []Likely       `json:"likely" doc:"the likeliest first; none while nothing was learned"`
}

// TryTexts codes texts as if respondents of whom nothing else is known had said them.
func TryTexts(ctx context.Context, s *state.State, texts []string) ([]TriedText, error) {
	alone, err := s.Alone(ctx, texts...)
	if err != nil {
		return nil, err
	}
	l, err := learnedOf(ctx, s)
	if err != nil {
		return nil, err
	}
	var f focus.Focus
	for _, r := range alone.Coding.Results {
		if len(r.Children) == 0 {
			f = append(f, focus.Is(focus.Category{ID: r.ID}))
		}
	}
	out := []TriedText{}
	m, reader := f.Marker(alone), l.model.NewReader()
	for row := range texts {
		one := answers.One(alone, m, row)
		x := TriedText{Parts: one.Parts, Status: one.Status, Codes: one.Codes}
		reader.ReadText(wordsHere(s, alone, row), alone.Reading.Index.Sentences(row))
		x.Likely = l.likelyIn(s, reader, func(c *frame.Result) bool {
			has, ok := alone.Coding.Of(c.ID)
			return ok && has.Answers.Contains(uint32(row))
		})
		out = append(out, x)
	}
	return out, ctx.Err()
}

// wordsHere are the words of an answer of another index by the numbers of this one.
func wordsHere(s, other *state.State, row int) (out []uint32) {
	for _, w := range other.Reading.Index.Answer(row) {
		here, ok := s.Reading.Index.Word(other.Reading.Index.Surface(w))
		if !ok {
			here = classifier.NoWord
		}
		out = append(out, here)
	}
	return out
}
