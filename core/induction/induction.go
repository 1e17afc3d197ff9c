// Package induction proposes rules from examples: answers that belong to a category, and answers that don't.
//
// A rule is grown from pieces that the examples have in common, by the F1 that it most likely has against a category of which
// the examples are a random part. How large that category is can't be known from examples alone, so that several sizes are
// tried, each of which gives a rule of another width (learning from examples of one class: C. Elkan and K. Noto, 2008).
package induction

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/rule"
	"aftermath/core/terms"
)

// Examples are answers that belong to a category, and answers that do not.
type Examples struct{ In, Out *roaring.Bitmap }

// Learner looks for rules. Its counter and matcher are of one view.
type Learner struct {
	Counter  *terms.Counter
	Matcher  *rule.Matcher
	Language string
	Workers  int
}

// Bounds of the search.
const (
	// MostExamples is how many examples of a side are read.
	MostExamples            = 500
	maxRead                 = 50_000 // answers by which pieces are weighed: of more, every so manieth
	maxTerms                = 300    // of the examples that are tried
	maxPairs                = 250    // pairs of terms
	maxFocusShare           = 0.3    // share of answers from which a term says nothing
	fewAnswers              = 100    // answers of which any share may say the same
	maxWordsApart           = 4      // apart, two terms that stand near each other
	maxAlternatives         = 12     // of a rule
	maxExclusions           = 2
	minTimesEveryday        = 5 // times as often as in everyday speech, for a term that only one example holds,
	minAnswersForOneExample = 3 // and in so many answers
)

// The least and the most that a category is taken to be, as a share of the focus.
const (
	minPrevalence = 0.005
	maxPrevalence = 0.25
)

// believed is how much of what the examples say of a piece is believed: they are few, and the pieces were chosen by them.
const believed = 0.8

// worthwhile is by how much a further piece must better the F1 of a rule.
const worthwhile = 1.005

// sizes are what the category is taken to be, as so many times what the strongest piece speaks for; the likeliest first.
var sizes = []float64{2, 1, 3, 5, 8, 0.5, 12}

// mostOffers is how many rules are offered.
const mostOffers = 5

// Rules proposes up to five different rules, the likeliest first. It reads at most MostExamples of each side, and weighs pieces
// by 50,000 answers of the focus.
func (l Learner) Rules(ctx context.Context, focus *roaring.Bitmap, ex Examples) ([]rule.Node, error) {
	ex = Examples{firstOf(ex.In, MostExamples), firstOf(ex.Out, MostExamples)}
	if ex.In.IsEmpty() {
		return nil, nil
	}
	s, err := l.search(ctx, focus, ex)
	if err != nil {
		return nil, err
	}
	pairs, err := s.pairs(ctx)
	if err != nil {
		return nil, err
	}
	pieces := append(s.singles(), pairs...)
	size := s.size(pieces)
	var out []rule.Node
	var sets []*roaring.Bitmap
	for _, times := range sizes {
		n, set := s.grow(pieces, times*size)
		if n == nil || len(out) == mostOffers || slices.ContainsFunc(sets, func(x *roaring.Bitmap) bool { return x.Equals(set) }) {
			continue
		}
		out, sets = append(out, n), append(sets, set)
	}
	return out, ctx.Err()
}

func firstOf(set *roaring.Bitmap, most int) *roaring.Bitmap {
	out := set.Clone()
	if n := int(set.GetCardinality()); n > most {
		last, _ := set.Select(uint32(most))
		out.RemoveRange(uint64(last), uint64(set.Maximum())+1)
	}
	return out
}

// size estimates how many answers the category has: if the piece that the examples speak for most surely (G²) finds nothing
// else, the category is as much larger than what it finds as the examples are more than those with it.
func (s *search) size(pieces []piece) float64 {
	best, out := 0.0, 0.05
	given := int(s.ex.In.GetCardinality())
	for _, p := range pieces {
		in := int(p.in.GetCardinality())
		if in < 2 {
			continue
		}
		if c := crosstab.NewCoOccurrence(in, given, p.all, int(s.base)); c.Lift > 1 && c.G2 > best {
			best, out = c.G2, float64(p.all)/s.base*float64(given)/float64(in)
		}
	}
	return s.base * min(max(out, minPrevalence), maxPrevalence)
}

// grow makes a rule of the pieces that together are likeliest to find a category of so many answers, and says what it finds of
// those that were read.
func (s *search) grow(pieces []piece, size float64) (rule.Node, *roaring.Bitmap) {
	var chosen []rule.Node
	found, right, best := roaring.New(), 0.0, 0.0
	for len(chosen) < maxAlternatives {
		at, more, most := -1, 0.0, best*worthwhile
		for i, p := range pieces {
			gained, hits := s.gain(p, found, size)
			f1 := 2 * (right + hits) / (float64(found.GetCardinality()) + gained + size)
			if len(chosen) == 0 && p.in.GetCardinality() < 2 {
				continue // what one example alone holds is nothing that they have in common
			}
			if hits > 0 && f1 > most {
				at, more, most = i, hits, f1
			}
		}
		if at < 0 {
			break
		}
		chosen = append(chosen, pieces[at].node)
		found.Or(pieces[at].answers)
		right, best = right+more, most
	}
	if len(chosen) == 0 {
		return nil, nil
	}
	return s.excluding(rule.AnyOf(chosen...), found)
}

// gain is how many answers a piece adds to those found, and how many of them most likely belong.
func (s *search) gain(p piece, found *roaring.Bitmap, size float64) (gained, hits float64) {
	gained = float64(p.all) - float64(p.answers.AndCardinality(found))
	in := float64(p.in.GetCardinality()) - float64(p.in.AndCardinality(found))
	out := float64(p.out.GetCardinality()) - float64(p.out.AndCardinality(found))
	given := float64(s.ex.In.GetCardinality())
	in -= given * (gained - in) / s.base // as many hold it by chance
	if in <= 0 || gained == 0 {
		return gained, 0
	}
	return gained, min(gained, believed*in/given*size) * in / (in + out)
}

// excluding takes away from a rule what marks the examples that it should not have found, and no example that it should.
func (s *search) excluding(n rule.Node, found *roaring.Bitmap) (rule.Node, *roaring.Bitmap) {
	for range maxExclusions {
		wrong := roaring.And(found, s.ex.Out)
		right := roaring.And(found, s.ex.In)
		at, most := -1, uint64(0)
		for i, p := range s.against {
			if k := p.answers.AndCardinality(wrong); k > most && !p.answers.Intersects(right) &&
				2*p.answers.AndCardinality(found) < found.GetCardinality() {
				at, most = i, k
			}
		}
		if at < 0 {
			break
		}
		n = rule.Except(n, s.against[at].node)
		found = roaring.AndNot(found, s.against[at].answers)
	}
	return n, found
}
