package state

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/corpus"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/core/text"
)

// Alike are the answers that have the same words as another, case, spacing and punctuation aside.
type Alike struct {
	All    *roaring.Bitmap
	Groups [][]uint32 // rows, ascending; the largest group first
	Exact  int        // answers that are the same to the letter as another
	group  []int32    // by row, the place of its group plus one
}

// Of is the group that the answer in a row is in.
func (a *Alike) Of(row int) ([]uint32, bool) {
	if a.group[row] == 0 {
		return nil, false
	}
	return a.Groups[a.group[row]-1], true
}

type alikeKey struct{}

func (alikeKey) Most() int { return 1 }

// Alike groups the answered that are alike.
func (s *State) Alike(ctx context.Context) (*Alike, error) {
	return Remember(ctx, s.Text, alikeKey{}, func(ctx context.Context) (*Alike, error) {
		a := &Alike{All: roaring.New(), group: make([]int32, len(s.Answers))}
		for _, g := range s.Reading.Index.Alike() {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if !s.Reading.Index.Answered().Contains(g[0]) {
				continue
			}
			a.Groups = append(a.Groups, g)
			a.All.AddMany(g)
			for _, row := range g {
				a.group[row] = int32(len(a.Groups))
			}
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

// NearlyAlike are the answers that are nearly alike, as much as was asked for.
type NearlyAlike struct {
	All    *roaring.Bitmap
	Groups [][]uint32 // rows; the first is the one that the others are like
	of     map[uint32][]uint32
}

// Of is the group whose first answer stands in a row.
func (a *NearlyAlike) Of(row int) ([]uint32, bool) {
	g, ok := a.of[uint32(row)]
	return g, ok
}

// nearKey names groups by how much is asked for, in percent.
type nearKey struct{ percent int }

func (nearKey) Most() int { return 2 }

// NearlyAlike groups the answered of which at least so many percent of the words, three in a row, are the same.
func (s *State) NearlyAlike(ctx context.Context, percent int) (*NearlyAlike, error) {
	return Remember(ctx, s.Text, nearKey{percent}, func(ctx context.Context) (*NearlyAlike, error) {
		groups, err := s.Reading.Index.NearlyAlike(ctx, float64(percent)/100, Workers(), s.Progress("comparing answers"))
		if err != nil {
			return nil, err
		}
		a := &NearlyAlike{All: roaring.New(), of: map[uint32][]uint32{}}
		answered := s.Reading.Index.Answered()
		for _, g := range groups {
			if answered.Contains(g[0]) {
				a.Groups = append(a.Groups, g)
				a.All.AddMany(g)
				a.of[g[0]] = g
			}
		}
		return a, nil
	})
}

// How long a copied block is, and how many answers have it, at least. Of 2,500 reviews and 2,500 short comments of people who
// wrote by themselves, none has one.
const (
	blockWords   = 10
	blockAnswers = 3
)

type blocksKey struct{}

func (blocksKey) Most() int { return 1 }

// Blocks are the rows of words that stand, word for word, in several answers whose words are not all the same.
func (s *State) Blocks(ctx context.Context) ([]corpus.Block, error) {
	return Remember(ctx, s.Text, blocksKey{}, func(ctx context.Context) ([]corpus.Block, error) {
		ix := s.Reading.Index
		all, err := ix.Blocks(ctx, blockWords, blockAnswers)
		return slices.DeleteFunc(all, func(b corpus.Block) bool {
			return !slices.ContainsFunc(b.Answers, func(row uint32) bool {
				return !slices.Equal(ix.Answer(int(row)), ix.Answer(int(b.Answers[0])))
			})
		}), err
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

// Original is an answer as it may be shown.
type Original struct {
	Text   string
	Markup []text.Mark // tags and entities, with what people read in their place
}

// Original gives an answer as it may be shown.
func (s *State) Original(row int) Original { return NewOriginal(s.Answers[row]) }

// NewOriginal finds the tags and entities of a text.
func NewOriginal(shown string) Original { return Original{shown, text.Markup(shown)} }

// Piece is a stretch of an original that no tag or entity begins or ends in.
type Piece struct {
	Start, End int // bytes of the original
	Text       string
	Read       string // what people read there: the same, but for tags and entities
}

// Pieces parts a stretch of the original at its tags and entities. Together the texts are the stretch.
func (o Original) Pieces(start, end int) (out []Piece) {
	add := func(from, to int, read *string) {
		if from == to {
			return
		}
		p := Piece{Start: from, End: to, Text: o.Text[from:to], Read: o.Text[from:to]}
		if read != nil {
			p.Read = *read
		}
		out = append(out, p)
	}
	for _, m := range o.Markup {
		if m.End <= start || m.Start >= end {
			continue
		}
		with := m.With
		if m.Start < start { // what stands for it was with its beginning
			with = ""
		}
		from, to := max(m.Start, start), min(m.End, end)
		add(start, from, nil)
		add(from, to, &with)
		start = to
	}
	add(start, end, nil)
	return out
}

// Read is a stretch of the original as people read it: without tags, entities decoded.
func (o Original) Read(start, end int) string {
	var b strings.Builder
	for _, p := range o.Pieces(start, end) {
		b.WriteString(p.Read)
	}
	return b.String()
}

// AsRead is all of it as people read it.
func (o Original) AsRead() string { return o.Read(0, len(o.Text)) }

// Cell is a cell of the data as it may be shown.
func (s *State) Cell(row, column int) string { return s.Study.Cells.Shown(column)[row] }

// CellAsRead is Cell with the answers in open-ended columns as people read them.
func (s *State) CellAsRead(row, column int) string {
	cell := s.Cell(row, column)
	if s.Study.Columns[column].Role == survey.OpenEnded {
		return NewOriginal(cell).AsRead()
	}
	return cell
}

// About is something that is known of a respondent.
type About struct {
	Label string `json:"label,omitempty" doc:"what the value is of; left out where the value says it"`
	Value string `json:"value"`
}

// Who says in a few words who gave an answer: by the chosen variables, or else by at most two segments, the date, and a number.
// What is missing is left out.
func (s *State) Who(row int) []About {
	out := []About{}
	if len(s.Study.Under) > 0 {
		for _, name := range s.Study.Under {
			if k := s.known(name, row); k.Value != "" {
				out = append(out, k)
			}
		}
		return out
	}
	room := map[survey.Role]int{survey.Segment: 2, survey.Date: 1, survey.Number: 1}
	for i, spec := range s.Study.Columns {
		if cell := spec.Shown(s.Cell(row, i)); cell != "" && room[spec.Role] > 0 {
			room[spec.Role]--
			out = append(out, About{shortLabel(spec), cell})
		}
	}
	return out
}

// known is what a variable, or a column that is none, says of the respondent in a row.
func (s *State) known(name string, row int) About {
	for i, spec := range s.Study.Columns {
		if spec.Name == name {
			return About{shortLabel(spec), spec.Shown(s.Cell(row, i))}
		}
	}
	v, ok := s.Study.Find(name)
	if !ok { // it came with a file whose addition was undone
		return About{}
	}
	return About{"", strings.Join(v.Of(row), ", ")}
}

// shortLabel is what a value is labelled with: the column's own short label, or its name where the value alone would say little.
func shortLabel(spec survey.Spec) string {
	switch spec.Role {
	case survey.Segment, survey.Wave, survey.Date:
		return spec.Label
	}
	return spec.Short()
}

// Line is what is known of a respondent, on one line.
func Line(who []About) string {
	parts := make([]string, len(who))
	for i, k := range who {
		parts[i] = strings.TrimSpace(k.Label + " " + k.Value)
	}
	return strings.Join(parts, " · ")
}

// OneLine is a text with single spaces where it has white space, and none around it.
func OneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// Shortened is a text on one line, of at most so many runes.
func Shortened(s string, most int) string {
	s = OneLine(s)
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
