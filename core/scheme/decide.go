package scheme

import (
	"fmt"
	"strings"

	"aftermath/core/frame"
	"aftermath/core/survey"
)

// Decide puts a category on answers by hand, takes it off, or leaves them to the rules again.
type Decide struct {
	Category string              `json:"category"`
	Answers  []survey.Respondent `json:"answers" minItems:"1" doc:"numbers of the respondents"`
	To       Mark                `json:"to" enum:"on,off,rules"`
	// Suggested marks what is put on since it is likely, without that anybody looks at the answers.
	Suggested bool   `json:"suggested,omitempty" doc:"it is put on since it is likely, unread"`
	Note      string `json:"note,omitempty" maxLength:"1000" doc:"why; stays with the decision"`
}

// Settle says that answers were looked at and need no category, or takes that back.
type Settle struct {
	Answers []survey.Respondent `json:"answers" minItems:"1" doc:"numbers of the respondents"`
	On      bool                `json:"on"`
}

// TakeOver has what was decided by hand on answers hold for others, too: for the same answers after their rows were replaced.
type TakeOver struct {
	From []survey.Respondent `json:"from" minItems:"1" doc:"whose decisions"`
	To   []survey.Respondent `json:"to" minItems:"1" doc:"for each of them, who has them then, too"`
}

// Kind tells it apart.
func (TakeOver) Kind() string { return "take over" }

// Kind tells it apart.
func (Decide) Kind() string { return "decide" }

// Kind tells it apart.
func (Settle) Kind() string { return "settle" }

func (e Decide) change(s *Scheme, at Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	if len(c.Children) > 0 {
		return "", refuse("%s is a net; decisions go to a category inside it", c.PathName())
	}
	summary, ok := map[Mark]string{On: "Put %s on %s by hand", Off: "Took %s off %s by hand", ByRules: "Left %s to the rules on %s"}[e.To]
	if !ok {
		return "", refuse("a category is put on, taken off, or left to the rules, not %q", e.To)
	}
	if e.Suggested && e.To != On {
		return "", refuse("only what is put on can be suggested")
	}
	if e.Suggested {
		summary = "Put %s on %s since it is likely"
	}
	n, err := s.mark(Marks{c.ID, e.To, Origin{Suggested: e.Suggested, Note: strings.TrimSpace(e.Note)}, e.Answers}, at)
	return fmt.Sprintf(summary, c.PathName(), answers(n)), err
}

func (e Settle) change(s *Scheme, at Situation) (string, error) {
	if e.On {
		n, err := s.mark(Marks{To: On, Respondents: e.Answers}, at)
		return "Settled " + answers(n), err
	}
	n, err := s.mark(Marks{To: ByRules, Respondents: e.Answers}, at)
	return "Unsettled " + answers(n), err
}

func (e TakeOver) change(s *Scheme, at Situation) (string, error) {
	if len(e.From) != len(e.To) {
		return "", refuse("there are decisions of %d respondents for %d others", len(e.From), len(e.To))
	}
	to := map[survey.Respondent][]survey.Respondent{}
	for i, p := range e.From {
		if _, there := at.Rows.Row(e.To[i]); !there {
			return "", refuse("respondent %d is not there", e.To[i])
		}
		to[p] = append(to[p], e.To[i])
	}
	var taken []Marks
	held := map[survey.Respondent]bool{}
	for _, m := range s.Decisions.All() {
		over := Marks{Category: m.Category, To: m.To, Origin: m.Origin}
		for _, p := range m.Respondents {
			for _, now := range to[p] {
				over.Respondents = append(over.Respondents, now)
				held[now] = true
			}
		}
		if len(over.Respondents) > 0 {
			taken = append(taken, over)
		}
	}
	if len(taken) == 0 {
		return "", refuse("nothing was decided on these answers")
	}
	s.Decisions = s.Decisions.With(taken)
	return "Took over what was decided by hand on " + answers(len(held)), nil
}

// mark decides on answers, each of which must be there, and gives how many different ones they are.
func (s *Scheme) mark(m Marks, at Situation) (int, error) {
	if len(m.Respondents) == 0 {
		return 0, refuse("no answers were given")
	}
	for _, p := range m.Respondents {
		if _, ok := at.Rows.Row(p); !ok {
			return 0, refuse("there is no answer of respondent %d", p)
		}
	}
	m.By, m.Day = at.By, at.Day
	s.Decisions = s.Decisions.With([]Marks{m})
	return survey.RespondentsOf(m.Respondents...).Len(), nil
}

func answers(n int) string {
	if n == 1 {
		return "one answer"
	}
	return fmt.Sprintf("%d answers", n)
}

// category finds a category by its key.
func category(f frame.Frame, id string) (frame.Place, error) {
	if p, ok := f.Find(id); ok && id != "" {
		return p, nil
	}
	return frame.Place{}, refuse("the category is gone")
}
