package text

import (
	"errors"
	"fmt"
	"slices"

	"aftermath/core/oneof"
)

// Step is one cleaning step with its settings, as the playbook writes it.
type Step struct{ StepKind }

// StepKind is what a step does. Each kind is a type with its settings and nothing else; StepKinds lists them.
type StepKind interface {
	oneof.Kinded
	// prepare makes the step ready for texts in a language.
	prepare(language string) (func(*reading), error)
	// Texts are the texts that the analyst wrote into its settings.
	Texts() []string
}

// StepKinds are all steps there are, in their default order, each with nothing in it.
var StepKinds = []StepKind{
	MarkupStep{}, LinksStep{}, TypographyStep{}, ReplaceStep{}, LettersStep{}, ContractionsStep{}, AccentsStep{}, GluedStep{}, RepeatsStep{}, NumbersStep{}, EmojiStep{},
}

// StepKey is the field of JSON that tells steps apart.
const StepKey = "step"

// ErrStep is behind every error about a step or its settings.
var ErrStep = errors.New("cleaning step")

// MarshalJSON writes the step with its kind; one without a kind is none.
func (s Step) MarshalJSON() ([]byte, error) {
	if s.StepKind == nil {
		return []byte("null"), nil
	}
	return oneof.EncodeBy(StepKey, s.StepKind)
}

// UnmarshalJSON reads a step. A setting that its kind does not have is an error.
func (s *Step) UnmarshalJSON(data []byte) (err error) {
	if s.StepKind, err = oneof.DecodeBy(StepKey, "cleaning step", StepKinds, data); err != nil {
		return fmt.Errorf("%w: %w", ErrStep, err)
	}
	return nil
}

// plain is a step whose settings hold no text.
type plain struct{}

// Texts are none.
func (plain) Texts() []string { return nil }

// MarkupStep takes out tags and entities.
type MarkupStep struct{ plain }

// LinksStep takes out addresses of the web and of mail.
type LinksStep struct {
	plain
	Mode   string `json:"mode,omitempty" enum:"remove,mask" doc:"remove (default) or mask"`
	Phones bool   `json:"phones,omitempty" doc:"mask phone numbers too"`
	Bare   bool   `json:"bare,omitempty" doc:"names such as larkmoor.com, without http, www or a path, are addresses too"`
}

// TypographyStep makes quotes, dashes and spaces plain.
type TypographyStep struct{ plain }

// ReplaceStep reads something else in the place of what the analyst names. It may stand several times among the steps.
type ReplaceStep struct {
	Rules []Replacement `json:"rules,omitempty" doc:"what to find and what to read instead"`
}

// Replacement is a find-and-replace pair of the replace step. Plain text is found as whole words, case-blind; a
// regular expression (RE2) as written.
type Replacement struct {
	Find  string `json:"find"`
	With  string `json:"with"`
	Regex bool   `json:"regex,omitempty"`
}

// LettersStep reads one letter for another.
type LettersStep struct {
	Letters map[string]string `json:"letters,omitempty" doc:"one letter to another"`
}

// ContractionsStep writes contractions out.
type ContractionsStep struct{ plain }

// AccentsStep folds accents.
type AccentsStep struct{ plain }

// GluedStep parts letters from digits.
type GluedStep struct{ plain }

// RepeatsStep shortens long runs of a letter.
type RepeatsStep struct{ plain }

// NumbersStep leaves numbers out.
type NumbersStep struct{ plain }

// EmojiStep leaves emoji out, or keeps them as words.
type EmojiStep struct {
	plain
	Mode string `json:"mode,omitempty" enum:"keep,drop" doc:"keep (default) or drop"`
}

// Kind tells it apart.
func (MarkupStep) Kind() string { return "markup" }

// Kind tells it apart.
func (LinksStep) Kind() string { return "links" }

// Kind tells it apart.
func (TypographyStep) Kind() string { return "typography" }

// Kind tells it apart.
func (ReplaceStep) Kind() string { return "replace" }

// Kind tells it apart.
func (LettersStep) Kind() string { return "letters" }

// Kind tells it apart.
func (ContractionsStep) Kind() string { return "contractions" }

// Kind tells it apart.
func (AccentsStep) Kind() string { return "accents" }

// Kind tells it apart.
func (GluedStep) Kind() string { return "glued" }

// Kind tells it apart.
func (RepeatsStep) Kind() string { return "repeats" }

// Kind tells it apart.
func (NumbersStep) Kind() string { return "numbers" }

// Kind tells it apart.
func (EmojiStep) Kind() string { return "emoji" }

// Texts are what is found and what is put there.
func (s ReplaceStep) Texts() (out []string) {
	for _, r := range s.Rules {
		out = append(out, r.Find, r.With)
	}
	return out
}

// Texts are the letters.
func (s LettersStep) Texts() (out []string) {
	for from, to := range s.Letters {
		out = append(out, from, to)
	}
	return out
}

func (MarkupStep) prepare(string) (func(*reading), error)     { return markup, nil }
func (TypographyStep) prepare(string) (func(*reading), error) { return typography, nil }
func (s ReplaceStep) prepare(string) (func(*reading), error)  { return replacements(s.Rules) }
func (s LettersStep) prepare(string) (func(*reading), error)  { return letterSwaps(s.Letters) }
func (ContractionsStep) prepare(language string) (func(*reading), error) {
	return contractions(language), nil
}
func (AccentsStep) prepare(string) (func(*reading), error) { return foldAccents, nil }
func (GluedStep) prepare(string) (func(*reading), error)   { return partGlued, nil }
func (RepeatsStep) prepare(string) (func(*reading), error) { return shortenRepeats, nil }
func (NumbersStep) prepare(string) (func(*reading), error) { return dropNumbers, nil }

func (s LinksStep) prepare(string) (func(*reading), error) {
	if err := oneOf(s.Mode, "", "remove", "mask"); err != nil {
		return nil, err
	}
	return links(s.Mode == "mask", s.Phones, s.Bare), nil
}

func (s EmojiStep) prepare(string) (func(*reading), error) {
	if err := oneOf(s.Mode, "", "keep", "drop"); err != nil {
		return nil, err
	}
	if s.Mode == "drop" {
		return dropEmoji, nil
	}
	return func(*reading) {}, nil
}

// DefaultSteps are the steps of a study that has set none.
func DefaultSteps() []Step {
	return []Step{{MarkupStep{}}, {LinksStep{}}, {TypographyStep{}}, {ContractionsStep{}}, {AccentsStep{}}, {GluedStep{}}, {RepeatsStep{}}}
}

// Steps makes steps of kinds.
func Steps(kinds ...StepKind) []Step {
	out := make([]Step, len(kinds))
	for i, k := range kinds {
		out[i] = Step{k}
	}
	return out
}

// Moved gives the steps with that at place i moved to the place j.
func Moved(steps []Step, i, j int) []Step {
	out := slices.Delete(slices.Clone(steps), i, i+1)
	return slices.Insert(out, j, steps[i])
}
