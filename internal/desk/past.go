package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/internal/store"
)

// Now names the state as it is, where states are named.
const Now = "now"

// stateName says in words which state is meant.
func stateName(ref string) string {
	switch {
	case ref == Now || ref == "":
		return "now"
	case strings.HasPrefix(ref, "="):
		return "“" + ref[1:] + "”"
	case ref == "0":
		return "the beginning"
	}
	return "revision " + ref
}

// pastCache keeps the earlier states that were worked out last, as long as the present one stands.
type pastCache struct {
	mu     sync.Mutex
	now    *State
	states map[string]*State
}

// mostPast is how many earlier states are kept.
const mostPast = 4

// At gives an earlier state of the scheme, applied to the answers and variables that are here now: the state after a
// revision by its number (0 for the beginning), or one that was given a name, as "=name".
func (q *Question) At(ctx context.Context, now *State, ref string) (*State, error) {
	if ref == Now || ref == "" {
		return now, nil
	}
	c := &q.past
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.now != now || len(c.states) >= mostPast {
		c.now, c.states = now, map[string]*State{}
	}
	if s, ok := c.states[ref]; ok {
		return s, nil
	}
	edit, err := q.wayBack(ctx, now, ref)
	if err != nil {
		return nil, err
	}
	change, err := q.work(ctx, now, edit)
	if err != nil {
		return nil, err
	}
	c.states[ref] = change.state
	return change.state, nil
}

// wayBack is the edit that leads from the present state to an earlier one.
func (q *Question) wayBack(ctx context.Context, now *State, ref string) (Edit, error) {
	out := Edit{Kind: "restore"}
	if q.desk == nil {
		return out, fmt.Errorf("%w: a question in no store has no past", ErrRequest)
	}
	if name, ok := strings.CutPrefix(ref, "="); ok {
		named, err := q.desk.Store.NamedState(ctx, q.ID, name)
		if errors.Is(err, store.ErrNotFound) {
			return out, fmt.Errorf("%w: no state is called %q", ErrRequest, name)
		}
		if err != nil {
			return out, err
		}
		out.Playbook = &named.Scheme
		out.Put = marksBetween(now, decisionsOf(named.Decisions))
		return out, nil
	}
	number, err := strconv.Atoi(ref)
	if err != nil || number < 0 {
		return out, fmt.Errorf("%w: %q is no revision", ErrRequest, ref)
	}
	after, err := q.desk.Store.Since(ctx, q.ID, number)
	if err != nil {
		return out, err
	}
	then := now.Decisions
	for _, r := range after { // the newest first
		var inverse Edit
		if err := json.Unmarshal(r.Inverse, &inverse); err != nil {
			return out, fmt.Errorf("revision %d: %w", r.Number, err)
		}
		if inverse.Playbook != nil {
			out.Playbook = inverse.Playbook
		}
		then = withMarks(then, inverse.Put)
	}
	out.Put = marksBetween(now, then)
	return out, nil
}

// lately gives an earlier state if it reads the answers by the same steps; nil if not.
func (q *Question) lately(ctx context.Context, now *State, ref string) (*State, error) {
	edit, err := q.wayBack(ctx, now, ref)
	if err != nil || edit.Playbook != nil && !sameReading(*edit.Playbook, now.Playbook) {
		return nil, err
	}
	return q.At(ctx, now, ref)
}

// marksBetween are the decisions that lead from a state's own to others.
func marksBetween(now *State, then frame.Decisions) (out []HandMark) {
	categories := map[string]bool{}
	for _, d := range []frame.Decisions{now.Decisions, then} {
		for _, sets := range []map[string]*roaring.Bitmap{d.On, d.Off} {
			for id := range sets {
				categories[id] = true
			}
		}
	}
	at := State{Decisions: then}
	compare := func(category string, sets ...*roaring.Bitmap) {
		all := roaring.New()
		for _, set := range sets {
			if set != nil {
				all.Or(set)
			}
		}
		for it := all.Iterator(); it.HasNext(); {
			a := it.Next()
			if to := at.mark(a, category); to != now.mark(a, category) {
				out = append(out, HandMark{a, category, to})
			}
		}
	}
	compare("", now.Decisions.Settled, then.Settled)
	for id := range categories {
		compare(id, now.Decisions.On[id], now.Decisions.Off[id], then.On[id], then.Off[id])
	}
	return out
}

