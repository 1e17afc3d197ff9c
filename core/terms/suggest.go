package terms

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/words"
)

// Kind is why terms may be one.
type Kind string

// The kinds of suggestions.
const (
	Misspelt Kind = "misspelt" // a rare word that is almost a frequent one
	Joined   Kind = "joined"   // one word here, two words there
	Stem     Kind = "stem"     // of one stem, but the stemmer did not join them
	Alike    Kind = "alike"    // used alike: the same words stand around them
)

// Kinds lists all kinds in the order in which they are looked for.
var Kinds = []Kind{Misspelt, Joined, Stem, Alike}

// Suggestion says that variants may be merged with a term.
type Suggestion struct {
	Kind     Kind
	Term     string // label of the term that stays
	Times    int    // its occurrences
	Variants []Variant
	Answers  *roaring.Bitmap // those with a variant
	Score    float64         // alike: cosine of the contexts, 0 to 1
	Close    float64         // alike: how near they are in meaning by the table of the language, 0 to 1
	Shared   []string        // alike: the words that say most of that they are used alike
}

// Variant is what would be merged with the term.
type Variant struct {
	Text  string
	Times int
	Edits []string // misspelt: what was done to the letters, as "e left out"
}

// Suggester looks for terms that may be one. It reads no text.
type Suggester struct {
	*Counter
	Language string
	Progress func(part float64) // how far it is, 0 to 1; may be nil
	Workers  int
}

// Find looks for all kinds of suggestions, within a kind those with most answers first, of words used alike the likeliest. What
// the lexicon keeps apart is left out, as is what rests on a single answer. It stops early when ctx ends.
func (s Suggester) Find(ctx context.Context) ([]Suggestion, error) {
	if s.Progress == nil {
		s.Progress = func(float64) {}
	}
	var out []Suggestion
	for i, look := range []func(context.Context) []Suggestion{s.misspelt, s.joined, s.stems, s.alike} {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		found := look(ctx)
		slices.SortStableFunc(found, func(a, b Suggestion) int {
			if a.Kind == Alike {
				return cmp.Or(cmp.Compare(b.likely(), a.likely()), strings.Compare(a.Term, b.Term))
			}
			return cmp.Or(
				cmp.Compare(b.Answers.GetCardinality(), a.Answers.GetCardinality()), b.Times-a.Times, strings.Compare(a.Term, b.Term),
			)
		})
		out = append(out, found...)
		s.Progress(float64(i+1) / float64(len(Kinds)))
	}
	return out, ctx.Err()
}

// grouped makes one suggestion of all variants of one term. Those that rest on a single answer are left out.
func (s Suggester) grouped(kind Kind, term int, variants []Variant) (Suggestion, bool) {
	v := s.View
	out := Suggestion{Kind: kind, Term: v.Terms[term].Label, Times: s.times(term), Answers: roaring.New()}
	for _, x := range variants {
		if !v.Lexicon.KeptApart(out.Term, x.Text) {
			out.Variants = append(out.Variants, x)
			out.Answers.Or(v.ListPhrases(x.Text).Answers(v.Index))
		}
	}
	slices.SortFunc(out.Variants, func(a, b Variant) int { return cmp.Or(b.Times-a.Times, strings.Compare(a.Text, b.Text)) })
	out.Answers.And(v.Index.Answered())
	return out, out.Answers.GetCardinality() >= 2
}

// times is how often a term's single words occur.
func (s Suggester) times(term int) (n int) {
	for _, w := range s.View.Terms[term].Words {
		n += s.View.Index.Count(w)
	}
	return n
}

// A word is taken for a misspelling of another only if it has at least so many letters, the other is at least so many
// times as frequent, and at least this frequent. The longer the word, the less likely it is near another by chance.
const (
	shortest     = 4
	leastTimes   = 4
	rarer        = 8
	longWord     = 8 // from this many letters on, two changes are allowed
	certainTimes = 12

	manyTimes  = 50
	longEnough = 6 // letters: seldom near a word that is not meant
	nearness   = 6 // what costs half as much outweighs what is 64 times as frequent
	saidEnough = 1 // per million words: a word of everyday speech
)

// rarerUnknown is how many times as frequent a word is, at least, that the language's table knows, where it doesn't know the
// rare one, of so many letters.
func rarerUnknown(letters int) float64 {
	switch {
	case letters >= longEnough:
		return 0.5
	case letters == longEnough-1:
		return 3
	}
	return rarer
}

