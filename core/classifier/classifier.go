// Package classifier learns from coded answers which categories other answers are likely to have.
//
// Each category has a logistic regression of its own over the terms of an answer and its rows of two. What rules have coded is
// learned twice: as it stands, and without the terms that these rules look for. An answer that no rule has caught lacks just
// those, so what it is likely to be has to be told from the rest.
//
// Chances are calibrated on answers as new as what is left may be: the regression that scored them had seen neither them nor any
// other answer of their categories. They then take into account how much of what is left belongs to any category at all.
package classifier

import (
	"cmp"
	"context"
	"hash/fnv"
	"slices"
	"sync/atomic"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/parallel"
)

// Category is what there is to learn of a category.
type Category struct {
	ID     string
	Has    *roaring.Bitmap // the answers with it
	ByHand *roaring.Bitmap // those of them that a hand put it on
	Terms  []int32         // those that its rules look for
}

// Learner is what a model is made from.
type Learner struct {
	View       *lexicon.View
	Categories []Category
	Given      *roaring.Bitmap // the answers to learn from, each with all its categories, or none
	Left       *roaring.Bitmap // those that are to be told
	Workers    int
}

const (
	// leastHaving is how many of the given answers have a category that is learned.
	leastHaving = 5
	// mostCategories is how many are learned: those with most answers.
	mostCategories = 300

	folds = 4 // parts of the answers, each scored by what was learned from the others
	// leastParted is how many categories there are, at least, if tests keep them apart.
	leastParted = 2 * folds
	mostLeft    = 20_000 // answers from which is told how many belong to any category
)

// Model tells how likely answers are to have categories. It does not change once made.
type Model struct {
	Tested     Tested
	Categories []string // keys of those that were learned
	Given      int      // answers that it was learned from

	features *features
	biases   []float64
	weights  []float32 // of the first feature for each category, then of the second, and so on
	scales   []scale
}

// lesson is the rows that are learned from.
type lesson struct {
	examples
	answer []uint32
	asLeft []bool // the row of an answer that says what would be known of it if no rule had caught it
	asIs   []bool // the row of an answer that says all of it; the same one where no rule looks for its terms
	fold   []uint8
}

// Learn makes a model. It gives up with an error when ctx ends. The model depends on what is given alone.
func (l Learner) Learn(ctx context.Context, progress func(done, total int)) (*Model, error) {
	learned := l.learned()
	m := &Model{
		Given:  int(l.Given.GetCardinality()),
		biases: make([]float64, len(learned)),
		scales: make([]scale, len(learned)),
	}
	var err error
	if m.features, err = featuresOf(ctx, l.View, l.Given); err != nil {
		return nil, err
	}
	les, err := l.lesson(ctx, m.features)
	if err != nil {
		return nil, err
	}
	m.weights = make([]float32, len(m.features.all)*len(learned))
	tested := make([][]scored, len(learned))
	shares := make([]float64, len(learned))
	asIs := make([]scale, len(learned))
	var done atomic.Int64
	err = parallel.Each(ctx, l.Workers, len(learned), func() func(int) {
		return func(i int) {
			has := les.labels(learned[i])
			tested[i] = l.tested(ctx, les, len(m.features.all), learned[i], has)
			m.scales[i], shares[i] = calibratedOn(tested[i], les.asLeft)
			asIs[i], _ = calibratedOn(tested[i], les.asIs)
			r := regress(&les.examples, len(m.features.all), everyRow(les.len()), has, passes, tolerance)
			m.biases[i] = r.bias
			for f, w := range r.weights {
				m.weights[f*len(learned)+i] = w
			}
			if n := done.Add(1); progress != nil {
				progress(int(n), len(learned))
			}
		}
	})
	if err != nil {
		return nil, err
	}
	for _, c := range learned {
		m.Categories = append(m.Categories, c.ID)
	}
	m.Tested = Tested{les.tell(learned, tested, m.scales, les.asLeft), les.tell(learned, tested, asIs, les.asIs)}
	return m, m.adjust(ctx, l.Left, shares)
}

