// Package clean is what the view Clean asks for: what the steps did, what may be wrong with them, and how a text would be read.
package clean

import (
	"context"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/oneof"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Cleaning is what the steps did, with answers before and after.
type Cleaning struct {
	Steps     []StepFigure `json:"steps" doc:"those that are on, in their order, then the others"`
	Proof     []Proof      `json:"proof"`
	NoAnswers []string     `json:"noAnswers" doc:"phrases of refusal"`
	Mask      bool         `json:"mask" doc:"personal data is masked"`
	Alike     Alike        `json:"alike"`
	Short     int          `json:"short" doc:"answers with fewer words than asked for"`
}

// StepFigure is a step and how many answers it touched.
type StepFigure struct {
	text.Step
	StepCount
}

// StepCount is what a step does to a question.
type StepCount struct {
	On      bool `json:"on"`
	Answers int  `json:"answers"`
}

// MarshalJSON writes the step with its figures.
func (f StepFigure) MarshalJSON() ([]byte, error) {
	return oneof.EncodeBy(text.StepKey, f.StepKind, f.StepCount)
}

// UnmarshalJSON reads a step with its figures.
func (f *StepFigure) UnmarshalJSON(data []byte) (err error) {
	f.StepKind, err = oneof.DecodeBy(text.StepKey, "step", text.StepKinds, data, &f.StepCount)
	return err
}

// Proof is an answer with what cleaning changed in it.
type Proof struct {
	Number survey.Respondent `json:"number" doc:"of the respondent"`
	Pieces []ProofPiece      `json:"pieces"`
	Was    []ProofPiece      `json:"was,omitempty" doc:"in previews: as it is read now"`
}

// ProofPiece is a stretch of the original: kept, or struck and read as something else.
type ProofPiece struct {
	Text   string `json:"text"`
	Struck bool   `json:"struck,omitempty"`
	With   string `json:"with,omitempty"`
	Steps  []int  `json:"steps,omitempty" doc:"the steps that did it, from 0 in their order"`
}

// CleaningOf gives the steps and a proof sheet of at most limit answers in the focus. The sheet is chosen so that every
// step that touched an answer there shows; with a step among the focus's conditions it shows that one's. Short asks for
// the number of answers with fewer words.
func CleaningOf(ctx context.Context, s *state.State, f focus.Focus, limit, short int) (Cleaning, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Cleaning{}, err
	}
	alike, err := alikeOf(ctx, s)
	if err != nil {
		return Cleaning{}, err
	}
	ix := s.Reading.Index
	c := Cleaning{Steps: []StepFigure{}, Proof: []Proof{}, NoAnswers: s.Scheme.NoAnswers, Mask: s.Scheme.Mask,
		Alike: alike, Short: int(ix.Shorter(short).AndCardinality(ix.Answered()))}
	on := map[string]bool{}
	var touched []*roaring.Bitmap
	for i, step := range s.Scheme.Cleaning {
		on[step.Kind()] = true
		c.Steps = append(c.Steps, StepFigure{step, StepCount{true, int(ix.Touched(i).GetCardinality())}})
		touched = append(touched, roaring.And(ix.Touched(i), set))
	}
	for _, step := range text.Steps(text.StepKinds...) {
		if !on[step.Kind()] {
			c.Steps = append(c.Steps, StepFigure{Step: step})
		}
	}
	for _, n := range sheet(touched, set, limit) {
		c.Proof = append(c.Proof, proof(s, int(n)))
	}
	return c, nil
}

// sheet picks answers from the steps in turn, so that each step shows, and fills up with others.
func sheet(touched []*roaring.Bitmap, focus *roaring.Bitmap, limit int) []uint32 {
	picked := roaring.New()
	var out []uint32
	for turn := 0; len(out) < limit && turn < limit; turn++ {
		for _, set := range touched {
			it := roaring.AndNot(set, picked).Iterator()
			if it.HasNext() && len(out) < limit {
				n := it.Next()
				picked.Add(n)
				out = append(out, n)
			}
		}
	}
	for it := roaring.AndNot(focus, picked).Iterator(); it.HasNext() && len(out) < min(limit, 4); {
		out = append(out, it.Next())
	}
	return out
}

// proof marks what cleaning changed in an answer.
func proof(s *state.State, row int) Proof {
	original := s.Original(row)
	c, stages := s.Reading.Pipeline.Trace(original.Text)
	out := []ProofPiece{}
	add := func(start, end int, piece ProofPiece) {
		piece.Text = original.Text[start:end]
		out = append(out, piece)
	}
	at := 0
	for _, m := range c.Marks() {
		if m.Start > at {
			add(at, m.Start, ProofPiece{})
		}
		add(m.Start, m.End, ProofPiece{Struck: true, With: m.With, Steps: text.StepsOf(m, stages)})
		at = m.End
	}
	if at < len(original.Text) {
		add(at, len(original.Text), ProofPiece{})
	}
	return Proof{Number: s.Respondent(row), Pieces: out}
}

// Changed counts the answers whose words two states read otherwise, and shows some of them as the later one reads them.
func Changed(ctx context.Context, before, after *state.State) (n int, shown []Proof, err error) {
	shown = []Proof{}
	a, b := before.Reading.Index, after.Reading.Index
	to := make([]uint32, a.Vocabulary())
	const nowhere = ^uint32(0)
	for w := range to {
		to[w] = nowhere
		if same, ok := b.Word(a.Surface(uint32(w))); ok {
			to[w] = same
		}
	}
	for row := range after.Answers {
		if row%4096 == 0 && ctx.Err() != nil {
			return 0, nil, ctx.Err()
		}
		x, y := a.Answer(row), b.Answer(row)
		differs := len(x) != len(y)
		for j := 0; j < len(x) && !differs; j++ {
			differs = to[x[j]] != y[j]
		}
		if differs {
			if n++; n <= maxChanged {
				was := proof(before, row)
				then := proof(after, row)
				then.Was = was.Pieces
				shown = append(shown, then)
			}
		}
	}
	return n, shown, nil
}

// maxChanged is how many answers a preview of cleaning shows.
const maxChanged = 14
