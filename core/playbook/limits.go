package playbook

import (
	"fmt"
	"unicode/utf8"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/rule"
)

// Limit bounds something that a playbook holds.
type Limit struct {
	Of   string // what is bounded
	Most int
	Unit string
}

// The limits of a playbook: far more than a study needs, and few enough that no edit of it takes long.
var (
	MostCategories = Limit{"categories of a code frame", 5_000, "categories"}
	DeepestFrame   = Limit{"nets within one another", 32, "levels"}
	LongestName    = Limit{"name of a category or list", 500, "letters"}
	MostFields     = Limit{"fields of categories", 50, "fields"}
	MostChoices    = Limit{"choices of a field", 100, "choices"}
	LongestValue   = Limit{"value of a field, or one of its choices", 2_000, "letters"}
	LongestNote    = Limit{"note of a category", 10_000, "letters"}
	MostRules      = Limit{"rules of a category, with those that take away or rest", 1_000, "rules"}
	LongestRule    = Limit{"rule", rule.MaxLength, "letters"}
	MostInFrame    = Limit{"rules of a code frame", 20_000, "rules"}
	MostTerms      = Limit{"stop words, and words that stand apart", 100_000, "words"}
	MostEntries    = Limit{"merges and term lists together, with all that they hold", 100_000, "entries"}
	LongestTerm    = Limit{"word or phrase of the lexicon", 500, "letters"}
	MostSteps      = Limit{"steps of cleaning", 64, "steps"}
	MostReplaced   = Limit{"replacements of a step of cleaning", 10_000, "entries"}
	LongestPhrase  = Limit{"phrase that is replaced, or that stands for no answer", 5_000, "letters"}
	MostPhrases    = Limit{"phrases that stand for no answer, are no personal data, or are put aside", 20_000, "entries"}
	MostDerived    = Limit{"variables made of others", 500, "variables"}
)

// Limits are all limits of a playbook.
func Limits() []Limit {
	return []Limit{MostCategories, DeepestFrame, LongestName, LongestNote, MostFields, MostChoices, LongestValue, MostRules, MostInFrame, LongestRule, MostTerms, MostEntries, LongestTerm, MostSteps,
		MostReplaced, LongestPhrase, MostPhrases, MostDerived}
}

// held remembers the first limit that is broken.
type held struct{ err error }

func (h *held) count(where string, n int, l Limit) {
	if h.err == nil && n > l.Most {
		h.err = fmt.Errorf("%w: %s: %d %s; at most %d are kept", ErrPlaybook, where, n, l.Unit, l.Most)
	}
}

func (h *held) text(where, text string, l Limit) {
	if h.err != nil || len(text) <= l.Most {
		return
	}
	h.count(where, utf8.RuneCountInString(text), l)
}

func (h *held) texts(where string, all []string, most, longest Limit) {
	h.count(where, len(all), most)
	for _, t := range all {
		h.text(where, t, longest)
	}
}

// CheckLimits says which limit a playbook breaks, where.
func (p Playbook) CheckLimits() error {
	h := &held{}
	var categories, rules int
	h.frame(p.Frame, 1, &categories, &rules)
	h.count("code frame", rules, MostInFrame)
	h.count("fields of categories", len(p.Fields), MostFields)
	for _, f := range p.Fields {
		h.text("field "+beginning(f.Name), f.Name, LongestName)
		if list, is := f.FieldType.(frame.ListField); is {
			h.texts("choices of the field "+beginning(f.Name), list.Choices, MostChoices, LongestValue)
		}
	}
	h.lexicon(p.Lexicon)
	h.count("cleaning", len(p.Cleaning), MostSteps)
	for _, s := range p.Cleaning {
		if s.StepKind == nil {
			continue
		}
		texts := s.Texts()
		h.count("cleaning, "+s.Kind(), len(texts)/2, MostReplaced) // what is found, and what is put there
		for _, t := range texts {
			h.text("cleaning, "+s.Kind(), t, LongestPhrase)
		}
	}
	h.texts("no answers", p.NoAnswers, MostPhrases, LongestPhrase)
	h.texts("not personal", p.NotPersonal, MostPhrases, LongestPhrase)
	h.texts("warnings put aside", p.Aside, MostPhrases, LongestPhrase)
	h.texts("refused drafts", p.RefusedDrafts, MostPhrases, LongestRule)
	h.count("variables made of others", len(p.Derived), MostDerived)
	return h.err
}

func (h *held) frame(f frame.Frame, depth int, n, rules *int) {
	if len(f) == 0 || h.err != nil {
		return
	}
	h.count("code frame", depth, DeepestFrame)
	for _, c := range f {
		*n++
		h.count("code frame", *n, MostCategories)
		if h.err != nil {
			return
		}
		where := "category " + beginning(c.Name)
		h.text(where+", name", c.Name, LongestName)
		h.text(where+", short code", c.Short, LongestName)
		h.text(where+", note", c.Note, LongestNote)
		for _, value := range c.Fields {
			h.text(where+", field", value, LongestValue)
		}
		own := len(c.Rules) + len(c.Unless) + len(c.Resting)
		*rules += own
		h.count(where+", rules", own, MostRules)
		for _, rules := range [][]string{c.Rules, c.Unless, c.Resting} {
			for _, r := range rules {
				h.text(where+", rule", r, LongestRule)
			}
		}
		h.frame(c.Children, depth+1, n, rules)
	}
}

func (h *held) lexicon(l lexicon.Lexicon) {
	h.texts("stop words", l.StopWords.Add, MostTerms, LongestTerm)
	h.texts("stop words that are kept", l.StopWords.Keep, MostTerms, LongestTerm)
	h.texts("words that stand apart", l.Parted, MostTerms, LongestTerm)
	entries := 0
	for _, merges := range [][]lexicon.Merge{l.Merges, l.Apart} {
		for _, m := range merges {
			entries += 1 + len(m.Variants)
			h.text("merge "+beginning(m.Term), m.Term, LongestTerm)
			h.texts("merge "+beginning(m.Term), m.Variants, MostEntries, LongestTerm)
		}
	}
	for _, list := range l.Lists {
		entries += 1 + len(list.Entries)
		h.text("term list "+beginning(list.Name), list.Name, LongestName)
		h.texts("term list "+beginning(list.Name), list.Entries, MostEntries, LongestTerm)
	}
	h.count("merges and term lists", entries, MostEntries)
}

// beginning is a name as far as a message shows it.
func beginning(name string) string {
	const most = 60
	runes := []rune(name)
	if len(runes) > most {
		return fmt.Sprintf("%q…", string(runes[:most]))
	}
	return fmt.Sprintf("%q", name)
}