// learned are the categories with answers enough; of very many, those with most.
func (l Learner) learned() (out []Category) {
	for _, c := range l.Categories {
		if c.Has.AndCardinality(l.Given) >= leastHaving {
			out = append(out, c)
		}
	}
	if len(out) > mostCategories {
		slices.SortStableFunc(out, func(a, b Category) int {
			return cmp.Compare(b.Has.AndCardinality(l.Given), a.Has.AndCardinality(l.Given))
		})
		out = out[:mostCategories]
	}
	return out
}

func everyRow(n int) []int32 {
	out := make([]int32, n)
	for i := range out {
		out[i] = int32(i)
	}
	return out
}

// lesson reads the given answers.
func (l Learner) lesson(ctx context.Context, f *features) (*lesson, error) {
	les := &lesson{}
	lookFor := map[int32][]int{} // categories by the terms that their rules look for
	for c, category := range l.Categories {
		for _, t := range category.Terms {
			lookFor[t] = append(lookFor[t], c)
		}
	}
	var said []Feature
	var row []entry
	for it, n := l.Given.Iterator(), 0; it.HasNext(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		a := it.Next()
		said = saidIn(l.View, a, said)
		caught := func(t int32) bool {
			return slices.ContainsFunc(lookFor[t], func(c int) bool {
				return l.Categories[c].Has.Contains(a) && !l.Categories[c].ByHand.Contains(a)
			})
		}
		fold := foldOf(l.View.Index.Answer(int(a)))
		if slices.ContainsFunc(said, func(x Feature) bool { return x.Second < 0 && caught(x.First) }) {
			if row = f.of(said, caught, row); len(row) > 0 {
				les.add(row, a, true, false, fold)
			}
			row = f.of(said, nil, row)
			les.add(row, a, false, true, fold)
			continue
		}
		row = f.of(said, nil, row)
		les.add(row, a, true, true, fold)
	}
	return les, ctx.Err()
}

func (les *lesson) add(row []entry, answer uint32, asLeft, asIs bool, fold uint8) {
	les.examples.add(row)
	les.answer, les.fold = append(les.answer, answer), append(les.fold, fold)
	les.asLeft, les.asIs = append(les.asLeft, asLeft), append(les.asIs, asIs)
}

func (les *lesson) labels(c Category) []bool {
	has := make([]bool, len(les.answer))
	for i, a := range les.answer {
		has[i] = c.Has.Contains(a)
	}
	return has
}

// foldOf is the part that an answer is in. Those with the same words are in the same one, so that none is told from its twin.
func foldOf(words []uint32) uint8 {
	h := fnv.New32a()
	for _, w := range words {
		_, _ = h.Write([]byte{byte(w), byte(w >> 8), byte(w >> 16), byte(w >> 24)})
	}
	return uint8(h.Sum32() % folds)
}

// tested scores every row by a regression that has seen neither its answer nor, for one without the category, other answers of
// what it has instead: the other categories are parted into folds as a whole. Where there are too few of them to learn from the
// rest, answers are parted each by itself.
func (l Learner) tested(ctx context.Context, les *lesson, features int, c Category, has []bool) (out []scored) {
	fold := slices.Clone(les.fold)
	for i, a := range les.answer {
		if has[i] || len(l.Categories) < leastParted {
			continue
		}
		if other := slices.IndexFunc(l.Categories, func(d Category) bool { return d.ID != c.ID && d.Has.Contains(a) }); other >= 0 {
			fold[i] = uint8(other % folds)
		}
	}
	for part := range uint8(folds) {
		if ctx.Err() != nil {
			return nil
		}
		var seen, unseen []int32
		for i, f := range fold {
			if f == part {
				unseen = append(unseen, int32(i))
			} else {
				seen = append(seen, int32(i))
			}
		}
		r := regress(&les.examples, features, seen, has, passes, tolerance)
		for _, i := range unseen {
			out = append(out, scored{i, has[i], r.score(les.row(i))})
		}
	}
	return out
}

