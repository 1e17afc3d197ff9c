package desk

import (
	"fmt"
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/terms"
)

// countedCache keeps the counts of recent focuses of one state: sorting and paging ask for the same ones.
type countedCache struct {
	mu     sync.Mutex
	state  *State
	tables map[string]*countedOnce
}

type countedOnce struct {
	once  sync.Once
	table terms.Table

	distinctOnce sync.Once
	distinct     atomic.Pointer[[]float64]
}

// entry is what is known under a key of the state.
func (c *countedCache) entry(s *State, key string) *countedOnce {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.state != s || len(c.tables) >= 8 {
		c.state, c.tables = s, map[string]*countedOnce{}
	}
	if c.tables[key] == nil {
		c.tables[key] = &countedOnce{}
	}
	return c.tables[key]
}

// counted counts the terms of a set, or takes what is known. Key names the set and what is counted.
func (q *Question) counted(s *State, key string, count func() terms.Table) terms.Table {
	e := q.tables.entry(s, key)
	e.once.Do(func() { e.table = count() })
	return e.table
}

// atOnce is how many answers of a focus distinctiveness is worked out for while the table waits.
const atOnce = 30_000

// distinct gives the distinctiveness of terms in a focus. It is worked out in the background where that takes long, and is
// nil until then; with wait it is waited for.
func (q *Question) distinct(s *State, f Focus, set *roaring.Bitmap, wait bool) []float64 {
	e := q.tables.entry(s, countKey(1, false, f))
	work := func() {
		e.distinctOnce.Do(func() {
			made := s.Counter.Distinct(set, workers())
			e.distinct.Store(&made)
		})
	}
	if wait || set.GetCardinality() <= atOnce {
		work()
	} else if e.distinct.Load() == nil {
		// Not at the same time as what is waited for, nor for what has passed by then.
		time.AfterFunc(150*time.Millisecond, func() {
			if q.State() == s {
				work()
			}
		})
	}
	if made := e.distinct.Load(); made != nil {
		return *made
	}
	return nil
}

func countKey(row int, hidden bool, f Focus) string { return fmt.Sprint(row, hidden, f) }

// workers is how many goroutines share a count.
func workers() int { return runtime.GOMAXPROCS(0) }

// count gives the figures of the terms (or of rows of them) in a focus.
func (q *Question) count(s *State, f Focus, row int, hidden bool) (terms.Table, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return terms.Table{}, err
	}
	return q.counted(s, countKey(row, hidden, f), func() terms.Table {
		if row > 1 {
			return s.Counter.CountRows(set, s.Coding.Coded, row, workers(), hidden)
		}
		return s.Counter.Count(set, s.Coding.Coded, workers())
	}), nil
}
