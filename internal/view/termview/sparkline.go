package termview

import (
	"context"
	"fmt"
	"math"
	"time"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/survey"
	"aftermath/internal/desk/state"
)

// Strip is what the small strips beside terms are drawn over: time if the study has dates, else waves, else the order of
// the file.
type Strip struct {
	By      string   `json:"by" doc:"the variable; empty for the order of the file"`
	Buckets []string `json:"buckets" doc:"what each bucket holds, in words"`
	Bases   []int    `json:"bases" doc:"answers of the focus in each"`
}

// buckets is how many a strip has at most.
const buckets = 16

// strip says in which bucket each respondent falls.
type strip struct {
	by    string
	names []string
	of    []uint8 // by respondent; none for those without a value
}

const none = 255

type stripKey struct{}

func (stripKey) Most() int { return 1 }

// stripOf is the strip of a study: a walk through one column, once.
func stripOf(s *state.Study) *strip {
	out, _ := state.Remember(
		context.Background(), s.Memo, stripKey{}, func(context.Context) (*strip, error) { return newStrip(s), nil },
	)
	return out
}

func newStrip(s *state.Study) *strip {
	n := s.Respondents()
	out := &strip{of: make([]uint8, n)}
	var wave *survey.Variable
	for _, v := range s.Variables {
		if v.Role == survey.Date && out.overDates(v) {
			return out
		}
		if v.Role == survey.Wave && wave == nil && len(v.Values) > 1 && len(v.Values) <= buckets {
			wave = v
		}
	}
	for i := range out.of {
		out.of[i] = none
	}
	if wave != nil {
		out.by = wave.Name
		for i, value := range wave.Values {
			out.names = append(out.names, value)
			for it := wave.With(value).Iterator(); it.HasNext(); {
				out.of[it.Next()] = uint8(i)
			}
		}
		return out
	}
	parts := min(buckets, max(n, 1))
	for b := range parts {
		from, to := b*n/parts, (b+1)*n/parts
		out.names = append(out.names, fmt.Sprintf("rows %d to %d", from+1, to))
		for i := from; i < to; i++ {
			out.of[i] = uint8(b)
		}
	}
	return out
}

// overDates parts the time between the first and the last day into equal stretches.
func (s *strip) overDates(v *survey.Variable) bool {
	first, last := math.Inf(1), math.Inf(-1)
	for _, d := range v.Numbers {
		if !math.IsNaN(d) {
			first, last = min(first, math.Floor(d)), max(last, math.Floor(d))
		}
	}
	if last <= first {
		return false
	}
	days := int(last-first) + 1
	parts := min(buckets, days)
	s.by = v.Name
	date := func(day int) string { return time.Unix(0, 0).UTC().AddDate(0, 0, int(first)+day).Format("2 Jan 2006") }
	for b := range parts {
		s.names = append(s.names, date(firstDay(b, days, parts))+" to "+date(firstDay(b+1, days, parts)-1))
	}
	for i, d := range v.Numbers {
		s.of[i] = none
		if !math.IsNaN(d) {
			s.of[i] = uint8((int(math.Floor(d) - first)) * parts / days)
		}
	}
	return true
}

// firstDay is the first of so many days that falls in a bucket.
func firstDay(bucket, days, parts int) int { return (bucket*days + parts - 1) / parts }

// count is how many answers of a set fall in each bucket.
func (s *strip) count(set *roaring.Bitmap) []int {
	out := make([]int, len(s.names))
	for it := set.Iterator(); it.HasNext(); {
		if b := s.of[it.Next()]; b != none {
			out[b]++
		}
	}
	return out
}

// in is the strip with its bases in a focus.
func (s *strip) in(focus *roaring.Bitmap) Strip {
	return Strip{By: s.by, Buckets: s.names, Bases: s.count(focus)}
}
