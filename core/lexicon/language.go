package lexicon

import (
	"slices"
	"strings"
	"unicode"

	"aftermath/core/text"
)

// LanguageGuess is the language that answers are mostly in, and how that was told.
type LanguageGuess struct {
	Language string  `json:"language" doc:"code such as en; empty if no known language stands out"`
	Share    float64 `json:"share" doc:"of the answers with a word common to a language: those that are in this one, 0 to 1"`
	Answers  int     `json:"answers" doc:"answers with a word common to a language"`
}

// sampledAnswers is how many answers, spread evenly, are looked at.
const sampledAnswers = 2000

// commonShare is how many of all words must be common ones of a language for the answers to be in it. In running text it
// is about every second word; in a language that is not known, some words look like those of others.
const commonShare = 0.15

// GuessLanguage counts, per answer, the words that are common to each language (its stop words and negators): an answer
// is in the language with most of them, if one has most. The language that at least half of such answers are in is given,
// if enough of all words are common to it.
func GuessLanguage(answers []string) LanguageGuess {
	votes, common := map[string]int{}, map[string]int{}
	g := LanguageGuess{}
	step, words := max(1, len(answers)/sampledAnswers), 0
	for i := 0; i < len(answers); i += step {
		found, n := commonWords(answers[i])
		words += n
		for l, hits := range found {
			common[l] += hits
		}
		if l := most(found); l != "" {
			votes[l]++
			g.Answers++
		}
	}
	for _, l := range Languages() {
		if votes[l]*2 >= max(g.Answers, 1) && votes[l] > votes[g.Language] && float64(common[l]) >= commonShare*float64(words) {
			g.Language = l
		}
	}
	if g.Answers > 0 {
		g.Share = float64(votes[g.Language]) / float64(g.Answers)
	}
	return g
}

// commonWords counts the words of a text, and those of them that are common to each language.
func commonWords(s string) (found map[string]int, words int) {
	found = map[string]int{}
	for _, w := range strings.FieldsFunc(strings.ToLower(s), func(c rune) bool { return !unicode.IsLetter(c) }) {
		words++
		w = text.Fold(w)
		if len(w) < 2 { // single letters are everybody's
			continue
		}
		for l, known := range functionWords {
			if known[w] {
				found[l]++
			}
		}
	}
	return found, words
}

// most is the language with most of the common words found; empty if there is none or a tie.
func most(found map[string]int) string {
	best, second := "", 0
	for _, l := range Languages() {
		if n := found[l]; n > found[best] {
			best, second = l, found[best]
		} else {
			second = max(second, n)
		}
	}
	if found[best] == second {
		return ""
	}
	return best
}

// functionWords are the stop words and negators of each language, without accents.
var functionWords = func() map[string]map[string]bool {
	out := map[string]map[string]bool{}
	for l, words := range baseStopWords {
		out[l] = map[string]bool{}
		for _, w := range slices.Concat(words, negators[l]) {
			out[l][text.Fold(w)] = true
		}
	}
	return out
}()
