package review

import (
	"cmp"
	"context"
	"math"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/answers"
)

// Left is what has no category and is not settled.
var Left = focus.Focus{focus.Not(focus.Coded{}), focus.Not(focus.Settled{})}

// Order is a way through the answers of a focus.
type Order string

// Orders.
const (
	OfFile   Order = "file"
	Surest   Order = "likely"   // what has one clear likely category first
	Doubtful Order = "doubtful" // what is as likely to have its likeliest category as not first
	Longest  Order = "longest"
	Newest   Order = "newest"
	Random   Order = "random"
)

// learns says whether the order depends on what was learned.
func (o Order) learns() bool { return o == Surest || o == Doubtful }

// QueueQuery asks for a part of a queue.
type QueueQuery struct {
	Order  Order
	From   *survey.Respondent // the part begins with that answer, or where it would stand; nil for the beginning
	Offset int                // that many answers later; may be negative
	Limit  int
	Likely bool // with the likely categories of each answer, in other orders too, once something was learned
}

// Queue is a part of a queue.
type Queue struct {
	Total   int      `json:"total"`
	Offset  int      `json:"offset" doc:"place of the first one listed"`
	Answers []Queued `json:"answers"`
	Learned *Learned `json:"learned,omitempty" doc:"what the likely categories go by"`
}

// Queued is an answer of a queue.
type Queued struct {
	answers.Answer
	Likely []Likely `json:"likely" doc:"the likeliest first"`
	Taken  []Taken  `json:"taken" doc:"categories that were taken off it by hand"`
	Terms  []string `json:"terms" doc:"its terms, stop words aside, in their order; at most 60"`
}

// Taken is a category that was taken off an answer by hand.
type Taken struct {
	ID    string `json:"id"`
	Name  string `json:"name" doc:"its path"`
	Short string `json:"short"`
	Top   int    `json:"top" doc:"place of its top category in the frame, from 0: its colour"`
	Rules bool   `json:"rules" doc:"its rules would give it"`
	scheme.Origin
}

const mostTerms = 60

// queued is the answer in a row as a queue has it.
func queued(s *state.State, m focus.Marker, row uint32, l *learned) Queued {
	out := Queued{Answer: answers.One(s, m, int(row)), Likely: []Likely{}, Taken: []Taken{}, Terms: []string{}}
	if l != nil {
		r := l.model.NewReader()
		r.Read(row)
		out.Likely = l.likelyIn(s, r, func(c *frame.Result) bool { return c.Answers.Contains(row) })
	}
	for _, c := range s.Coding.Results {
		if off := s.Decisions.Off[c.ID]; off != nil && off.Contains(row) {
			out.Taken = append(out.Taken, Taken{
				c.ID, c.PathName(), c.Short, c.Top, c.ByRules.Contains(row), s.Scheme.Decisions.Origin(out.Number, c.ID),
			})
		}
	}
	for _, w := range s.Reading.Index.Answer(int(row)) {
		t := s.View.Terms[s.View.TermOf(w)]
		if !t.Stop && len(out.Terms) < mostTerms && !slices.Contains(out.Terms, t.Label) {
			out.Terms = append(out.Terms, t.Label)
		}
	}
	return out
}

// orderKey names the answers of a focus in an order.
type orderKey struct {
	focus focus.Key
	order Order
	of    *learned // that the order goes by; nil for others
}

func (orderKey) Most() int { return 8 }

// QueueOf gives a part of a focus in an order. Each answer of the focus is in its queue once.
func QueueOf(ctx context.Context, s *state.State, f focus.Focus, q QueueQuery) (Queue, error) {
	var l *learned
	var err error
	switch {
	case q.Order.learns():
		if l, err = learnedOf(ctx, s); err != nil {
			return Queue{}, err
		}
	case q.Likely:
		l = learnedSoFar(s)
	}
	key := orderKey{focus: f.Key(), order: q.Order}
	if q.Order.learns() {
		key.of = l
	}
	number := ranking(s, q.Order, l)
	rows, err := state.Remember(ctx, s.Memo, key, func(ctx context.Context) ([]uint32, error) {
		set, err := f.Answers(ctx, s)
		if err != nil {
			return nil, err
		}
		return ordered(set, number), ctx.Err()
	})
	if err != nil {
		return Queue{}, err
	}
	offset := q.Offset
	if q.From != nil {
		offset += placeIn(s, rows, number, *q.From)
	}
	out := Queue{Total: len(rows), Offset: max(offset, 0), Answers: []Queued{}}
	m := f.Marker(s)
	end := max(out.Offset, min(offset+q.Limit, len(rows))) // of a part that begins before the first, what there is
	for _, row := range rows[min(out.Offset, len(rows)):min(end, len(rows))] {
		out.Answers = append(out.Answers, queued(s, m, row, l))
	}
	if l != nil {
		info := l.info(s)
		out.Learned = &info
	}
	return out, ctx.Err()
}

// place is where an answer stands in an order: by the number, then by its row.
type place struct {
	number float64
	row    uint32
}

func comparePlaces(a, b place) int {
	return cmp.Or(cmp.Compare(a.number, b.number), cmp.Compare(a.row, b.row))
}

// ranking gives the number of each row in an order, the first one lowest.
func ranking(s *state.State, o Order, l *learned) func(row uint32) float64 {
	switch o {
	case Surest:
		return func(row uint32) float64 { return -float64(l.best[row].chance) }
	case Doubtful:
		return func(row uint32) float64 { return math.Abs(float64(l.best[row].chance) - 0.5) }
	case Longest:
		return func(row uint32) float64 { return -float64(len(s.Reading.Index.Answer(int(row)))) }
	case Newest:
		return func(row uint32) float64 { return -float64(row) }
	case Random:
		return func(row uint32) float64 { return float64(frame.Lot(uint32(s.Respondent(int(row))), 1)) }
	}
	return func(uint32) float64 { return 0 }
}

// ordered puts the rows of a set in an order.
func ordered(set *roaring.Bitmap, number func(row uint32) float64) []uint32 {
	places := make([]place, 0, set.GetCardinality())
	for it := set.Iterator(); it.HasNext(); {
		row := it.Next()
		places = append(places, place{number(row), row})
	}
	slices.SortFunc(places, comparePlaces)
	out := make([]uint32, len(places))
	for i, p := range places {
		out[i] = p.row
	}
	return out
}

// placeIn is the place in a list of the answer of a respondent, or where it would stand.
func placeIn(s *state.State, rows []uint32, number func(row uint32) float64, of survey.Respondent) int {
	row, there := s.Study.Rows.Row(of)
	if !there {
		return 0
	}
	at := place{number(uint32(row)), uint32(row)}
	i, _ := slices.BinarySearchFunc(rows, at, func(x uint32, p place) int { return comparePlaces(place{number(x), x}, p) })
	return i
}
