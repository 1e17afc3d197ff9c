package text

import (
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/nyaruka/phonenumbers"
)

// digitRuns are stretches that may be a phone or a card number: digits, with what people write between them.
var digitRuns = regexp.MustCompile(`[+(]{0,2}\d(?:[\d \x{a0}\x{2009}\x{202f}().\-‐–/]{4,44})\d`)

// trimRun cuts brackets that do not pair up off a stretch.
func trimRun(s string, start, end int) (int, int) {
	if s[start] == '(' && !strings.Contains(s[start:end], ")") {
		start++
	}
	return start, end
}

var plainBlanks = strings.NewReplacer("\u00a0", " ", "\u2009", " ", "\u202f", " ", "‐", "-", "–", "-")

// Regions whose national numbers begin with a zero, and those whose do not.
var (
	withZero    = []string{"GB", "IE", "DE", "AT", "CH", "FR", "BE", "NL", "IT", "AU", "NZ", "SE", "FI", "ZA", "IN"}
	withoutZero = []string{"ES", "PT", "IT", "PL", "CZ", "DK", "NO", "GR", "LU"}
)

// Words that stand before a phone number, and before numbers that are none, in the languages that have a lexicon.
var (
	phoneWords = regexp.MustCompile(`(?i)(?:\b(?:tel|teleph\w*|phon\w*|mobile|mob|cell\w*|call|calls|called|calling|ring|rang|text|txt|sms|whats ?app|fax|landline|hotline|dial|contact|reach|` +
		`telef\w*|handy|anruf\w*|rufen|t[ée]l[ée]ph\w*|portable|appel\w*|joindre|m[óo]vil|llam\w*|chiam\w*|bel|gsm|telem[óo]vel|ligar|ligue)\b|☎|📞)[^0-9+]{0,24}$`)
	otherWords = regexp.MustCompile(`(?i)(?:\b(?:order|ref|reference|refs|booking|reservation|ticket|invoice|account|acct|serial|model|item|isbn|issn|doi|ean|upc|sku|part|policy|customer|member|membership|` +
		`voucher|case|claim|tracking|parcel|product|barcode|batch|lot|version|id|nr|no|num|code|bestell\w*|rechnung\w*|kunden\w*|artikel\w*|auftrag\w*|sendung\w*|commande|facture|dossier|colis|pedido|factura|` +
		`ordine|fattura|bestelling|factuur|encomenda|fatura)\b|#|№|n°)[^0-9a-z]{0,4}(?:(?:is|no|nr|number|num|nummer|numero|número|numéro)\b)?[^0-9a-z]{0,4}$`)
	moneyBefore = regexp.MustCompile(`(?i)(?:[$€£¥]|\b(?:eur|usd|gbp|chf|rs)\.?) ?$`)
	unitAfter   = regexp.MustCompile(`(?i)^ ?(?:[$€£¥%°]|(?:eur|euros?|usd|gbp|chf|pounds?|dollars?|km|miles?|kg|gb|mb|people|passengers|x|units?|pcs|stück|times|years|days|hours)\b)`)

	aDate  = regexp.MustCompile(`^(?:\d{1,2}[./\-]\d{1,2}[./\-](?:\d{4}|\d{2})|\d{4}[./\-]\d{1,2}[./\-]\d{1,2})(?:[ (.\-/]|$)`)
	years  = regexp.MustCompile(`^(?:19|20)\d\d ?[-–/ ] ?(?:(?:19|20)\d\d|\d\d)$`)
	nanp   = regexp.MustCompile(`^(?:\+?1[-. ]?)?(?:\([2-9]\d\d\)[-. ]?|[2-9]\d\d[-. ])[2-9]\d\d[-. ]\d{4}$`)
	anIP   = regexp.MustCompile(`^\d{1,3}\.\d{1,3}\.\d{1,3}\.\d{1,3}$`)
	amount = regexp.MustCompile(`^\d+\.\d+$`)
)