// Between is what lies between two states of the scheme, by its effect on the answers of a focus that are here now.
type Between struct {
	From        string            `json:"from"`
	To          string            `json:"to"`
	Base        int               `json:"base" doc:"answers of the focus"`
	CodedBefore int               `json:"codedBefore"`
	Coded       int               `json:"coded"`
	Parts       []string          `json:"parts" doc:"what else of the scheme differs: cleaning, lexicon, decisions"`
	Categories  []CategoryBetween `json:"categories" doc:"those that differ, in the order of the later frame, then those that are gone"`
}

// CategoryBetween is a category in two states.
type CategoryBetween struct {
	ID      string   `json:"id"`
	Name    string   `json:"name" doc:"its path; in the later state, if it is there"`
	Short   string   `json:"short"`
	Top     int      `json:"top"`
	Fresh   bool     `json:"fresh,omitempty" doc:"it is in the later state only"`
	Gone    bool     `json:"gone,omitempty" doc:"it is in the earlier state only"`
	Before  int      `json:"before"`
	After   int      `json:"after"`
	Gained  int      `json:"gained"`
	Lost    int      `json:"lost"`
	Added   []string `json:"added" doc:"rules"`
	Removed []string `json:"removed" doc:"rules"`
}

// Compare says what lies between two states.
func (q *Question) Between(ctx context.Context, now *State, f Focus, from, to string) (Between, error) {
	a, b, err := q.two(ctx, now, from, to)
	if err != nil {
		return Between{}, err
	}
	set, err := q.Focus(now, f)
	if err != nil {
		return Between{}, err
	}
	out := Between{From: stateName(from), To: stateName(to), Base: int(set.GetCardinality()), Parts: []string{}, Categories: []CategoryBetween{},
		CodedBefore: int(set.AndCardinality(a.Coding.Coded)), Coded: int(set.AndCardinality(b.Coding.Coded))}
	for part, differs := range map[string]bool{"cleaning": !same(a.Playbook.Cleaning, b.Playbook.Cleaning), "lexicon": !same(a.Playbook.Lexicon, b.Playbook.Lexicon),
		"decisions": len(marksBetween(a, b.Decisions)) > 0} {
		if differs {
			out.Parts = append(out.Parts, part)
		}
	}
	slices.Sort(out.Parts)
	add := func(was, is *frame.Result) {
		x := CategoryBetween{Fresh: was == nil, Gone: is == nil, Added: []string{}, Removed: []string{}}
		before, after := roaring.New(), roaring.New()
		var old, fresh []string
		if was != nil {
			x.ID, x.Name, x.Short, x.Top, before = was.ID, was.PathName(), was.Short, was.Top, roaring.And(was.Answers, set)
			old = ruleTexts(was)
		}
		if is != nil {
			x.ID, x.Name, x.Short, x.Top, after = is.ID, is.PathName(), is.Short, is.Top, roaring.And(is.Answers, set)
			fresh = ruleTexts(is)
		}
		x.Before, x.After, x.Gained, x.Lost = int(before.GetCardinality()), int(after.GetCardinality()), countWithout(after, before), countWithout(before, after)
		for _, r := range fresh {
			if !slices.Contains(old, r) {
				x.Added = append(x.Added, r)
			}
		}
		for _, r := range old {
			if !slices.Contains(fresh, r) {
				x.Removed = append(x.Removed, r)
			}
		}
		if x.Fresh || x.Gone || x.Gained+x.Lost+len(x.Added)+len(x.Removed) > 0 || was.PathName() != is.PathName() {
			out.Categories = append(out.Categories, x)
		}
	}
	for _, r := range b.Coding.Results {
		was, _ := a.Coding.Of(r.ID)
		add(was, r)
	}
	for _, r := range a.Coding.Results {
		if _, ok := b.Coding.Of(r.ID); !ok {
			add(r, nil)
		}
	}
	return out, nil
}

