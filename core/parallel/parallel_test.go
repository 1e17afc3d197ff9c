package parallel

import (
	"context"
	"fmt"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestEachDoesAllOnce(t *testing.T) {
	var sum, made atomic.Int64
	err := Each(context.Background(), 3, 1000, func() func(int) {
		made.Add(1)
		return func(i int) { sum.Add(int64(i)) }
	})
	assert.NoError(t, err)
	assert.Equal(t, int64(999*1000/2), sum.Load())
	assert.Equal(t, int64(3), made.Load())
	assert.NoError(t, Each(context.Background(), 3, 0, func() func(int) { return func(int) { t.Error("there is nothing to do") } }))
}

func TestEachGivesUpWithItsCaller(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	var done atomic.Int64
	err := Each(ctx, 2, 1_000_000, func() func(int) {
		return func(int) {
			if done.Add(1) == 10 {
				cancel()
			}
		}
	})
	assert.ErrorIs(t, err, context.Canceled)
	assert.Less(t, done.Load(), int64(20))
}

// A panic in a worker is raised where its caller can recover from it, when the other workers are over.
func TestPanicsAreTheCallersOwn(t *testing.T) {
	var over atomic.Bool
	p := Caught(func() {
		Run(func() { panic("broken") }, func() { over.Store(true) })
	})
	if assert.NotNil(t, p) {
		assert.Equal(t, "broken", p.Value)
		assert.Contains(t, p.Stack, "parallel_test.go")
	}
	assert.True(t, over.Load())
	assert.Nil(t, Caught(func() {}))
}

func ExampleEach() {
	squares := make([]int, 5)
	err := Each(context.Background(), 2, len(squares), func() func(int) {
		return func(i int) { squares[i] = i * i } // each worker has what it makes here to itself
	})
	fmt.Println(squares, err)
	// Output: [0 1 4 9 16] <nil>
}
