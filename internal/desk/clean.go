package desk

import (
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/text"
)

// Cleaning is what the steps did, with answers before and after.
type Cleaning struct {
	Steps     []StepFigure `json:"steps" doc:"those that are on, in their order, then the others"`
	Proof     []Proof      `json:"proof"`
	NoAnswers []string     `json:"noAnswers" doc:"phrases of refusal"`
	Mask      bool         `json:"mask" doc:"mail addresses and phone numbers are masked"`
	Mail      int          `json:"mail" doc:"answers whose original holds a mail address"`
	Phone     int          `json:"phone" doc:"answers whose original holds a phone number"`
	Alike     Alike        `json:"alike"`
	Short     int          `json:"short" doc:"answers with fewer words than asked for"`
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
	Steps  []int  `json:"steps,omitempty" doc:"the steps that did it, from 0 in their order"`
}

// Cleaning gives the steps and a proof sheet of at most limit answers in the focus. The sheet is chosen so that every
// step that touched an answer there shows; with a step among the focus's conditions it shows that one's. Short asks for
// the number of answers with fewer words.
func (q *Question) Cleaning(s *State, f Focus, limit, short int) (Cleaning, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Cleaning{}, err
	}
	ix := s.Reading.Index
	c := Cleaning{Steps: []StepFigure{}, Proof: []Proof{}, NoAnswers: s.Playbook.NoAnswers, Mask: s.Playbook.Mask,
		Mail: int(ix.Mail().GetCardinality()), Phone: int(ix.Phone().GetCardinality()), Alike: s.kept.alikeOf(q, s).Alike,
		Short: int(ix.Shorter(short).AndCardinality(ix.Answered()))}
	if c.Mask {
		c.Alike.Top = slices.Clone(c.Alike.Top) // what is kept is not masked
		for i := range c.Alike.Top {
			c.Alike.Top[i].Text = text.Mask(c.Alike.Top[i].Text)
		}
	}
	on := map[string]bool{}
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
		c.Proof = append(c.Proof, q.proof(s, int(n)))
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
func (q *Question) proof(s *State, n int) Proof {
	original := q.Answers[n]
	c, stages := s.Reading.Pipeline.Trace(original)
	personal := s.personal(original)
	out := []ProofPiece{}
	add := func(start, end int, piece ProofPiece) {
		piece.Text = masked(original, start, end, personal)
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
	if at < len(original) {
		add(at, len(original), ProofPiece{})
	}
	return Proof{n, out}
}

// personal is what of an original is to be masked.
func (s *State) personal(original string) []text.Personal {
	if !s.Playbook.Mask {
		return nil
	}
	return text.PersonalData(original)
}

// masked is a stretch of an original with personal data in it masked; of data that begins before the stretch nothing shows.
func masked(original string, start, end int, personal []text.Personal) string {
	out := ""
	for _, p := range personal {
		if p.End <= start || p.Start >= end {
			continue
		}
		if p.Start >= start {
			out += original[start:p.Start] + text.MaskSign
		}
		start = min(p.End, end)
	}
	return out + original[start:end]
}

// changed counts the answers whose words two states read otherwise, and shows some of them as the later one reads them.
func (q *Question) changed(before, after *State) (n int, shown []Proof) {
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
	for i := range q.Answers {
		x, y := a.Answer(i), b.Answer(i)
		differs := len(x) != len(y)
		for j := 0; j < len(x) && !differs; j++ {
			differs = to[x[j]] != y[j]
		}
		if differs {
			if n++; n <= maxChanged {
				shown = append(shown, q.proof(after, i))
			}
		}
	}
	return n, shown
}

// maxChanged is how many answers a preview of cleaning shows.
const maxChanged = 14
