package scheme

import (
	"fmt"
	"slices"
	"strings"

	"aftermath/core/text"
)

// SetCleaning sets the cleaning steps that are on, in their order.
type SetCleaning struct {
	Steps []text.Step `json:"steps" maxItems:"64"`
}

// SetNoAnswers sets the phrases of refusal: an answer that is one of them says nothing.
type SetNoAnswers struct {
	Phrases []string `json:"phrases"`
}

// MaskPersonalData says whether personal data is masked wherever it would be shown or exported.
type MaskPersonalData struct {
	On bool `json:"on"`
}

// PassPersonal says of texts that they look like personal data and are none, or that they are after all.
type PassPersonal struct {
	Texts []string `json:"texts" minItems:"1" maxItems:"200"`
	Not   bool     `json:"not,omitempty" doc:"they are personal data after all"`
}

// Kind tells it apart.
func (PassPersonal) Kind() string { return "not personal" }

// PutAside puts warnings about the cleaning aside, or brings them back.
type PutAside struct {
	Warnings []string `json:"warnings" minItems:"1" maxItems:"200" doc:"by their names, as the checks have them"`
	Back     bool     `json:"back,omitempty"`
}

// Kind tells it apart.
func (PutAside) Kind() string { return "put aside" }

// Kind tells it apart.
func (SetCleaning) Kind() string { return "cleaning" }

// Kind tells it apart.
func (SetNoAnswers) Kind() string { return "no answers" }

// Kind tells it apart.
func (MaskPersonalData) Kind() string { return "mask" }

func (e SetCleaning) change(s *Scheme, _ Situation) (string, error) {
	s.Cleaning = e.Steps
	return "Changed the cleaning steps", nil
}

func (e SetNoAnswers) change(s *Scheme, _ Situation) (string, error) {
	s.NoAnswers = e.Phrases
	return "Changed the phrases of refusal", nil
}

func (e MaskPersonalData) change(s *Scheme, _ Situation) (string, error) {
	s.Mask = e.On
	if e.On {
		return "Masked personal data", nil
	}
	return "Showed personal data again", nil
}

func (e PassPersonal) change(s *Scheme, _ Situation) (string, error) {
	if !listed(&s.NotPersonal, e.Texts, !e.Not) {
		return "", fmt.Errorf("%w: nothing changes", ErrEdit)
	}
	if e.Not {
		return "Took " + quoted(e.Texts) + " for personal data again", nil
	}
	return "Said that " + quoted(e.Texts) + " is no personal data", nil
}

// quoted names a text, or says how many there are.
func quoted(texts []string) string {
	if len(texts) == 1 {
		return "“" + texts[0] + "”"
	}
	return fmt.Sprintf("%d texts", len(texts))
}

func (e PutAside) change(s *Scheme, _ Situation) (string, error) {
	if !listed(&s.Aside, e.Warnings, !e.Back) {
		return "", fmt.Errorf("%w: nothing changes", ErrEdit)
	}
	if e.Back {
		return "Brought a warning back", nil
	}
	return "Put a warning aside", nil
}

// listed puts texts on a list, or takes them off, and says whether that changed it.
func listed(list *[]string, texts []string, on bool) bool {
	before := len(*list)
	for _, t := range texts {
		at := slices.Index(*list, t)
		switch {
		case !on && at >= 0:
			*list = slices.Delete(*list, at, at+1)
		case on && at < 0 && strings.TrimSpace(t) != "":
			*list = append(*list, t)
		}
	}
	return len(*list) != before
}
