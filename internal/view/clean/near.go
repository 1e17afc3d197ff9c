package clean

import (
	"context"
	"slices"
	"strings"

	"aftermath/core/survey"
	"aftermath/internal/desk/state"
)

// Near are the answers that are nearly alike.
type Near struct {
	Percent int         `json:"percent" doc:"as was asked: the share of words, three in a row, that two answers have in common"`
	Answers int         `json:"answers"`
	Groups  int         `json:"groups"`
	Top     []NearGroup `json:"top" doc:"the largest groups of answers that are not all the same in their words"`

	Blocks    []CopiedBlock `json:"blocks" doc:"the largest rows of ten words or more that stand word for word in three answers or more that are not all the same; not those within a listed one that most of their answers hold"`
	AllBlocks int           `json:"allBlocks" doc:"how many there are"`
}

// CopiedBlock is a row of words that stands in several answers.
type CopiedBlock struct {
	Text    string `json:"text" doc:"as it is mostly spelled"`
	Row     string `json:"row" doc:"its words as they are read, which name it in a focus"`
	Words   int    `json:"words"`
	Answers int    `json:"answers"`
}

// within says whether it is a piece of a longer one that nearly all its answers hold: nothing worth a line of its own.
func (b CopiedBlock) within(longer CopiedBlock) bool {
	return 3*longer.Answers >= 2*b.Answers && strings.Contains(" "+longer.Row+" ", " "+b.Row+" ")
}

// NearGroup is a group of answers that are nearly alike: its first one, and the one of the others that is least like it.
type NearGroup struct {
	Number  survey.Respondent `json:"number" doc:"of the respondent of the first answer, which names it"`
	Answers int               `json:"answers"`
	First   string            `json:"first"`
	Other   string            `json:"other"`
	Alike   float64           `json:"alike" doc:"of these two, 0 to 1"`
}

// How much is compared and shown of a group.
const (
	maxCompared = 50
	maxLooked   = 2000 // groups
	maxNearText = 600  // runes
)

// NearOf groups the answers that are nearly alike.
func NearOf(ctx context.Context, s *state.State, percent int) (Near, error) {
	found, err := s.NearlyAlike(ctx, percent)
	if err != nil {
		return Near{}, err
	}
	blocks, err := s.Blocks(ctx)
	if err != nil {
		return Near{}, err
	}
	out := Near{Percent: percent, Groups: len(found.Groups), Answers: int(found.All.GetCardinality()), Top: []NearGroup{},
		Blocks: []CopiedBlock{}, AllBlocks: len(blocks)}
	for _, b := range blocks {
		if len(out.Blocks) == maxGroups {
			break
		}
		row := make([]string, len(b.Words))
		for i, w := range b.Words {
			row[i] = s.Reading.Index.Surface(w)
		}
		one := CopiedBlock{
			state.Shortened(s.Reading.Index.Spelled(b.Words), maxNearText), strings.Join(row, " "), len(b.Words), len(b.Answers),
		}
		if !slices.ContainsFunc(out.Blocks, one.within) {
			out.Blocks = append(out.Blocks, one)
		}
	}
	text := func(row uint32) string { return state.Shortened(s.Original(int(row)).Text, maxNearText) }
	for _, g := range found.Groups[:min(len(found.Groups), maxLooked)] {
		if len(out.Top) == maxGroups {
			break
		}
		one := NearGroup{Number: s.Respondent(int(g[0])), Answers: len(g), First: text(g[0]), Alike: 2}
		for _, row := range g[1:min(len(g), maxCompared)] {
			if near := s.Reading.Index.Near(g[0], row); near < one.Alike {
				one.Other, one.Alike = text(row), near
			}
		}
		if one.Alike < 1 { // the others are listed where the words are the same
			out.Top = append(out.Top, one)
		}
	}
	return out, nil
}