// nearerTo says whether a word of everyday speech that is no inflection of a term is nearer to a misspelling than that term is.
func (s Suggester) nearerTo(table *words.Table, surface string, term int, cost float64) bool {
	for _, near := range table.Near(surface) {
		if table.Said(near) < saidEnough {
			continue
		}
		if t, ok := s.View.Find(near); ok && t == term {
			continue
		}
		if _, c := compare(surface, near); c > 0 && c < cost {
			return true
		}
	}
	return false
}

// misspelt looks for rare words that one or two changes make a far more frequent one of. What the language's table knows is a
// word, and no misspelling of another.
func (s Suggester) misspelt(ctx context.Context) []Suggestion {
	v := s.View
	ix := v.Index
	table := words.Of(s.Language)
	near := newNeighbourhood(func(yield func(uint32, string, int)) {
		for w := range uint32(ix.Vocabulary()) {
			surface := ix.Surface(w)
			certain := table.Knows(surface) && utf8.RuneCountInString(surface) >= longEnough
			if (certain || ix.Count(w) >= leastTimes) && letters(surface) && utf8.RuneCountInString(surface) >= shortest {
				yield(w, surface, changes(surface))
			}
		}
	})
	byTerm := map[int][]Variant{}
	for w := range uint32(ix.Vocabulary()) {
		if w%4096 == 0 {
			if ctx.Err() != nil {
				return nil
			}
			s.Progress(0.25 * float64(w) / float64(ix.Vocabulary()))
		}
		surface := ix.Surface(w)
		term := v.TermOf(w)
		if !letters(surface) || utf8.RuneCountInString(surface) < shortest || lexicon.Common(s.Language, surface) ||
			v.Terms[term].Merge >= 0 || table.Knows(surface) || table.Composed(surface) {
			continue
		}
		made := map[int]bool{} // terms that it is made of by an ending
		for _, base := range lexicon.Bases(s.Language, surface) {
			if b, ok := ix.Word(base); ok {
				made[v.TermOf(b)] = true
			}
		}
		best, bestScore, bestCost, edits := -1, 0.0, 0.0, []string(nil)
		for _, t := range near.of(surface, changes(surface)) {
			to := v.TermOf(t)
			least := float64(rarer)
			if table.Knows(ix.Surface(t)) {
				least = rarerUnknown(utf8.RuneCountInString(surface))
			}
			if to == term || float64(ix.Count(t)) < least*float64(ix.Count(w)) || float64(s.times(to)) < least*float64(s.times(term)) ||
				made[to] {
				continue
			}
			did, cost := compare(surface, ix.Surface(t))
			if cost == 0 || !s.plausible(w, t, cost, least) {
				continue
			}
			// The one nearer, and of two as near the more frequent, is the likelier to be meant.
			if score := float64(ix.Count(t)) / math.Pow(cost, nearness); score > bestScore {
				best, bestScore, bestCost, edits = to, score, cost, did
			}
		}
		if best >= 0 && !s.nearerTo(table, surface, best, bestCost) { // a stop word too: what is merged with it is hidden with it
			byTerm[best] = append(byTerm[best], Variant{ix.Spelling(w), ix.Count(w), edits})
		}
	}
	return s.collect(Misspelt, byTerm)
}

func (s Suggester) collect(kind Kind, byTerm map[int][]Variant) []Suggestion {
	var out []Suggestion
	for term, variants := range byTerm {
		if g, ok := s.grouped(kind, term, variants); ok {
			out = append(out, g)
		}
	}
	return out
}

// plausible weighs how a word differs from a frequent one against how often each occurs: a change that keyboards and
// hurry make (cost 1) needs less of a difference in frequency than others, and a short word more.
func (s Suggester) plausible(rare, frequent uint32, cost, least float64) bool {
	ix := s.View.Index
	n := float64(utf8.RuneCountInString(ix.Surface(rare)))
	often := n >= longEnough || n >= longEnough-1 && ix.Count(frequent) >= manyTimes
	if ix.Count(rare) == 1 && (!often || cost > likely) {
		return false // written once, it may be anything
	}
	if cost > likely { // seldom a slip: then it has to be far rarer, or it is a name
		least = max(least, rarer)
	}
	need := least * cost * cost
	if n < 6 {
		need *= 2.5
	}
	return float64(ix.Count(frequent)) >= need*float64(ix.Count(rare)) &&
		(least < 1 || float64(ix.Count(frequent)) >= certainTimes*cost/max(n-3, 1))
}

