package corpus

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/text"
)

func build(t testing.TB, answers []string, workers int) *Index {
	p, err := text.NewPipeline("en", text.DefaultSteps())
	require.NoError(t, err)
	ix, err := Build(context.Background(), p, text.NewNoAnswers(p, text.DefaultNoAnswers("en")), answers, workers, nil)
	require.NoError(t, err)
	return ix
}

func TestIndex(t *testing.T) {
	ix := build(t, []string{"Café cold. The café shut", "cafe", "", "n/a", "???", "cold &amp; wet"}, 2)
	cafe, ok := ix.Word("cafe")
	require.True(t, ok)
	assert.Equal(t, []uint32{0, 1}, ix.Postings(cafe))
	assert.Equal(t, 3, ix.Count(cafe))
	assert.Equal(t, "café", ix.Spelling(cafe), "two of three wrote the accent")
	assert.Equal(t, []uint8{0, 0, 1, 1, 1}, ix.Sentences(0))
	assert.Equal(t, []uint32{0, 1, 5}, ix.Answered().ToArray())
	assert.Equal(t, []uint32{2}, ix.Status(text.Missing).ToArray())
	assert.Equal(t, []uint32{3}, ix.Status(text.NoAnswer).ToArray())
	assert.Equal(t, []uint32{4}, ix.Status(text.Empty).ToArray())
	assert.Equal(t, []uint32{5}, ix.Touched(0).ToArray(), "markup")
	_, ok = ix.Word("tea")
	assert.False(t, ok)
}

// The index is the same however many workers read, and its postings agree with a search through the answers.
func TestWorkersDoNotMatter(t *testing.T) {
	var answers []string
	for i := range 3*chunk + 17 {
		answers = append(answers, fmt.Sprintf("deck%d was full, boat %d late", i%97, i%13))
	}
	one, two := build(t, answers, 1), build(t, answers, 2)
	assert.Equal(t, one, two)
	for _, w := range []string{"deck", "12", "late"} {
		id, ok := one.Word(w)
		require.True(t, ok)
		var want []uint32
		for i, a := range answers {
			a = " " + strings.NewReplacer("deck", "deck ", ",", "").Replace(a) + " "
			if strings.Contains(a, " "+w+" ") {
				want = append(want, uint32(i))
			}
		}
		assert.Equal(t, want, one.Postings(id), w)
	}
}

func TestBuildCanBeCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	p, _ := text.NewPipeline("en", nil)
	_, err := Build(ctx, p, text.NoAnswers{}, make([]string, 3*chunk), 2, nil)
	assert.ErrorIs(t, err, context.Canceled)
}

func BenchmarkBuild(b *testing.B) {
	answers := make([]string, 20000)
	for i := range answers {
		answers[i] = fmt.Sprintf(
			"We didn't mind the delay on route %d but nobody could say why boat %d was late, and the tea had run out again", i%7, i%1000,
		)
	}
	for b.Loop() {
		build(b, answers, 2)
	}
	b.ReportMetric(float64(len(answers))*float64(b.N)/b.Elapsed().Seconds(), "answers/s")
}

// An answer of very many sentences keeps its order: all from the 256th on count as one.
func TestSentencesAreCapped(t *testing.T) {
	p, err := text.NewPipeline("en", nil)
	require.NoError(t, err)
	long := strings.Repeat("Late. ", 300)
	ix, err := Build(context.Background(), p, text.NewNoAnswers(p, nil), []string{long}, 1, nil)
	require.NoError(t, err)
	got := ix.Sentences(0)
	require.Len(t, got, 300)
	for i, s := range got {
		require.Equal(t, uint8(min(i, 255)), s)
	}
}

func ExampleBuild() {
	p, _ := text.NewPipeline("en", text.DefaultSteps())
	answers := []string{"The boat was late", "", "Late, late!"}
	ix, _ := Build(context.Background(), p, text.NewNoAnswers(p, nil), answers, 1, nil)
	late, _ := ix.Word("late")
	fmt.Println(ix.Answered().ToArray(), ix.With([]uint32{late}).ToArray(), ix.Count(late))
	// Output: [0 2] [0 2] 3
}
