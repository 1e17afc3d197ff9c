package focus

import (
	"context"
	"fmt"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/terms"
	"aftermath/internal/desk/state"
)

// Subject is a test whose words stand somewhere: a rule, a term, or a row of terms.
type Subject interface {
	Test
	// Places lists where the words stand in a set of answers.
	Places(ctx context.Context, s *state.State, in *roaring.Bitmap) ([]terms.Place, error)
}

// Words passes answers that a rule matches.
type Words struct {
	Rule string `json:"text" doc:"a rule"`
}

// Kind is words.
func (Words) Kind() string { return "words" }

// Scope is the scheme: a rule may name term lists and categories.
func (Words) Scope() Scope { return Scope{On: OnScheme} }

func (w Words) program(s *state.State) (*rule.Program, error) {
	p, problems := s.Coding.Compile(w.Rule)
	if p == nil {
		return nil, fmt.Errorf(
			"%w: %q can't be read as a rule: %s", state.ErrRequest, state.Shortened(w.Rule, 200), problems[0].Message,
		)
	}
	return p, nil
}

func (w Words) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	p, err := w.program(s)
	if err != nil {
		return nil, err
	}
	return s.Coding.Matcher().Answers(ctx, p)
}

// Places lists where the rule matches.
func (w Words) Places(ctx context.Context, s *state.State, in *roaring.Bitmap) ([]terms.Place, error) {
	p, err := w.program(s)
	if err != nil {
		return nil, err
	}
	places := []terms.Place{}
	err = s.Coding.Matcher().Places(ctx, p, in, func(answer uint32, start, length int) bool {
		places = append(places, terms.Place{Answer: answer, Start: int32(start), Length: int32(length)})
		return true
	})
	return places, err
}

func (w Words) mark(m *Marker) { m.addRule(w.Rule) }

// Term passes answers that hold a term. A term that the question does not have is in no answer.
type Term struct {
	Label string `json:"text" doc:"the label of a term"`
}

// Kind is term.
func (Term) Kind() string { return "term" }

// Scope is the scheme, whose lexicon makes the terms.
func (Term) Scope() Scope { return Scope{On: OnScheme} }

func (t Term) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	if found, ok := s.View.Find(t.Label); ok {
		return s.View.Phrases(found).Answers(s.View.Index), nil
	}
	return roaring.New(), nil
}

// Places lists where the term stands.
func (t Term) Places(ctx context.Context, s *state.State, in *roaring.Bitmap) ([]terms.Place, error) {
	found, ok := s.View.Find(t.Label)
	if !ok {
		return nil, fmt.Errorf("%w: there is no term %q in this question", state.ErrRequest, t.Label)
	}
	return terms.Places(ctx, s.View.Index, s.View.Phrases(found), in)
}

func (t Term) mark(m *Marker) {
	if found, ok := m.state.View.Find(t.Label); ok {
		m.phrases = append(m.phrases, m.state.View.Phrases(found))
	}
}

// Row passes answers that hold two or three terms one after the other.
type Row struct {
	Label string `json:"text" doc:"two or three terms"`
}

// Kind is row.
func (Row) Kind() string { return "row" }

// Scope is the scheme, whose lexicon makes the terms.
func (Row) Scope() Scope { return Scope{On: OnScheme} }

func (r Row) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	if _, sequence, ok := s.View.FindRow(r.Label); ok {
		return lexicon.NewPhrases(sequence).Answers(s.View.Index), nil
	}
	return roaring.New(), nil
}

// Places lists where the row stands.
func (r Row) Places(ctx context.Context, s *state.State, in *roaring.Bitmap) ([]terms.Place, error) {
	_, sequence, ok := s.View.FindRow(r.Label)
	if !ok {
		return nil, fmt.Errorf("%w: %q are no two or three terms of this question", state.ErrRequest, r.Label)
	}
	return terms.Places(ctx, s.View.Index, lexicon.NewPhrases(sequence), in)
}

func (r Row) mark(m *Marker) {
	if _, sequence, ok := m.state.View.FindRow(r.Label); ok {
		m.phrases = append(m.phrases, lexicon.NewPhrases(sequence))
	}
}

// Block passes answers that hold words in a row, as they are read.
type Block struct {
	Text string `json:"text" doc:"words in a row, as they are read"`
}

// Kind is block.
func (Block) Kind() string { return "block" }

// Scope is the reading.
func (Block) Scope() Scope { return Scope{On: OnReading} }

func (b Block) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	return s.Reading.Index.Holding(b.words(s)), nil
}

func (b Block) mark(m *Marker) {
	if row := b.words(m.state); row != nil {
		m.blocks = append(m.blocks, row)
	}
}

// words are the numbers of the words of a block; none where one of them is in no answer.
func (b Block) words(s *state.State) (row []uint32) {
	for _, surface := range strings.Fields(b.Text) {
		w, ok := s.Reading.Index.Word(surface)
		if !ok {
			return nil
		}
		row = append(row, w)
	}
	return row
}

// Branch passes answers in which words follow a subject or lead to it, stop words passed over.
type Branch struct {
	Of     string   `json:"op" enum:"words,term,row" doc:"what the text is: a rule, a term or a row of terms"`
	Text   string   `json:"text" doc:"the subject"`
	Words  []string `json:"values" doc:"words that come one after the other, the one next to the subject first"`
	Follow int      `json:"n,omitempty" enum:"0,1" doc:"1 for words that follow the subject, 0 for those that lead to it"`
}

// Kind is branch.
func (Branch) Kind() string { return "branch" }

// Scope is the scheme, whose stop words are passed over.
func (Branch) Scope() Scope { return Scope{On: OnScheme} }

func (b Branch) subject() (Subject, error) {
	switch b.Of {
	case Words{}.Kind():
		return Words{b.Text}, nil
	case Term{}.Kind():
		return Term{b.Text}, nil
	case Row{}.Kind():
		return Row{b.Text}, nil
	}
	return nil, fmt.Errorf("%w: a branch is of words, a term or a row, not of %q", state.ErrRequest, b.Of)
}

func (b Branch) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	subject, err := b.subject()
	if err != nil {
		return nil, err
	}
	places, err := subject.Places(ctx, s, s.View.Index.Answered())
	if err != nil {
		return nil, err
	}
	out, skip := roaring.New(), Hidden(s)
	for _, p := range places {
		if terms.Along(s.View.Index, p, b.Follow == 1, skip, b.Words) {
			out.Add(p.Answer)
		}
	}
	return out, nil
}

func (b Branch) mark(m *Marker) {
	if subject, err := b.subject(); err == nil {
		subject.mark(m)
	}
}

// Hidden says of words whether they count towards a term that is hidden.
func Hidden(s *state.State) func(word uint32) bool {
	return func(word uint32) bool { return s.View.Terms[s.View.TermOf(word)].Stop }
}
