package classifier

import (
	"context"
	"math"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/lexicon"
	"aftermath/core/lexicon/lexicontest"
)

// descended is the lowest point of the objective, found slowly: small steps down its slope until it is flat.
func descended(x *examples, features int, rows []int32, has []bool) (weights []float64, bias float64) {
	weights = make([]float64, features)
	for range 20_000 {
		slope, steepest := append([]float64{}, weights...), 0.0
		slopeBias := bias
		for _, i := range rows {
			score := bias
			for _, f := range x.row(i) {
				score += weights[f.feature] * float64(f.value)
			}
			d := 1 / (1 + math.Exp(-score))
			if has[i] {
				d--
			}
			for _, f := range x.row(i) {
				slope[f.feature] += strength * d * float64(f.value)
			}
			slopeBias += strength * d
		}
		step := 1 / (1 + strength*float64(len(rows))/2)
		for f := range weights {
			weights[f] -= step * slope[f]
			steepest = max(steepest, math.Abs(slope[f]))
		}
		bias -= step * slopeBias
		if max(steepest, math.Abs(slopeBias)) < 1e-7 {
			break
		}
	}
	return weights, bias
}

func TestRegressionIsTheLowestPoint(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		const features = 5
		x := &examples{}
		var has []bool
		for range rapid.IntRange(1, 12).Draw(rt, "rows") {
			var row []entry
			sum := 0.0
			for f := range int32(features) {
				if rapid.Bool().Draw(rt, "feature") {
					v := rapid.Float32Range(0.1, 3).Draw(rt, "value")
					row, sum = append(row, entry{f, v}), sum+float64(v)*float64(v)
				}
			}
			for i := range row {
				row[i].value /= float32(math.Sqrt(sum))
			}
			x.add(row)
			has = append(has, rapid.Bool().Draw(rt, "has"))
		}
		rows := everyRow(x.len())
		want, bias := descended(x, features, rows, has)
		got := regress(x, features, rows, has, 2000, 1e-9)
		for f := range want {
			require.InDelta(rt, want[f], got.weights[f], 1e-3, "weight %d", f)
		}
		require.InDelta(rt, bias, got.bias, 1e-3)
		require.InDelta(rt, got.score(x.row(0)), regress(x, features, rows, has, passes, tolerance).score(x.row(0)), 0.3, "found soon enough")
	})
}

// Chances that are made of scores add up to what was seen.
func TestCalibratedScores(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var of []scored
		for range rapid.IntRange(20, 80).Draw(rt, "rows") {
			of = append(of, scored{has: rapid.Bool().Draw(rt, "has"), score: rapid.Float64Range(-4, 4).Draw(rt, "score")})
		}
		s := calibrated(of)
		if s.slope == 0 {
			return // scores that say nothing
		}
		expected, seen := pull*s.offset, 0.0
		for _, x := range of {
			expected += s.chance(x.score)
			if x.has {
				seen++
			}
		}
		require.InDelta(rt, seen, expected, 1e-6)
		// Among answers of which as many have it, nothing changes; of half as many, the odds are about half at small shares.
		share := rapid.Float64Range(0.01, 0.9).Draw(rt, "share")
		same, half := s.among(share, 1), s.among(share, 0.5)
		require.InDelta(rt, s.offset, same.offset, 1e-9)
		p, q := s.chance(1), half.chance(1)
		require.InDelta(rt, p/(1-p)*(share/2/(1-share/2))/(share/(1-share)), q/(1-q), 1e-6*math.Exp(math.Abs(s.slope)+math.Abs(s.offset))+1e-9)
	})
}

var said = map[string][]string{
	"toilet": {"toilet filthy", "toilet smelly and filthy", "the toilet was smelly", "filthy toilet floor", "toilet out of soap", "soap gone in the toilet"},
	"queue":  {"queue forever", "long queue at the gate", "queue at the quay for ages", "stood in a queue for ages", "slow gate and queue", "the gate had a long queue"},
	"coffee": {"coffee cold", "weak cold coffee", "coffee tasted burnt", "burnt coffee", "coffee weak and dear", "dear coffee"},
}

