package survey

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// numberForms are the cells of a column that are numbers with one unit, or with none.
type numberForms struct {
	all   []writtenNumber
	cells int
	units map[string]int // as they are written
}

// writtenNumber is a different cell that is a number.
type writtenNumber struct {
	number
	cell  string
	times int
}

func (f *numberForms) add(cell, unit string, times int) {
	if f.units == nil {
		f.units = map[string]int{}
	}
	f.all = append(f.all, writtenNumber{readNumber(cell, unit), cell, times})
	f.cells += times
	f.units[unit] += times
}

// unit is the unit as it is mostly written.
func (f *numberForms) unit() (unit string) {
	for u, n := range f.units {
		if unit == "" || n > f.units[unit] || n == f.units[unit] && u < unit {
			unit = u
		}
	}
	return unit
}

// by is a number as it reads with one of the decimal signs, or with the other where it can't be read so.
func (n writtenNumber) by(comma bool) float64 {
	x, other := n.point, n.comma
	if comma {
		x, other = other, x
	}
	if x != x {
		return other
	}
	return x
}

// decimal tells what decimal sign the cells are written with: from those that can be read in one way only, else from the
// habits of the file. Open: it can't be told, and matters.
func (f *numberForms) decimal(file habits) (comma, open bool, because string) {
	point, commas, either := 0, 0, 0
	for _, n := range f.all {
		switch {
		case n.open():
			either += n.times
		case !n.byComma():
			point += n.times
		case !n.byPoint():
			commas += n.times
		}
	}
	switch {
	case point > 0 || commas > 0:
		return commas > point, false, ""
	case either == 0:
		return false, false, ""
	case file.comma > 0 && file.point == 0:
		return true, false, ", as in another column of the file"
	case file.point > 0 && file.comma == 0:
		return false, false, ", as in another column of the file"
	}
	return false, true, ""
}

// ask asks how a number is meant that can be read in two ways.
func (f *numberForms) ask(g *Guess) {
	example := ""
	var n number
	for _, x := range f.all {
		if x.open() && (example == "" || x.times > 0 && x.cell < example) {
			example, n = x.cell, x.number
		}
	}
	g.Ask = fmt.Sprintf("Is %s the number", example)
	for _, comma := range []bool{false, true} {
		spec := g.Spec
		spec.Comma = comma
		x := n.point
		if comma {
			x = n.comma
		}
		words := strconv.FormatFloat(x, 'f', -1, 64)
		if x == math.Trunc(x) {
			words += ", thousands separated"
		} else {
			words += ", a fraction"
		}
		g.Choices = append(g.Choices, Choice{words, spec})
	}
}

func (f *numberForms) mean(comma bool) (mean float64) {
	for _, n := range f.all {
		mean += n.by(comma) * float64(n.times) / float64(f.cells)
	}
	return mean
}

func (f *numberForms) fractions(comma bool) bool {
	return slices.ContainsFunc(f.all, func(n writtenNumber) bool { return n.by(comma) != math.Trunc(n.by(comma)) })
}

func (f *numberForms) least(comma bool) float64 {
	least := math.Inf(1)
	for _, n := range f.all {
		least = min(least, n.by(comma))
	}
	return least
}

// codes says whether the cells are codes made of digits: some are filled up with zeros.
func (f *numberForms) codes() bool {
	return slices.ContainsFunc(f.all, func(n writtenNumber) bool { return len(n.cell) > 1 && n.cell[0] == '0' && digits(n.cell) })
}

// serial says whether different whole numbers are those of records: they follow on each other without great gaps, or all have the
// same number of digits, of which there are many.
func (f *numberForms) serial() bool {
	low, high, length := math.Inf(1), math.Inf(-1), len(f.all[0].cell)
	same := length >= 6
	for _, n := range f.all {
		low, high = min(low, n.point), max(high, n.point)
		same = same && len(n.cell) == length && digits(n.cell)
	}
	return same || high-low < 2*float64(len(f.all))
}

// missingCodes are numbers that often stand for a missing value.
var missingCodes = []float64{-1, -9, -99, -999, 97, 98, 99, 997, 998, 999, 9999}

// outliers are codes for missing values among the numbers: they stand far from all others, which are scale values.
func (f *numberForms) outliers() (found []string) {
	var codes []writtenNumber
	low, high := math.Inf(1), math.Inf(-1)
	for _, n := range f.all {
		if slices.Contains(missingCodes, n.point) && digits(strings.TrimPrefix(n.cell, "-")) {
			codes = append(codes, n)
			continue
		}
		low, high = min(low, n.by(false)), max(high, n.by(false))
	}
	for _, n := range codes {
		if n.point < 0 && low >= 0 && high <= 100 || n.point > 0 && low >= 0 && high <= 20 {
			found = append(found, n.cell)
		}
	}
	slices.Sort(found)
	return found
}

// dateForms counts cells by the ways in which they may be read as dates.
type dateForms struct {
	iso, written, dayFirst, monthFirst, either int // slashed dates: those that can be read in one way only, or in both
	compact                                    int // of the written ones: eight digits
	points                                     int // of those that can be read in both ways: separated by points
	example                                    string
}

func (f *dateForms) add(cell string, n int) {
	if _, err := parseDate(cell, ""); err == nil {
		switch {
		case len(cell) >= 10 && cell[4] == '-':
			f.iso += n
		case digits(cell):
			f.compact += n
			fallthrough
		default:
			f.written += n
		}
		return
	}
	_, dmy := parseDate(cell, "dmy")
	_, mdy := parseDate(cell, "mdy")
	switch {
	case dmy == nil && mdy == nil:
		f.either += n
		if strings.Count(cell, ".") == 2 {
			f.points += n
		}
		if a, b, _, _ := slashed(cell); a != b && (f.example == "" || cell < f.example) {
			f.example = cell
		}
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

var months = []string{
	"January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December",
}

// ask asks whether the day or the month stands first.
func (f dateForms) ask(g *Guess) {
	a, b, year, _ := slashed(f.example)
	g.Ask = fmt.Sprintf("Is %s the day", f.example)
	for _, days := range []string{"dmy", "mdy"} {
		d, m := a, b
		if days == "mdy" {
			d, m = b, a
		}
		spec := g.Spec
		spec.Days = days
		g.Choices = append(g.Choices, Choice{fmt.Sprintf("%d %s %d", d, months[m-1], year), spec})
	}
}
