package state

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"sync/atomic"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
	"aftermath/core/text"
	"aftermath/internal/desk/cells"
)

// Personal is the personal data in the answers.
type Personal struct {
	Of    []*roaring.Bitmap // by kind: the answers that hold it
	Texts [][]PersonalText  // by kind: what it is, the most frequent first
}

// PersonalText is a text that is personal data.
type PersonalText struct {
	Text    string `json:"text"`
	Answers int    `json:"answers"`
}

type personalKey struct{}

func (personalKey) Most() int { return 1 }

// maxPersonal is how many different texts of a kind are told apart.
const maxPersonal = 20_000

// Personal looks through all answers as they came for personal data, once per reading. The texts are for those alone who may see
// them.
func (s *State) Personal(ctx context.Context) (Personal, error) {
	return Remember(ctx, s.Text, personalKey{}, func(ctx context.Context) (Personal, error) {
		const chunk = 2000
		type part struct {
			of    [][]uint32
			texts []map[string]int
		}
		kinds := len(text.PersonalKinds)
		came := s.Study.Cells.AsCame(s.Column, cells.ToList)
		parts := make([]part, (len(came)+chunk-1)/chunk)
		progress, done := s.Progress("looking for personal data"), atomic.Int64{}
		err := parallel.Each(ctx, Workers(), len(parts), func() func(int) {
			return func(i int) {
				p := part{of: make([][]uint32, kinds), texts: make([]map[string]int, kinds)}
				last := min((i+1)*chunk, len(came))
				for row := i * chunk; row < last; row++ {
					for _, found := range s.Reading.Masker.Find(came[row]) {
						k := found.Kind
						p.of[k] = append(p.of[k], uint32(row))
						if p.texts[k] == nil {
							p.texts[k] = map[string]int{}
						}
						p.texts[k][strings.Clone(came[row][found.Start:found.End])]++
					}
				}
				parts[i] = p
				if n := done.Add(int64(last - i*chunk)); progress != nil {
					progress(int(n))
				}
			}
		})
		if err != nil {
			return Personal{}, err
		}
		out := Personal{Texts: make([][]PersonalText, kinds)}
		for k := range kinds {
			set, texts := roaring.New(), map[string]int{}
			for _, p := range parts {
				set.AddMany(p.of[k])
				for t, n := range p.texts[k] {
					if _, known := texts[t]; known || len(texts) < maxPersonal {
						texts[t] += n
					}
				}
			}
			out.Of = append(out.Of, set)
			for t, n := range texts {
				out.Texts[k] = append(out.Texts[k], PersonalText{t, n})
			}
			slices.SortFunc(out.Texts[k], func(a, b PersonalText) int {
				return cmp.Or(b.Answers-a.Answers, strings.Compare(a.Text, b.Text))
			})
		}
		return out, nil
	})
}
