package lexicon

import (
	"path"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"
)

// Letters that stand for wildcards while a typed word passes through cleaning. No language writes them, and no
// cleaning step takes them; several stand for "?" so that a run of them is no repeat.
const (
	anyLetters = 'ꙮ'
	oneLetter  = "ꙭꙫꙩ"
)

// Typed is what cleaning makes of a typed text: its words, wildcards kept.
func (v *View) Typed(typed string) []string {
	if !Wild(typed) {
		return v.pipeline.Surfaces(typed)
	}
	var b strings.Builder
	ones, last := []rune(oneLetter), rune(0)
	for i, c := range typed {
		switch {
		case c == '*' && last == '*':
		case c == '*':
			b.WriteRune(anyLetters)
		case c == '?':
			b.WriteRune(ones[i%len(ones)])
		default:
			b.WriteRune(c)
		}
		last = c
	}
	words := v.pipeline.Surfaces(b.String())
	for i := range words {
		words[i] = strings.Map(func(c rune) rune {
			switch {
			case c == anyLetters:
				return '*'
			case strings.ContainsRune(oneLetter, c):
				return '?'
			}
			return c
		}, words[i])
	}
	return words
}

// ThisForm says whether a variant or entry stands for its own form only, as "=ups" does: its inflections are not joined.
func ThisForm(variant string) bool { return strings.HasPrefix(strings.TrimSpace(variant), "=") }

// Wild says whether a word holds a wildcard.
func Wild(word string) bool { return strings.ContainsAny(word, "*?") }

// GlobMatch says whether a surface is of a pattern. Surfaces hold none of the other signs that path.Match knows, and no
// stroke, which its "*" would stop at.
func GlobMatch(glob, surface string) bool {
	ok, err := path.Match(glob, surface)
	return ok && err == nil
}

// Exact is the set of that surface alone, or of all surfaces of a pattern.
func (v *View) Exact(word string) WordSet {
	if !Wild(word) {
		if w, ok := v.Index.Word(word); ok {
			return WordSet{w}
		}
		return nil
	}
	prefix := word[:strings.IndexAny(word, "*?")]
	first := v.first(prefix)
	var out WordSet
	for w := first; w < uint32(v.Index.Vocabulary()) && strings.HasPrefix(v.Index.Surface(w), prefix); w++ {
		if GlobMatch(word, v.Index.Surface(w)) {
			out = append(out, w)
		}
	}
	return out
}

// first is the number of the first surface that is not before the prefix.
func (v *View) first(prefix string) uint32 {
	lo, hi := 0, v.Index.Vocabulary()
	for lo < hi {
		if mid := (lo + hi) / 2; v.Index.Surface(uint32(mid)) < prefix {
			lo = mid + 1
		} else {
			hi = mid
		}
	}
	return uint32(lo)
}

// Inflected is the set of a word and the others of its stem (if inflections are joined), or of a pattern. Merges do
// not count here.
func (v *View) Inflected(word string) WordSet {
	if Wild(word) || !v.Lexicon.Inflections {
		return v.Exact(word)
	}
	var out []uint32
	if v.isApart(word) {
		for _, w := range v.together(word) {
			out = append(out, v.Exact(w)...)
		}
		return newWordSet(out...)
	}
	for _, w := range v.stems.with(word) {
		if !v.isApart(v.Index.Surface(w)) {
			out = append(out, w)
		}
	}
	return newWordSet(out...)
}

// Row is what bare words in a row find: the parts of the row, each a term. The longest stretch from the left that is
// the label or a variant of a merge stands for its merge. A pattern stands for itself.
func (v *View) Row(words []string) []Phrases {
	var parts []Phrases
	for i := 0; i < len(words); {
		n := min(v.longest, len(words)-i)
		for ; n > 1; n-- {
			if m, ok := v.phrases[strings.Join(words[i:i+n], " ")]; ok {
				parts = append(parts, v.Phrases(v.mergeTerm(m)))
				break
			}
		}
		if n <= 1 {
			n = 1
			parts = append(parts, v.wordPhrases(words[i]))
		}
		i += n
	}
	return parts
}

func (v *View) wordPhrases(word string) Phrases {
	if Wild(word) {
		return NewPhrases(Sequence{v.Exact(word)})
	}
	if t, ok := v.term(word); ok {
		return v.Phrases(t)
	}
	return Phrases{}
}

// Entries are the entries of a term list, or of the built-in @negators; ok is false where there is no such list.
func (v *View) Entries(list string) (entries []string, ok bool) {
	if list == Negators {
		words := negators[v.stems.language]
		if words == nil {
			words = negators["en"]
		}
		return words, true
	}
	i := slices.IndexFunc(v.Lexicon.Lists, func(l List) bool { return l.Name == list })
	if i < 0 {
		return nil, false
	}
	return v.Lexicon.Lists[i].Entries, true
}

// EntryPhrases are what an entry of a list finds: one of a term list what it would find as a rule, one of the built-in list
// itself and no other form, whatever the lexicon joins: "hardly" turns a meaning, "hard" does not.
func (v *View) EntryPhrases(list, entry string) Phrases {
	if list != Negators {
		return v.ListPhrases(entry)
	}
	return NewPhrases(v.asTyped(v.Typed(entry), true))
}

// ListPhrases are what an entry of a term list finds: what it would find as a rule.
func (v *View) ListPhrases(entry string) Phrases {
	if ThisForm(entry) {
		return NewPhrases(v.asTyped(v.Typed(entry), true))
	}
	return InRow(v.Row(v.Typed(entry))...)
}

// VariantAnswers are the answers in which a variant of a merge stands by itself: its words in a row, each with its
// inflections or by its pattern.
func (v *View) VariantAnswers(variant string) *roaring.Bitmap {
	return NewPhrases(v.asTyped(v.Typed(variant), ThisForm(variant))).Answers(v.Index)
}

// asTyped is words in a row, each with its inflections, or, where the form matters, without.
func (v *View) asTyped(words []string, thisForm bool) (s Sequence) {
	for _, w := range words {
		if thisForm {
			s = append(s, v.Exact(w))
		} else {
			s = append(s, v.Inflected(w))
		}
	}
	return s
}

// Reaches says whether a variant finds those words in a row.
func (v *View) Reaches(variant string, words []string) bool {
	typed := v.Typed(variant)
	if len(typed) != len(words) {
		return false
	}
	for i, set := range v.asTyped(typed, ThisForm(variant)) {
		if word, ok := v.Index.Word(words[i]); !ok || !set.Has(word) {
			return false
		}
	}
	return true
}
