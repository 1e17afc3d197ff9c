package survey

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// number is what a cell can be read as: with the point as its decimal sign, with the comma, or both. NaN where it can't.
type number struct{ point, comma float64 }

func (n number) byPoint() bool { return n.point == n.point }
func (n number) byComma() bool { return n.comma == n.comma }

// open says whether both readings are there and differ: "1,204" may be a thousand, or one and a bit.
func (n number) open() bool { return n.byPoint() && n.byComma() && n.point != n.comma }

var noNumber = number{math.NaN(), math.NaN()}

// parseNumber reads a number as people write it: with a unit before or after it if one is given; a minus of any kind, or brackets
// for less than nothing; thousands separated by blanks, apostrophes, or the sign that is not the decimal one.
func parseNumber(cell, unit string, comma bool) (float64, error) {
	n := readNumber(cell, unit)
	x := n.point
	if comma {
		x = n.comma
	}
	if x != x {
		return 0, fmt.Errorf("%w %q is no number", ErrValue, cell)
	}
	return x, nil
}

// minus are the signs that stand for it.
const minus = "-−–"

// readNumber gives the readings of a cell.
func readNumber(cell, unit string) number {
	s, negative := strings.TrimSpace(cell), false
	// Sign, brackets and unit come in any order: -£4, £-4, (£4), £(4), 4 £.
	for range 4 {
		switch {
		case s == "":
			return noNumber
		case len(s) > 2 && s[0] == '(' && s[len(s)-1] == ')' && !negative:
			s, negative = s[1:len(s)-1], true
		case s[0] == '+' && !negative:
			s = s[1:]
		case strings.ContainsRune(minus, first(s)) && !negative:
			s, negative = s[utf8.RuneLen(first(s)):], true
		default:
			rest, ok := withoutUnit(s, unit)
			if !ok {
				return signed(readDigits(s), negative)
			}
			s, unit = rest, ""
		}
		s = strings.TrimSpace(s)
	}
	return signed(readDigits(s), negative)
}

func first(s string) rune { r, _ := utf8.DecodeRuneInString(s); return r }

func signed(n number, negative bool) number {
	if negative {
		return number{-n.point, -n.comma}
	}
	return n
}

// withoutUnit takes a unit off one end: in any case, with or without the "s" of the plural or a full stop.
func withoutUnit(s, unit string) (string, bool) {
	if unit == "" {
		return s, false
	}
	for _, u := range []string{unit + "s.", unit + "s", unit + ".", unit, strings.TrimSuffix(unit, "s")} {
		if u == "" || len(s) < len(u) {
			continue
		}
		if rest := s[:len(s)-len(u)]; strings.EqualFold(s[len(rest):], u) {
			return rest, true
		}
		if rest := s[len(u):]; strings.EqualFold(s[:len(u)], u) {
			return rest, true
		}
	}
	return s, false
}

// thousands part groups of three digits, whatever the decimal sign is.
const thousands = " \u00a0\u2009\u202f'’"

// readDigits reads what is left of a number without sign and unit.
func readDigits(s string) number {
	if strings.ContainsAny(s, "eE") { // 1.5e3
		if n, err := strconv.ParseFloat(s, 64); err == nil && !math.IsInf(n, 0) && strings.Trim(s, "0123456789.eE+-") == "" {
			return number{n, n}
		}
		return noNumber
	}
	if strings.ContainsAny(s, thousands) {
		s = strings.Map(func(r rune) rune {
			if strings.ContainsRune(thousands, r) {
				return '_'
			}
			return r
		}, s)
	}
	return number{readBy(s, ".", ","), readBy(s, ",", ".")}
}

// readBy reads digits with a decimal sign, and a sign that may part thousands.
func readBy(s, decimal, group string) float64 {
	whole, fraction, _ := strings.Cut(s, decimal)
	if !digits(fraction) || whole == "" && fraction == "" {
		return math.NaN()
	}
	if strings.Contains(whole, "_") {
		if group != "_" && strings.Contains(whole, group) {
			return math.NaN()
		}
		group = "_"
	}
	groups := strings.Split(whole, group)
	for i, g := range groups {
		if !digits(g) || i > 0 && len(g) != 3 || i == 0 && len(groups) > 1 && (len(g) < 1 || len(g) > 3 || g[0] == '0') {
			return math.NaN()
		}
	}
	n, err := strconv.ParseFloat(strings.Join(groups, "")+"."+fraction+"0", 64)
	if err != nil || math.IsInf(n, 0) {
		return math.NaN()
	}
	return n
}

func digits(s string) bool {
	for i := range len(s) {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return true
}

// currencies are written before or after an amount, besides the signs of currencies.
var currencies = []string{
	"eur", "usd", "gbp", "chf", "sek", "nok", "dkk", "isk", "pln", "czk", "huf", "ron", "try", "jpy", "cny", "inr", "aud", "cad",
	"nzd", "zar", "brl", "mxn", "kr", "rs", "us$", "a$", "c$", "nz$", "r$", "fr", "sfr", "euro", "euros", "pence", "p", "ct", "cent", "cents",
}

// units are written after a number without a blank between, too; any other word stands behind one.
var units = []string{
	"%", "‰", "°", "°c", "°f", "ms", "s", "sec", "min", "mins", "h", "hr", "hrs", "d", "wk", "mo", "yr", "yrs", "y",
	"mm", "cm", "m", "km", "in", "ft", "yd", "mi", "g", "kg", "mg", "lb", "lbs", "oz", "t", "ml", "cl", "l", "gb", "mb", "kb", "tb",
	"kwh", "kw", "w", "v", "x", "px", "pt", "pts", "sqm", "m2", "m²", "km²",
}

func currency(s string) bool {
	return slices.Contains(currencies, strings.ToLower(s)) || utf8.RuneCountInString(s) == 1 && unicode.Is(unicode.Sc, first(s))
}

// unitOf takes a number with something before or after it apart: "12 min" has the unit min. Codes such as Q4, A1 and 12B
// have none: before a number only a currency stands, and right after it only what is known to.
func unitOf(cell string) (unit string, ok bool) {
	from := strings.IndexFunc(cell, unicode.IsDigit)
	last := strings.LastIndexFunc(cell, unicode.IsDigit)
	if from < 0 {
		return "", false
	}
	around := "+(" + minus + " \u00a0"
	before, behind := strings.Trim(cell[:from], around+"."), cell[last+1:]
	after := strings.Trim(behind, ") \u00a0")
	switch {
	case (before == "") == (after == ""):
		return "", false
	case after == "":
		if unit = before; !currency(unit) {
			return "", false
		}
	default:
		unit = after
		known := currency(unit) || slices.Contains(units, strings.ToLower(unit))
		apart := strings.TrimLeft(behind, " \u00a0") != behind
		word := utf8.RuneCountInString(unit) >= 2 && len(unit) <= 24 && strings.IndexFunc(unit, func(r rune) bool { return !unicode.IsLetter(r) }) < 0
		if !known && !(apart && word) {
			return "", false
		}
	}
	n := readNumber(cell, unit)
	return unit, n.byPoint() || n.byComma()
}

// unitKey is by what units that are the same are known: "hour" and "hours", "Min" and "min."
func unitKey(unit string) string {
	key := strings.ToLower(strings.TrimSuffix(unit, "."))
	if len(key) > 3 {
		key = strings.TrimSuffix(key, "s")
	}
	return key
}
