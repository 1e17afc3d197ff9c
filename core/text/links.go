package text

import (
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/publicsuffix"
)

var (
	webAddress  = regexp.MustCompile(`(?i)(?:https?://|www\.)[^\s<>"]+`)
	hostName    = regexp.MustCompile(`\b[A-Za-z0-9-]+(?:\.[A-Za-z0-9-]+)+(?:/[^\s<>"]*)?`)
	mailAddress = regexp.MustCompile(`(?i)[a-z0-9._%+-]+@[a-z0-9-]+(?:\.[a-z0-9-]+)*\.[a-z]{2,}`)
)

// MaskSign stands for an address or number that is masked: no word, so that it counts as none.
const MaskSign = "•••"

// webAddresses finds web addresses: what begins as one, and a name with a path behind it; with bare, a name alone is one
// too. The name must end as names on the web do, in small letters: "rude.Food" is two words.
func webAddresses(s string, bare bool) [][]int {
	var found [][]int
	if begun(s) { // most answers need no search
		found = webAddress.FindAllStringIndex(s, -1)
	}
	if strings.IndexByte(s, '.') < 0 || !bare && strings.IndexByte(s, '/') < 0 {
		return found
	}
	for _, m := range hostName.FindAllStringIndex(s, -1) {
		host, _, path := strings.Cut(s[m[0]:m[1]], "/")
		ending := host[strings.LastIndexByte(host, '.')+1:]
		_, known := publicsuffix.PublicSuffix(strings.ToLower(host))
		inside := slices.ContainsFunc(found, func(f []int) bool { return m[0] < f[1] && f[0] < m[1] })
		if (path || bare) && (known || ending == "example") && strings.ToLower(ending) == ending && !inside && (m[0] == 0 || s[m[0]-1] != '@') {
			found = append(found, m)
		}
	}
	slices.SortFunc(found, func(a, b []int) int { return a[0] - b[0] })
	return found
}

// begun says whether anything in a text begins as a web address does.
func begun(s string) bool {
	for at := 0; ; at++ {
		i := strings.IndexByte(s[at:], '.')
		if i < 0 {
			return strings.Contains(s, "://")
		}
		if at += i; at >= 3 && strings.EqualFold(s[at-3:at], "www") {
			return true
		}
	}
}

// links takes web and mail addresses out, or masks them; with phones, phone numbers are masked; with bare, names on the
// web that stand alone are addresses too.
func links(masked, phones, bare bool) func(*reading) {
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
		if found := webAddresses(r.text, bare); len(found) > 0 {
			touched = all(r, found, with) || touched
		}
		if phones && mayBePersonal(r.text) {
			for _, p := range personalIn(r.text) {
				if p.Kind == PhoneNumber {
					r.replace(p.Start, p.End, MaskSign)
				}
			}
			touched = r.apply() || touched
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
