package scheme

import (
	"fmt"
	"slices"
	"strings"

	"aftermath/core/frame"
	"aftermath/core/rule"
	"aftermath/core/survey"
)

// Several is more than one change of the frame in one edit: all of them, or none. They are made in the order of its fields.
type Several struct {
	Summary string           `json:"summary" doc:"what it does, in words"`
	Rules   []WriteRule      `json:"rules,omitempty"`
	Rest    []RestRule       `json:"rest,omitempty"`
	Change  []ChangeCategory `json:"change,omitempty"`
	Move    []MoveCategory   `json:"move,omitempty"`
	Remove  []RemoveCategory `json:"remove,omitempty"`
	Decide  []Decide         `json:"decide,omitempty"`
}

// ReplaceInRules puts a part in the place of another in the rules of the frame, wherever it stands in them.
type ReplaceInRules struct {
	Find       string   `json:"find" minLength:"1" doc:"a part, as rules write it"`
	With       string   `json:"with" minLength:"1" doc:"what comes in its place"`
	Categories []string `json:"categories,omitempty" doc:"keys of those whose rules are meant, with all inside them; left out, all"`
}

// CheckRule keeps what was found when a random sample of what a rule catches was looked over. It says so until the rule changes.
type CheckRule struct {
	Category string              `json:"category"`
	Rule     string              `json:"rule" doc:"its text; empty for the category as a whole"`
	Matches  int                 `json:"matches" minimum:"0" doc:"answers that it catches, of which the sample was drawn"`
	Right    []survey.Respondent `json:"right" doc:"respondents whose answers belong there; none of either takes back what was found"`
	Wrong    []survey.Respondent `json:"wrong" doc:"those whose answers don't"`
}

// SetSingle says whether each answer is in one category only: the first of the frame that has it.
type SetSingle struct {
	On bool `json:"on"`
}

// Kind tells it apart.
func (SetSingle) Kind() string { return "single" }

// Kind tells it apart.
func (Several) Kind() string { return "several" }

// Kind tells it apart.
func (ReplaceInRules) Kind() string { return "replace in rules" }

// Kind tells it apart.
func (CheckRule) Kind() string { return "check" }

func (e Several) change(s *Scheme, at Situation) (string, error) {
	if strings.TrimSpace(e.Summary) == "" {
		return "", refuse("say in words what it does")
	}
	n := 0
	var err error
	do := func(one Edit) {
		if n++; err == nil {
			_, err = one.change(s, at)
		}
	}
	for _, one := range e.Rules {
		do(one)
	}
	for _, one := range e.Rest {
		do(one)
	}
	for _, one := range e.Change {
		do(one)
	}
	for _, one := range e.Move {
		do(one)
	}
	for _, one := range e.Remove {
		do(one)
	}
	for _, one := range e.Decide {
		do(one)
	}
	if n == 0 {
		return "", refuse("there is nothing to do")
	}
	return strings.TrimSpace(e.Summary), err
}

func (e SetSingle) change(s *Scheme, _ Situation) (string, error) {
	s.Single = e.On
	if e.On {
		return "Left each answer in the first category only that has it", nil
	}
	return "Let answers be in several categories", nil
}

func (e ReplaceInRules) change(s *Scheme, _ Situation) (string, error) {
	for _, x := range [][2]string{{"find", e.Find}, {"put in its place", e.With}} {
		if _, problems := rule.Parse(x[1]); len(problems) > 0 {
			return "", refuse("what to %s can't be read as a part of a rule: %s", x[0], problems[0].Message)
		}
	}
	chosen := s.Frame
	if len(e.Categories) > 0 {
		chosen = nil
		for _, id := range e.Categories {
			c, err := category(s.Frame, id)
			if err != nil {
				return "", err
			}
			chosen = append(chosen, *c.Category)
		}
	}
	meant := map[string]bool{}
	for p := range chosen.All() {
		meant[p.ID] = true
	}
	rules, categories := 0, 0
	for p := range s.Frame.All() {
		if !meant[p.ID] {
			continue
		}
		before := rules
		for _, list := range []*[]string{&p.Rules, &p.Unless, &p.Resting} {
			n := 0
			for i, src := range *list {
				if now, times := rule.Replace(src, e.Find, e.With); times > 0 && now != src {
					(*list)[i] = now
					n++
				}
			}
			if rules += n; n > 0 {
				*list = once(*list)
			}
		}
		if rules > before {
			categories++
		}
	}
	if rules == 0 {
		return "", refuse("%s stands in none of these rules as a part of its own", e.Find)
	}
	return fmt.Sprintf("Replaced %s by %s in %s of %s", e.Find, e.With, counted(rules, "rule", "rules"),
		counted(categories, "category", "categories")), nil
}

// once leaves out what is in a list a second time.
func once(list []string) []string {
	seen := map[string]bool{}
	return slices.DeleteFunc(list, func(s string) bool {
		again := seen[s]
		seen[s] = true
		return again
	})
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "one " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func (e CheckRule) change(s *Scheme, at Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	if e.Rule != "" && !slices.Contains(c.Rules, e.Rule) {
		return "", refuse("the rule %q is no longer in %s", e.Rule, c.PathName())
	}
	right, wrong := survey.RespondentsOf(e.Right...), survey.RespondentsOf(e.Wrong...)
	if right.And(wrong).Len() > 0 {
		return "", refuse("an answer can't be both right and wrong")
	}
	for p := range right.Or(wrong).All() {
		if _, ok := at.Rows.Row(p); !ok {
			return "", refuse("there is no answer of respondent %d", p)
		}
	}
	what := "the rule " + e.Rule + " of " + c.PathName()
	if e.Rule == "" {
		what = "the category " + c.PathName()
	}
	i := slices.IndexFunc(c.Checks, func(x frame.Check) bool { return x.Rule == e.Rule })
	if i >= 0 {
		c.Checks = slices.Delete(slices.Clone(c.Checks), i, i+1)
	}
	n := right.Len() + wrong.Len()
	if n == 0 {
		if i < 0 {
			return "", refuse("no answer was looked at")
		}
		return "Forgot what was found of " + what, nil
	}
	c.Checks = append(slices.Clone(c.Checks), frame.Check{Rule: e.Rule, Matches: e.Matches, Right: right.List(), Wrong: wrong.List()})
	return fmt.Sprintf("Looked over %s: %d of %d right", what, right.Len(), n), nil
}

// dropChecks takes away the checks of rules that are gone or were changed.
func dropChecks(before, after frame.Frame) {
	was := map[string]*frame.Category{}
	for p := range before.All() {
		was[p.ID] = p.Category
	}
	for p := range after.All() {
		if len(p.Checks) == 0 {
			continue
		}
		b := was[p.ID]
		p.Checks = p.Standing(b != nil && slices.Equal(b.Rules, p.Rules) && slices.Equal(b.Unless, p.Unless))
	}
}
