package survey

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// writtenDates are layouts with the month's English name.
var writtenDates = []string{"2 Jan 2006", "2 January 2006", "Jan 2, 2006", "January 2, 2006", "2-Jan-2006", "2-Jan-06"}

// parseDate reads a date as days since 1970-01-01: ISO (a time after it is passed over), in eight digits, with the
// month's name, or with days and months in the order given ("dmy", "mdy"), separated by "/", "." or "-".
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
	if len(s) == 8 && strings.Trim(s, "0123456789") == "" {
		if t, err := time.Parse("20060102", s); err == nil && t.Year() >= 1900 && t.Year() < 2100 {
			return day(t), nil
		}
		return bad()
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

// clock is a time of the day behind a date.
var clock = regexp.MustCompile(`(?i)[T ,]\s*(\d{1,2})[:.h](\d{2})(?:[:.]\d{2})?(?:\.\d+)?\s*([ap])?`)

// hourOf is the hour of the day that a date is written with, 0 to 23; -1 if it is written with none.
func hourOf(cell string) int8 {
	m := clock.FindStringSubmatch(cell)
	if m == nil {
		return -1
	}
	h, _ := strconv.Atoi(m[1])
	switch half := strings.ToLower(m[3]); {
	case half != "" && (h < 1 || h > 12):
		return -1
	case half == "p":
		h = h%12 + 12
	case half == "a":
		h %= 12
	}
	if h > 23 {
		return -1
	}
	return int8(h)
}

func day(t time.Time) float64 { return float64(t.Unix() / 86400) }

// DateOf is the day that a number of days since 1970-01-01 stands for.
func DateOf(days float64) time.Time { return time.Unix(int64(days)*86400, 0).UTC() }

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
