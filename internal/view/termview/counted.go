package termview

import (
	"context"

	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// countKey names what is counted in a focus: terms, or rows of them.
type countKey struct {
	focus  focus.Key
	row    int  // terms in a row: 1 to 3
	hidden bool // rows that were hidden by themselves
}

// Most: tables of large questions take many megabytes.
func (countKey) Most() int { return 10 }

// Count gives the figures of the terms (or of rows of them) in a focus. They are kept: sorting and paging ask for the same ones.
func Count(ctx context.Context, s *state.State, f focus.Focus, row int, hidden bool) (terms.Table, error) {
	return state.Remember(ctx, s.Memo, countKey{f.Key(), row, hidden}, func(ctx context.Context) (terms.Table, error) {
		set, err := f.Answers(ctx, s)
		if err != nil {
			return terms.Table{}, err
		}
		if row > 1 {
			return s.Counter.CountRows(ctx, set, s.Coding.Coded, row, state.Workers(), hidden)
		}
		return s.Counter.Count(ctx, set, s.Coding.Coded, state.Workers())
	})
}

type distinctKey struct{ focus focus.Key }

func (distinctKey) Most() int { return 10 }

// atOnce is how many answers of a focus distinctiveness is worked out for while the table waits.
const atOnce = 30_000

// distinctIn gives the distinctiveness of terms in a focus. Where that takes long it is worked out in the background, for as long
// as anybody asks, and is nil until then; with wait it is waited for.
func distinctIn(ctx context.Context, s *state.State, f focus.Focus, wait bool) ([]float64, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return nil, err
	}
	work := func(ctx context.Context) ([]float64, error) { return s.Counter.Distinct(ctx, set, state.Workers()) }
	if wait || set.GetCardinality() <= atOnce {
		return state.Remember(ctx, s.Memo, distinctKey{f.Key()}, work)
	}
	if made, ok := state.Known[distinctKey, []float64](s.Memo, distinctKey{f.Key()}); ok {
		return made, nil
	}
	state.Start(s.Memo, distinctKey{f.Key()}, work)
	return nil, nil
}

type wordsKey struct{ focus focus.Key }

func (wordsKey) Most() int { return 10 }

// wordsIn counts every word in a focus.
func wordsIn(ctx context.Context, s *state.State, f focus.Focus) ([]int32, error) {
	return state.Remember(ctx, s.Memo, wordsKey{f.Key()}, func(ctx context.Context) ([]int32, error) {
		set, err := f.Answers(ctx, s)
		if err != nil {
			return nil, err
		}
		return s.Counter.WordCounts(ctx, set, state.Workers())
	})
}