// changes is how many letters may differ in a word of that length.
func changes(word string) int {
	if utf8.RuneCountInString(word) >= longWord {
		return 2
	}
	return 1
}

// letters says whether a word is of letters only.
func letters(word string) bool {
	for _, c := range word {
		if c < 'a' || c > 'z' && c < 0x80 {
			return false
		}
	}
	return true
}

// joined looks for words that others write as two.
func (s Suggester) joined(ctx context.Context) []Suggestion {
	v := s.View
	ix := v.Index
	whole := map[[2]uint32]uint32{} // the two parts, to the word they make
	starts := make([]bool, ix.Vocabulary())
	for w := range uint32(ix.Vocabulary()) {
		surface := ix.Surface(w)
		if !letters(surface) || v.Terms[v.TermOf(w)].Stop {
			continue
		}
		for i := 2; i <= len(surface)-2; i++ {
			left, ok := ix.Word(surface[:i])
			if !ok {
				continue
			}
			if right, ok := ix.Word(surface[i:]); ok {
				whole[[2]uint32{left, right}] = w
				starts[left] = true
			}
		}
	}
	times := map[[2]uint32]int{}
	for it, n := ix.Answered().Iterator(), 0; it.HasNext(); n++ {
		if n%65536 == 0 && ctx.Err() != nil {
			return nil
		}
		a := int(it.Next())
		words, sentences := ix.Answer(a), ix.Sentences(a)
		for i := 0; i+1 < len(words); i++ {
			if starts[words[i]] && sentences[i] == sentences[i+1] {
				pair := [2]uint32{words[i], words[i+1]}
				if _, ok := whole[pair]; ok {
					times[pair]++
				}
			}
		}
	}
	table := words.Of(s.Language)
	byTerm := map[int][]Variant{}
	for pair, n := range times {
		w := whole[pair]
		little := lexicon.Common(s.Language, ix.Surface(pair[0])) && lexicon.Common(s.Language, ix.Surface(pair[1]))
		if little && !table.Knows(ix.Surface(w)) || s.chance(table, ix.Surface(w), pair, n) {
			continue
		}
		term := v.TermOf(w)
		text := ix.Surface(pair[0]) + " " + ix.Surface(pair[1])
		if _, merged := v.Find(text); merged || n+ix.Count(w) < 3 {
			continue // it is one already, or too rare to tell
		}
		byTerm[term] = append(byTerm[term], Variant{Text: ix.Spelling(pair[0]) + " " + ix.Spelling(pair[1]), Times: n})
	}
	return s.collect(Joined, byTerm)
}

// chance says whether two words that make a third stand side by side for their own sake (of ten, me at): the one word is known
// and frequent, and both others say little.
func (s Suggester) chance(table *words.Table, whole string, pair [2]uint32, n int) bool {
	ix := s.View.Index
	w, _ := ix.Word(whole)
	for _, part := range pair {
		if !lexicon.Common(s.Language, ix.Surface(part)) && !s.View.Terms[s.View.TermOf(part)].Stop && !table.Counts(ix.Surface(part)) {
			return false
		}
	}
	return table.Knows(whole) && ix.Count(w) > n
}

// stems looks for words that differ by an ending the stemmer did not take off.
func (s Suggester) stems(context.Context) []Suggestion {
	v := s.View
	ix := v.Index
	table := words.Of(s.Language)
	byTerm := map[int][]Variant{}
	seen := map[[2]int]bool{}
	for w := range uint32(ix.Vocabulary()) {
		surface := ix.Surface(w)
		term := v.TermOf(w)
		if !letters(surface) || v.Terms[term].Stop || v.Terms[term].Merge >= 0 || s.times(term) < 2 {
			continue
		}
		for _, base := range lexicon.Bases(s.Language, surface) {
			if table.Knows(surface) && table.Knows(base) {
				continue // two words, or one already
			}
			b, ok := ix.Word(base)
			if !ok {
				continue
			}
			to := v.TermOf(b)
			if to == term || v.Terms[to].Stop || s.times(to) < 2 || seen[[2]int{term, to}] || seen[[2]int{to, term}] {
				continue
			}
			seen[[2]int{term, to}] = true
			if s.times(to) >= s.times(term) || v.Terms[to].Merge >= 0 {
				byTerm[to] = append(byTerm[to], Variant{Text: v.Terms[term].Label, Times: s.times(term)})
			} else {
				byTerm[term] = append(byTerm[term], Variant{Text: v.Terms[to].Label, Times: s.times(to)})
			}
		}
	}
	return s.collect(Stem, byTerm)
}
