package survey

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Guess is a column's likely role, with the reason in plain words.
type Guess struct {
	Spec
	Reason   string `json:"reason"`
	Filled   int    `json:"filled" doc:"cells that are not blank"`
	Distinct int    `json:"distinct" doc:"different values"`
}

// GuessRole guesses from a column's name and its cells.
func GuessRole(name string, cells []string) Guess {
	distinct, _ := distinctCells(context.Background(), cells) // of a file's first rows: nobody leaves meanwhile
	c := look(distinct)
	g := Guess{Spec: Spec{Name: name}, Filled: c.filled, Distinct: len(c.distinct)}
	low := strings.ToLower(name)
	named := func(words ...string) bool {
		parts := strings.FieldsFunc(low, func(r rune) bool { return !('a' <= r && r <= 'z') })
		return slices.ContainsFunc(words, func(w string) bool { return slices.Contains(parts, w) })
	}
	set := func(role Role, format string, args ...any) Guess {
		g.Role, g.Reason = role, fmt.Sprintf(format, args...)
		return g
	}
	unique := c.filled > 1 && len(c.distinct) == c.filled
	switch {
	case c.filled == 0:
		return set(LeftOut, "every cell is blank")
	case c.numbers == c.filled && named("weight", "weights", "wt"):
		return set(Weight, "numbers, and the name says weight")
	case unique && named("id", "key", "respondent", "case", "number", "no") && c.words <= float64(c.filled)*1.2:
		return set(Identifier, "every value is different, and the name says so")
	case c.dates.all(c.filled):
		g.Days = c.dates.days()
		return set(Date, "%s", c.dates.reason())
	case named("wave", "round") && len(c.distinct) <= 50:
		return set(Wave, "the name says wave, with %s", values(len(c.distinct)))
	case c.numbers == c.filled && unique && c.filled > 20:
		return set(Identifier, "every value is a different number")
	case c.numbers == c.filled:
		return set(Number, "every value is a number")
	}
	if share := float64(c.numbers) / float64(c.filled); share >= 0.9 && len(c.others) <= 5 {
		g.Missing = c.others
		return set(Number, "%.0f %% are numbers; %s would count as missing", 100*share, strings.Join(quote(c.others), ", "))
	}
	if c.unit != "" && float64(c.units+c.numbers) >= 0.95*float64(c.filled) {
		g.Unit = c.unit
		return set(Number, "the values are numbers with the unit %q", c.unit)
	}
	if c.commas > 0 && c.commas+c.numbers == c.filled {
		g.Comma = true
		return set(Number, "the values are numbers with a decimal comma")
	}
	mean := c.words / float64(c.filled)
	for _, d := range []string{";", "|", ",", "/"} {
		if c.severalParts(d) > 0 {
			g.Delimiter = d
			return set(Several, "values such as %q repeat, parted by %q", c.firstPart, d)
		}
	}
	repeats := float64(c.filled) / float64(len(c.distinct))
	switch {
	case unique && mean <= 1.2 && c.filled > 20:
		return set(Identifier, "every value is different and has no blanks")
	case strings.HasSuffix(strings.TrimSpace(name), "?") && mean >= 2 && len(c.distinct) > 6:
		return set(OpenEnded, "the name is a question, and %.1f words answer it on average", mean)
	case mean >= 4, mean >= 2 && repeats < 3 && len(c.distinct) > 12:
		return set(OpenEnded, "%.1f words on average, %s", mean, differ(len(c.distinct), c.filled))
	case len(c.distinct) <= 60 || repeats >= 20:
		return set(Segment, "%s that come up again and again", values(len(c.distinct)))
	case repeats < 1.5 && mean > 1.2:
		return set(OpenEnded, "%.1f words on average, %s", mean, differ(len(c.distinct), c.filled))
	}
	return set(LeftOut, "%s, too many for a segment and too short for answers", values(len(c.distinct)))
}

// words counts the words between white space.
func words(s string) (n int) {
	in := false
	for _, r := range s {
		space := unicode.IsSpace(r)
		if !space && !in {
			n++
		}
		in = !space
	}
	return n
}

// maxDate is how long a date may be written, in bytes.
const maxDate = 40

func values(n int) string {
	if n == 1 {
		return "one value"
	}
	return strconv.Itoa(n) + " values"
}

func differ(distinct, filled int) string {
	return fmt.Sprintf("%.0f %% of them different", 100*float64(distinct)/float64(filled))
}

