package state

import (
	"context"
	"strconv"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/core/text"
)

// Alike are the answers that have the same words as another, case, spacing and punctuation aside.
type Alike struct {
	All    *roaring.Bitmap
	Groups [][]uint32 // rows, ascending; the largest group first
	Exact  int        // answers that are the same to the letter as another
	of     map[uint32][]uint32
}

// Of is the group whose first answer stands in a row.
func (a *Alike) Of(row int) ([]uint32, bool) {
	g, ok := a.of[uint32(row)]
	return g, ok
}

type alikeKey struct{}

func (alikeKey) Most() int { return 1 }

// Alike groups the answered that are alike.
func (s *State) Alike(ctx context.Context) (*Alike, error) {
	return Remember(ctx, s.Text, alikeKey{}, func(ctx context.Context) (*Alike, error) {
		a := &Alike{All: roaring.New(), of: map[uint32][]uint32{}}
		for _, g := range s.Reading.Index.Alike() {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if !s.Reading.Index.Answered().Contains(g[0]) {
				continue
			}
			a.Groups = append(a.Groups, g)
			a.All.AddMany(g)
			a.of[g[0]] = g
			same := map[string]int{}
			for _, row := range g {
				same[s.Answers[row]]++
			}
			for _, n := range same {
				if n > 1 {
					a.Exact += n
				}
			}
		}
		return a, nil
	})
}

type hazardsKey struct{}

func (hazardsKey) Most() int { return 1 }

// Hazards looks for orders of cleaning steps that spoil something. The first time it reads all answers several times over.
func (s *State) Hazards(ctx context.Context) ([]playbook.Hazard, error) {
	return Remember(ctx, s.Text, hazardsKey{}, func(ctx context.Context) ([]playbook.Hazard, error) {
		return s.Scheme.Inspect(ctx, s.Answers, Workers(), s.Progress("checking the order of the steps"))
	})
}

// Original is an answer as it may be shown: with personal data masked if the question says so.
type Original struct {
	Text     string
	personal []text.Personal
}

// Original gives an answer as it may be shown.
func (s *State) Original(row int) Original { return s.Shown(s.Answers[row]) }

// Shown gives a text as it may be shown.
func (s *State) Shown(original string) Original {
	if !s.Scheme.Mask {
		return Original{Text: original}
	}
	return Original{original, text.PersonalData(original)}
}

// Cut is a stretch of the original with personal data in it masked; of data that begins before the stretch nothing shows.
func (o Original) Cut(start, end int) string {
	out := ""
	for _, p := range o.personal {
		if p.End <= start || p.Start >= end {
			continue
		}
		if p.Start >= start {
			out += o.Text[start:p.Start] + text.MaskSign
		}
		start = min(p.End, end)
	}
	return out + o.Text[start:end]
}

// All is the whole original as it may be shown.
func (o Original) All() string { return o.Cut(0, len(o.Text)) }

// Cell is a cell of the data as exports write it: in open-ended columns personal data is masked if the question says so.
func (s *State) Cell(row, column int) string {
	cell := s.Study.Cells[column][row]
	if s.Study.Columns[column].Role == survey.OpenEnded {
		return s.Shown(cell).All()
	}
	return cell
}

// Who says in a few words who gave an answer: at most two segments, the date, and a number.
func (s *State) Who(row int) []string {
	out := []string{}
	room := map[survey.Role]int{survey.Segment: 2, survey.Date: 1, survey.Number: 1}
	for i, spec := range s.Study.Columns {
		cell := s.Study.Cells[i][row]
		if cell == "" || room[spec.Role] == 0 {
			continue
		}
		room[spec.Role]--
		if spec.Role == survey.Number {
			cell = spec.Name + " " + cell
		}
		out = append(out, cell)
	}
	return out
}

// Shortened is a text on one line, of at most so many runes.
func Shortened(s string, most int) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}

// Called is what exports call the respondent in a row: by the first column of identifiers, else by the row from 1.
func (s *State) Called(row int) string {
	for i, spec := range s.Study.Columns {
		if spec.Role == survey.Identifier {
			return s.Cell(row, i)
		}
	}
	return strconv.Itoa(row + 1)
}
