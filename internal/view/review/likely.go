package review

import (
	"cmp"
	"context"
	"slices"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/classifier"
	"aftermath/core/frame"
	"aftermath/core/parallel"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// mostGiven is how many answers are learned from; those decided on by hand come first, the others are drawn at random.
const mostGiven = 12_000

// learned is what was learned of one coding, with what each answer is likely to have.
type learned struct {
	model    *classifier.Model
	of       *frame.Coding
	revision int
	best     []guess // by row; of answers that say something
}

// guess is the likeliest category of an answer: the place of it in the model, and its chance.
type guess struct {
	category int32
	chance   float32
}

type learnedKey struct{}

func (learnedKey) Most() int { return 1 }

// teacher keeps what was learned last of one reading and lexicon, so that there is something to go by while the next is learned.
type teacher struct {
	mu     sync.Mutex
	latest *learned
}

type teacherKey struct{}

func (teacherKey) Most() int { return 1 }

func teacherOf(s *state.State) *teacher {
	out, _ := state.Remember(
		context.Background(), s.Terms, teacherKey{}, func(context.Context) (*teacher, error) { return &teacher{}, nil },
	)
	return out
}

// learnedOf gives what was learned of the coding of a state. While that is being learned it gives what was learned of an earlier
// one, and says so; where there is none, it waits, and the learning ends with those who wait for it.
func learnedOf(ctx context.Context, s *state.State) (*learned, error) {
	t := teacherOf(s)
	if t.known() != nil {
		return learnedSoFar(s), nil
	}
	return state.Remember(ctx, s.Memo, learnedKey{}, t.lesson(s))
}

// learnedSoFar is the same without waiting: nothing where nothing was learned yet. It has the coding of the state learned.
func learnedSoFar(s *state.State) *learned {
	if l, ok := state.Known[learnedKey, *learned](s.Memo, learnedKey{}); ok {
		return l
	}
	t := teacherOf(s)
	state.Start(s.Memo, learnedKey{}, t.lesson(s))
	return t.known()
}

// known is what was learned last.
func (t *teacher) known() *learned {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.latest
}

// lesson learns a coding, and keeps it as the latest.
func (t *teacher) lesson(s *state.State) func(ctx context.Context) (*learned, error) {
	return func(ctx context.Context) (*learned, error) {
		l, err := learn(ctx, s)
		if err == nil {
			t.mu.Lock()
			defer t.mu.Unlock()
			if t.latest == nil || t.latest.revision <= l.revision {
				t.latest = l
			}
		}
		return l, err
	}
}

// learn learns from what is coded or settled.
func learn(ctx context.Context, s *state.State) (*learned, error) {
	answered := s.Reading.Index.Answered()
	given := roaring.And(roaring.Or(s.Coding.Coded, s.Decisions.Settled), answered)
	for _, suggested := range s.Decisions.Suggested { // nothing is learned from what was learned
		given.AndNot(suggested)
	}
	left := roaring.AndNot(roaring.AndNot(answered, s.Coding.Coded), s.Decisions.Settled)
	if given.GetCardinality() > mostGiven {
		byHand := roaring.And(s.Study.Rows.Of(s.Scheme.Decisions.Decided()), given)
		others := s.Drawn(roaring.AndNot(given, byHand), mostGiven, 1)
		given = s.Drawn(byHand, mostGiven, 1)
		given.Or(s.Drawn(others, mostGiven-int(given.GetCardinality()), 1))
	}
	l := classifier.Learner{View: s.View, Given: given, Left: left, Workers: max(1, state.Workers()/2)}
	for _, r := range s.Coding.Results {
		if len(r.Children) > 0 || r.Off {
			continue
		}
		c := classifier.Category{ID: r.ID, Has: r.Answers, ByHand: roaring.New()}
		if on := s.Decisions.On[r.ID]; on != nil {
			c.ByHand = on
		}
		s.Coding.TermsOf(r, func(t int) { c.Terms = append(c.Terms, int32(t)) })
		slices.Sort(c.Terms)
		c.Terms = slices.Compact(c.Terms)
		l.Categories = append(l.Categories, c)
	}
	var progress func(done, total int)
	if tell := s.Progress("learning from coded answers"); tell != nil {
		progress = func(done, total int) { tell(done * len(s.Answers) / max(total, 1)) }
	}
	m, err := l.Learn(ctx, progress)
	if err != nil {
		return nil, err
	}
	out := &learned{model: m, of: s.Coding, revision: s.Revision, best: make([]guess, len(s.Answers))}
	return out, out.score(ctx, answered, l.Workers)
}

// score finds the likeliest category of every answer.
func (l *learned) score(ctx context.Context, answered *roaring.Bitmap, workers int) error {
	const chunk = 4096
	return parallel.Each(ctx, workers, (len(l.best)+chunk-1)/chunk, func() func(int) {
		r := l.model.NewReader()
		return func(i int) {
			for row := i * chunk; row < min((i+1)*chunk, len(l.best)); row++ {
				if !answered.Contains(uint32(row)) {
					continue
				}
				r.Read(uint32(row))
				for c, p := range r.Chances() {
					if float32(p) > l.best[row].chance {
						l.best[row] = guess{int32(c), float32(p)}
					}
				}
			}
		}
	})
}

// Likely is a category that an answer is likely to have.
type Likely struct {
	ID      string   `json:"id"`
	Name    string   `json:"name" doc:"its path"`
	Short   string   `json:"short"`
	Top     int      `json:"top" doc:"place of its top category in the frame, from 0: its colour"`
	Chance  float64  `json:"chance" doc:"0 to 1, calibrated"`
	For     []string `json:"for" doc:"what in the answer speaks for it most, at most 4"`
	Against []string `json:"against" doc:"what speaks against it"`
}

const (
	mostLikely  = 3
	mostWords   = 4
	leastChance = 0.1
	leastWeight = 0.05
)

// likelyIn gives the likeliest categories of what a reader has read, those aside that it has.
func (l *learned) likelyIn(s *state.State, r *classifier.Reader, has func(*frame.Result) bool) []Likely {
	out := []Likely{}
	chances := slices.Clone(r.Chances())
	order := make([]int, len(chances))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(chances[b], chances[a]) })
	for _, i := range order {
		if len(out) == mostLikely || chances[i] < leastChance {
			break
		}
		c, ok := s.Coding.Of(l.model.Categories[i])
		if !ok || has(c) { // gone since it was learned, or there already
			continue
		}
		x := Likely{
			ID: c.ID, Name: c.PathName(), Short: c.Short, Top: c.Top, Chance: chances[i], For: []string{}, Against: []string{},
		}
		for _, w := range r.Words(i) {
			switch {
			case s.View.Terms[w.First].Stop && (w.Second < 0 || s.View.Terms[w.Second].Stop): // says little to people
			case w.Weight >= leastWeight && len(x.For) < mostWords:
				x.For = append(x.For, l.label(s, w.Feature))
			case w.Weight <= -leastWeight && len(x.Against) < mostWords:
				x.Against = append(x.Against, l.label(s, w.Feature))
			}
		}
		out = append(out, x)
	}
	return out
}

