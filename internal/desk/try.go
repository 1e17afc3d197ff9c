package desk

import (
	"context"

	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/core/text"
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
	Code
	Parts []Part `json:"parts" doc:"the text, cut at the words that decided"`
}

// Try reads and codes a text as if a respondent of whom nothing else is known had said it.
func (q *Question) Try(ctx context.Context, s *State, given string) (Trying, error) {
	c, stages := s.Reading.Pipeline.Trace(given)
	no := text.NewNoAnswers(s.Reading.Pipeline, s.Playbook.NoAnswers)
	out := Trying{Stages: stages, Text: c.Text, Status: no.Status(given, c.Words).String(), Words: []TriedWord{}, Categories: []TriedCategory{}}
	for _, w := range c.Words {
		word := TriedWord{Word: w, Term: w.Surface, New: true}
		if n, ok := s.View.Index.Word(w.Surface); ok {
			t := s.View.Terms[s.View.TermOf(n)]
			word.Term, word.Stop, word.New = t.Label, t.Stop, false
		}
		out.Words = append(out.Words, word)
	}
	reading, err := s.Playbook.Read(ctx, []string{given}, 1, nil)
	if err != nil {
		return out, err
	}
	alone := &State{Playbook: s.Playbook, Reading: reading, View: s.Playbook.View(reading)}
	var unsaid []*survey.Variable
	for _, v := range s.Study.Variables {
		unsaid = append(unsaid, v.Unsaid())
	}
	none := frame.NewDecisions()
	alone.Coding = s.Playbook.Code(alone.View, []string{given}, unsaid, none, nil)
	for _, r := range alone.Coding.Results {
		if code, ok := codeOf(r, 0, none); ok {
			out.Categories = append(out.Categories, TriedCategory{code, alone.marker(Focus{{Kind: "category", ID: r.ID}}).parts(given, 0)})
		}
	}
	return out, nil
}
