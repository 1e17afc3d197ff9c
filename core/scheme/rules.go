package scheme

import (
	"fmt"
	"slices"
	"strings"
)

// WriteRule puts a rule in the place of another of its category, adds one, or takes one away. Rules go by their text: an edit
// made in another window in the meantime moves none of them under one's hand.
type WriteRule struct {
	Category string `json:"category"`
	Rule     string `json:"rule" doc:"its text; empty to take away the one it was"`
	Was      string `json:"was,omitempty" doc:"the text of the rule whose place it takes; left out, it is a further one"`
	Unless   bool   `json:"unless,omitempty" doc:"it is one of those that take away"`
}

// RestRule lets a rule rest, which keeps it without using it, or takes it up again.
type RestRule struct {
	Category string `json:"category"`
	Rule     string `json:"rule" doc:"its text"`
	On       bool   `json:"on" doc:"it rests"`
}

// RefuseDraft remembers a draft for a category that is not to be proposed again.
type RefuseDraft struct {
	Rule string `json:"rule" minLength:"1" doc:"the draft's rule"`
}

// ProposeAgain lets all drafts that were refused be proposed again.
type ProposeAgain struct{}

// Kind tells it apart.
func (WriteRule) Kind() string { return "rule" }

// Kind tells it apart.
func (RestRule) Kind() string { return "rest" }

// Kind tells it apart.
func (RefuseDraft) Kind() string { return "refuse draft" }

// Kind tells it apart.
func (ProposeAgain) Kind() string { return "draft again" }

func (e WriteRule) change(s *Scheme, _ Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	rules, what := &c.Rules, "rule"
	if e.Unless {
		rules, what = &c.Unless, "“unless” rule"
	}
	text, was := strings.TrimSpace(e.Rule), strings.TrimSpace(e.Was)
	i := slices.Index(*rules, was)
	switch {
	case was != "" && i < 0:
		return "", refuse(
			"the rule %q is no longer in %s, it was changed or removed in another window. What you wrote is still here: keep it as a further rule, or drop it",
			was,
			c.PathName(),
		)
	case text == "" && was == "":
		return "", refuse("the rule is empty")
	case text != "" && text != was && slices.Contains(*rules, text):
		return "", refuse("%s has the rule %q already", c.PathName(), text)
	case text == "":
		*rules = slices.Delete(*rules, i, i+1)
		return fmt.Sprintf("Removed the %s %s from %s", what, was, c.PathName()), nil
	case was == "":
		*rules = append(*rules, text)
		return fmt.Sprintf("Added the %s %s to %s", what, text, c.PathName()), nil
	}
	(*rules)[i] = text
	return fmt.Sprintf("Changed the %s %s of %s to %s", what, was, c.PathName(), text), nil
}

func (e RestRule) change(s *Scheme, _ Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	from, to, summary := &c.Resting, &c.Rules, "Turned on the rule %s of %s"
	if e.On {
		from, to, summary = &c.Rules, &c.Resting, "Turned off the rule %s of %s"
	}
	i := slices.Index(*from, e.Rule)
	if i < 0 {
		return "", refuse("the rule %q is no longer there", e.Rule)
	}
	*from = slices.Delete(*from, i, i+1)
	if !slices.Contains(*to, e.Rule) {
		*to = append(*to, e.Rule)
	}
	return fmt.Sprintf(summary, e.Rule, c.PathName()), nil
}

func (e RefuseDraft) change(s *Scheme, _ Situation) (string, error) {
	if e.Rule == "" {
		return "", refuse("say which draft")
	}
	if !slices.Contains(s.RefusedDrafts, e.Rule) {
		s.RefusedDrafts = append(s.RefusedDrafts, e.Rule)
	}
	return "Refused the draft " + e.Rule, nil
}

func (ProposeAgain) change(s *Scheme, _ Situation) (string, error) {
	s.RefusedDrafts = nil
	return "Let refused drafts be proposed again", nil
}
