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
		"misspelt, those of one term together":            {delivery, []string{"misspelt: delivery < delivry, delievry"}},
		"nothing rests on one answer":                     {slices.Concat(times(100, "delivery"), times(1, "delivry")), nil},
		"two frequent words are two words":                {slices.Concat(times(100, "boat"), times(60, "boot")), nil},
		"short words need more":                           {slices.Concat(times(20, "late"), times(2, "lame")), nil},
		"a stop word that is misspelt would be hidden":    {slices.Concat(times(100, "before noon"), times(2, "bfore noon")), []string{"misspelt: before < bfore"}},
		"a known word is no misspelling":                  {slices.Concat(times(300, "stood"), times(2, "stand there")), nil},
		"joined and parted":                               {checkin, []string{"joined: checkin < check in"}},
		"of one stem, though the stemmer left them apart": {slices.Concat(times(5, "comfort"), times(4, "comfortless")), []string{"stem: comfort < comfortless"}},
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

func TestWordsUsedAlike(t *testing.T) {
	var texts []string
	for i, before := range []string{"my", "our", "that", "poor", "little", "young", "old", "tired", "muddy", "loud"} {
		for _, after := range []string{"barked", "slept", "had to stay below", "was cold", "needs water"} {
			for _, pet := range []string{"spaniel", "terrier"} {
				texts = append(texts, before+" "+pet+" "+after)
			}
			if i%2 == 0 {
				texts = append(texts, "the cafe "+after+" closed", "parking "+before+" cars")
			}
		}
	}
	assert.Contains(t, suggested(t, lexicon.Default("en"), texts), "alike: spaniel < terrier")
}

func TestLookingCanBeGivenUp(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err := terms.Suggester{Counter: terms.NewCounter(view(t, lexicon.Default("en"), "a b"), nil), Language: "en"}.Find(ctx)
	assert.ErrorIs(t, err, context.Canceled)
}
