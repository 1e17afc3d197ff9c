package lexicon

import (
	"regexp"
	"slices"
	"strings"

	"aftermath/core/words"
)

// Values are built-in term lists: what stands for an amount, a time and the like, however it is written. Numbers and signs are
// known in every language, words in English only.
var Values = []string{"money", "percent", "duration", "time", "date", "measure", "number"}

// classLists are built-in term lists of word classes, for languages with a table of words.
var classLists = map[string]words.Class{"nouns": words.Noun, "verbs": words.Verb, "adjectives": words.Adjective, "adverbs": words.Adverb}

// ClassLists are their names.
var ClassLists = []string{"nouns", "verbs", "adjectives", "adverbs"}

// BuiltIn gives what a built-in list finds that is no list of entries: values, or the words of a class. A list of the analyst's
// own of that name goes before it. Ok is false where there is no such list, or nothing is known of the language's words.
func (v *View) BuiltIn(name string) (ps Phrases, ok bool) {
	if slices.ContainsFunc(v.Lexicon.Lists, func(l List) bool { return l.Name == name }) {
		return Phrases{}, false
	}
	if class, is := classLists[name]; is && v.stems.table != nil {
		return NewPhrases(Sequence{v.stems.ofClass(class)}), true
	}
	if !slices.Contains(Values, name) {
		return Phrases{}, false
	}
	return v.stems.values()[name], true
}

// ofClass are the words of a class, by the table, in a sense that is not rare.
func (s *Stems) ofClass(class words.Class) WordSet {
	var out []uint32
	for w := range uint32(s.index.Vocabulary()) {
		if slices.Contains(s.table.Of(s.index.Surface(w)), class) {
			out = append(out, w)
		}
	}
	return newWordSet(out...)
}

// shapes of words that stand in values, by their names.
var shapes = map[string]*regexp.Regexp{
	"number":   regexp.MustCompile(`^\d+([.,]\d+)*$`),
	"hour":     regexp.MustCompile(`^([01]?\d|2[0-3])$`),
	"hhmm":     regexp.MustCompile(`^([01]?\d|2[0-3]):[0-5]\d(am|pm)?$`),
	"dayno":    regexp.MustCompile(`^(0?[1-9]|[12]\d|3[01])(st|nd|rd|th)?$`),
	"monthno":  regexp.MustCompile(`^(0?[1-9]|1[0-2])$`),
	"year":     regexp.MustCompile(`^(19|20)\d\d$`),
	"clock":    regexp.MustCompile(`^(0?\d|1[0-2])([.,][0-5]\d)?(am|pm)$`),
	"pence":    regexp.MustCompile(`^\d+p$`),
	"lasting":  regexp.MustCompile(`^\d+([.,]\d+)?(sec|secs|min|mins|h|hr|hrs)$`),
	"measured": regexp.MustCompile(`^\d+([.,]\d+)?(km|m|cm|mm|kg|g|mg|l|ml|mph|kmh|gb|mb|kw|kwh)$`),
}

var numerals = strings.Fields(`one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen
	eighteen nineteen twenty thirty forty fifty sixty seventy eighty ninety hundred thousand`)

// vocabulary of values. Words are English.
var vocabulary = map[string][]string{
	"currency": {"£", "$", "€", "¥", "₹"},
	"pound":    {"pound", "pounds"}, // a weight, where dollars are paid
	"coin": strings.Fields(`quid euro euros dollar dollars pence penny pennies cent cents bucks grand eur gbp usd chf kr
		francs`),
	"note":    {"fiver", "fivers", "tenner", "tenners"},
	"percent": {"%", "percent"},
	"numeral": numerals,
	"many":    numerals[1:], // "one day" is said of no day's length
	"unit": strings.Fields(`second seconds sec secs minute minutes min mins hour hours hr hrs h week weeks month months year
		years`),
	"day":     {"day", "days"},
	"short":   {"hour"},
	"half":    {"half"},
	"an":      {"an", "a"},
	"and":     {"and"},
	"ampm":    {"am", "pm"},
	"past":    {"past"},
	"to":      {"to"},
	"oclock":  {"o'clock", "oclock"},
	"noon":    {"noon", "midnight", "midday"},
	"quarter": {"quarter"},
	"month": strings.Fields(`january february march april may june july august september october november december jan feb mar apr jun jul
		aug sep sept oct nov dec`),
	"length": strings.Fields(`km kilometre kilometres kilometer kilometers m metre metres meter meters cm centimetres mm mile miles yard
		yards foot feet inch inches kg kilo kilos gram grams g litre litres liter liters l ml degrees mph gb mb`),
}

// writtenAs is how values are written: what stands in a row, by the names of shapes and of the vocabulary; "a|b" is either.
var writtenAs = map[string][]string{
	"money":   {"currency number", "number currency", "number|numeral coin", "number|numeral pound", "note", "pence"},
	"percent": {"number|numeral percent"},
	"duration": {
		"number|numeral unit", "number|many day", "lasting", "half an short", "an short", "an short and an half", "number|numeral and an half unit",
	},
	"time": {
		"hhmm", "hhmm ampm", "clock", "hour ampm", "hour|numeral oclock", "noon", "half numeral", "quarter past|to hour|numeral",
		"numeral past numeral", "half past hour|numeral",
	},
	"date":    {"dayno month", "month dayno", "dayno month year", "month dayno year", "dayno monthno year", "year monthno dayno"},
	"measure": {"number|numeral length", "measured"},
	"number":  {"number"},
}

// uses is how often a sign stands in the answers.
func (s *Stems) uses(sign string) int {
	if w, ok := s.index.Word(sign); ok {
		return s.index.Count(w)
	}
	return 0
}

// findValues works out what values are written with in an index. Of a number between a currency sign and a unit both lists have
// it.
func (s *Stems) findValues() map[string]Phrases {
	sets := map[string][]uint32{}
	for name, list := range vocabulary {
		if name != "currency" && name != "percent" && s.language != "en" {
			continue
		}
		for _, surface := range list {
			if w, ok := s.index.Word(surface); ok {
				sets[name] = append(sets[name], w)
			}
		}
	}
	for w := range uint32(s.index.Vocabulary()) {
		surface := s.index.Surface(w)
		if surface[0] < '0' || surface[0] > '9' {
			continue
		}
		for name, shape := range shapes {
			if shape.MatchString(surface) {
				sets[name] = append(sets[name], w)
			}
		}
	}
	if s.uses("£") <= s.uses("$") {
		delete(sets, "pound")
	}
	out := map[string]Phrases{}
	for list, forms := range writtenAs {
		var sequences []Sequence
		for _, form := range forms {
			var row Sequence
			for part := range strings.FieldsSeq(form) {
				var words []uint32
				for name := range strings.SplitSeq(part, "|") {
					words = append(words, sets[name]...)
				}
				row = append(row, newWordSet(words...))
			}
			if !slices.ContainsFunc(row, func(set WordSet) bool { return len(set) == 0 }) {
				sequences = append(sequences, row)
			}
		}
		out[list] = NewPhrases(sequences...)
	}
	return out
}
