package survey

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"
)

// column is what a guess looks at.
type column struct {
	filled        int
	plain         numberForms             // numbers without a unit
	united        map[string]*numberForms // with one, by unitKey
	dates         dateForms
	words         float64
	distinct      map[string]int
	phones, mails int // cells that look like phone numbers, and mail addresses
	names         int // cells of two or three words, all with a capital: answers are not written so
	firstPart     string
}

// mean is the mean number of words.
func (c *column) mean() float64 { return c.words / max(1, float64(c.filled)) }

// repeated is how many values stand more than once.
func (c *column) repeated() (n int) {
	for _, times := range c.distinct {
		if times > 1 {
			n++
		}
	}
	return n
}

func (c *column) differ() string {
	if len(c.distinct) == c.filled {
		return "no two the same"
	}
	return fmt.Sprintf("%.0f %% of them different", 100*float64(len(c.distinct))/float64(c.filled))
}

// numbers are the numbers with the unit that most have; those without one go with them.
func (c *column) numbers() *numberForms {
	var best *numberForms
	for _, key := range slices.Sorted(maps.Keys(c.united)) {
		if f := c.united[key]; best == nil || f.cells > best.cells {
			best = f
		}
	}
	if best == nil || best.cells < c.plain.cells {
		return &c.plain
	}
	return &numberForms{all: slices.Concat(best.all, c.plain.all), cells: best.cells + c.plain.cells, units: best.units}
}

// others are the values that are none of the numbers, the most frequent first.
func (c *column) others(f *numberForms) (out []string) {
	numbers := map[string]bool{}
	for _, n := range f.all {
		numbers[n.cell] = true
	}
	for cell := range c.distinct {
		if !numbers[cell] {
			out = append(out, cell)
		}
	}
	slices.SortFunc(out, func(a, b string) int { return cmp.Or(c.distinct[b]-c.distinct[a], strings.Compare(a, b)) })
	return out
}

// private says what the cells are, if they tell who the respondents are.
func (c *column) private() string {
	switch {
	case c.filled > 1 && c.mails*10 >= c.filled*9:
		return "mail addresses"
	case c.filled > 1 && c.phones*10 >= c.filled*9:
		return "phone numbers"
	case c.filled > 2 && c.names*10 >= c.filled*9 && len(c.distinct)*2 > c.filled:
		return "names of people"
	}
	return ""
}

// likePhone says whether a cell is written as phone numbers are: seven to fifteen digits, in groups, begun by + or 0.
func likePhone(cell string) bool {
	n, groups := 0, 1
	for _, r := range cell {
		switch {
		case r >= '0' && r <= '9':
			n++
		case strings.ContainsRune(" -/().\u00a0", r):
			groups++
		case r != '+':
			return false
		}
	}
	return n >= 7 && n <= 15 && (cell[0] == '+' || (cell[0] == '0' || cell[0] == '(') && groups > 1)
}

// likeName says whether a cell is two or three words that all begin with a capital, as only names are written.
func likeName(cell string) bool {
	parts := strings.Fields(cell)
	for _, p := range parts {
		letters := []rune(strings.TrimSuffix(p, "."))
		if len(letters) == 0 || !unicode.IsUpper(letters[0]) || len(letters) > 1 && !slices.ContainsFunc(letters, unicode.IsLower) ||
			slices.ContainsFunc(letters, func(r rune) bool { return !unicode.IsLetter(r) && r != '-' && r != '’' && r != '\'' }) {
			return false
		}
	}
	return len(parts) == 2 || len(parts) == 3
}

func likeMail(cell string) bool {
	name, domain, ok := strings.Cut(cell, "@")
	return ok && name != "" && strings.Contains(domain, ".") && !strings.ContainsAny(cell, " \t\n")
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
	c := column{distinct: distinct, united: map[string]*numberForms{}}
	for cell, n := range c.distinct {
		c.filled += n
		c.words += float64(n * words(cell))
		if likeMail(cell) {
			c.mails += n
		}
		if likeName(cell) {
			c.names += n
		}
		if !strings.ContainsAny(cell, "0123456789") || len(cell) > 60 {
			continue
		}
		if len(cell) <= maxDate {
			c.dates.add(cell, n)
		}
		if likePhone(cell) {
			c.phones += n
		}
		if x := readNumber(cell, ""); x.byPoint() || x.byComma() {
			c.plain.add(cell, "", n)
		} else if u, ok := unitOf(cell); ok {
			key := unitKey(u)
			if c.united[key] == nil {
				c.united[key] = &numberForms{}
			}
			c.united[key].add(cell, u, n)
		}
	}
	return c
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
	most := len(c.distinct)
	if delimiter == ";" || delimiter == "|" {
		most = 2*len(c.distinct) - 2
	} else if with == c.filled { // the other delimiters stand in plain text, too
		return 0
	}
	if with*20 < c.filled || len(parts) > min(60, most) || length > 3*len(parts) {
		return 0
	}
	for part, n := range parts {
		if n > parts[c.firstPart] || n == parts[c.firstPart] && part < c.firstPart {
			c.firstPart = part
		}
	}
	return len(parts)
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
