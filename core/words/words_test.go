package words

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What is joined, and what is not, read by eye: the first word of a line is the lemma of those behind it.
const together = `
boat: boats
go: went gone going goes
big: bigger biggest
good: better best
bad: worse worst
cheap: cheaper cheapest
cancel: cancelled canceled cancelling cancels
paste: pasted pasting
queue: queues queued queuing queueing
stop: stopped stopping stops
cry: cried cries crying
happy: happier happiest
box: boxes
bus: buses
potato: potatoes
knife: knives
child: children
woman: women
tooth: teeth
meet: met meeting meetings
feel: felt feeling
leave: left leaving
find: found finds
see: saw seen
take: took taken
disappoint: disappointed disappointing
break: broke broken
arrive: arrives arrived arriving
need: needs needed
work: works worked working
mean: means meant
high: higher highest
long: longer
delay: delays delayed delaying
company: companies
hope: hoping hoped
use: used using
party: parties
tie: tying tied
`

const separate = `
except exceptional exceptionally
hard hardly
even evening
reason reasonable
past paste
near nearly
well wellness
top topping
season seasoning
build building
good goods
new news
late later lately latest
pant pants
cloth clothe clothes
ship shipment
live alive
up ups
hi his
custom customs
cool cooler
clean cleaner
under understand
mod modest
tire tired
off offer
corn corner
num number
paint painter
use useful useless
kind kindly kindness
direct direction director
univers universe university
organ organic organise
import important
general generous
rose rise
dress dressing
olive oliver
`

func TestInflectionsNotDerivations(t *testing.T) {
	table := Of("en")
	for line := range strings.Lines(strings.TrimSpace(together)) {
		lemma, forms, _ := strings.Cut(strings.TrimSpace(line), ": ")
		for _, form := range strings.Fields(forms) {
			assert.Equal(t, lemma, table.Lemma(form), form)
			assert.True(t, table.Knows(form), form)
		}
		assert.Equal(t, lemma, table.Lemma(lemma))
	}
	for line := range strings.Lines(strings.TrimSpace(separate)) {
		seen := map[string]string{}
		for _, form := range strings.Fields(line) {
			lemma := table.Lemma(form)
			assert.Empty(t, seen[lemma], "%s and %s are both %s", seen[lemma], form, lemma)
			seen[lemma] = form
		}
	}
	for _, form := range strings.Fields("bigger better worst cheaper highest") {
		assert.True(t, table.Comparative(form), form)
	}
	for _, form := range strings.Fields("boats offer corner went big later") {
		assert.False(t, table.Comparative(form), form)
	}
}

func TestMeaning(t *testing.T) {
	table := Of("en")
	for _, p := range [][2]string{
		{"tasty", "delicious"}, {"tasty", "yummy"}, {"broken", "crushed"}, {"cheap", "inexpensive"}, {"price", "costs"}, {"buy", "purchased"},
	} {
		assert.True(t, table.Same(p[0], p[1]), p)
		assert.True(t, table.Same(p[1], p[0]), p)
		assert.False(t, table.Kin(p[0], p[1], 3), p)
	}
	for _, p := range [][2]string{{"dog", "cat"}, {"years", "months"}, {"tea", "coffee"}} {
		assert.False(t, table.Same(p[0], p[1]), p)
		assert.True(t, table.Kin(p[0], p[1], 3), p)
	}
	for _, p := range [][2]string{{"hot", "cold"}, {"good", "bad"}, {"love", "hates"}} {
		assert.True(t, table.Opposite(p[0], p[1]), p)
		assert.True(t, table.Opposite(p[1], p[0]), p)
		assert.False(t, table.Same(p[0], p[1]), p)
	}
	assert.True(t, table.KindOf("ferries", "boat"))
	assert.False(t, table.KindOf("boat", "ferry"))
	assert.Equal(t, []Class{Noun}, table.Of("boats"))
	assert.Equal(t, Adjective, table.Of("cheaper")[0])
	assert.Equal(t, Verb, table.Of("went")[0])
	assert.Greater(t, table.Said("the"), table.Said("boat"))
	assert.Greater(t, table.Said("boat"), table.Said("ferry"))
}

// A language without a table, and a text that is no word, are answered as nothing known.
func TestNothingKnown(t *testing.T) {
	none := Of("tlh")
	require.Nil(t, none)
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.String().Draw(t, "a"), rapid.String().Draw(t, "b")
		require.Equal(t, a, none.Lemma(a))
		require.False(t, none.Knows(a) || none.Same(a, b) || none.Opposite(a, b) || none.Kin(a, b, 3) || none.Comparative(a))
		require.Empty(t, none.Of(a))
		require.Zero(t, none.Said(a))
	})
}

// A lemma is its own lemma, and whatever is taken off a form, the table has what is left.
func TestLemmasAreFixed(t *testing.T) {
	table := Of("en")
	require.Greater(t, len(table.entries), 70_000)
	twice := 0
	for form := range table.entries {
		lemma := table.Lemma(form)
		_, ok := table.entries[lemma]
		require.True(t, ok, "%s of %s", lemma, form)
		if table.Lemma(lemma) != lemma {
			twice++ // buildings, of building, of which there is a rarer verb
		}
		require.True(t, table.Knows(form))
	}
	assert.Less(t, twice, 400)
}

func BenchmarkLemma(b *testing.B) {
	table := Of("en")
	for b.Loop() {
		for _, form := range []string{"boats", "went", "disappointing", "cheaper", "the", "wifi"} {
			table.Lemma(form)
		}
	}
}
