package termview

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/corpus"
	"aftermath/core/lexicon"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Values are the amounts, times and the like that the answers of a focus hold, by the built-in list that finds them.
type Values struct {
	Base  int         `json:"base" doc:"answers in the focus"`
	Words bool        `json:"words" doc:"words of values are known in the language; else only numbers and signs"`
	Lists []ValueList `json:"lists"`
}

// ValueList is a built-in list with what it finds.
type ValueList struct {
	Name    string   `json:"name" doc:"without its @"`
	Answers int      `json:"answers"`
	Share   float64  `json:"share" doc:"of the answers in the focus, 0 to 1"`
	Times   int      `json:"times" doc:"occurrences"`
	Uncoded int      `json:"uncoded" doc:"answers with it that no category has"`
	Values  []Member `json:"values" doc:"as they are read, the most frequent first; at most 200"`
	More    int      `json:"more" doc:"values not listed"`
}

const mostValues = 200

// ValuesOf lists the values in a focus.
func ValuesOf(ctx context.Context, s *state.State, f focus.Focus) (Values, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Values{}, err
	}
	out := Values{Base: int(set.GetCardinality()), Words: s.Scheme.Language == "en", Lists: []ValueList{}}
	for _, name := range lexicon.Values {
		ps, ok := s.View.BuiltIn(name)
		if !ok {
			continue // a list of that name was made
		}
		list, err := valueList(ctx, s, set, ps)
		if err != nil {
			return out, err
		}
		list.Name, list.Share = name, view.Share(list.Answers, out.Base)
		out.Lists = append(out.Lists, list)
	}
	return out, nil
}

func valueList(ctx context.Context, s *state.State, set *roaring.Bitmap, ps lexicon.Phrases) (ValueList, error) {
	out := ValueList{Values: []Member{}}
	ix := s.View.Index
	within, err := ps.Within(ctx, ix, ix.Dense(set))
	if err != nil {
		return out, err
	}
	found := corpus.Sparse(within)
	times := map[string]int{}
	n := 0
	for it := found.Iterator(); it.HasNext(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return out, ctx.Err()
		}
		a := int(it.Next())
		words := ix.Answer(a)
		ps.Each(words, ix.Sentences(a), func(start, length int) {
			out.Times++
			times[ix.Spelled(words[start:start+length])]++
		})
	}
	out.Answers, out.Uncoded = int(found.GetCardinality()), view.CountWithout(found, s.Coding.Coded)
	all := lexicon.MembersOf(times)
	out.More = max(0, len(all)-mostValues)
	for _, m := range all[:len(all)-out.More] {
		out.Values = append(out.Values, Member{m.Text, m.Times})
	}
	return out, nil
}

// classed leaves of rows those with a term of a word class.
func classed(s *state.State, rows []terms.Row, class string) []terms.Row {
	if class == "" || class == AnyClass {
		return rows
	}
	is := ofClass(s, class)
	return slices.DeleteFunc(rows, func(r terms.Row) bool { return !is(r.Terms[0]) })
}
