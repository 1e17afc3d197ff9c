package survey

import (
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
	Reason   string   `json:"reason"`
	Filled   int      `json:"filled" doc:"cells that are not blank"`
	Distinct int      `json:"distinct" doc:"different values"`
	Ask      string   `json:"ask,omitempty" doc:"what can't be told from the cells: whoever brings the file in is asked"`
	Choices  []Choice `json:"choices,omitempty" doc:"the answers to that"`
	Battery  int      `json:"battery,omitempty" doc:"columns with the same number hold the same few values: they are items of one battery"`
}

// Choice is an answer to what a guess asks.
type Choice struct {
	Words string `json:"words"`
	Spec  Spec   `json:"spec" doc:"what the column is then"`
}

// Guesses guesses what the columns of a file are, from their names and cells. What one column leaves open is told from the others
// where they are evidence: a file is written with one decimal sign, and one order of days and months.
func Guesses(names []string, columns [][]string) []Guess {
	looked := make([]column, len(names))
	var file habits
	for i, cells := range columns {
		distinct, _ := distinctCells(context.Background(), cells) // of a file's first rows: nobody leaves meanwhile
		looked[i] = look(distinct)
		file.add(looked[i])
	}
	out := make([]Guess, len(names))
	for i, name := range names {
		out[i] = looked[i].guess(name, file)
	}
	openOne(out, looked)
	batteries(out, looked)
	return out
}

// Items of a battery: how many columns, and how many values, make one.
const (
	leastItems  = 3
	leastValues = 3
	mostValues  = 12
)

// batteries numbers the columns that hold the same few values. A value that nobody chose may be missing from some: a
// column goes to the battery whose values hold all of its own, if it has at least half of them.
func batteries(guesses []Guess, looked []column) {
	of := func(i int) map[string]int { return looked[i].distinct }
	var order []int // those with most values first
	for i, g := range guesses {
		if n := len(of(i)); (g.Role == Segment || g.Role == Number) && g.Ask == "" && n >= 2 && n <= mostValues {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return len(of(b)) - len(of(a)) })
	next := 1
	for at, i := range order {
		if guesses[i].Battery > 0 || len(of(i)) < leastValues {
			continue
		}
		items := []int{i}
		for _, j := range order[at+1:] {
			if guesses[j].Battery == 0 && guesses[j].Role == guesses[i].Role && len(of(j))*2 >= len(of(i)) && within(of(j), of(i)) {
				items = append(items, j)
			}
		}
		if len(items) < leastItems {
			continue
		}
		for _, j := range items {
			guesses[j].Battery = next
		}
		next++
	}
}

func within(some, all map[string]int) bool {
	for v := range some {
		if _, ok := all[v]; !ok {
			return false
		}
	}
	return true
}

// openOne makes the column most like answers open-ended where none is: without one there is no study.
func openOne(guesses []Guess, looked []column) {
	best, most := -1, 0.0
	for i, g := range guesses {
		if g.Role == OpenEnded {
			return
		}
		texts := g.Role == Segment || g.Role == Several || (g.Role == LeftOut || g.Role == Identifier) && len(guesses) == 1
		if mean := looked[i].mean(); texts && looked[i].numbers().cells == 0 && looked[i].private() == "" && mean > most {
			best, most = i, mean
		}
	}
	if best < 0 {
		return
	}
	g := &guesses[best]
	g.Spec = Spec{Name: g.Name, Role: OpenEnded}
	g.Reason = fmt.Sprintf("of the columns, this one is most like answers: %.1f words on average", most)
	if len(guesses) == 1 {
		g.Reason = "it is the only column, and holds words"
	}
}

// habits are how a file writes numbers and dates: the number of columns that can only be read so.
type habits struct{ point, comma, dayFirst, monthFirst int }

func (h *habits) add(c column) {
	if f := c.numbers(); f.cells*2 > c.filled {
		comma, open, _ := f.decimal(habits{})
		switch {
		case open || !f.fractions(comma):
		case comma:
			h.comma++
		default:
			h.point++
		}
	}
	if c.dates.all(c.filled) && c.dates.dayFirst > 0 {
		h.dayFirst++
	}
	if c.dates.all(c.filled) && c.dates.monthFirst > 0 {
		h.monthFirst++
	}
}