func (l *learned) label(s *state.State, f classifier.Feature) string {
	label := s.View.Terms[f.First].Label
	if f.Second >= 0 {
		label += " " + s.View.Terms[f.Second].Label
	}
	return label
}

// each visits the categories that answers are likely to have with at least a chance.
func (l *learned) each(
	ctx context.Context, s *state.State, set *roaring.Bitmap, least float64, visit func(row uint32, c *frame.Result, chance float64),
) error {
	r := l.model.NewReader()
	for it, n := set.Iterator(), 0; it.HasNext(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		row := it.Next()
		if float64(l.best[row].chance) < least-0.001 { // kept with less precision
			continue
		}
		r.Read(row)
		for i, p := range r.Chances() {
			if c, ok := s.Coding.Of(l.model.Categories[i]); p >= least && ok && !c.Answers.Contains(row) {
				visit(row, c, p)
			}
		}
	}
	return ctx.Err()
}

// Suggester is how well likely categories are told.
type Suggester struct {
	Learned
	Categories int               `json:"categories" doc:"that were learned"`
	Unlearned  []string          `json:"unlearned" doc:"paths of those with too few answers, or beyond the most that are learned; at most 100"`
	Names      map[string]string `json:"names" doc:"paths of the categories by their keys"`
	Tested     classifier.Tested `json:"tested"`
	Thresholds []Threshold       `json:"thresholds"`
}

// Learned says what likely categories go by.
type Learned struct {
	Revision int  `json:"revision" doc:"the coding that was learned from"`
	Current  bool `json:"current" doc:"that is the coding as it is; if not, it is being learned"`
	Given    int  `json:"given" doc:"answers that were learned from"`
}

func (l *learned) info(s *state.State) Learned {
	return Learned{l.revision, l.of == s.Coding, l.model.Given}
}

// Threshold is what is so if each likely category with at least a chance is put on what is left of the focus.
type Threshold struct {
	Least   float64 `json:"least"`
	Answers int     `json:"answers"`
	Pairs   int     `json:"pairs" doc:"of answer and category"`
	Wrong   float64 `json:"wrong" doc:"how many of these are wrong by their chances"`
}

