package lexicon_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/lexicon"
	"aftermath/core/lexicon/lexicontest"
)

// Negators are off every base list: hiding "not" must be someone's decision.
func TestEveryLanguageHasItsLists(t *testing.T) {
	assert.Equal(t, []string{"de", "en", "es", "fr", "it", "nl", "pt"}, lexicon.Languages())
	for _, language := range lexicon.Languages() {
		v := lexicontest.View(t, language, lexicon.Default(language), "x")
		negators, ok := v.Entries(lexicon.Negators)
		require.True(t, ok)
		base := lexicon.BaseStopWords(language)
		assert.Greater(t, len(base), 100, language)
		assert.Greater(t, len(negators), 9, language)
		assert.NotEmpty(t, lexicon.LanguageNames[language])
		for _, w := range negators {
			assert.NotContains(t, base, w, language)
		}
	}
}

func TestStopWordsAndStemsOfOtherLanguages(t *testing.T) {
	for language, c := range map[string]struct {
		answers []string
		shown   map[string][2]int
	}{
		"de": {[]string{"Die Schiffe fahren für uns nicht", "das Schiff fuhr"}, map[string][2]int{"schiff": {2, 2}, "fahren": {2, 2}, "nicht": {1, 1}}},
		"fr": {[]string{"L'équipage était très aimable", "des équipages aimables, j'ai été ravi"}, map[string][2]int{"équipage": {2, 2}, "aimable": {2, 2}, "ravi": {1, 1}}},
		"es": {[]string{"Los barcos salen tarde", "el barco salgo"}, map[string][2]int{"barco": {2, 2}, "salen": {2, 2}, "tarde": {1, 1}}},
		"it": {[]string{"la nave è aperta", "navi aperte"}, map[string][2]int{"nave": {2, 2}, "aperta": {2, 2}}},
		"nl": {[]string{"de boten varen niet", "een boot voer"}, map[string][2]int{"boot": {2, 2}, "varen": {2, 2}, "niet": {1, 1}}},
		"pt": {[]string{"os navios são bons", "um navio é melhor"}, map[string][2]int{"navio": {2, 2}, "bons": {2, 2}}},
	} {
		assert.Equal(t, c.shown, table(lexicontest.View(t, language, lexicon.Default(language), c.answers...)), language)
	}
}

func TestGuessLanguage(t *testing.T) {
	for want, line := range map[string]string{
		"en": "the queue was too long and we had no seats", "de": "wir mussten zu lange warten und es gab keine Plätze",
		"fr": "nous avons attendu trop longtemps et il n'y avait pas de place", "es": "tuvimos que esperar mucho y no había asientos",
		"it": "abbiamo aspettato troppo e non c'erano posti", "nl": "we moesten te lang wachten en er waren geen plaatsen",
		"pt": "tivemos que esperar muito e não havia lugares", "": "queue parking coffee",
	} {
		assert.Equal(t, want, lexicon.GuessLanguage([]string{line, "", "42", line}).Language, line)
	}
	unknown := lexicon.GuessLanguage(
		[]string{"kolejka do promu byla bardzo dluga", "zimna kawa, brak miejsc siedzacych", "wiecej lodzi rano, prosze"},
	)
	assert.Empty(t, unknown.Language, "one word that looks English is not enough")
	mixed := slices.Repeat([]string{"the seats are broken"}, 9)
	g := lexicon.GuessLanguage(append(mixed, "die Sitze sind kaputt und wir sind müde"))
	assert.Equal(t, lexicon.LanguageGuess{Language: "en", Share: 0.9, Answers: 10}, g)
}

func TestBases(t *testing.T) {
	assert.Contains(t, lexicon.Bases("en", "scanner"), "scan")
	assert.Contains(t, lexicon.Bases("en", "cleanliness"), "cleanli")
	assert.Contains(t, lexicon.Bases("en", "happiness"), "happy")
	assert.Contains(t, lexicon.Bases("de", "freundlichkeit"), "freundlich")
	assert.Empty(t, lexicon.Bases("en", "user"), "too little would be left")
	assert.Empty(t, lexicon.Bases("xx", "scanner"))
}

// A part that went out as a table and comes into an empty lexicon is what it was; into its own, it adds nothing.
func TestPartsGoOutAndIn(t *testing.T) {
	word := rapid.StringMatching(`[a-z]{1,6}( [a-z]{1,4})?\*?`)
	rapid.Check(t, func(t *rapid.T) {
		l := lexicon.Default("en")
		l.StopWords.Add = rapid.SliceOfDistinct(word, rapid.ID).Draw(t, "add")
		l.StopWords.Keep = rapid.SliceOfDistinct(word, rapid.ID).Draw(t, "keep")
		for _, name := range rapid.SliceOfNDistinct(word, 0, 4, strings.ToLower).Draw(t, "names") {
			l.Merges = append(l.Merges, lexicon.Merge{Term: name, Variants: rapid.SliceOfDistinct(word, rapid.ID).Draw(t, "variants")})
			l.Lists = append(l.Lists, lexicon.List{Name: "l" + name, Entries: rapid.SliceOfDistinct(word, rapid.ID).Draw(t, "entries")})
		}
		back := lexicon.Default("en")
		for _, part := range []lexicon.Part{lexicon.StopWordsPart, lexicon.MergesPart, lexicon.ListsPart} {
			var err error
			back, _, err = back.WithTable(part, l.Table(part))
			require.NoError(t, err)
			_, added, err := l.WithTable(part, l.Table(part))
			require.NoError(t, err)
			require.Zero(t, added)
			require.Equal(t, l.Table(part), back.Table(part))
		}
	})
	_, _, err := lexicon.Default("en").WithTable(lexicon.StopWordsPart, [][]string{{"word", "use"}, {"not", "maybe"}})
	assert.EqualError(t, err, `lexicon: row 2: the use of a stop word is hide or keep, not "maybe"; nothing was changed`)
	_, _, err = lexicon.Default("en").WithTable("stems", nil)
	assert.ErrorIs(t, err, lexicon.ErrLexicon)
	_, _, err = lexicon.Default("en").WithTable(lexicon.ListsPart, [][]string{{"negators", "nope"}})
	assert.ErrorIs(t, err, lexicon.ErrLexicon, "the built-in list is not for adding to")
}
