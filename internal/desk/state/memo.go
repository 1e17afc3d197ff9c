package state

import (
	"context"
	"reflect"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"

	"aftermath/core/parallel"
)

// Memo keeps what was worked out of something that does not change. It is a part of that thing, and each kind of key has a type
// and a room of its own, so that nothing worked out of one thing, or for one question, is ever given for another.
type Memo struct {
	mu    sync.Mutex
	rooms map[reflect.Type]any // a *lru.Cache[K, *entry[V]] by the type of K

	life  context.Context // of what is worked out in the background
	letGo context.CancelFunc
}

// NewMemo is an empty memo.
func NewMemo() *Memo {
	m := &Memo{rooms: map[reflect.Type]any{}}
	m.life, m.letGo = context.WithCancel(context.Background())
	return m
}

// LetGo ends what is worked out in the background: nobody will ask for it any more. Those who still ask are answered all the
// same.
func (m *Memo) LetGo() { m.letGo() }

// Life is the context of work in the background.
func (m *Memo) Life() context.Context { return m.life }

// Start works something out in the background, if nobody has, so that Known has it later.
func Start[K Key, V any](m *Memo, key K, work func(ctx context.Context) (V, error)) {
	if m.life.Err() != nil {
		return
	}
	room := roomOf[K, V](m, key.Most())
	m.mu.Lock()
	_, begun := room.Peek(key)
	m.mu.Unlock()
	if !begun {
		go func() { _, _ = Remember(m.life, m, key, work) }() // if it fails, it is not there
	}
}

// Key names something that is worked out. It holds all that it depends on besides the thing that the memo belongs to.
type Key interface {
	comparable
	// Most is how many of this kind are kept; those asked for last stay.
	Most() int
}

// entry is something that is being worked out, or was.
type entry[V any] struct {
	done    chan struct{} // closed when it is there
	value   V
	err     error
	waiting int                // callers
	stop    context.CancelFunc // ends the work; nobody waits for it any more
}

// Remember gives what was worked out under a key, or works it out: once, however many ask at the same time. Work gets a context
// that ends when the last of those who wait has left; what ended so, or failed, or panicked is an error of those who wait and is
// not kept.
func Remember[K Key, V any](ctx context.Context, m *Memo, key K, work func(ctx context.Context) (V, error)) (V, error) {
	room := roomOf[K, V](m, key.Most())
	for {
		if err := ctx.Err(); err != nil { // one who has left begins nothing, and gets nothing, however quick the work is
			var none V
			return none, err
		}
		e, mine := join(ctx, m, room, key)
		if mine != nil {
			go mine(work)
		}
		select {
		case <-e.done:
			if e.err != nil && ctx.Err() == nil && isStopped(e.err) {
				continue // those who waited before have left; this one has not
			}
			return e.value, e.err
		case <-ctx.Done():
			leave(m, room, key, e)
			var none V
			return none, ctx.Err()
		}
	}
}

// Known gives what was worked out under a key, if it is there.
func Known[K Key, V any](m *Memo, key K) (value V, ok bool) {
	room := roomOf[K, V](m, key.Most())
	e, ok := room.Peek(key)
	if !ok {
		return value, false
	}
	select {
	case <-e.done:
		return e.value, e.err == nil
	default:
		return value, false
	}
}

func isStopped(err error) bool {
	return err == context.Canceled || err == context.DeadlineExceeded
}

func roomOf[K Key, V any](m *Memo, most int) *lru.Cache[K, *entry[V]] {
	m.mu.Lock()
	defer m.mu.Unlock()
	kind := reflect.TypeFor[K]()
	if m.rooms[kind] == nil {
		room, _ := lru.New[K, *entry[V]](max(1, most)) // it fails for sizes below 1 only
		m.rooms[kind] = room
	}
	return m.rooms[kind].(*lru.Cache[K, *entry[V]])
}

// join waits with others for what is being worked out; mine begins the work where nobody has.
func join[K Key, V any](
	ctx context.Context, m *Memo, room *lru.Cache[K, *entry[V]], key K,
) (e *entry[V], mine func(work func(context.Context) (V, error))) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if e, ok := room.Get(key); ok {
		e.waiting++
		return e, nil
	}
	working, stop := context.WithCancel(context.WithoutCancel(ctx))
	e = &entry[V]{done: make(chan struct{}), waiting: 1, stop: stop}
	room.Add(key, e)
	return e, func(work func(context.Context) (V, error)) {
		defer stop()
		if p := parallel.Caught(func() { e.value, e.err = work(working) }); p != nil {
			e.err = p
		}
		if working.Err() != nil && e.err == nil {
			e.err = working.Err()
		}
		if e.err != nil {
			forget(m, room, key, e)
		}
		close(e.done)
	}
}

// leave ends the work if nobody else waits for it.
func leave[K Key, V any](m *Memo, room *lru.Cache[K, *entry[V]], key K, e *entry[V]) {
	m.mu.Lock()
	defer m.mu.Unlock()
	select {
	case <-e.done:
		return
	default:
	}
	if e.waiting--; e.waiting == 0 {
		e.stop()
		if now, ok := room.Peek(key); ok && now == e {
			room.Remove(key)
		}
	}
}

func forget[K Key, V any](m *Memo, room *lru.Cache[K, *entry[V]], key K, e *entry[V]) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if now, ok := room.Peek(key); ok && now == e {
		room.Remove(key)
	}
}
