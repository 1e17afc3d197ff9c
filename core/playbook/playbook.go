// Package playbook is cleaning, lexicon and code frame as one portable document, and the way to apply it to answers.
// The application and the command line both run it, so that they agree to the last cell.
package playbook

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

	"aftermath/core/corpus"
	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/survey"
	"aftermath/core/text"
)

// Playbook is the document. Parts left out of a file take their defaults.
type Playbook struct {
	Aftermath     int              `json:"aftermath" doc:"version of the format"`
	Language      string           `json:"language"`
	Cleaning      []text.Step      `json:"cleaning"`
	NoAnswers     []string         `json:"noAnswers" doc:"phrases of refusal"`
	Lexicon       lexicon.Lexicon  `json:"lexicon"`
	Fields        frame.Fields     `json:"fields,omitempty" doc:"properties that its categories have, as a priority or an owner"`
	Frame         frame.Frame      `json:"frame"`
	Single        bool             `json:"single,omitempty" doc:"each answer is in one category only: the first of the frame that has it; by hand it may be in more"`
	RefusedDrafts []string         `json:"refusedDrafts,omitempty" doc:"rules of drafts for categories that are not proposed again"`
	Mask          bool             `json:"mask,omitempty" doc:"personal data is masked wherever it would be shown or exported, and not read"`
	Aside         []string         `json:"aside,omitempty" doc:"warnings about the cleaning that were put aside, by their names"`
	NotPersonal   []string         `json:"notPersonal,omitempty" doc:"texts that look like personal data and are none"`
	Variables     []survey.Spec    `json:"variables,omitempty" doc:"what the columns of the data are"`
	Derived       []survey.Derived `json:"derived,omitempty" doc:"variables made of others"`
}

// New is the playbook of a new study.
func New(language string) Playbook {
	return Playbook{Aftermath: Version, Language: language, Cleaning: text.DefaultSteps(),
		NoAnswers: text.DefaultNoAnswers(language), Lexicon: lexicon.Default(language), Frame: frame.Frame{}}
}

// ErrPlaybook is behind every error about a playbook.
var ErrPlaybook = errors.New("playbook")

// Parse reads a playbook file (UTF-8 JSON). A key that is not known is an error that names it. Rules are not judged
// here: one that can't be read catches nothing and shows its error where it stands.
func Parse(data []byte) (Playbook, error) {
	var head struct {
		Aftermath int    `json:"aftermath"`
		Language  string `json:"language"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return Playbook{}, fmt.Errorf("%w: this is no JSON that can be read: %w", ErrPlaybook, err)
	}
	data, err := current(data, head.Aftermath)
	if err != nil {
		return Playbook{}, err
	}
	if head.Language == "" {
		head.Language = "en"
	}
	p := New(head.Language)
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&p); err != nil {
		return Playbook{}, fmt.Errorf("%w: %w", ErrPlaybook, err)
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return Playbook{}, fmt.Errorf("%w: something stands after the end", ErrPlaybook)
	}
	p.Language = head.Language
	for place := range p.Frame.All() {
		place.ID, place.Checks = "", nil
	}
	p.Frame.Complete(nil, 0)
	return p, p.Check()
}

// Check says what is wrong with a playbook, rules aside.
func (p Playbook) Check() error {
	if err := p.CheckLimits(); err != nil {
		return err
	}
	if _, err := text.NewPipeline(p.Language, p.Cleaning); err != nil {
		return fmt.Errorf("%w: %w", ErrPlaybook, err)
	}
	if err := p.Lexicon.Check(); err != nil {
		return fmt.Errorf("%w: %w", ErrPlaybook, err)
	}
	if err := errors.Join(p.Frame.Check(), p.Fields.Check(p.Frame)); err != nil {
		return fmt.Errorf("%w: %w", ErrPlaybook, err)
	}
	return nil
}

// File writes the playbook as a file, without the keys and respondents of its study, in the oldest version that can say all of it.
func (p Playbook) File() ([]byte, error) {
	p.Aftermath = p.oldestVersion()
	p.Frame = p.Frame.Clone()
	for place := range p.Frame.All() {
		place.ID, place.Checks = "", nil
	}
	data, err := json.MarshalIndent(p, "", "  ")
	return append(data, '\n'), err
}

// Reading is what cleaning and indexing make of the answers of one question.
type Reading struct {
	Pipeline *text.Pipeline
	Index    *corpus.Index
	Stems    *lexicon.Stems
	Masker   text.Masker // finds personal data
}

// Read cleans and indexes all answers, on as many goroutines as workers. Progress may be nil. Answers are given as they may be seen:
// where personal data is masked, it is masked in them, and no word of it is read.
func (p Playbook) Read(ctx context.Context, answers []string, workers int, progress func(done int)) (Reading, error) {
	pipeline, err := text.NewPipeline(p.Language, p.Cleaning)
	if err != nil {
		return Reading{}, err
	}
	ix, err := corpus.Build(ctx, pipeline, text.NewNoAnswers(pipeline, p.NoAnswers), answers, workers, progress)
	if err != nil {
		return Reading{}, err
	}
	return Reading{pipeline, ix, lexicon.NewStems(p.Language, ix), text.NewMasker(p.NotPersonal)}, nil
}

// View applies the lexicon to a reading.
func (p Playbook) View(r Reading) *lexicon.View {
	return lexicon.NewView(r.Stems, r.Pipeline, p.Lexicon)
}

// Code applies the frame. Earlier may be nil; see frame.Code.
func (p Playbook) Code(ctx context.Context, v *lexicon.View, answers []string, variables []*survey.Variable, d frame.Decisions,
	earlier *frame.Coding) (*frame.Coding, error) {
	scope := rule.Scope{View: v, Variables: variables, Text: func(i int) string { return answers[i] }}
	return frame.Code(ctx, p.Frame, p.Single, d, scope, earlier)
}

// Clone copies all that edits change.
func (p Playbook) Clone() Playbook {
	p.Cleaning, p.NoAnswers = slices.Clone(p.Cleaning), slices.Clone(p.NoAnswers)
	p.Lexicon = p.Lexicon.Clone()
	p.Frame, p.Fields = p.Frame.Clone(), p.Fields.Clone()
	p.RefusedDrafts, p.NotPersonal, p.Aside = slices.Clone(p.RefusedDrafts), slices.Clone(p.NotPersonal), slices.Clone(p.Aside)
	return p
}
