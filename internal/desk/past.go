package desk

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"aftermath/core/scheme"
	"aftermath/internal/desk/earlier"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
)

// Now names the state as it is, where states are named.
const Now = "now"

// pastScheme is the scheme as it was.
type pastScheme struct {
	scheme scheme.Scheme
	name   string // in words
	key    pastKey
}

// pastKey names an earlier state: a revision by its number, or one that was given a name by that and when, since a name can be
// given anew.
type pastKey struct {
	ref string
	at  time.Time
}

// Most: an earlier state may hold a reading of all answers of its own.
func (pastKey) Most() int { return 4 }

// past gives the scheme as it was: after a revision by its number (0 for the beginning), or the one that was given a name, as
// "=name".
func (q *Question) past(ctx context.Context, now *state.State, ref string) (pastScheme, error) {
	if ref == Now || ref == "" {
		return pastScheme{now.Scheme, "now", pastKey{ref: Now}}, nil
	}
	if name, ok := strings.CutPrefix(ref, "="); ok {
		named, err := q.desk.store.NamedState(ctx, q.ID, name)
		if errors.Is(err, ErrNotFound) {
			return pastScheme{}, fmt.Errorf("%w: no state is called %q", state.ErrRequest, name)
		}
		then := scheme.Scheme{Playbook: named.Scheme, Decisions: scheme.Decisions{}.With(named.Decisions), LastKey: now.Scheme.LastKey}
		return pastScheme{then, "“" + name + "”", pastKey{ref, named.At}}, err
	}
	number, err := strconv.Atoi(ref)
	if err != nil || number < 0 {
		return pastScheme{}, fmt.Errorf("%w: %q is no revision", state.ErrRequest, ref)
	}
	out := pastScheme{now.Scheme, "revision " + ref, pastKey{ref: ref}}
	if number == 0 {
		out.name = "the beginning"
	}
	revision, after, err := q.desk.store.Since(ctx, q.ID, number)
	if err != nil {
		return out, err
	}
	if revision != now.Revision { // what is stored leads back from another state than this one
		return out, ErrConflict
	}
	back := make([]scheme.Patch, len(after))
	for i, e := range after { // the newest first
		if back[i], err = earlier.Patch(e.Undo); err != nil {
			return out, fmt.Errorf("revision %d: %w", e.Number, err)
		}
	}
	out.scheme = now.Scheme.Patched(back...)
	return out, nil
}

// earlier gives an earlier state, applied to the answers and variables that are here now, and what it is called.
func (q *Question) earlier(ctx context.Context, now *state.State, ref string) (*state.State, string, error) {
	then, err := q.past(ctx, now, ref)
	if err != nil || then.key.ref == Now {
		return now, then.name, err
	}
	made, err := state.Remember(ctx, now.Memo, then.key, func(ctx context.Context) (*state.State, error) {
		return now.With(ctx, then.scheme, scheme.Diff(now.Scheme, then.scheme).Touches())
	})
	return made, then.name, err
}

// earlierText says whether an earlier state reads the answers by other steps.
func (q *Question) earlierText(ctx context.Context, now *state.State, ref string) (bool, error) {
	then, err := q.past(ctx, now, ref)
	return err == nil && scheme.Diff(now.Scheme, then.scheme).Touches().Text, err
}

// NamedInfo is a state of the scheme that was given a name.
type NamedInfo struct {
	Name   string    `json:"name" minLength:"1" maxLength:"200"`
	Number int       `json:"number" doc:"of the revision after which it was so"`
	At     time.Time `json:"at" doc:"when it was named"`
}

// Named lists the states of a question that were given a name, the newest first.
func (d *Desk) Named(ctx context.Context, question int64) ([]NamedInfo, error) {
	all, err := d.store.NamedStates(ctx, question)
	out := []NamedInfo{}
	for _, n := range all {
		out = append(out, NamedInfo{n.Name, n.Number, n.At})
	}
	return out, err
}

// NameState gives a state a name under which it is kept whole, whatever is undone later. A name stands for one state.
func (d *Desk) NameState(ctx context.Context, q *Question, ref, name string) error {
	now := q.State()
	then, err := q.past(ctx, now, ref)
	if err != nil {
		return err
	}
	number := now.Revision
	if n, err := strconv.Atoi(ref); err == nil {
		number = n
	}
	named := store.NamedState{
		QuestionID: q.ID,
		Name:       strings.TrimSpace(name),
		Number:     number,
		Scheme:     then.scheme.Playbook,
		Decisions:  then.scheme.Decisions.All(),
	}
	if named.Name == "" {
		return fmt.Errorf("%w: the name is empty", state.ErrRequest)
	}
	if err := d.store.KeepNamedState(ctx, &named); errors.Is(err, store.ErrTaken) {
		return fmt.Errorf("%w: a state is called %q already", state.ErrRequest, named.Name)
	} else if err != nil {
		return err
	}
	d.Events.Send(Event{Kind: "edit", Question: q.ID, Revision: now.Revision})
	return nil
}

// DropNamedState takes the name off a state; one that is not there is no error.
func (d *Desk) DropNamedState(ctx context.Context, question int64, name string) error {
	return d.store.DropNamedState(ctx, question, name)
}
