package text

import "strings"

// Status tells the answers that say something from those that do not.
type Status uint8

// The statuses. They are marks: nothing is ever deleted for its status.
const (
	Missing  Status = iota // nothing, or only white space, was entered
	Empty                  // no word is left
	NoAnswer               // the whole answer is a phrase of refusal
	Answered
)

// StatusNames are the statuses as the API and the exports write them, by number.
var StatusNames = [...]string{"missing", "empty", "no answer", "answered"}

func (s Status) String() string { return StatusNames[s] }

// DefaultNoAnswers are phrases of refusal, per language. "Nothing", "none" and "don't know" are answers and stay out.
func DefaultNoAnswers(language string) []string {
	phrases := []string{"n/a", "na", "asdf", "asdfgh", "qwerty", "xxx"}
	if language == "en" {
		phrases = append(phrases, "not applicable", "no comment", "no comments", "prefer not to say", "rather not say",
			"no answer", "refused")
	}
	return phrases
}

// NoAnswers recognises phrases of refusal; they pass through the same cleaning as the answers.
type NoAnswers struct {
	phrases map[string]bool
	longest int // in words
}

// NewNoAnswers makes ready the phrases.
func NewNoAnswers(p *Pipeline, phrases []string) NoAnswers {
	n := NoAnswers{phrases: map[string]bool{}}
	for _, phrase := range phrases {
		if ws := p.Surfaces(phrase); len(ws) > 0 {
			n.phrases[strings.Join(ws, " ")] = true
			n.longest = max(n.longest, len(ws))
		}
	}
	return n
}

// Status judges an answer by its original and its words.
func (n NoAnswers) Status(original string, ws []Word) Status {
	switch {
	case strings.TrimSpace(original) == "":
		return Missing
	case len(ws) == 0:
		return Empty
	case len(ws) > n.longest:
		return Answered
	}
	var b strings.Builder
	for i, w := range ws {
		if i > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(w.Surface)
	}
	if n.phrases[b.String()] {
		return NoAnswer
	}
	return Answered
}
