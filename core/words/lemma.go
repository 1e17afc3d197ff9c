package words

import (
	"slices"
	"strings"
)

// ending is an ending of an inflected form, with what stands there in the form it belongs to (the detachment rules of WordNet's
// morphology, and doubled consonants).
type ending struct {
	class    Class
	of, for_ string
	double   bool // the consonant before it is doubled: stopped, bigger
}

var endings = []ending{
	{Noun, "ies", "y", false}, {Noun, "sses", "ss", false}, {Noun, "ches", "ch", false}, {Noun, "shes", "sh", false},
	{Noun, "xes", "x", false}, {Noun, "zes", "z", false}, {Noun, "ses", "s", false}, {Noun, "oes", "o", false}, {Noun, "s", "", false},
	{Verb, "ies", "y", false}, {Verb, "ied", "y", false}, {Verb, "sses", "ss", false}, {Verb, "ches", "ch", false},
	{Verb, "shes", "sh", false}, {Verb, "xes", "x", false}, {Verb, "zes", "z", false}, {Verb, "oes", "o", false}, {Verb, "s", "", false},
	{Verb, "ed", "", false}, {Verb, "ed", "e", false}, {Verb, "ed", "", true},
	{Verb, "ing", "", false}, {Verb, "ing", "e", false}, {Verb, "ing", "", true},
	{Adjective, "ier", "y", false}, {Adjective, "iest", "y", false},
	{Adjective, "er", "", false}, {Adjective, "er", "e", false}, {Adjective, "er", "", true},
	{Adjective, "est", "", false}, {Adjective, "est", "e", false}, {Adjective, "est", "", true},
}

// compared are the irregular comparatives that say the same of more.
var compared = map[string]string{"better": "good", "best": "good", "worse": "bad", "worst": "bad"}

// apart are forms that are words of their own, whatever they look like.
var apart = map[string]bool{"arms": true, "customs": true, "dressing": true, "goods": true, "icing": true, "later": true, "latest": true,
	"news": true, "pants": true, "rather": true, "rose": true, "stuffing": true}

// Lemma is the word that a form is an inflection of, by its ending, its class and how often each is used; the form itself where
// it is a word of its own, or unknown. Words made of others by an ending (hardly of hard, wellness of well) are words of their
// own.
func (t *Table) Lemma(form string) string {
	base, _ := t.lemma(form)
	return base
}

// Comparative says whether a form is the comparative or superlative of its lemma.
func (t *Table) Comparative(form string) bool {
	_, class := t.lemma(form)
	return class == Adjective
}

// lemma gives the lemma and the class in which the form is inflected: of meetings, of which meeting is an inflection of meet,
// this.
func (t *Table) lemma(form string) (string, Class) {
	base, class := t.once(form)
	if base != form && class == Noun {
		if further, c := t.once(base); c == Verb {
			return further, Verb
		}
	}
	return base, class
}

// once takes one inflection off.
func (t *Table) once(form string) (string, Class) {
	if t == nil || apart[form] {
		return form, Noun
	}
	if base, ok := compared[form]; ok {
		return base, Adjective
	}
	own, known := t.get(form)
	best, class, most := form, Noun, -1
	take := func(base string, c Class, irregular bool) {
		e, ok := t.get(base)
		short := len(form) <= 3 && !irregular && (c != Noun || e.found[c] == 0 || own.said > e.said) // his, ups
		if !ok || e.found[c] < 0 || e.name && c == Noun || base == form || len(base) < 2 || short {
			return
		}
		if (!known || belongs(form, own, e, c, irregular)) && e.found[c] > most {
			best, class, most = base, c, e.found[c]
		}
	}
	for c, bases := range t.irregular {
		for _, base := range bases[form] {
			take(base, Class(c), true)
		}
	}
	for _, x := range endings {
		stem, ok := strings.CutSuffix(form, x.of)
		if !ok || len(stem) < 2 {
			continue
		}
		n := len(stem)
		switch {
		case !x.double:
			take(stem+x.for_, x.class, false)
		case n > 2 && stem[n-1] == stem[n-2] && !strings.ContainsRune("aeiou", rune(stem[n-1])):
			take(stem[:n-1], x.class, false)
		}
	}
	return best, class
}

// fewTimes is how often a noun in -ing is found that is hardly more than what its verb says: unloading.
const fewTimes = 3

// belongs says whether a form that is a word by itself is rather an inflection of another: of the same class only if that is
// irregular and far more frequent (found, of find), else if the other is mostly of its class, and more frequent than the form is
// by itself.
func belongs(form string, own, base entry, c Class, irregular bool) bool {
	most := slices.Max(own.found[:])
	if own.name {
		return false
	}
	if most < 0 || most == 0 && c == Verb && strings.HasSuffix(form, "ed") { // said, and hardly a word by itself
		return true
	}
	if own.found[c] > 0 && (c == Verb || c == Noun && !strings.HasSuffix(form, "s")) {
		return irregular && base.found[c] > 3*own.found[c]
	}
	if strings.HasSuffix(form, "ing") && own.found[Noun] > fewTimes && 4*own.found[Noun] > base.found[c] {
		return false // a thing: building, of build
	}
	if c == Adjective && (own.found[Noun] > 0 || own.found[Verb] > 0) {
		return false
	}
	all := 0
	for _, n := range base.found {
		all += max(n, 0)
	}
	return 10*(base.found[c]+1) >= 3*(all+1) && base.found[c] >= most
}
