package desk

import (
	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/text"
)

// Cleaning is what the steps did, with answers before and after.
type Cleaning struct {
	Steps     []StepFigure `json:"steps" doc:"those that are on, in their order, then the others"`
	Proof     []Proof      `json:"proof"`
	NoAnswers []string     `json:"noAnswers" doc:"phrases of refusal"`
}

// StepFigure is a step and how many answers it touched.
type StepFigure struct {
	text.Step
	On      bool `json:"on"`
	Answers int  `json:"answers"`
}

// Proof is an answer with what cleaning changed in it.
type Proof struct {
	Number int          `json:"number"`
	Pieces []ProofPiece `json:"pieces"`
}

// ProofPiece is a stretch of the original: kept, or struck and read as something else.
type ProofPiece struct {
	Text   string `json:"text"`
	Struck bool   `json:"struck,omitempty"`
	With   string `json:"with,omitempty"`
}

// Cleaning gives the steps and a proof sheet of at most limit answers in the focus. The sheet is chosen so that every
// step that touched an answer there shows; with a step among the focus's conditions it shows that one's.
func (q *Question) Cleaning(s *State, f Focus, limit int) (Cleaning, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Cleaning{}, err
	}
	c := Cleaning{Steps: []StepFigure{}, Proof: []Proof{}, NoAnswers: s.Playbook.NoAnswers}
	on := map[string]bool{}
	ix := s.Reading.Index
	var touched []*roaring.Bitmap
	for i, step := range s.Playbook.Cleaning {
		on[step.ID] = true
		c.Steps = append(c.Steps, StepFigure{step, true, int(ix.Touched(i).GetCardinality())})
		touched = append(touched, roaring.And(ix.Touched(i), set))
	}
	for _, id := range text.StepIDs {
		if !on[id] {
			c.Steps = append(c.Steps, StepFigure{Step: text.Step{ID: id}})
		}
	}
	for _, n := range sheet(touched, set, limit) {
		c.Proof = append(c.Proof, Proof{int(n), q.pieces(s, int(n))})
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

func (q *Question) pieces(s *State, n int) []ProofPiece {
	original := q.Answers[n]
	c := s.Reading.Pipeline.Clean(original)
	out := []ProofPiece{}
	at := 0
	for _, m := range c.Marks() {
		if m.Start > at {
			out = append(out, ProofPiece{Text: original[at:m.Start]})
		}
		out = append(out, ProofPiece{Text: original[m.Start:m.End], Struck: true, With: m.With})
		at = m.End
	}
	if at < len(original) {
		out = append(out, ProofPiece{Text: original[at:]})
	}
	return out
}
