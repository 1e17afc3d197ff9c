package corpus

import (
	"context"
	"slices"

	"aftermath/core/parallel"
)

// How nearly alike answers are found: by signatures of their shingles (MinHash, Broder 1997), in bands (Leskovec,
// Rajaraman and Ullman, Mining of Massive Datasets, 3.4). Two answers of which 0.8 of the shingles are shared meet in a
// band with a probability of 0.9998.
const (
	shingle    = 3 // words in a row
	bands      = 16
	bandRows   = 4
	mostLeads  = 24 // of one bucket: what is more alike in its words than that is boilerplate, and meets in another
	nearAtOnce = 4096
)

// Near is how nearly alike two answers are: the share of their shingles that both have (Jaccard), 0 to 1; 0 where one is
// too short to have any.
func (ix *Index) Near(a, b uint32) float64 {
	return jaccard(ix.shingles(nil, a), ix.shingles(nil, b))
}

// NearlyAlike groups the answers of which at least a share of the shingles, 0 to 1, is also in the first answer of their
// group, and in that; an answer goes to the first group that it fits. Those with words in the same order are among them.
// The largest group is first. A few that are just as alike as asked may be missed.
func (ix *Index) NearlyAlike(ctx context.Context, least float64, workers int, progress func(done int)) ([][]uint32, error) {
	keys := make([][bands]uint32, ix.Len())
	long := make([]bool, ix.Len())
	chunks := (ix.Len() + nearAtOnce - 1) / nearAtOnce
	err := parallel.Each(ctx, workers, chunks, func() func(int) {
		var room []uint64
		return func(chunk int) {
			for i := chunk * nearAtOnce; i < min((chunk+1)*nearAtOnce, ix.Len()); i++ {
				if room = ix.shingles(room[:0], uint32(i)); len(room) > 0 {
					keys[i], long[i] = bandKeys(room), true
				}
			}
		}
	})
	if err != nil {
		return nil, err
	}
	var buckets [bands]map[uint32][]uint32 // leaders by band key
	for b := range buckets {
		buckets[b] = map[uint32][]uint32{}
	}
	groups := map[uint32][]uint32{}
	var own, other []uint64
	var leaders []uint32
	for i := range uint32(ix.Len()) {
		if i%nearAtOnce == 0 {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if progress != nil {
				progress(int(i))
			}
		}
		if !long[i] {
			continue
		}
		leaders = leaders[:0]
		for b, key := range keys[i] {
			leaders = append(leaders, buckets[b][key]...)
		}
		slices.Sort(leaders)
		own = ix.shingles(own[:0], i)
		joined := false
		for _, l := range slices.Compact(leaders) {
			if other = ix.shingles(other[:0], l); jaccard(own, other) >= least {
				groups[l] = append(groups[l], i)
				joined = true
				break
			}
		}
		if joined {
			continue
		}
		for b, key := range keys[i] {
			if held := buckets[b][key]; len(held) < mostLeads {
				buckets[b][key] = append(held, i)
			}
		}
	}
	return largestFirst(groups), nil
}

// largestFirst makes a list of groups by their first answers.
func largestFirst(groups map[uint32][]uint32) [][]uint32 {
	out := make([][]uint32, 0, len(groups))
	for first, others := range groups {
		out = append(out, append([]uint32{first}, others...))
	}
	slices.SortFunc(out, func(a, b []uint32) int {
		if len(a) != len(b) {
			return len(b) - len(a)
		}
		return int(a[0]) - int(b[0])
	})
	return out
}

// shingles appends the different shingles of an answer, in order of their hashes.
func (ix *Index) shingles(to []uint64, answer uint32) []uint64 {
	words := ix.Answer(int(answer))
	for i := 0; i+shingle <= len(words); i++ {
		to = append(to, rowHash(words[i:i+shingle]))
	}
	slices.Sort(to)
	return slices.Compact(to)
}

// bandKeys are the least hashes of a set of shingles under 64 hash functions, four to a key.
func bandKeys(shingles []uint64) (keys [bands]uint32) {
	for b := range keys {
		key := uint64(b)
		for r := range bandRows {
			seed := mixed(uint64(b*bandRows + r + 1))
			least := ^uint64(0)
			for _, s := range shingles {
				least = min(least, mixed(s^seed))
			}
			key = mixed(key ^ least)
		}
		keys[b] = uint32(key)
	}
	return keys
}

// mixed is the finaliser of SplitMix64 (Steele, Lea and Flood 2014).
func mixed(x uint64) uint64 {
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return x ^ x>>31
}

// jaccard is the share of two ordered sets that both have.
func jaccard(a, b []uint64) float64 {
	if len(a) == 0 || len(b) == 0 {
		return 0
	}
	both := 0
	for i, j := 0, 0; i < len(a) && j < len(b); {
		switch {
		case a[i] < b[j]:
			i++
		case a[i] > b[j]:
			j++
		default:
			both++
			i++
			j++
		}
	}
	return float64(both) / float64(len(a)+len(b)-both)
}