// Words in the names of columns.
var (
	weightNames = []string{
		"weight", "weights", "weighting", "wt", "wgt", "gewicht", "gewichtung", "poids", "peso", "pond", "ponderation", "ponderacion",
		"weegfactor", "wegingsfactor",
	}
	idNames      = []string{"id", "ids", "uuid", "guid", "key", "respondent", "respondents", "case", "number", "no", "nr", "num", "serial", "token"}
	dateNames    = []string{"date", "day", "datum", "fecha", "data", "jour", "sailed", "time", "when", "on"}
	waveNames    = []string{"wave", "round", "welle", "vague", "ola", "ronda"}
	privateNames = []string{"phone", "telephone", "mobile", "email", "mail", "surname", "firstname", "lastname", "forename", "iban"}
)

// named says whether a name has one of the words.
func named(name string, words []string) bool {
	parts := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) })
	return slices.ContainsFunc(words, func(w string) bool { return slices.Contains(parts, w) })
}

// guess guesses what a column is, from its name, its cells and the habits of its file.
func (c *column) guess(name string, file habits) Guess {
	g := Guess{Spec: Spec{Name: name}, Filled: c.filled, Distinct: len(c.distinct)}
	set := func(role Role, format string, args ...any) Guess {
		g.Role, g.Reason = role, fmt.Sprintf(format, args...)
		return g
	}
	if c.filled == 0 {
		return set(LeftOut, "every cell is blank")
	}
	mean, repeats := c.mean(), float64(c.filled)/float64(len(c.distinct))
	nearlyUnique := c.filled-len(c.distinct) <= max(1, c.filled/20)
	numbers := c.numbers()
	switch private := c.private(); {
	case c.dates.all(c.filled) && (c.dates.compact == 0 || named(name, dateNames)):
		c.date(&g, file)
		return g
	case private != "":
		return set(LeftOut, "the cells look like %s; they are kept, but shown nowhere else", private)
	case named(name, privateNames) && mean <= 4 && nearlyUnique && c.filled > 2:
		return set(LeftOut, "the name says that it tells who the respondents are; it is kept, but shown nowhere else")
	case nearlyUnique && c.filled > 2 && named(name, idNames) && mean <= 1.2 && !numbers.fractions(false):
		if n := c.repeated(); n > 0 {
			return set(Identifier, "the name says so, though %s more than once", plural(n, "value stands", "values stand"))
		}
		return set(Identifier, "every value is different, and the name says so")
	case named(name, waveNames) && len(c.distinct) <= 50:
		return set(Wave, "the name says wave, with %s", values(len(c.distinct)))
	case c.number(&g, file):
		return g
	}
	for _, d := range []string{";", "|", "\n", ",", "/", "&"} {
		if c.severalParts(d) > 0 {
			g.Delimiter = d
			return set(Several, "values such as %q repeat, separated by %q", c.firstPart, d)
		}
	}
	switch {
	case repeats == 1 && mean <= 1.2 && c.filled > 20:
		return set(Identifier, "every value is different and has no blanks")
	case strings.HasSuffix(strings.TrimSpace(name), "?") && mean >= 2 && (len(c.distinct) > 6 || repeats < 1.5):
		return set(OpenEnded, "the name is a question, and %.1f words answer it on average", mean)
	case mean >= 4 && repeats < 20, mean >= 2 && repeats < 3 && len(c.distinct) > 12:
		return set(OpenEnded, "%.1f words on average, %s", mean, c.differ())
	case len(c.distinct) <= 60 && repeats >= 2, repeats >= 20:
		return set(Segment, "%s again and again", plural(len(c.distinct), "value that comes up", "values that come up"))
	case repeats < 1.5 && mean > 1.2 && len(c.distinct) > 4:
		return set(OpenEnded, "%.1f words on average, %s", mean, c.differ())
	case len(c.distinct) <= 60:
		return set(Segment, "%s in %s", values(len(c.distinct)), plural(c.filled, "row", "rows"))
	}
	return set(LeftOut, "%s, too many for a segment and too short for answers", values(len(c.distinct)))
}