// calibratedOn gives the scale for rows of one kind, and what share of these have the category.
func calibratedOn(tested []scored, counted []bool) (scale, float64) {
	var of []scored
	n := 0
	for _, x := range tested {
		if counted[x.row] {
			of = append(of, x)
			if x.has {
				n++
			}
		}
	}
	return calibrated(of), float64(n) / float64(max(len(of), 1))
}

// adjust has the chances take into account that not all of what is left belongs to a category: so many times fewer as the
// chances as they were expect there. It is one figure for all categories, since for one alone what is left says too little.
func (m *Model) adjust(ctx context.Context, left *roaring.Bitmap, shares []float64) error {
	expected, usual, n := 0.0, 0.0, 0
	b := m.NewReader()
	for it := left.Iterator(); it.HasNext() && n < mostLeft; n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		b.Read(it.Next())
		for i, p := range b.Chances() {
			expected += p
			usual += shares[i]
		}
	}
	if usual > 0 && expected < usual {
		for i := range m.scales {
			m.scales[i] = m.scales[i].among(shares[i], expected/usual)
		}
	}
	return nil
}

// Reader reads answers, one at a time, for one goroutine.
type Reader struct {
	model   *Model
	said    []Feature
	row     []entry
	chances []float64
}

// NewReader makes a reader.
func (m *Model) NewReader() *Reader { return &Reader{model: m} }

// Read reads an answer of the index.
func (r *Reader) Read(answer uint32) {
	ix := r.model.features.view.Index
	r.ReadText(ix.Answer(int(answer)), ix.Sentences(int(answer)))
}

// ReadText reads a text by the words of the index, and the sentence that each is in; NoWord stands for others.
func (r *Reader) ReadText(words []uint32, sentences []uint8) {
	r.said = featuresIn(r.model.features.view, words, sentences, r.said)
	r.row = r.model.features.of(r.said, nil, r.row)
}

// strange says whether what was read last has several terms, and none that is known: in another language, say. One unknown term
// may be a misspelling of what many say; several say nothing.
func (r *Reader) strange() bool {
	const several = 3
	terms := 0
	for _, x := range r.said {
		if x.Second < 0 {
			terms++
		}
	}
	return terms >= several && len(r.row) == 1 && r.row[0].feature == unknown
}

// Chances gives how likely what was read last is to have each of the model's categories, 0 to 1, if no rule has caught it; 0 where
// nothing that it says is known. What it gives holds until it is called again.
func (r *Reader) Chances() []float64 {
	r.chances = r.chances[:0]
	m := r.model
	if r.strange() {
		return append(r.chances, make([]float64, len(m.scales))...)
	}
	r.chances = append(r.chances, m.biases...)
	for _, x := range r.row {
		for i, w := range m.weights[int(x.feature)*len(m.scales):][:len(m.scales)] {
			r.chances[i] += float64(w) * float64(x.value)
		}
	}
	for i, score := range r.chances {
		r.chances[i] = m.scales[i].chance(score)
	}
	return r.chances
}

// Word is what a term or two in a row say about a category.
type Word struct {
	Feature
	Weight float64 // added to the log odds of the category
}

// Words gives what in what was read last speaks for a category of the model and against it, the strongest first.
func (r *Reader) Words(category int) (out []Word) {
	m := r.model
	for _, f := range r.row {
		w := m.scales[category].slope * float64(m.weights[int(f.feature)*len(m.scales)+category]) * float64(f.value)
		if w != 0 && f.feature != unknown {
			out = append(out, Word{m.features.all[f.feature], w})
		}
	}
	slices.SortStableFunc(out, func(a, b Word) int { return cmp.Compare(max(b.Weight, -b.Weight), max(a.Weight, -a.Weight)) })
	return out
}
