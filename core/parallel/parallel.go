// Package parallel shares work among goroutines so that it ends with its caller, and a panic in it is the caller's own.
package parallel

import (
	"context"
	"fmt"
	"runtime/debug"
	"sync"
	"sync/atomic"
)

// Panic is what a worker panicked with, handed on to the goroutine that waits for it.
type Panic struct {
	Value any
	Stack string // of the worker
}

// Error says what happened.
func (p Panic) Error() string { return fmt.Sprintf("panic in a worker: %v\n%s", p.Value, p.Stack) }

// Caught runs work and gives what it panicked with, nil if it did not.
func Caught(work func()) (problem *Panic) {
	defer func() {
		if r := recover(); r != nil {
			problem = &Panic{r, string(debug.Stack())}
			if inner, ok := r.(Panic); ok {
				problem = &inner
			}
		}
	}()
	work()
	return nil
}

// Run runs all of the tasks at once and waits for them. The first panic of one is raised in the caller when all are over.
func Run(tasks ...func()) {
	if len(tasks) == 1 {
		tasks[0]()
		return
	}
	var all sync.WaitGroup
	var first atomic.Pointer[Panic]
	for _, task := range tasks {
		all.Go(func() {
			if p := Caught(task); p != nil {
				first.CompareAndSwap(nil, p)
			}
		})
	}
	all.Wait()
	if p := first.Load(); p != nil {
		panic(*p)
	}
}

// Each works on 0 to n-1, on as many goroutines as workers, each of which makes its own work first. It gives up between two when
// ctx ends, and says so.
func Each(ctx context.Context, workers, n int, worker func() (work func(i int))) error {
	var next atomic.Int64
	run := func() {
		work := worker()
		for ctx.Err() == nil {
			i := int(next.Add(1)) - 1
			if i >= n {
				return
			}
			work(i)
		}
	}
	tasks := make([]func(), max(1, min(workers, n)))
	for i := range tasks {
		tasks[i] = run
	}
	Run(tasks...)
	return ctx.Err()
}
