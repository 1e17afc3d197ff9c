package text

import "strings"

// Leftover is a word that looks like a left-over of cleaning, and what would mend it.
type Leftover struct {
	Word string
	Mend Replacement // before contractions are written out
}

var (
	// markupLeftovers are what is left of entities, tags, addresses and control signs that were cut in pieces.
	markupLeftovers = strings.Fields("nbsp amp quot lt gt apos br div href http https www x000d")
	// negated and named are what stands before the pieces of an English contraction.
	// parted is what stands between them: an apostrophe, a blank, or both.
	parted  = "(?: ?['’´`] ?| )"
	negated = "ai|are|ca|could|did|do|does|had|has|have|is|might|must|need|sha|should|was|were|wo|would"
	named   = "he|here|how|i|it|she|that|there|they|we|what|where|who|you"
)

// Leftovers are the words to look for in a language.
func Leftovers(language string) []Leftover {
	var out []Leftover
	for _, w := range markupLeftovers {
		out = append(out, Leftover{w, Replacement{Find: w, With: " "}})
	}
	if language != "en" {
		return out
	}
	not := Replacement{Find: `(?i)\b(` + negated + `)n` + parted + `t\b`, With: "${1}n't", Regex: true}
	for _, stem := range strings.Split(negated, "|") {
		switch stem { // these are words of their own
		case "ca", "do", "sha", "wo":
		default:
			out = append(out, Leftover{stem + "n", not})
		}
	}
	out = append(out, Leftover{"t", not}, Leftover{"don", not})
	for _, end := range []string{"ll", "ve", "re", "m", "s", "d"} {
		out = append(
			out, Leftover{end, Replacement{Find: `(?i)\b(` + named + `)` + parted + end + `\b`, With: "${1}'" + end, Regex: true}},
		)
	}
	return out
}
