package code

import (
	"fmt"

	"aftermath/core/frame"
	"aftermath/core/rule"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
)

// Why says of an answer and a category, rule by rule and part by part, what was found.
type Why struct {
	Has     bool        `json:"has"`
	Reason  string      `json:"reason" doc:"what decided in the end, in words"`
	ByRules bool        `json:"byRules" doc:"the rules give it, those that take away looked at"`
	Mark    scheme.Mark `json:"mark" enum:"on,off,rules" doc:"what was decided by hand"`
	Rules   []WhyRule   `json:"rules"`
}

// WhyRule is a rule held against the answer.
type WhyRule struct {
	Source string    `json:"source"`
	Number int       `json:"number" doc:"from 1, among those of its kind"`
	Unless bool      `json:"unless,omitempty"`
	Found  bool      `json:"found"`
	Broken string    `json:"broken,omitempty" doc:"why it can't be read"`
	Parts  []WhyPart `json:"parts" doc:"each part and joint, before what it is made of"`
}

// WhyPart is a part or joint of a rule held against the answer.
type WhyPart struct {
	Text   string   `json:"text"`
	What   string   `json:"what" doc:"what it is, in words"`
	Depth  int      `json:"depth"`
	Found  bool     `json:"found"`
	Spoils bool     `json:"spoils,omitempty" doc:"it must not be there, and is"`
	Words  []string `json:"words" doc:"of the answer, as they were written"`
}

// WhyOf holds a category's rules against one answer.
func WhyOf(s *state.State, answer survey.Respondent, category string) (Why, error) {
	r, ok := s.Coding.Of(category)
	row, there := s.Study.Rows.Row(answer)
	if !ok || !there {
		return Why{}, fmt.Errorf("%w: the category or the answer is gone", state.ErrRequest)
	}
	a, mark := uint32(row), s.Scheme.Decisions.Mark(answer, r.ID)
	out := Why{Has: r.Answers.Contains(a), ByRules: r.ByRules.Contains(a), Mark: mark, Rules: []WhyRule{}}
	out.Reason = reason(s, r, a, mark)
	original := s.Original(row)
	words := s.Reading.Pipeline.Clean(original.Text).Words
	add := func(list []frame.RuleResult, unless bool) {
		for i, x := range list {
			w := WhyRule{Source: x.Source, Number: i + 1, Unless: unless, Found: x.Answers.Contains(a), Parts: []WhyPart{}}
			if !x.Readable() {
				w.Broken = x.Problems[0].Message
			}
			runes := []rune(x.Source)
			for _, step := range s.Coding.Trace(x, row) {
				part := WhyPart{
					What:   kindNames[step.Kind],
					Depth:  step.Depth,
					Found:  step.Found,
					Spoils: step.Spoils,
					Words:  []string{},
					Text:   step.Entry,
				}
				if step.Kind == rule.Near {
					part.What = step.Reach.Words()
				}
				if step.End > 0 {
					part.Text = string(runes[step.Start:step.End])
				}
				for i := 0; i < len(step.Words); { // words in a row are shown as they were written
					last := i
					for last+1 < len(step.Words) && step.Words[last+1] == step.Words[last]+1 {
						last++
					}
					part.Words = append(part.Words, original.Text[words[step.Words[i]].Start:words[step.Words[last]].End])
					i = last + 1
				}
				for _, t := range step.Stretches {
					part.Words = append(part.Words, original.Text[t[0]:t[1]])
				}
				w.Parts = append(w.Parts, part)
			}
			out.Rules = append(out.Rules, w)
		}
	}
	add(r.Rules, false)
	add(r.Unless, true)
	return out, nil
}

// reason says in words what decided whether an answer has a category.
func reason(s *state.State, r *frame.Result, a uint32, mark scheme.Mark) string {
	has := r.Answers.Contains(a)
	switch {
	case !s.Reading.Index.Answered().Contains(a) && mark == scheme.ByRules:
		return "the answer says nothing that can be coded"
	case mark == scheme.On && has:
		return "it was put there by hand"
	case mark == scheme.Off:
		return "it was taken off by hand"
	case has && !r.Own.Contains(a):
		return "a category inside the net has it"
	case has:
		return "its rules give it"
	case s.Scheme.Single && r.ByRules.Contains(a):
		return "its rules give it, but each answer is in one category only, and one before it, or one given by hand, has it"
	case r.Own.Contains(a):
		return "its rules give it, but it stands alone and another category has the answer"
	case r.Off:
		return "its rules rest"
	}
	for _, x := range r.Rules {
		if x.Answers.Contains(a) {
			return "its rules give it, but an “unless” takes it away"
		}
	}
	return "none of its rules matches"
}