var thresholds = []float64{0.99, 0.95, 0.9, 0.8, 0.7, 0.6, 0.5}

// SuggesterOf learns from the coding, if nobody has, and says how well that goes.
func SuggesterOf(ctx context.Context, s *state.State, f focus.Focus) (Suggester, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Suggester{}, err
	}
	l, err := learnedOf(ctx, s)
	if err != nil {
		return Suggester{}, err
	}
	out := Suggester{
		Learned: l.info(s), Categories: len(l.model.Categories), Tested: l.model.Tested, Unlearned: []string{}, Names: map[string]string{},
	}
	for _, r := range s.Coding.Results {
		if len(r.Children) > 0 {
			continue
		}
		out.Names[r.ID] = r.PathName()
		if !slices.Contains(l.model.Categories, r.ID) && len(out.Unlearned) < mostUnlearned {
			out.Unlearned = append(out.Unlearned, r.PathName())
		}
	}
	last := make([]uint32, len(thresholds)) // the last answer counted, plus one
	for _, least := range thresholds {
		out.Thresholds = append(out.Thresholds, Threshold{Least: least})
	}
	err = l.each(ctx, s, leftOf(s, set), thresholds[len(thresholds)-1], func(row uint32, _ *frame.Result, chance float64) {
		for i := range out.Thresholds {
			if t := &out.Thresholds[i]; chance >= t.Least {
				t.Pairs++
				t.Wrong += 1 - chance
				if last[i] != row+1 {
					last[i] = row + 1
					t.Answers++
				}
			}
		}
	})
	return out, err
}

const mostUnlearned = 100

// leftOf is what of a set has no category and is not settled.
func leftOf(s *state.State, set *roaring.Bitmap) *roaring.Bitmap {
	out := roaring.AndNot(set, s.Coding.Coded)
	out.AndNot(s.Decisions.Settled)
	return out
}

// Sure is what is left of a focus that is likely to have categories.
type Sure struct {
	Learned
	Answers    int            `json:"answers" doc:"left answers that are listed"`
	Wrong      float64        `json:"wrong" doc:"how many of the pairs of answer and category are wrong by their chances"`
	More       int            `json:"more" doc:"pairs beyond the most that are listed"`
	Categories []SureCategory `json:"categories" doc:"in the order of the frame"`
}

// SureCategory is the answers that are likely to have a category.
type SureCategory struct {
	ID      string              `json:"id"`
	Name    string              `json:"name" doc:"its path"`
	Answers []survey.Respondent `json:"answers" doc:"the surest first"`
	Least   float64             `json:"least" doc:"the smallest chance among them"`
	Wrong   float64             `json:"wrong" doc:"how many of them are wrong by their chances"`
}

// mostSure is how many pairs of answer and category are put on in one edit.
const mostSure = 50_000

// SureOf lists what is left of a focus with the categories that it has with at least a chance.
func SureOf(ctx context.Context, s *state.State, f focus.Focus, least float64) (Sure, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Sure{}, err
	}
	l, err := learnedOf(ctx, s)
	if err != nil {
		return Sure{}, err
	}
	type pair struct {
		row    uint32
		c      *frame.Result
		chance float64
	}
	var pairs []pair
	err = l.each(ctx, s, leftOf(s, set), least, func(row uint32, c *frame.Result, chance float64) {
		pairs = append(pairs, pair{row, c, chance})
	})
	if err != nil {
		return Sure{}, err
	}
	slices.SortStableFunc(pairs, func(a, b pair) int { return cmp.Compare(b.chance, a.chance) })
	out := Sure{Learned: l.info(s), More: max(0, len(pairs)-mostSure), Categories: []SureCategory{}}
	pairs = pairs[:min(len(pairs), mostSure)]
	of, rows := map[*frame.Result]*SureCategory{}, roaring.New()
	for _, p := range pairs {
		c := of[p.c]
		if c == nil {
			c = &SureCategory{ID: p.c.ID, Name: p.c.PathName()}
			of[p.c] = c
		}
		c.Answers = append(c.Answers, s.Respondent(int(p.row)))
		c.Least, c.Wrong = p.chance, c.Wrong+1-p.chance
		out.Wrong += 1 - p.chance
		rows.Add(p.row)
	}
	out.Answers = int(rows.GetCardinality())
	for _, r := range s.Coding.Results {
		if c := of[r]; c != nil {
			out.Categories = append(out.Categories, *c)
		}
	}
	return out, nil
}
