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

// GuessLanguage counts, per answer, the words that are common to each language (its stop words and negators): an answer
// is in the language with most of them, if one has most. A language that at least half of such answers are in is given.
func GuessLanguage(answers []string) LanguageGuess {
	votes := map[string]int{}
	g := LanguageGuess{}
	step := max(1, len(answers)/sampledAnswers)
	for i := 0; i < len(answers); i += step {
		if l := languageOf(answers[i]); l != "" {
			votes[l]++
			g.Answers++
		}
	}
	for _, l := range Languages() {
		if votes[l]*2 >= max(g.Answers, 1) && votes[l] > votes[g.Language] {
			g.Language = l
		}
	}
	if g.Answers > 0 {
		g.Share = float64(votes[g.Language]) / float64(g.Answers)
	}
	return g
}

// languageOf is the language with most common words in a text; empty if there is none or a tie.
func languageOf(s string) string {
	found := map[string]int{}
	for _, w := range strings.FieldsFunc(strings.ToLower(s), func(c rune) bool { return !unicode.IsLetter(c) }) {
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
