package text

import (
	"slices"
	"strings"
)

// Personal is a mail address or phone number in an original, in bytes.
type Personal struct {
	Start, End int
	Mail       bool // else a phone number
}

// PersonalData finds mail addresses and phone numbers in an original, in order.
func PersonalData(original string) []Personal {
	var out []Personal
	for _, m := range mailAddresses(original) {
		out = append(out, Personal{m[0], m[1], true})
	}
	if manyDigits(original) {
		for _, m := range phoneNumber.FindAllStringIndex(original, -1) {
			if !slices.ContainsFunc(out, func(p Personal) bool { return m[0] < p.End && p.Start < m[1] }) {
				out = append(out, Personal{m[0], m[1], false})
			}
		}
		slices.SortFunc(out, func(a, b Personal) int { return a.Start - b.Start })
	}
	return out
}

// manyDigits says whether there are as many digits as a phone number has: most answers need no search.
func manyDigits(s string) bool {
	n := 0
	for i := range len(s) {
		if asciiKind[s[i]] == 2 {
			if n++; n == 7 {
				return true
			}
		}
	}
	return false
}

// Mask gives the original with its mail addresses and phone numbers masked.
func Mask(original string) string {
	found := PersonalData(original)
	if len(found) == 0 {
		return original
	}
	var b strings.Builder
	at := 0
	for _, p := range found {
		b.WriteString(original[at:p.Start])
		b.WriteString(MaskSign)
		at = p.End
	}
	b.WriteString(original[at:])
	return b.String()
}
