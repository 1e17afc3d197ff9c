package survey

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// parseNumber reads a number: with a unit before or after it if one is given, with thousands parted by commas ("1,204"),
// or with the comma as its decimal sign ("1.204,5").
func parseNumber(cell, unit string, comma bool) (float64, error) {
	s := cell
	if n, err := strconv.ParseFloat(s, 64); err == nil && !comma && !math.IsInf(n, 0) && !math.IsNaN(n) {
		return n, nil
	}
	if unit != "" {
		sign := ""
		if rest, ok := strings.CutPrefix(s, "-"); ok {
			sign, s = "-", rest
		}
		if len(s) >= len(unit) && strings.EqualFold(s[len(s)-len(unit):], unit) {
			s = s[:len(s)-len(unit)]
		} else if len(s) >= len(unit) && strings.EqualFold(s[:len(unit)], unit) {
			s = s[len(unit):]
		}
		s = sign + strings.TrimSpace(s)
	}
	thousands, decimal := ",", "."
	if comma {
		thousands, decimal = ".", ","
	}
	whole, fraction, _ := strings.Cut(s, decimal)
	if parts := strings.Split(whole, thousands); len(parts) > 1 {
		for i, p := range parts {
			if i > 0 && len(p) != 3 || i == 0 && (len(strings.TrimLeft(p, "+-")) == 0 || len(strings.TrimLeft(p, "+-")) > 3) {
				return 0, fmt.Errorf("%w %q is no number", ErrValue, cell)
			}
		}
		whole = strings.Join(parts, "")
	}
	if fraction != "" {
		whole += "." + fraction
	}
	n, err := strconv.ParseFloat(whole, 64)
	if err != nil || math.IsInf(n, 0) || math.IsNaN(n) || strings.ContainsAny(whole, "xXpP_") {
		return 0, fmt.Errorf("%w %q is no number", ErrValue, cell)
	}
	return n, nil
}

// unitOf takes a number with something before or after it apart: "12 min" has the unit min.
func unitOf(cell string) (unit string, ok bool) {
	first := strings.IndexFunc(cell, unicode.IsDigit)
	last := strings.LastIndexFunc(cell, unicode.IsDigit)
	if first < 0 {
		return "", false
	}
	before, after := strings.TrimSpace(strings.TrimLeft(cell[:first], "+-.")), strings.TrimSpace(cell[last+1:])
	// Before a number only a currency stands; "Autumn 2026" is a name.
	if (before == "") == (after == "") || len([]rune(before)) > 3 || len([]rune(after)) > 8 ||
		strings.ContainsAny(before+after, ".,;:/") {
		return "", false
	}
	unit = before + after
	_, err := parseNumber(cell, unit, false)
	return unit, err == nil
}

// writtenDates are layouts with the month's English name.
var writtenDates = []string{"2 Jan 2006", "2 January 2006", "Jan 2, 2006", "January 2, 2006", "2-Jan-2006", "2-Jan-06"}

// parseDate reads a date as days since 1970-01-01: ISO (a time after it is passed over), with the month's name, or with
// days and months in the order given ("dmy", "mdy"), parted by "/", "." or "-".
func parseDate(cell, days string) (float64, error) {
	bad := func() (float64, error) {
		return 0, fmt.Errorf("%w %q is no date; write it as 2026-03-14", ErrValue, cell)
	}
	s := cell
	if len(s) > 10 && (s[10] == 'T' || s[10] == ' ') && s[4] == '-' {
		s = s[:10]
	}
	if t, err := time.Parse(time.DateOnly, s); err == nil {
		return day(t), nil
	}
	if days == "dmy" || days == "mdy" {
		a, b, year, ok := slashed(s)
		if !ok {
			return bad()
		}
		if days == "mdy" {
			a, b = b, a
		}
		t := time.Date(year, time.Month(b), a, 0, 0, 0, 0, time.UTC)
		if t.Day() != a || int(t.Month()) != b {
			return bad()
		}
		return day(t), nil
	}
	if strings.IndexFunc(s, unicode.IsLetter) >= 0 {
		for _, layout := range writtenDates {
			if t, err := time.Parse(layout, s); err == nil {
				return day(t), nil
			}
		}
	}
	return bad()
}

func day(t time.Time) float64 { return float64(t.Unix() / 86400) }

// date is the day that a number of days since 1970-01-01 stands for.
func date(days float64) time.Time { return time.Unix(int64(days)*86400, 0).UTC() }

// slashed takes a date such as 14/03/2026 (a time after it is passed over) apart. Years of two digits are those from
// 1970 to 2069.
func slashed(s string) (a, b, year int, ok bool) {
	s, _, _ = strings.Cut(s, " ")
	sign := strings.IndexAny(s, "/.-")
	if sign < 1 {
		return 0, 0, 0, false
	}
	parts := strings.Split(s, s[sign:sign+1])
	if len(parts) != 3 || len(parts[2]) != 4 && len(parts[2]) != 2 {
		return 0, 0, 0, false
	}
	var n [3]int
	for i, p := range parts {
		x, err := strconv.Atoi(p)
		if err != nil || x < 0 || len(p) > 4 {
			return 0, 0, 0, false
		}
		n[i] = x
	}
	if len(parts[2]) == 2 {
		n[2] += 1900
		if n[2] < 1970 {
			n[2] += 100
		}
	}
	return n[0], n[1], n[2], n[0] >= 1 && n[0] <= 31 && n[1] >= 1 && n[1] <= 31
}