func learner(t *testing.T, workers int, more ...string) (Learner, []string) {
	var answers []string
	l := Learner{Given: roaring.New(), Left: roaring.New(), Workers: workers}
	for _, name := range []string{"toilet", "queue", "coffee"} {
		c := Category{ID: name, Has: roaring.New(), ByHand: roaring.New()}
		for _, s := range said[name] {
			for _, end := range []string{"", " again", " this time"} {
				c.Has.Add(uint32(len(answers)))
				answers = append(answers, s+end)
			}
		}
		l.Given.Or(c.Has)
		l.Categories = append(l.Categories, c)
	}
	for _, a := range more {
		l.Left.Add(uint32(len(answers)))
		answers = append(answers, a)
	}
	l.View = lexicontest.View(t, "en", lexicon.Lexicon{Inflections: true}, answers...)
	for i := range l.Categories {
		term, _ := l.View.Find(l.Categories[i].ID)
		l.Categories[i].Terms = []int32{int32(term)}
	}
	return l, answers
}

// What rules look for is not needed to tell a category: what else was said with it does.
func TestLikelyWithoutTheWordsOfTheRules(t *testing.T) {
	l, answers := learner(t, 2, "filthy and smelly, no soap", "ages at the gate", "burnt and weak", "nothing to say")
	m, err := l.Learn(t.Context(), nil)
	require.NoError(t, err)
	r := m.NewReader()
	first := uint32(len(answers) - 4)
	for i, name := range m.Categories {
		r.Read(first + uint32(i))
		chances := r.Chances()
		for j := range chances {
			if i != j {
				assert.Greater(t, chances[i], chances[j], "%s for %q", name, answers[first+uint32(i)])
			}
		}
		words := r.Words(i)
		require.NotEmpty(t, words)
		assert.Positive(t, words[0].Weight)
	}
	r.ReadText([]uint32{NoWord, NoWord, NoWord}, make([]uint8, 3))
	assert.Equal(t, []float64{0, 0, 0}, r.Chances(), "another language")
	filthy, _ := l.View.Find("filthy")
	r.Read(first)
	assert.Contains(t, []int32{int32(filthy), words(t, l, "smelly"), words(t, l, "soap")}, r.Words(0)[0].First)

	assert.Equal(t, len(answers)-4, m.Tested.AsIs.Answers)
	assert.Equal(t, len(answers)-4, m.Tested.AsLeft.Answers, "those of which nothing is left aside")
	pairs := 0
	for _, b := range m.Tested.AsLeft.Bands {
		pairs += b.Number
	}
	assert.Equal(t, 3*(len(answers)-4), pairs, "each answer and category once")
	for _, c := range m.Tested.AsLeft.Categories {
		assert.Equal(t, 18, c.Both+c.Missed, c.ID)
	}
}

func words(t *testing.T, l Learner, word string) int32 {
	term, ok := l.View.Find(word)
	require.True(t, ok)
	return int32(term)
}

// The same is learned however many work on it; nothing of one category's rules is hidden from another's answers.
func TestSameGivenSameLearned(t *testing.T) {
	l, answers := learner(t, 1, "queue and coffee")
	a, err := l.Learn(t.Context(), nil)
	require.NoError(t, err)
	l.Workers = 3
	steps := make(chan int, 10)
	b, err := l.Learn(t.Context(), func(done, total int) { steps <- done })
	require.NoError(t, err)
	assert.Len(t, steps, 3)
	assert.Equal(t, a.Tested, b.Tested)
	for i := range answers {
		x, y, z := a.NewReader(), b.NewReader(), b.NewReader()
		x.Read(uint32(i))
		y.Read(uint32(i))
		z.ReadText(l.View.Index.Answer(i), l.View.Index.Sentences(i))
		assert.Equal(t, x.Chances(), y.Chances())
		assert.Equal(t, x.Chances(), z.Chances())
	}
	les, err := l.lesson(t.Context(), a.features)
	require.NoError(t, err)
	hidden := map[string]int{}
	for i, answer := range les.answer {
		for _, f := range les.row(int32(i)) {
			for _, c := range l.Categories {
				if a.features.all[f.feature].First == c.Terms[0] && les.asLeft[i] && !les.asIs[i] {
					assert.False(t, c.Has.Contains(answer), "%s in %q", c.ID, answers[answer])
				}
			}
		}
		if les.asLeft[i] != les.asIs[i] {
			hidden[answers[answer]]++
		}
	}
	assert.Equal(t, 2, hidden["toilet filthy"])

	// By hand, the rules' terms are as good as any.
	l.Categories[0].ByHand = l.Categories[0].Has
	les, err = l.lesson(t.Context(), a.features)
	require.NoError(t, err)
	for i, answer := range les.answer {
		assert.True(t, !l.Categories[0].Has.Contains(answer) || les.asLeft[i] && les.asIs[i], "%q", answers[answer])
	}
	stopped, stop := context.WithCancel(t.Context())
	stop()
	_, err = l.Learn(stopped, nil)
	require.ErrorIs(t, err, context.Canceled)
}

