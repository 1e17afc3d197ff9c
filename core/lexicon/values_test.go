package lexicon_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"aftermath/core/lexicon"
)

// What the built-in lists find in an answer, as it is read.
func TestValues(t *testing.T) {
	for said, want := range map[string]map[string][]string{
		"£4.20 for a coffee, six quid for two":       {"money": {"£ 4.20", "six quid"}, "number": {"4.20"}},
		"3,50 € or a fiver, 80p":                     {"money": {"3,50 €", "fiver", "80p"}, "number": {"3,50"}},
		"late 20 minutes, half an hour, 45min":       {"duration": {"20 minutes", "half an hour", "45min"}, "number": {"20"}},
		"an hour and a half in two hours":            {"duration": {"an hour and a half", "two hours"}},
		"the 07:15 and 7am and 9 pm, at half five":   {"time": {"07:15", "7am", "9 pm", "half five"}, "number": {"9"}},
		"I give 8/10, or 10/10":                      {"number": {"8", "10", "10", "10"}},
		"15 % more, ten percent less":                {"percent": {"15 %", "ten percent"}, "number": {"15"}},
		"3rd June, 12 may 2026, 2026-05-12":          {"date": {"3rd june", "12 may 2026", "2026 05 12"}, "number": {"12", "2026", "2026", "05", "12"}},
		"two miles or 5 km or 12kg":                  {"measure": {"two miles", "5 km", "12kg"}, "number": {"5"}},
		"from 4 to 14, ten past six, one day I went": {"time": {"ten past six"}, "number": {"4", "14"}},
		"$5 for two pounds of it":                    {"money": {"$ 5"}, "number": {"5"}},
		"in an hour":                                 {"duration": {"an hour"}},
		"nothing here at all, half of the boat was":  {},
	} {
		v := view(t, lexicon.Default("en"), said)
		got := map[string][]string{}
		for _, name := range lexicon.Values {
			ps, ok := v.BuiltIn(name)
			assert.True(t, ok)
			words := v.Index.Answer(0)
			ps.Each(words, v.Index.Sentences(0), func(start, length int) {
				text := ""
				for i, w := range words[start : start+length] {
					if i > 0 {
						text += " "
					}
					text += v.Index.Surface(w)
				}
				got[name] = append(got[name], text)
			})
		}
		assert.Equal(t, want, got, said)
	}
	own := lexicon.Default("en")
	own.Lists = []lexicon.List{{Name: "money", Entries: []string{"cash"}}}
	_, ok := view(t, own, "£4 cash").BuiltIn("money")
	assert.False(t, ok, "a list of one's own goes before it")
}

func TestWordClassLists(t *testing.T) {
	v := view(t, lexicon.Default("en"), "the rude crew shouted loudly")
	for name, want := range map[string][]string{"nouns": {"crew"}, "adjectives": {"rude"}, "verbs": {"shouted"}, "adverbs": {"loudly"}} {
		ps, ok := v.BuiltIn(name)
		assert.True(t, ok)
		var got []string
		ps.Each(v.Index.Answer(0), v.Index.Sentences(0), func(start, _ int) {
			got = append(got, v.Index.Surface(v.Index.Answer(0)[start]))
		})
		assert.Equal(t, want, got, name)
	}
}
