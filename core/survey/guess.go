package survey

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
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
	c := look(cells)
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
	case c.dates == c.filled:
		return set(Date, "every value is a date")
	case named("wave", "round") && len(c.distinct) <= 50:
		return set(Wave, "the name says wave, with %s", values(len(c.distinct)))
	case c.numbers == c.filled && unique && c.filled > 20:
		return set(Identifier, "every value is a different number")
	case c.numbers == c.filled:
		return set(Number, "every value is a number")
	}
	mean := c.words / float64(c.filled)
	if parts := c.severalParts(); parts > 0 {
		g.Delimiter = ";"
		return set(Several, "values such as %q repeat, parted by \";\"", c.firstPart)
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

func values(n int) string {
	if n == 1 {
		return "one value"
	}
	return strconv.Itoa(n) + " values"
}

func differ(distinct, filled int) string {
	return fmt.Sprintf("%.0f %% of them different", 100*float64(distinct)/float64(filled))
}

// column is what a guess looks at.
type column struct {
	filled, numbers, dates int
	words                  float64
	distinct               map[string]int
	firstPart              string
}

func look(cells []string) column {
	c := column{distinct: map[string]int{}}
	for _, cell := range cells {
		cell = strings.TrimSpace(cell)
		if cell == "" {
			continue
		}
		c.filled++
		c.distinct[cell]++
		c.words += float64(len(strings.Fields(cell)))
		if _, err := parse(Number, cell); err == nil {
			c.numbers++
		}
		if _, err := time.Parse(time.DateOnly, cell); err == nil {
			c.dates++
		}
	}
	return c
}

// severalParts counts the different values between ";" if they are few, short, and come up again in other company.
func (c *column) severalParts() int {
	parts, with := map[string]int{}, 0
	for cell, n := range c.distinct {
		if strings.Contains(cell, ";") {
			with += n
		}
		for _, part := range splitValues(cell, ";") {
			parts[part] += n
		}
	}
	words := 0
	for part := range parts {
		words += len(strings.Fields(part))
	}
	if with*20 < c.filled || len(parts) > min(60, len(c.distinct)) || words > 3*len(parts) {
		return 0
	}
	for part, n := range parts {
		if n > parts[c.firstPart] || n == parts[c.firstPart] && part < c.firstPart {
			c.firstPart = part
		}
	}
	return len(parts)
}
