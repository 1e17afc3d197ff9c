package text

import (
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"
)

// ibanLengths are the lengths of account numbers by country (ISO 13616 registry).
var ibanLengths = map[string]int{
	"AD": 24, "AE": 23, "AL": 28, "AT": 20, "AZ": 28, "BA": 20, "BE": 16, "BG": 22, "BH": 22, "BR": 29, "CH": 21, "CR": 22, "CY": 28, "CZ": 24,
	"DE": 22, "DK": 18, "DO": 28, "EE": 20, "EG": 29, "ES": 24, "FI": 18, "FO": 18, "FR": 27, "GB": 22, "GE": 22, "GI": 23, "GL": 18, "GR": 27,
	"GT": 28, "HR": 21, "HU": 28, "IE": 22, "IL": 23, "IS": 26, "IT": 27, "JO": 30, "KW": 30, "KZ": 20, "LB": 28, "LI": 21, "LT": 20, "LU": 20,
	"LV": 21, "MC": 27, "MD": 24, "ME": 22, "MK": 19, "MR": 27, "MT": 31, "MU": 30, "NL": 18, "NO": 15, "PK": 24, "PL": 28, "PS": 29, "PT": 25,
	"QA": 29, "RO": 24, "RS": 22, "SA": 24, "SE": 24, "SI": 19, "SK": 24, "SM": 27, "TN": 24, "TR": 26, "UA": 29, "VA": 22, "XK": 20,
}

var mayBeIBAN = regexp.MustCompile(`(?i)\b[a-z]{2}\d{2}(?:[ \-]?[a-z0-9]{1,4}){2,9}`)

// bankAccounts finds account numbers by their country, length and check digits (ISO 7064, mod 97-10).
func bankAccounts(s string) (found [][]int) {
	for _, m := range mayBeIBAN.FindAllStringIndex(s, -1) {
		want := ibanLengths[strings.ToUpper(s[m[0]:m[0]+2])]
		if want == 0 {
			continue
		}
		var bare []byte
		end := m[0]
		for ; end < m[1] && len(bare) < want; end++ {
			if c := s[end]; c != ' ' && c != '-' {
				if c >= 'a' {
					c -= 'a' - 'A'
				}
				bare = append(bare, c)
			}
		}
		if len(bare) < want || end < len(s) && (asciiKind[s[end]] != 0) {
			continue
		}
		rest := 0
		for _, c := range append(bare[4:], bare[:4]...) {
			if c >= '0' && c <= '9' {
				rest = (rest*10 + int(c-'0')) % 97
			} else {
				rest = (rest*100 + int(c-'A') + 10) % 97
			}
		}
		if rest == 1 {
			found = append(found, []int{m[0], end})
		}
	}
	return found
}

// ukAreas are the letters that a British post code begins with.
var ukAreas = set(`ab al b ba bb bd bh bl bn br bs bt ca cb cf ch cm co cr ct cv cw da dd de dg dh dl dn dt dy e ec eh en ex fk fy g gl gu gy ha hd hg hp
	hr hs hu hx ig im ip iv je ka kt kw ky l la ld le ll ln ls lu m me mk ml n ne ng nn np nr nw ol ox pa pe ph pl po pr rg rh rm s sa se sg sk sl sm sn so sp
	sr ss st sw sy ta td tf tn tq tr ts tw ub w wa wc wd wf wn wr ws wv yo ze`)

// Ways in which post codes are written that no other word is, and digits that only what stands before or behind them makes one.
var (
	british  = regexp.MustCompile(`\b([A-Z]{1,2})\d[A-Z\d]? ?\d[ABD-HJLNP-UW-Z]{2}\b|\b([a-z]{1,2})\d[a-z\d]? \d[abd-hjlnp-uw-z]{2}\b`)
	canadian = regexp.MustCompile(`\b[ABCEGHJ-NPRSTVXY]\d[ABCEGHJ-NPRSTV-Z][ -]?\d[ABCEGHJ-NPRSTV-Z]\d\b`)
	irish    = regexp.MustCompile(`\b(?:[AC-FHKNPRTV-Y]\d{2}|D6W) ?[0-9AC-FHKNPRTV-Y]{4}\b`)
	dutch    = regexp.MustCompile(`\b[1-9]\d{3} ?(?:[A-RT-Z][A-Z]|S[BCE-RT-Z])\b`)
	zipPlus  = regexp.MustCompile(`\b\d{5}-\d{4}\b`)
	prefixed = regexp.MustCompile(`\b(?:D|A|CH|F|I|E|B|L|P|NL|DK|SE|NO|FIN?)-\d{4,5}(?:-\d{3})?\b`)
	called   = regexp.MustCompile(`(?i)\b(?:post ?codes?|postal codes?|zip(?: codes?)?|plz|postleitzahl|cp|code postal|c[óo]digo postal|cap|postcode)(?: (?:is|ist|est|es|è))?[ :.=]{1,3}(\d{4,5}(?:-\d{3,4})?)\b`)
	stateZip = regexp.MustCompile(`\b(?:A[KLRZ]|C[AOT]|D[CE]|FL|GA|HI|I[ADLN]|K[SY]|LA|M[ADEINOST]|N[CDEHJMVY]|O[HKR]|PA|RI|S[CD]|T[NX]|UT|V[AT]|W[AIVY]),? (\d{5})\b|\b(?:NSW|VIC|QLD|TAS|ACT),? (\d{4})\b`)
)

// postcodes finds post codes: those whose writing says so, and digits that are called one.
func postcodes(s string) (found [][]int) {
	for _, m := range british.FindAllStringSubmatchIndex(s, -1) {
		from, to := m[2], m[3]
		if from < 0 {
			from, to = m[4], m[5]
		}
		if ukAreas[strings.ToLower(s[from:to])] && stands(s, m[0], m[1]) {
			found = append(found, m[:2])
		}
	}
	for _, form := range []*regexp.Regexp{canadian, irish, dutch, zipPlus, prefixed} {
		for _, m := range form.FindAllStringIndex(s, -1) {
			if stands(s, m[0], m[1]) {
				found = append(found, m)
			}
		}
	}
	for _, form := range []*regexp.Regexp{called, stateZip} {
		for _, m := range form.FindAllStringSubmatchIndex(s, -1) {
			for i := 2; i < len(m); i += 2 {
				if m[i] >= 0 {
					found = append(found, m[i:i+2])
				}
			}
		}
	}
	return found
}

// stands says whether a stretch stands by itself: it is no part of a longer code.
func stands(s string, start, end int) bool {
	before, _ := utf8.DecodeLastRuneInString(s[:start])
	after, _ := utf8.DecodeRuneInString(s[end:])
	part := func(r rune) bool {
		return unicode.IsLetter(r) || unicode.IsDigit(r) || r == '-' || r == '_' || r == '/'
	}
	return !(start > 0 && part(before)) && !(end < len(s) && part(after))
}

var profilePath = regexp.MustCompile(`(?i)/(?:in|u|user|users|profile|profiles|people|member|members|author|channel)/[a-z0-9._%-]{3,}|/[@~][a-z0-9._-]{2,}|://[^/\s@]+@`)

// namesSomebody says whether a web address holds somebody's name: the page of a person.
func namesSomebody(link string) bool { return profilePath.MatchString(link) }
