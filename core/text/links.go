package text

import (
	"regexp"
	"strings"
)

var (
	webAddress  = regexp.MustCompile(`(?i)(?:https?://|www\.)[^\s<>"]+|\b[a-z0-9-]+(?:\.[a-z0-9-]+)*\.(?:com|org)\b(?:/[^\s<>"]*)?`)
	mailAddress = regexp.MustCompile(`(?i)[a-z0-9._%+-]+@[a-z0-9-]+(?:\.[a-z0-9-]+)*\.[a-z]{2,}`)
	phoneNumber = regexp.MustCompile(`(?:\+|\b0)\d[\d ()/-]{5,16}\d\b`)
)

// MaskSign stands for an address or number that is masked: no word, so that it counts as none.
const MaskSign = "•••"

// links takes web and mail addresses out, or masks them; with phones, phone numbers are masked.
func links(masked, phones bool) func(*reading) {
	with := " "
	if masked {
		with = MaskSign
	}
	all := func(r *reading, find *regexp.Regexp, with string) bool {
		for _, m := range find.FindAllStringIndex(r.text, -1) {
			end := m[0] + len(strings.TrimRight(r.text[m[0]:m[1]], `.,;:!?)]}'"`))
			if end > m[0] {
				r.replace(m[0], end, with)
			}
		}
		return r.apply()
	}
	return func(r *reading) {
		touched := false
		if strings.IndexByte(r.text, '@') >= 0 {
			touched = all(r, mailAddress, with)
		}
		// A web address has a dot with something glued behind it: most answers need no search.
		if glued(r.text, '.') || strings.Contains(r.text, "://") {
			touched = all(r, webAddress, with) || touched
		}
		if phones && strings.ContainsAny(r.text, "0+") {
			touched = all(r, phoneNumber, MaskSign) || touched
		}
		if touched {
			r.edits = append(r.edits, edit{}) // already applied, but the step has touched the answer
		}
	}
}

// glued says whether sign stands between two signs other than blanks anywhere in s.
func glued(s string, sign byte) bool {
	for i := 1; i < len(s)-1; i++ {
		if s[i] == sign && s[i-1] != ' ' && s[i+1] > ' ' && s[i+1] != sign {
			return true
		}
	}
	return false
}
