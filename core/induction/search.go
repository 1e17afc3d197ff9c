package induction

import (
	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/terms"
	"aftermath/core/words"
)

// piece is what a rule may be made of: a term, two in a row, or two near each other.
type piece struct {
	node    rule.Node
	answers *roaring.Bitmap // of those that are read
	in, out *roaring.Bitmap // of the examples
	all     int             // how many answers
}

// search is the work on one set of examples.
type search struct {
	Learner
	view    *lexicon.View
	ex      Examples
	read    *roaring.Bitmap // the answers by which pieces are weighed, all examples among them
	base    float64         // how many they are
	words   int             // that they hold
	answers []int32         // of those, with each term
	usual   terms.Everyday
	against []piece // terms of the examples that don't belong
}

// search begins the work on examples in a focus.
func (l Learner) search(ctx context.Context, focus *roaring.Bitmap, ex Examples) (*search, error) {
	s := &search{Learner: l, view: l.Counter.View, ex: ex, read: roaring.Or(ex.In, ex.Out)}
	every := int(focus.GetCardinality())/maxRead + 1
	n := 0
	for it := focus.Iterator(); it.HasNext(); n++ {
		if a := it.Next(); n%every == 0 {
			s.read.Add(a)
		}
	}
	s.read.And(s.view.Index.Answered())
	ex.In.And(s.read)
	ex.Out.And(s.read)
	s.base = float64(s.read.GetCardinality())
	for it := s.read.Iterator(); it.HasNext(); {
		s.words += len(s.view.Index.Answer(int(it.Next())))
	}
	s.usual = terms.NewEveryday(s.view, l.Language)
	var err error
	if s.answers, err = l.Counter.AnswersPer(ctx, s.read, l.Workers); err != nil {
		return nil, err
	}
	s.against = s.termsOf(ex.Out, func(_ int, examples int) bool { return examples > 0 })
	return s, nil
}

// singles are the terms that two examples or more hold, and those of one that may tell what it is about: nouns that are said more
// often here than in everyday speech.
func (s *search) singles() []piece {
	table := words.Of(s.Language)
	return s.termsOf(s.ex.In, func(t, examples int) bool {
		switch {
		case examples >= 2:
			return true
		case s.answers[t] < minAnswersForOneExample || s.usual == nil:
			return s.answers[t] >= minAnswersForOneExample
		}
		classes := table.Of(s.view.Terms[t].Label)
		return (len(classes) == 0 || classes[0] == words.Noun) && s.usual.More(t, int(s.answers[t]), s.words) >= minTimesEveryday
	})
}

// termsOf are terms of examples that fit, those that most of them hold first, of these the rarest.
func (s *search) termsOf(examples *roaring.Bitmap, fits func(term, examples int) bool) []piece {
	holding := map[int]int{}
	for it := examples.Iterator(); it.HasNext(); {
		for t := range s.termsIn(it.Next()) {
			holding[t]++
		}
	}
	var of []int
	for t, n := range holding {
		if (float64(s.answers[t]) <= maxFocusShare*s.base || s.base <= fewAnswers) && fits(t, n) {
			of = append(of, t)
		}
	}
	slices.SortFunc(of, func(a, b int) int {
		return cmp.Or(holding[b]-holding[a], int(s.answers[a]-s.answers[b]), a-b)
	})
	var out []piece
	for _, t := range of[:min(len(of), maxTerms)] {
		out = append(out, s.piece(rule.Term(s.view.Terms[t].Label), s.view.Phrases(t).Answers(s.view.Index)))
	}
	return out
}

// termsIn are the terms of an answer that no stop list hides.
func (s *search) termsIn(answer uint32) map[int]bool {
	out := map[int]bool{}
	for _, w := range s.view.Index.Answer(int(answer)) {
		if t := s.view.TermOf(w); !s.view.Terms[t].Stop {
			out[t] = true
		}
	}
	return out
}

func (s *search) piece(n rule.Node, answers *roaring.Bitmap) piece {
	answers = roaring.And(answers, s.read)
	return piece{n, answers, roaring.And(answers, s.ex.In), roaring.And(answers, s.ex.Out), int(answers.GetCardinality())}
}

// pair is two terms in a row, or in either order near each other.
type pair struct {
	a, b int
	row  bool
}

// pairs are the rows of two terms, and the terms near each other, that two examples or more hold.
func (s *search) pairs(ctx context.Context) ([]piece, error) {
	holding := map[pair]int{}
	for it := s.ex.In.Iterator(); it.HasNext(); {
		for p := range s.pairsIn(it.Next()) {
			holding[p]++
		}
	}
	var of []pair
	for p, n := range holding {
		if n >= 2 {
			of = append(of, p)
		}
	}
	rarer := func(p pair) int32 { return min(s.answers[p.a], s.answers[p.b]) }
	slices.SortFunc(of, func(p, q pair) int {
		rows := 0
		if p.row != q.row {
			rows = 1
			if p.row {
				rows = -1
			}
		}
		return cmp.Or(holding[q]-holding[p], int(rarer(p)-rarer(q)), rows, p.a-q.a, p.b-q.b)
	})
	var out []piece
	for _, p := range of[:min(len(of), maxPairs)] {
		n := s.node(p)
		program, _ := rule.Compile(n.String(), s.Matcher.Scope)
		if program == nil {
			continue // a label that is no word of a rule
		}
		set, err := s.Matcher.Within(ctx, program, s.read)
		if err != nil {
			return nil, err
		}
		out = append(out, s.piece(n, set))
	}
	return out, nil
}

func (s *search) node(p pair) rule.Node {
	a, b := rule.Term(s.view.Terms[p.a].Label), rule.Term(s.view.Terms[p.b].Label)
	if p.row {
		return rule.InRow(a, b)
	}
	return rule.Together(a, b, maxWordsApart)
}

// pairsIn are the pairs of an answer, each within one sentence. A row may begin or end with a stop word.
func (s *search) pairsIn(answer uint32) map[pair]bool {
	out := map[pair]bool{}
	said, of := s.view.Index.Answer(int(answer)), s.view.Index.Sentences(int(answer))
	for i, w := range said {
		t := s.view.TermOf(w)
		for d := 1; d <= maxWordsApart && i+d < len(said) && of[i+d] == of[i]; d++ {
			u := s.view.TermOf(said[i+d])
			hidden, hiddenToo := s.view.Terms[t].Stop, s.view.Terms[u].Stop
			if t == u {
				continue
			}
			if d == 1 && !(hidden && hiddenToo) {
				out[pair{t, u, true}] = true
			}
			if !hidden && !hiddenToo {
				out[pair{min(t, u), max(t, u), false}] = true
			}
		}
	}
	return out
}
