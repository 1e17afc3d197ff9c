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
	// markupMends find them where they are left-overs, and not where somebody wrote them: "Lt. Larkmoor" and "not amp but
	// volt" stay.
	markupMends = func() map[string]string {
		out := map[string]string{}
		for _, w := range markupLeftovers {
			switch w {
			case "amp", "lt", "gt", "quot", "apos", "nbsp":
				out[w] = `(?i)& ?` + w + `\b ?;?|\b` + w + ` ?;`
			case "br", "div":
				out[w] = `(?i)< ?/? ?` + w + `\b[^<>]{0,200}>?|\b` + w + ` ?/?>`
			case "x000d":
				out[w] = `(?i)_?x000d_?`
			default: // nobody writes these but as addresses
				out[w] = `(?i)\b` + w + `\b`
			}
		}
		return out
	}()
	// negated and named are what stands before the pieces of an English contraction.
	// parted is what stands between them: an apostrophe, a blank, or both.
	parted  = "(?: ?['’´`] ?| )"
	ends    = `([^\pL\pN\-'’.]|[.,!?;:](?:\s|$)|$)` // what a contraction ends at: "they re-filled" and "I D. card" hold none
	negated = "ai|are|ca|could|did|do|does|had|has|have|is|might|must|need|sha|should|was|were|wo|would"
	named   = "he|here|how|i|it|she|that|there|they|we|what|where|who|you"
)

// Leftovers are the words to look for in a language.
func Leftovers(language string) []Leftover {
	var out []Leftover
	for _, w := range markupLeftovers {
		out = append(out, Leftover{w, Replacement{Find: markupMends[w], With: " ", Regex: true}})
	}
	if language != "en" {
		return out
	}
	not := Replacement{Find: `(?i)\b(` + negated + `)n` + parted + `t` + ends, With: "${1}n't${2}", Regex: true}
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
			out, Leftover{end, Replacement{Find: `\b((?i:` + named + `))` + parted + end + ends, With: "${1}'" + end + "${2}", Regex: true}},
		)
	}
	return out
}