func TestFeaturesOfAnswers(t *testing.T) {
	v := lexicontest.View(t, "en", lexicon.Lexicon{}, "cold tea. Late boat", "cold tea late", "cold cold tea", "Boot fuhr")
	var shown []string
	for _, f := range saidIn(v, 0, nil) {
		name := v.Terms[f.First].Label
		if f.Second >= 0 {
			name += " " + v.Terms[f.Second].Label
		}
		shown = append(shown, name)
	}
	assert.ElementsMatch(t, strings.Split("cold|tea|late|boat|cold tea|late boat", "|"), shown, "no row goes across sentences")
	f, err := featuresOf(t.Context(), v, roaring.BitmapOf(0, 1, 2))
	require.NoError(t, err)
	assert.Len(t, f.all, 5, "those that two answers say: cold, tea, cold tea, late; and one for all others")
	assert.Equal(t, []entry{{unknown, 1}}, f.of(saidIn(v, 3, nil), nil, nil))
	assert.Equal(t, []entry{{unknown, 1}}, f.of(featuresIn(v, []uint32{NoWord, NoWord, NoWord}, make([]uint8, 3), nil), nil, nil))
}

// What is told of tested rows is what counting them one by one gives.
func TestToldRowsAgainstCounting(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		n := rapid.IntRange(1, 12).Draw(rt, "answers")
		les := &lesson{}
		categories := []Category{{ID: "a", Has: roaring.New()}, {ID: "b", Has: roaring.New()}, {ID: "c", Has: roaring.New()}}
		counted := make([]bool, n)
		for i := range n {
			les.answer = append(les.answer, uint32(i))
			counted[i] = rapid.Bool().Draw(rt, "counted")
			for _, c := range categories {
				if rapid.Bool().Draw(rt, "has") {
					c.Has.Add(uint32(i))
				}
			}
		}
		tested := make([][]scored, 3)
		for k, c := range categories {
			for i := range n {
				tested[k] = append(tested[k], scored{int32(i), c.Has.Contains(uint32(i)), rapid.Float64Range(-3, 3).Draw(rt, "score")})
			}
		}
		scales := []scale{{1, 0}, {2, 1}, {0.5, -1}}
		got := les.tell(categories, tested, scales, counted)
		confused, pairs := map[[2]string]int{}, 0
		for k, c := range categories {
			var both, only, missed int
			for i := range n {
				if !counted[i] {
					continue
				}
				pairs++
				told, has := scales[k].chance(tested[k][i].score) >= 0.5, c.Has.Contains(uint32(i))
				switch {
				case told && has:
					both++
				case has:
					missed++
				case told:
					only++
					for _, d := range categories {
						if d.Has.Contains(uint32(i)) {
							confused[[2]string{c.ID, d.ID}]++
						}
					}
				}
			}
			x := got.Categories[k]
			require.Equal(rt, []int{both, only, missed}, []int{x.Both, x.Only, x.Missed}, c.ID)
			if both+only+missed > 0 {
				require.InDelta(rt, float64(2*both)/float64(2*both+only+missed), x.F1, 1e-12)
			}
		}
		require.Len(rt, got.Confusions, len(confused))
		for _, x := range got.Confusions {
			require.Equal(rt, confused[[2]string{x.Told, x.Has}], x.Answers)
		}
		number, has := 0, 0.0
		for _, b := range got.Bands {
			number, has = number+b.Number, has+b.Has*float64(b.Number)
			require.True(rt, b.Number == 0 || b.Mean >= b.From-1e-9 && b.Mean <= b.From+0.1+1e-9)
		}
		require.Equal(rt, pairs, number)
		want := 0
		for _, c := range categories {
			for i := range n {
				if counted[i] && c.Has.Contains(uint32(i)) {
					want++
				}
			}
		}
		require.InDelta(rt, want, has, 1e-9)
	})
}
