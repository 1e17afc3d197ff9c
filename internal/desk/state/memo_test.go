package state

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type numberKey struct{ n int }

func (numberKey) Most() int { return 2 }

type otherKey struct{ n int }

func (otherKey) Most() int { return 2 }

func TestMemoWorksOutOnce(t *testing.T) {
	m := NewMemo()
	var worked atomic.Int64
	begin := make(chan struct{})
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			got, err := Remember(t.Context(), m, numberKey{1}, func(context.Context) (int, error) {
				<-begin
				return int(worked.Add(1)), nil
			})
			assert.NoError(t, err)
			assert.Equal(t, 1, got)
		})
	}
	close(begin)
	all.Wait()
	// Keys of another type have a room of their own, whatever is in them.
	got, err := Remember(t.Context(), m, otherKey{1}, func(context.Context) (string, error) { return "other", nil })
	require.NoError(t, err)
	assert.Equal(t, "other", got)
	_, known := Known[otherKey, string](m, otherKey{2})
	assert.False(t, known)
	// Of a kind, those asked for last stay.
	for n := range 3 {
		_, err := Remember(t.Context(), m, numberKey{10 + n}, func(context.Context) (int, error) { return n, nil })
		require.NoError(t, err)
	}
	_, known = Known[numberKey, int](m, numberKey{10})
	assert.False(t, known)
	_, known = Known[numberKey, int](m, numberKey{12})
	assert.True(t, known)
}

// Work ends when the last who waits has left, not before; what failed is worked out anew.
func TestMemoStopsWithItsCallers(t *testing.T) {
	m := NewMemo()
	begun, ended := make(chan struct{}), make(chan struct{})
	work := func(ctx context.Context) (int, error) {
		close(begun)
		<-ctx.Done()
		close(ended)
		return 7, nil // what was given up on the way is not kept, whatever it says
	}
	first, leaveFirst := context.WithCancel(t.Context())
	second, leaveSecond := context.WithCancel(t.Context())
	errs := make(chan error, 2)
	go func() { _, err := Remember(first, m, numberKey{1}, work); errs <- err }()
	<-begun
	go func() { _, err := Remember(second, m, numberKey{1}, work); errs <- err }()
	require.Eventually(t, func() bool {
		m.mu.Lock()
		defer m.mu.Unlock()
		return waiting(m) == 2
	}, 5*time.Second, time.Millisecond)
	leaveFirst()
	assert.ErrorIs(t, <-errs, context.Canceled)
	select {
	case <-ended:
		t.Fatal("somebody still waits for it")
	case <-time.After(20 * time.Millisecond):
	}
	leaveSecond()
	assert.ErrorIs(t, <-errs, context.Canceled)
	<-ended
	got, err := Remember(t.Context(), m, numberKey{1}, func(context.Context) (int, error) { return 8, nil })
	require.NoError(t, err)
	assert.Equal(t, 8, got)

	broken := errors.New("broken")
	_, err = Remember(t.Context(), m, numberKey{3}, func(context.Context) (int, error) { return 0, broken })
	assert.ErrorIs(t, err, broken)
	_, err = Remember(t.Context(), m, numberKey{3}, func(context.Context) (int, error) { panic("broken") })
	assert.ErrorContains(t, err, "broken")
	got, err = Remember(t.Context(), m, numberKey{3}, func(context.Context) (int, error) { return 3, nil })
	require.NoError(t, err)
	assert.Equal(t, 3, got)
}

func waiting(m *Memo) int {
	for _, room := range m.rooms {
		if e, ok := room.(interface {
			Peek(numberKey) (*entry[int], bool)
		}).Peek(numberKey{1}); ok {
			return e.waiting
		}
	}
	return 0
}

// One who has left gets nothing, of what is known and of what would be quick alike, and begins nothing.
func TestMemoGivesNothingToOneWhoLeft(t *testing.T) {
	m := NewMemo()
	left, leave := context.WithCancel(t.Context())
	leave()
	for n := range 200 {
		_, err := Remember(left, m, numberKey{1}, func(context.Context) (int, error) { return n, nil })
		require.ErrorIs(t, err, context.Canceled)
	}
	_, known := Known[numberKey, int](m, numberKey{1})
	assert.False(t, known)
	_, err := Remember(t.Context(), m, numberKey{1}, func(context.Context) (int, error) { return 1, nil })
	require.NoError(t, err)
	_, err = Remember(left, m, numberKey{1}, func(context.Context) (int, error) { return 2, nil })
	require.ErrorIs(t, err, context.Canceled)
}