// numbersIn finds the phone and card numbers in a run of digits: the run itself, or parts of it where other numbers
// stand beside them.
func numbersIn(s string, start, end int) (found []Personal) {
	if isCard(s[start:end]) {
		return []Personal{{start, end, CardNumber}}
	}
	if isPhone(s, start, end) {
		return []Personal{{start, end, PhoneNumber}}
	}
	var parts [][2]int // between blanks
	for at := start; at < end; {
		n := strings.IndexAny(s[at:end], " \u00a0\u2009\u202f")
		if n < 0 {
			n = end - at
		}
		if n > 0 && onlyDigits(s[at:at+n]) != "" {
			parts = append(parts, [2]int{at, at + n})
		}
		_, size := utf8.DecodeRuneInString(s[at+n:])
		at += n + max(size, 1)
	}
	for i := 0; i < len(parts); i++ {
		best, off, kind := 0, 100, PhoneNumber
		for j := i; j < len(parts); j++ {
			from, to := trimSigns(s, parts[i][0], parts[j][1])
			n := len(onlyDigits(s[from:to]))
			if n > 19 {
				break
			}
			if isCard(s[from:to]) {
				best, off, kind = j+1, -1, CardNumber
			}
			// Most numbers have about eleven digits: that tells where one ends and the next begins.
			if away := max(n-11, 11-n); n >= 6 && n <= 15 && away < off && isPhone(s, from, to) {
				best, off = j+1, away
			}
		}
		if best > 0 {
			from, to := trimSigns(s, parts[i][0], parts[best-1][1])
			found = append(found, Personal{from, to, kind})
			i = best - 1
		}
	}
	if len(found) == 0 && strings.Contains(s[start:end], "/") { // 0300 5550188/0300 5550199
		at := start
		for part := range strings.SplitSeq(s[start:end], "/") {
			if from, to := trimSigns(s, at, at+len(part)); from < to && isPhone(s, from, to) {
				found = append(found, Personal{from, to, PhoneNumber})
			}
			at += len(part) + 1
		}
	}
	return found
}

// trimSigns cuts off what joins a number to its neighbours.
func trimSigns(s string, from, to int) (int, int) {
	const joins = " -–/.)\u00a0"
	from += len(s[from:to]) - len(strings.TrimLeft(s[from:to], joins))
	to -= len(s[from:to]) - len(strings.TrimRight(s[from:to], joins+"("))
	return from, to
}

// isPhone says whether a stretch of a text is a phone number: one that a country has, written as people there write it,
// or one that the words before it call so.
func isPhone(s string, start, end int) bool {
	run := plainBlanks.Replace(s[start:end])
	bare := onlyDigits(run)
	if len(bare) < 6 || len(bare) > 15 {
		return false
	}
	if c, _ := utf8.DecodeLastRuneInString(s[:start]); unicode.IsLetter(c) || unicode.IsDigit(c) || c == '_' || c == '=' || c == '@' {
		return false
	}
	if c, _ := utf8.DecodeRuneInString(s[end:]); unicode.IsLetter(c) || unicode.IsDigit(c) || c == '_' || c == '@' {
		return false
	}
	before := s[max(0, start-48):start]
	called := phoneWords.MatchString(before)
	plus := strings.HasPrefix(run, "+") || strings.HasPrefix(run, "(+")
	switch {
	case plus:
		return len(bare) >= 7 && valid("+"+bare, "ZZ", false) || len(bare) >= 9 && len(bare) <= 15
	case zipPlus.FindString(run) == run:
		return false
	case aDate.MatchString(run), years.MatchString(run), anIP.MatchString(run), amount.MatchString(run), isISBN(run):
		return called && !aDate.MatchString(run) && !years.MatchString(run) && !amount.MatchString(run) && strings.ContainsAny(run, " -") && !isISBN(run)
	case moneyBefore.MatchString(before), unitAfter.MatchString(s[end:]):
		return false
	case called:
		return len(bare) >= 7 || strings.ContainsAny(run, " -")
	case otherWords.MatchString(before):
		return false
	case strings.HasPrefix(bare, "00") && len(bare) >= 10:
		return valid("+"+bare[2:], "ZZ", true)
	}
	groups := strings.FieldsFunc(run, func(r rune) bool { return r < '0' || r > '9' })
	apart := len(groups) > 1
	switch {
	case nanp.MatchString(run):
		return true
	case bare[0] == '0' && len(bare) >= 8:
		// Numbers kept for stories are no country's, but written as its are.
		like := len(bare) >= 10 && len(bare) <= 11 && len(groups) <= 4 && len(groups[0]) >= 2 && len(groups[0]) <= 5
		return apart && like || (apart || len(bare) >= 10) && slices.ContainsFunc(withZero, func(region string) bool { return valid(bare, region, true) })
	case apart && len(bare) >= 8 && !strings.HasSuffix(bare, "000000"):
		return slices.ContainsFunc(withoutZero, func(region string) bool { return valid(bare, region, true) && grouped(groups, bare, region) })
	}
	return false
}