func quote(words []string) (out []string) {
	for _, w := range words {
		out = append(out, strconv.Quote(w))
	}
	return out
}

// column is what a guess looks at.
type column struct {
	filled, numbers, commas int
	dates                   dateForms
	unit                    string // the unit of most numbers that have one
	units                   int    // cells with it
	words                   float64
	distinct                map[string]int
	others                  []string // the values that are no numbers, the most frequent first, if there are few
	firstPart               string
}

// distinctCells counts the cells that are not blank, without the white space around them.
func distinctCells(ctx context.Context, cells []string) (map[string]int, error) {
	counts := map[string]int{}
	for i, cell := range cells {
		if i%4096 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if cell = strings.TrimSpace(cell); cell != "" {
			counts[cell]++
		}
	}
	return counts, nil
}

// look sums up the different cells of a column, each with how often it stands there.
func look(distinct map[string]int) column {
	c := column{distinct: distinct}
	units := map[string]int{}
	for cell, n := range c.distinct {
		c.filled += n
		c.words += float64(n * words(cell))
		if !strings.ContainsAny(cell, "0123456789") {
			c.others = append(c.others, cell)
			continue
		}
		if len(cell) <= maxDate {
			c.dates.add(cell, n)
		}
		if _, err := parseNumber(cell, "", false); err == nil {
			c.numbers += n
			continue
		}
		c.others = append(c.others, cell)
		if _, err := parseNumber(cell, "", true); err == nil {
			c.commas += n
		}
		if u, ok := unitOf(cell); ok {
			units[u] += n
		}
	}
	for u, n := range units {
		if n > c.units || n == c.units && u < c.unit {
			c.unit, c.units = u, n
		}
	}
	slices.SortFunc(c.others, func(a, b string) int {
		return cmp.Or(c.distinct[b]-c.distinct[a], strings.Compare(a, b))
	})
	return c
}

// dateForms counts cells by the ways in which they may be read as dates.
type dateForms struct {
	iso, written, dayFirst, monthFirst, either int // slashed dates: those that can be read in one way only, or in both
}

func (f *dateForms) add(cell string, n int) {
	if _, err := parseDate(cell, ""); err == nil {
		if len(cell) >= 10 && cell[4] == '-' {
			f.iso += n
		} else {
			f.written += n
		}
		return
	}
	_, dmy := parseDate(cell, "dmy")
	_, mdy := parseDate(cell, "mdy")
	switch {
	case dmy == nil && mdy == nil:
		f.either += n
	case dmy == nil:
		f.dayFirst += n
	case mdy == nil:
		f.monthFirst += n
	}
}

// all says whether one way reads all the cells.
func (f dateForms) all(filled int) bool {
	return f.iso+f.written+f.either+max(f.dayFirst, f.monthFirst) == filled
}

// forms is how many different ways of writing dates there are.
func (f dateForms) forms() (n int) {
	for _, there := range []bool{f.iso > 0, f.written > 0, f.dayFirst > 0 || f.either > 0 && f.monthFirst == 0, f.monthFirst > 0} {
		if there {
			n++
		}
	}
	return n
}

func (f dateForms) days() string {
	switch {
	case f.monthFirst > f.dayFirst:
		return "mdy"
	case f.dayFirst+f.either > 0:
		return "dmy"
	}
	return ""
}

func (f dateForms) reason() string {
	switch {
	case f.monthFirst > f.dayFirst:
		return "every value is a date; some can only have the month first"
	case f.dayFirst > 0:
		return "every value is a date; some can only have the day first"
	case f.either > 0:
		return "every value is a date; day first is a guess, the month first would do too"
	}
	return "every value is a date"
}

// severalParts counts the different values between delimiters if they are few, short, and come up again in other company.
func (c *column) severalParts(delimiter string) int {
	c.firstPart = ""
	parts, with := map[string]int{}, 0
	for cell, n := range c.distinct {
		if strings.Contains(cell, delimiter) {
			with += n
		}
		for _, part := range splitValues(cell, delimiter) {
			parts[part] += n
		}
	}
	length := 0
	for part := range parts {
		length += words(part)
	}
	if with*20 < c.filled || with == c.filled && delimiter != ";" || len(parts) > min(60, len(c.distinct)) || length > 3*len(parts) {
		return 0
	}
	for part, n := range parts {
		if n > parts[c.firstPart] || n == parts[c.firstPart] && part < c.firstPart {
			c.firstPart = part
		}
	}
	return len(parts)
}