// ruleTexts are the rules of a category as people read them.
func ruleTexts(r *frame.Result) (out []string) {
	out = append(out, r.Category.Rules...)
	for _, u := range r.Category.Unless {
		out = append(out, "unless "+u)
	}
	for _, x := range r.Category.Resting {
		out = append(out, "resting: "+x)
	}
	return out
}

func (q *Question) two(ctx context.Context, now *State, from, to string) (a, b *State, err error) {
	if a, err = q.At(ctx, now, from); err != nil {
		return nil, nil, err
	}
	b, err = q.At(ctx, now, to)
	return a, b, err
}

// changedBetween is the set of answers that a category (none: any) gained or lost between two states.
func (q *Question) changedBetween(ctx context.Context, now *State, category, from, to string, lost bool) (*roaring.Bitmap, error) {
	a, b, err := q.two(ctx, now, from, to)
	if err != nil {
		return nil, err
	}
	if lost {
		a, b = b, a
	}
	answers := func(s *State) *roaring.Bitmap {
		if category == "" {
			return s.Coding.Coded
		}
		if r, ok := s.Coding.Of(category); ok {
			return r.Answers
		}
		return roaring.New()
	}
	return roaring.AndNot(answers(b), answers(a)), nil
}

// NamedInfo is a state of the scheme that was given a name.
type NamedInfo struct {
	Name   string    `json:"name" minLength:"1" maxLength:"200"`
	Number int       `json:"number" doc:"of the revision after which it was so"`
	At     time.Time `json:"at" doc:"when it was named"`
}

// Named lists the states that were given a name, the newest first.
func (q *Question) Named(ctx context.Context) ([]NamedInfo, error) {
	all, err := q.desk.Store.NamedStates(ctx, q.ID)
	out := []NamedInfo{}
	for _, n := range all {
		out = append(out, NamedInfo{n.Name, n.Number, n.At})
	}
	return out, err
}

// NameState gives a state a name under which it is kept whole, whatever is undone later. A name stands for one state.
func (q *Question) NameState(ctx context.Context, now *State, ref, name string) error {
	then, err := q.At(ctx, now, ref)
	if err != nil {
		return err
	}
	number := now.Revision
	if n, err := strconv.Atoi(ref); err == nil {
		number = n
	}
	named := store.NamedState{QuestionID: q.ID, Name: strings.TrimSpace(name), Number: number, Scheme: then.Playbook}
	if named.Name == "" {
		return fmt.Errorf("%w: the name is empty", ErrRequest)
	}
	for category, sets := range map[bool]map[string]*roaring.Bitmap{true: then.Decisions.On, false: then.Decisions.Off} {
		for id, set := range sets {
			for it := set.Iterator(); it.HasNext(); {
				named.Decisions = append(named.Decisions, store.Decision{Number: int(it.Next()), Category: id, On: category})
			}
		}
	}
	for it := then.Decisions.Settled.Iterator(); it.HasNext(); {
		named.Decisions = append(named.Decisions, store.Decision{Number: int(it.Next()), On: true})
	}
	if err := q.desk.Store.KeepNamedState(ctx, &named); errors.Is(err, store.ErrTaken) {
		return fmt.Errorf("%w: a state is called %q already", ErrRequest, named.Name)
	} else if err != nil {
		return err
	}
	q.desk.Events.Send(Event{Kind: "edit", Question: q.ID, Revision: now.Revision})
	return nil
}