// valid says whether a country has a number; possible ones do where it need not be exact.
func valid(number, region string, exactly bool) bool {
	n, err := phonenumbers.Parse(number, region)
	if err != nil {
		return false
	}
	return phonenumbers.IsValidNumber(n) || !exactly && phonenumbers.IsPossibleNumber(n)
}

// grouped says whether digits are parted as in a country's own way of writing, or in pairs or threes.
func grouped(groups []string, bare, region string) bool {
	n, err := phonenumbers.Parse(bare, region)
	if err != nil {
		return false
	}
	usual := strings.FieldsFunc(phonenumbers.Format(n, phonenumbers.NATIONAL), func(r rune) bool { return r < '0' || r > '9' })
	if slices.Equal(groups, usual) {
		return true
	}
	lengths := ""
	for _, g := range groups {
		lengths += string(rune('0' + len(g)))
	}
	return slices.Contains([]string{"333", "3222", "2322", "2222", "2232", "334", "3223", "3232"}, lengths)
}

func onlyDigits(s string) string {
	var b strings.Builder
	for i := range len(s) {
		if s[i] >= '0' && s[i] <= '9' {
			b.WriteByte(s[i])
		}
	}
	return b.String()
}

// isISBN says whether a run is the number of a book (ISO 2108), by its check digit.
func isISBN(run string) bool {
	bare := onlyDigits(run)
	switch {
	case len(bare) == 13 && (strings.HasPrefix(bare, "978") || strings.HasPrefix(bare, "979")):
		sum := 0
		for i, c := range bare {
			sum += int(c-'0') * (1 + 2*(i%2))
		}
		return sum%10 == 0
	case len(bare) == 10 && strings.Count(run, "-") == 3 && len(run) == 13:
		sum := 0
		for i, c := range bare {
			sum += int(c-'0') * (10 - i)
		}
		return sum%11 == 0
	}
	return false
}

// isCard says whether a run of digits is the number of a payment card: of an issuer (ISO/IEC 7812), with the right check
// digit, and in groups as cards have them.
func isCard(run string) bool {
	bare := onlyDigits(run)
	if len(bare) < 13 || len(bare) > 19 || strings.ContainsAny(run, "+()/.") || len(run)-len(bare) > 6 {
		return false
	}
	begins := func(from, to string) bool { return bare[:len(from)] >= from && bare[:len(to)] <= to }
	n := len(bare)
	issuer := bare[0] == '4' && (n == 13 || n == 16 || n == 19) ||
		n == 16 && (begins("51", "55") || begins("2221", "2720") || begins("3528", "3589") || begins("60", "60") || begins("65", "65")) ||
		n == 15 && (begins("34", "34") || begins("37", "37")) ||
		n == 14 && (begins("300", "305") || begins("36", "36") || begins("38", "39")) ||
		n >= 16 && begins("62", "62") || n >= 13 && begins("644", "649") || n >= 12 && (begins("50", "50") || begins("56", "58") || begins("67", "67"))
	sum := 0
	for i := range n {
		d := int(bare[n-1-i] - '0')
		if i%2 == 1 {
			if d *= 2; d > 9 {
				d -= 9
			}
		}
		sum += d
	}
	return issuer && sum%10 == 0
}
