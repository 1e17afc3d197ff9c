package text

import (
	"cmp"
	"slices"
	"strings"
)

// PersonalKind is a kind of personal data.
type PersonalKind uint8

// The kinds.
const (
	MailAddress PersonalKind = iota
	PhoneNumber
	CardNumber
	BankAccount // an IBAN
	Postcode
	ProfileLink // a web address that holds somebody's name
)

// PersonalKinds are the names of the kinds, in their order.
var PersonalKinds = []string{"mail", "phone", "card", "iban", "postcode", "link"}

// Personal is a stretch of personal data in an original, in bytes.
type Personal struct {
	Start, End int
	Kind       PersonalKind
}

// Masker finds personal data, and masks it. Stretches that somebody has looked at and found to be none are passed over.
type Masker struct{ passed map[string]bool }

// NewMasker makes a masker that passes over texts: a stretch that is one of them, case and white space aside, is no
// personal data.
func NewMasker(pass []string) Masker {
	m := Masker{map[string]bool{}}
	for _, p := range pass {
		m.passed[personalKey(p)] = true
	}
	return m
}

func personalKey(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), "")) }

// Find finds personal data in an original, in order: what stands in it as it was written, and what people read there, tags and
// entities aside. Stretches do not overlap.
func (m Masker) Find(original string) []Personal {
	if !mayBePersonal(original) {
		return nil
	}
	out := personalIn(original)
	for _, step := range []func(*reading){entities, markup} { // entities may stand in what a tag holds
		var r reading
		r.start(original)
		if step(&r); !r.apply() {
			continue
		}
		for _, p := range personalIn(r.text) {
			p.Start, p.End = r.span(p.Start, p.End)
			out = append(out, p)
		}
	}
	slices.SortFunc(out, func(a, b Personal) int { return cmp.Or(a.Start-b.Start, b.End-a.End, int(a.Kind)-int(b.Kind)) })
	merged := out[:0]
	for _, p := range out {
		if m.passes(original, p) {
			continue
		}
		if n := len(merged) - 1; n >= 0 && p.Start < merged[n].End {
			merged[n].End = max(merged[n].End, p.End)
			continue
		}
		merged = append(merged, p)
	}
	return slices.DeleteFunc(merged, func(p Personal) bool { return m.passes(original, p) })
}

func (m Masker) passes(original string, p Personal) bool {
	return len(m.passed) > 0 && m.passed[personalKey(original[p.Start:p.End])]
}

// Mask gives the original with its personal data masked.
func (m Masker) Mask(original string) string {
	found := m.Find(original)
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

// mayBePersonal says whether there is anything in a text that personal data has: most answers need no search.
func mayBePersonal(s string) bool {
	n := 0
	for i := range len(s) {
		switch c := s[i]; {
		case c == '@', c == '&' && strings.HasPrefix(s[i:], "&#"), c == ':' && strings.HasPrefix(s[i:], "://"):
			return true
		case c >= '0' && c <= '9':
			if n++; n == 3 { // a post code has two digits or more, and a letter beside them
				return true
			}
		case c == '.' && i >= 3 && strings.EqualFold(s[i-3:i], "www"):
			return true
		}
	}
	return n == 2
}

// personalIn finds personal data in a text. What is found first is not looked at again: a card number is no phone number.
func personalIn(s string) (out []Personal) {
	free := func(start, end int) bool {
		return !slices.ContainsFunc(out, func(p Personal) bool { return start < p.End && p.Start < end })
	}
	add := func(kind PersonalKind, start, end int) {
		if free(start, end) {
			out = append(out, Personal{start, end, kind})
		}
	}
	for _, m := range mailAddresses(s) {
		add(MailAddress, m[0], m[1])
	}
	links := webAddresses(s, false)
	for _, m := range links {
		if namesSomebody(s[m[0]:m[1]]) {
			add(ProfileLink, m[0], m[0]+len(strings.TrimRight(s[m[0]:m[1]], `.,;:!?)]}'"`)))
		}
	}
	digits := 0
	for i := range len(s) {
		if s[i] >= '0' && s[i] <= '9' {
			digits++
		}
	}
	if digits < 2 {
		return out
	}
	inLink := func(start, end int) bool {
		return slices.ContainsFunc(links, func(m []int) bool { return start < m[1] && m[0] < end })
	}
	for _, m := range bankAccounts(s) {
		add(BankAccount, m[0], m[1])
	}
	if digits >= 6 {
		for from, n := 0, 0; n < maxRuns; n++ {
			m := digitRuns.FindStringIndex(s[from:])
			if m == nil {
				break
			}
			start, end := trimRun(s, from+m[0], from+m[1])
			from += m[1]
			if inLink(start, end) || !free(start, end) {
				continue
			}
			for _, p := range numbersIn(s, start, end) {
				add(p.Kind, p.Start, p.End)
				from = p.End // a run has a greatest length: a number that it cut is in the next
			}
		}
	}
	for _, m := range postcodes(s) {
		if !inLink(m[0], m[1]) {
			add(Postcode, m[0], m[1])
		}
	}
	return out
}

// maxRuns is how many runs of digits of one text are looked at: whoever writes more has not written an answer.
const maxRuns = 200
