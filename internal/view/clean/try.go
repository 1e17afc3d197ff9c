package clean

import (
	"context"

	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/answers"
)

// Trying is how a text would be read and coded.
type Trying struct {
	Stages     []text.Stage    `json:"stages" doc:"what each step makes of it"`
	Text       string          `json:"text" doc:"after all steps"`
	Status     string          `json:"status"`
	Words      []TriedWord     `json:"words"`
	Categories []TriedCategory `json:"categories" doc:"those it would get"`
}

// TriedWord is a word of the text.
type TriedWord struct {
	text.Word
	Term string `json:"term" doc:"what it counts as"`
	Stop bool   `json:"stop,omitempty" doc:"hidden from lists"`
	New  bool   `json:"new,omitempty" doc:"in no answer of the question"`
}

// TriedCategory is a category that the text would get.
type TriedCategory struct {
	answers.Code
	Parts []focus.Part `json:"parts" doc:"the text, cut at the words that decided"`
}

// Try reads and codes a text as if a respondent of whom nothing else is known had said it.
func Try(ctx context.Context, s *state.State, given string) (Trying, error) {
	c, stages := s.Reading.Pipeline.Trace(given)
	no := text.NewNoAnswers(s.Reading.Pipeline, s.Scheme.NoAnswers)
	out := Trying{
		Stages:     stages,
		Text:       c.Text,
		Status:     no.Status(given, c.Words).String(),
		Words:      []TriedWord{},
		Categories: []TriedCategory{},
	}
	for _, w := range c.Words {
		word := TriedWord{Word: w, Term: w.Surface, New: true}
		if n, ok := s.View.Index.Word(w.Surface); ok {
			t := s.View.Terms[s.View.TermOf(n)]
			word.Term, word.Stop, word.New = t.Label, t.Stop, false
		}
		out.Words = append(out.Words, word)
	}
	alone, err := s.Alone(ctx, given)
	if err != nil {
		return out, err
	}
	for _, r := range alone.Coding.Results {
		if code, ok := answers.CodeOf(r, 0, alone.Decisions); ok {
			out.Categories = append(out.Categories, TriedCategory{code, focus.Focus{focus.Is(focus.Category{ID: r.ID})}.Marker(alone).Parts(0)})
		}
	}
	return out, nil
}
