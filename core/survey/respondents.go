package survey

import (
	"fmt"
	"iter"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// Respondent is the number of a respondent in a study: from 0, in the order in which they came. A number is used once: it is not
// given to another respondent, even if the rows that brought it were taken away again. The row in which a respondent stands is
// another number, which changes with what is taken away before it; Rows leads from one to the other.
type Respondent uint32

// MaxRespondents is how many respondents a study may ever have had.
const MaxRespondents = 1 << 31

// Range is respondents in a row: from the first, up to but without the last.
type Range struct {
	From Respondent `json:"from"`
	To   Respondent `json:"to"`
}

// Rows says which respondent stands in which row of a study: ranges that ascend and do not overlap.
type Rows []Range

// FirstRows are the rows of a study that was loaded with n respondents.
func FirstRows(n int) Rows { return Rows{}.With(0, n) }

// With are the rows with n further respondents, numbered from next on, behind those that there are.
func (r Rows) With(next Respondent, n int) Rows {
	out := slices.Clone(r)
	switch last := len(out) - 1; {
	case n == 0:
	case last >= 0 && out[last].To == next:
		out[last].To += Respondent(n)
	default:
		out = append(out, Range{next, next + Respondent(n)})
	}
	return out
}

// Check says what is wrong with rows: ranges that are empty or do not ascend.
func (r Rows) Check() error {
	last := Respondent(0)
	for _, x := range r {
		if x.From < last || x.To <= x.From || x.To > MaxRespondents {
			return fmt.Errorf("%w: the respondents %d to %d are out of order", ErrSetup, x.From, x.To)
		}
		last = x.To
	}
	return nil
}

// Len is the number of rows.
func (r Rows) Len() (n int) {
	for _, x := range r {
		n += int(x.To - x.From)
	}
	return n
}

// Next is the first number behind those of all rows.
func (r Rows) Next() Respondent {
	if len(r) == 0 {
		return 0
	}
	return r[len(r)-1].To
}

// Respondent is who stands in a row, which must be one.
func (r Rows) Respondent(row int) Respondent {
	for _, x := range r {
		if n := int(x.To - x.From); row >= n {
			row -= n
			continue
		}
		return x.From + Respondent(row)
	}
	panic(fmt.Sprintf("survey: there is no row %d", row))
}

// Row is where a respondent stands; ok is false for one who is not there (any more).
func (r Rows) Row(p Respondent) (row int, ok bool) {
	for _, x := range r {
		if p < x.From {
			break
		}
		if p < x.To {
			return row + int(p-x.From), true
		}
		row += int(x.To - x.From)
	}
	return row, false
}

// RowFrom is the first row whose respondent's number is not below p: the number of all rows if there is none.
func (r Rows) RowFrom(p Respondent) int {
	row, _ := r.Row(p)
	return row
}

// RowsOf are the rows of the respondents of a set, in the order of their numbers.
func RowsOf(set Respondents) (out Rows) {
	for p := range set.All() {
		if last := len(out) - 1; last >= 0 && out[last].To == p {
			out[last].To++
			continue
		}
		out = append(out, Range{p, p + 1})
	}
	return out
}

// Set are the respondents who stand in the rows.
func (r Rows) Set() Respondents {
	set := roaring.New()
	for _, x := range r {
		set.AddRange(uint64(x.From), uint64(x.To))
	}
	return Respondents{set}
}

// Without are the rows without those of some respondents; the others move up.
func (r Rows) Without(gone Respondents) Rows { return RowsOf(r.Set().AndNot(gone)) }

// Of gives the rows of respondents, those left aside who are not there.
func (r Rows) Of(set Respondents) *roaring.Bitmap {
	out := roaring.New()
	row, it := 0, set.bits().Iterator()
	for _, x := range r {
		for it.AdvanceIfNeeded(uint32(x.From)); it.HasNext() && it.PeekNext() < uint32(x.To); {
			out.Add(uint32(row) + it.Next() - uint32(x.From))
		}
		row += int(x.To - x.From)
	}
	return out
}

// Respondents gives who stands in a set of rows; what is no row is left aside.
func (r Rows) Respondents(rows *roaring.Bitmap) Respondents {
	out := roaring.New()
	row, it := 0, rows.Iterator()
	for _, x := range r {
		past := row + int(x.To-x.From)
		for it.HasNext() && int(it.PeekNext()) < past {
			out.Add(uint32(x.From) + it.Next() - uint32(row))
		}
		row = past
	}
	return Respondents{out}
}

// Respondents is a set of respondents. It does not change once made; the zero value is the empty set.
type Respondents struct{ set *roaring.Bitmap }

// Numbers are those of the respondents as a set of numbers. The caller must not change it.
func (s Respondents) Numbers() *roaring.Bitmap { return s.bits() }

// RespondentsOf is the set of those given, who may come in any order and several times.
func RespondentsOf(all ...Respondent) Respondents {
	set := roaring.New()
	for _, p := range all {
		set.Add(uint32(p))
	}
	return Respondents{set}
}

func (s Respondents) bits() *roaring.Bitmap {
	if s.set == nil {
		return roaring.New()
	}
	return s.set
}

// Has says whether a respondent is in the set.
func (s Respondents) Has(p Respondent) bool { return s.set != nil && s.set.Contains(uint32(p)) }

// Len is the number of respondents in the set.
func (s Respondents) Len() int { return int(s.bits().GetCardinality()) }

// Same says whether two sets hold the same respondents.
func (s Respondents) Same(other Respondents) bool {
	return s.set == other.set || s.bits().Equals(other.bits())
}

// Or, AndNot and And join two sets.
func (s Respondents) Or(other Respondents) Respondents {
	return Respondents{roaring.Or(s.bits(), other.bits())}
}

// AndNot is the set without those of another.
func (s Respondents) AndNot(other Respondents) Respondents {
	return Respondents{roaring.AndNot(s.bits(), other.bits())}
}

// And is the set of those who are in both.
func (s Respondents) And(other Respondents) Respondents {
	return Respondents{roaring.And(s.bits(), other.bits())}
}

// All visits the respondents of the set, ascending.
func (s Respondents) All() iter.Seq[Respondent] {
	return func(yield func(Respondent) bool) {
		for it := s.bits().Iterator(); it.HasNext(); {
			if !yield(Respondent(it.Next())) {
				return
			}
		}
	}
}

// List gives the respondents of the set, ascending.
func (s Respondents) List() []Respondent {
	out := make([]Respondent, 0, s.Len())
	for p := range s.All() {
		out = append(out, p)
	}
	return out
}
