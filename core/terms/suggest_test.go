package terms_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/lexicon"
	"aftermath/core/terms"
)

// suggested lists suggestions as "kind: term < variant, variant".
func suggested(t *testing.T, l lexicon.Lexicon, texts []string) (out []string) {
	v := view(t, l, texts...)
	found, err := terms.Suggester{Counter: terms.NewCounter(v, nil), Language: "en", Workers: 2}.Find(context.Background())
	require.NoError(t, err)
	for _, g := range found {
		var variants []string
		for _, x := range g.Variants {
			variants = append(variants, x.Text)
		}
		out = append(out, string(g.Kind)+": "+g.Term+" < "+strings.Join(variants, ", "))
	}
	return out
}

func times(n int, texts ...string) (out []string) {
	for i := range n {
		out = append(out, texts[i%len(texts)])
	}
	return out
}

func TestSuggestions(t *testing.T) {
	delivery := slices.Concat(times(412, "slow delivery", "delivery came"), times(3, "no delivry"), times(1, "delievry"))
	checkin := slices.Concat(times(30, "slow check in here"), times(5, "checkin was slow"))
	for name, c := range map[string]struct {
		texts []string
		want  []string
	}{
		"misspelt, those of one term together":         {delivery, []string{"misspelt: delivery < delivry, delievry"}},
		"nothing rests on one answer":                  {slices.Concat(times(100, "delivery"), times(1, "delivry")), nil},
		"two frequent words are two words":             {slices.Concat(times(100, "boat"), times(60, "boot")), nil},
		"short words need more":                        {slices.Concat(times(20, "late"), times(2, "lame")), nil},
		"a stop word that is misspelt would be hidden": {slices.Concat(times(100, "before noon"), times(2, "bfore noon")), []string{"misspelt: before < bfore"}},
		"a known word is no misspelling":               {slices.Concat(times(300, "stood"), times(2, "stand there")), nil},
		"joined and parted":                            {checkin, []string{"joined: checkin < check in"}},
		"words of the language are no misspellings": {
			slices.Concat(times(300, "we have this store"), times(9, "hate it"), times(9, "thin"), times(9, "sore"), times(9, "favour"), times(200, "favor")),
			nil,
		},
		"a slip of a long word needs no other evidence": {slices.Concat(times(3, "ridiculous"), times(2, "rediculous")), []string{"misspelt: ridiculous < rediculous"}},
		"nearer to a word that nobody here says":        {slices.Concat(times(90, "the coffee"), times(2, "toffe")), nil},
		"made of the other by an ending":                {slices.Concat(times(40, "chocolate"), times(3, "chocolatish")), []string{"stem: chocolate < chocolatish"}},
		"two words in one":                              {slices.Concat(times(90, "petrol store"), times(3, "carstore")), nil},
		"by chance":                                     {slices.Concat(times(30, "ten of us"), times(9, "often late"), times(3, "of ten")), nil},
		"the table leaves them apart":                   {slices.Concat(times(5, "comfort"), times(4, "comfortless")), nil},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, c.want, suggested(t, lexicon.Default("en"), c.texts))
		})
	}
	l := lexicon.Default("en")
	l.Apart = []lexicon.Merge{{Term: "delivery", Variants: []string{"delivry"}}}
	assert.Empty(t, suggested(t, l, delivery), "what is kept apart is not suggested; one answer is left, too few")
	l = lexicon.Default("en")
	l.Merges = []lexicon.Merge{{Term: "checkin", Variants: []string{"check in"}}}
	assert.Empty(t, suggested(t, l, checkin), "what is merged is not suggested")
}

// Words are used alike if they stand in the same surroundings and mean the same by the table: neither opposites nor things of
// one kind.
func TestWordsUsedAlike(t *testing.T) {
	var texts []string
	for i, before := range []string{"very", "so", "such a", "really", "quite", "always", "often", "too", "somewhat", "terribly"} {
		for _, after := range []string{"crossing today", "start of our day", "ride to town", "evening at sea", "trip with kids"} {
			for _, word := range []string{"dirty", "filthy", "clean"} {
				texts = append(texts, before+" "+word+" "+after)
			}
			for _, pet := range []string{"dog", "cat"} {
				texts = append(texts, "my "+pet+" had a "+before+" calm "+after)
			}
			if i%2 == 0 {
				texts = append(texts, "the cafe "+after+" closed", "parking "+before+" cars")
			}
		}
	}
	got := suggested(t, lexicon.Default("en"), texts)
	assert.Contains(t, got, "alike: dirty < filthy")
	for _, line := range got {
		assert.False(t, strings.Contains(line, "clean") && (strings.Contains(line, "dirty") || strings.Contains(line, "filthy")), "opposites")
		assert.NotContains(t, line, "cat", "another animal")
	}
}

func TestLookingCanBeGivenUp(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err := terms.Suggester{Counter: terms.NewCounter(view(t, lexicon.Default("en"), "a b"), nil), Language: "en"}.Find(ctx)
	assert.ErrorIs(t, err, context.Canceled)
}
