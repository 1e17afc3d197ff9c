package scheme

import "aftermath/core/text"

// SetCleaning sets the cleaning steps that are on, in their order.
type SetCleaning struct {
	Steps []text.Step `json:"steps" maxItems:"64"`
}

// SetNoAnswers sets the phrases of refusal: an answer that is one of them says nothing.
type SetNoAnswers struct {
	Phrases []string `json:"phrases"`
}

// MaskPersonalData says whether mail addresses and phone numbers are masked wherever answers are shown or exported.
type MaskPersonalData struct {
	On bool `json:"on"`
}

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
		return "Masked mail addresses and phone numbers", nil
	}
	return "Showed mail addresses and phone numbers again", nil
}