// date makes the guess of a column of dates.
func (c *column) date(g *Guess, file habits) {
	f := c.dates
	g.Role, g.Days, g.Reason = Date, f.days(), f.reason()
	if f.either == 0 || f.dayFirst+f.monthFirst > 0 {
		return
	}
	switch {
	case f.points == f.either:
		g.Days, g.Reason = "dmy", "every value is a date; separated by points, the day stands first"
	case file.dayFirst > 0 && file.monthFirst == 0:
		g.Days, g.Reason = "dmy", "every value is a date; the day first, as in another column of the file"
	case file.monthFirst > 0 && file.dayFirst == 0:
		g.Days, g.Reason = "mdy", "every value is a date; the month first, as in another column of the file"
	case f.example != "":
		f.ask(g)
	}
}

// number makes the guess of a column of numbers, if it is one.
func (c *column) number(g *Guess, file habits) bool {
	f := c.numbers()
	unit := f.unit()
	known := unit == "" || currency(unit) || slices.Contains(units, strings.ToLower(unit))
	share := float64(f.cells) / float64(c.filled)
	missing := c.others(f)
	switch {
	case f.cells == 0, f.codes() && unit == "": // 007 is a code
		return false
	case !known && len(f.all) < 3: // "1 child" and "2 children" are names of groups
		return false
	case len(missing) == 0 || unit != "" && share >= 0.95:
	case share >= 0.9 && len(missing) <= 5 && !slices.ContainsFunc(missing, startsWithDigit), share >= 0.5 && allMissing(missing):
		g.Missing = missing
	default:
		return false
	}
	comma, open, because := f.decimal(file)
	weight := named(g.Name, weightNames)
	if open && weight && near(f.mean(true)) != near(f.mean(false)) { // survey weights are about one on average
		comma, open, because = near(f.mean(true)), false, ", since survey weights are about one on average"
	}
	g.Role, g.Unit, g.Comma = Number, unit, comma
	g.Reason = "every value is a number"
	if unit != "" {
		g.Reason = fmt.Sprintf("the values are numbers with the unit %q", unit)
	} else if len(g.Missing) > 0 {
		g.Reason = fmt.Sprintf("%.0f %% are numbers; %s would count as missing", 100*share, strings.Join(quote(g.Missing), ", "))
	} else if codes := f.outliers(); len(codes) > 0 && !weight {
		g.Missing = codes
		g.Reason += fmt.Sprintf("; %s, far from all others, would count as missing", strings.Join(codes, ", "))
	}
	if comma {
		g.Reason += "; the comma is the decimal sign"
	}
	g.Reason += because
	switch {
	case weight && unit == "" && f.least(comma) >= 0 && near(f.mean(comma)):
		g.Role, g.Missing = Weight, nil
		g.Reason = "numbers of about one on average, and the name says weight" + strings.TrimPrefix(g.Reason, "every value is a number")
		if len(missing) > 0 {
			g.Role, g.Missing = Number, missing
		}
	case !open && unit == "" && len(missing) == 0 && c.filled > 20 && len(c.distinct) == c.filled && !f.fractions(comma) && f.serial():
		g.Role, g.Missing, g.Comma, g.Reason = Identifier, nil, false, "every value is a different whole number, as those of records are"
	}
	if open {
		f.ask(g)
	}
	return true
}

// near says whether a mean is one that survey weights have.
func near(mean float64) bool { return mean > 0.05 && mean < 20 }

func startsWithDigit(s string) bool { return s[0] >= '0' && s[0] <= '9' }

// allMissing says whether words all stand for a missing value.
func allMissing(words []string) bool {
	for _, w := range words {
		if !slices.Contains(missingWords, strings.ToLower(w)) && strings.Trim(w, "-–—.?* ") != "" {
			return false
		}
	}
	return len(words) <= 8
}

func values(n int) string { return plural(n, "value", "values") }

func quote(words []string) (out []string) {
	for _, w := range words {
		out = append(out, strconv.Quote(w))
	}
	return out
}
