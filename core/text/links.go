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
	all := func(r *reading, found [][]int, with string) bool {
		for _, m := range found {
			end := m[0] + len(strings.TrimRight(r.text[m[0]:m[1]], `.,;:!?)]}'"`))
			if end > m[0] {
				r.replace(m[0], end, with)
			}
		}
		return r.apply()
	}
	return func(r *reading) {
		touched := all(r, mailAddresses(r.text), with)
		if mayHoldAddress(r.text) { // most answers need no search
			touched = all(r, webAddress.FindAllStringIndex(r.text, -1), with) || touched
		}
		if phones && strings.ContainsAny(r.text, "0+") {
			touched = all(r, phoneNumber.FindAllStringIndex(r.text, -1), MaskSign) || touched
		}
		if touched {
			r.edits = append(r.edits, edit{}) // already applied, but the step has touched the answer
		}
	}
}

// mailAddresses finds mail addresses: around each "@", as the expression would in the whole text.
func mailAddresses(s string) (found [][]int) {
	for from := 0; ; {
		at := strings.IndexByte(s[from:], '@')
		if at < 0 {
			return found
		}
		at += from
		start, end := at, at+1
		for start > from && (asciiKind[s[start-1]] != 0 || strings.IndexByte("._%+-", s[start-1]) >= 0) {
			start--
		}
		for end < len(s) && (asciiKind[s[end]] != 0 || s[end] == '-' || s[end] == '.') {
			end++
		}
		from = at + 1
		if m := mailAddress.FindStringIndex(s[start:end]); m != nil {
			found = append(found, []int{start + m[0], start + m[1]})
			from = start + m[1]
		}
	}
}

// mayHoldAddress says whether there is anything in s that a web address begins with or ends in.
func mayHoldAddress(s string) bool {
	if strings.Contains(s, "://") {
		return true
	}
	for at := 0; ; at++ {
		i := strings.IndexByte(s[at:], '.')
		if i < 0 {
			return false
		}
		at += i
		if at >= 3 && strings.EqualFold(s[at-3:at], "www") ||
			at+4 <= len(s) && (strings.EqualFold(s[at+1:at+4], "com") || strings.EqualFold(s[at+1:at+4], "org")) {
			return true
		}
	}
}
