package desk

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/terms"
	"aftermath/core/text"
	"aftermath/internal/store"
)

// Edit is one change to a question's scheme. Kind says which of the other parts count.
type Edit struct {
	Kind string `json:"kind" enum:"hide,show,merge,split,part,join,list,unlist,rename,apart,suggest again,inflections,base,language,lexicon,cleaning,no answers,add category,change category,move category,remove category,duplicate category,split category,merge categories,rule,rest,frame,refuse draft,draft again,go back,decide,settle,playbook,copy,mask,restore"`

	Terms    []string           `json:"terms,omitempty" doc:"hide, show: labels of terms; merge: what is merged; split: variants to take out, none for all; part, join: words; list, unlist: entries, none for the whole list; apart, suggest again: terms"`
	Label    string             `json:"label,omitempty" doc:"merge, split: the merge; part: the term; list, unlist: the term list; rename: the merge or @list; apart, suggest again: the term; base, language: its code"`
	Name     string             `json:"name,omitempty" doc:"rename: the new name; split category: of the new one"`
	Steps    []text.Step        `json:"steps,omitempty" doc:"cleaning: the steps that are on, in order"`
	Phrases  []string           `json:"phrases,omitempty" doc:"no answers: the phrases of refusal"`
	ID       string             `json:"id,omitempty" doc:"the category that is changed, moved, removed or decided on"`
	Parent   string             `json:"parent,omitempty" doc:"add, move category: the net, empty for the top"`
	Before   string             `json:"before,omitempty" doc:"move category: the sibling it comes before, empty for the end"`
	Into     string             `json:"into,omitempty" doc:"merge categories: the one that stays"`
	Rule     string             `json:"rule,omitempty" doc:"rule: its new text, empty to take it away; refuse draft: its rule"`
	Was      string             `json:"was,omitempty" doc:"rule, rest: the text of the rule it is about, empty for a further one"`
	Unless   bool               `json:"unless,omitempty" doc:"rule: of those that take away"`
	Rules    []string           `json:"rules,omitempty" doc:"split category: the rules that go"`
	Frame    *frame.Frame       `json:"frame,omitempty" doc:"frame: all of it"`
	State    string             `json:"state,omitempty" doc:"go back: the number of a revision, or = and the name of a state"`
	Category *frame.Category    `json:"category,omitempty" doc:"add, change category: all of it but its place and children; change category: not its rules either"`
	Answers  []uint32           `json:"answers,omitempty" doc:"decide, settle: numbers of answers"`
	To       string             `json:"to,omitempty" enum:"on,off,rules" doc:"decide: on, off, or back to what the rules say; settle, mask, inflections, rest: on or off; frame: on to set it after the one there is"`
	Lexicon  *lexicon.Lexicon   `json:"lexicon,omitempty" doc:"lexicon: all of it"`
	Playbook *playbook.Playbook `json:"playbook,omitempty" doc:"playbook, restore: the whole scheme"`
	From     int64              `json:"from,omitempty" doc:"copy: the question it is copied from"`
	Parts    []string           `json:"parts,omitempty" enum:"cleaning,lexicon,frame" doc:"copy: what is copied"`
	Put      []HandMark         `json:"put,omitempty" doc:"restore: decisions as they were"`
}

// HandMark is a decision on one answer. Category is empty for settled.
type HandMark struct {
	Answer   uint32 `json:"answer"`
	Category string `json:"category"`
	To       string `json:"to" enum:"on,off,rules"`
}

// change is an edit worked out: the state it leads to, and what to store.
type change struct {
	state   *State
	marks   []HandMark // decisions as they are now
	inverse Edit
	summary string
}

// Effect is what an edit does to the coding.
type Effect struct {
	Revision    int              `json:"revision"`
	Summary     string           `json:"summary"`
	CodedBefore int              `json:"codedBefore"`
	Coded       int              `json:"coded"`
	Categories  []CategoryEffect `json:"categories" doc:"those that gain or lose answers"`
	Read        int              `json:"read" doc:"previews of cleaning: answers that are read otherwise, whose words change"`
	Proof       []Proof          `json:"proof" doc:"some of those, as they would be read"`
	Misfits     []Misfit         `json:"misfits" doc:"rules that can no longer be read, or are new and can't be"`
}

// CategoryEffect is what a category gains and loses.
type CategoryEffect struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Gained int    `json:"gained"`
	Lost   int    `json:"lost"`
}

// Misfit is a rule that does not fit: it names what is not there.
type Misfit struct {
	Category string `json:"category"`
	Rule     string `json:"rule"`
	Message  string `json:"message"`
}

// misfits are the rules that can't be read, other than those that could not be read before.
func misfits(before, after *State) []Misfit {
	out := []Misfit{}
	bad := func(s *State, visit func(r *frame.Result, x frame.RuleResult)) {
		for _, r := range s.Coding.Results {
			for _, x := range slices.Concat(r.Rules, r.Unless) {
				if !x.Readable() {
					visit(r, x)
				}
			}
		}
	}
	known := map[[2]string]bool{}
	bad(before, func(r *frame.Result, x frame.RuleResult) { known[[2]string{r.PathName(), x.Source}] = true })
	bad(after, func(r *frame.Result, x frame.RuleResult) {
		if !known[[2]string{r.PathName(), x.Source}] {
			out = append(out, Misfit{r.PathName(), x.Source, x.Problems[0].Message})
		}
	})
	return out
}

// Preview works out an edit without keeping it.
func (q *Question) Preview(ctx context.Context, e Edit) (Effect, error) {
	before := q.State()
	e, err := q.with(ctx, e)
	if err != nil {
		return Effect{}, err
	}
	c, err := q.worked(ctx, before, e)
	if err != nil {
		return Effect{}, err
	}
	out := effect(before, c.state, c.summary)
	if c.state.Reading.Index != before.Reading.Index {
		out.Read, out.Proof = q.changed(before, c.state)
	}
	return out, nil
}

// trial keeps the last edit that was previewed: keeping it then costs nothing more.
type trial struct {
	mu     sync.Mutex
	before *State
	edit   []byte
	change change
}

// forget lets go of what was tried: a second reading of all answers takes room. It does not wait for one that is being
// made.
func (t *trial) forget() {
	if t.mu.TryLock() {
		defer t.mu.Unlock()
		t.before, t.edit, t.change = nil, nil, change{}
	}
}

// worked works an edit out, or takes what a preview has.
func (q *Question) worked(ctx context.Context, before *State, e Edit) (change, error) {
	if e.Kind != "cleaning" { // the others are worked out at once
		return q.work(ctx, before, e)
	}
	key, err := json.Marshal(e)
	if err != nil {
		return change{}, err
	}
	t := &q.tried
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.before == before && bytes.Equal(t.edit, key) {
		return t.change, nil
	}
	c, err := q.work(ctx, before, e)
	if err == nil {
		t.before, t.edit, t.change = before, key, c
	}
	return c, err
}

// with gives an edit all that it needs from elsewhere.
func (q *Question) with(ctx context.Context, e Edit) (Edit, error) {
	if e.Kind != "copy" {
		return e, nil
	}
	other, err := q.desk.Question(ctx, e.From)
	if err != nil {
		return e, err
	}
	p := other.State().Playbook.Clone()
	e.Playbook = &p
	return e, nil
}

// Edit makes an edit on the revision that the caller has seen, and keeps it. It fails with store.ErrConflict if the
// question is at another revision by now.
func (q *Question) Edit(ctx context.Context, revision int, e Edit) (Effect, error) {
	if e.Kind == "restore" {
		return Effect{}, fmt.Errorf("%w: restore is what undo does", ErrRequest)
	}
	e, err := q.with(ctx, e)
	if err != nil {
		return Effect{}, err
	}
	q.edit.Lock()
	defer q.edit.Unlock()
	before := q.State()
	if revision != before.Revision || q.closed {
		return Effect{}, store.ErrConflict
	}
	c, err := q.worked(ctx, before, e)
	if err != nil {
		return Effect{}, err
	}
	edit, err := json.Marshal(e)
	if err != nil {
		return Effect{}, err
	}
	inverse, err := json.Marshal(c.inverse)
	if err != nil {
		return Effect{}, err
	}
	return q.keep(ctx, before, c, &store.Revision{Summary: c.summary, Edit: edit, Inverse: inverse}, nil)
}

// undo takes the question's newest edit back, or does it again.
func (q *Question) undo(ctx context.Context, again bool) (Effect, error) {
	q.edit.Lock()
	defer q.edit.Unlock()
	if q.closed {
		return Effect{}, store.ErrConflict
	}
	find := q.desk.Store.Undoable
	if again {
		find = q.desk.Store.Redoable
	}
	r, err := find(ctx, q.ID)
	if errors.Is(err, store.ErrNotFound) {
		return Effect{}, ErrNothing
	}
	if err != nil {
		return Effect{}, err
	}
	data := r.Inverse
	if again {
		data = r.Edit
	}
	var e Edit
	if err := json.Unmarshal(data, &e); err != nil {
		return Effect{}, fmt.Errorf("revision %d: %w", r.Number, err)
	}
	before := q.State()
	c, err := q.work(ctx, before, e)
	if err != nil {
		return Effect{}, err
	}
	c.summary = map[bool]string{false: "Undone: ", true: "Done again: "}[again] + r.Summary
	r.Undone = !again
	return q.keep(ctx, before, c, nil, &r)
}

func (q *Question) keep(ctx context.Context, before *State, c change, revision, mark *store.Revision) (Effect, error) {
	write := store.Change{Question: store.Question{ID: q.ID, Revision: before.Revision, Scheme: c.state.Playbook}, Revision: revision, Mark: mark}
	for _, m := range c.marks {
		d := store.Decision{QuestionID: q.ID, Number: int(m.Answer), Category: m.Category, On: m.To == "on"}
		if m.To == "rules" || m.Category == "" && m.To == "off" {
			write.Drop = append(write.Drop, d)
		} else {
			write.Put = append(write.Put, d)
		}
	}
	// Once begun, storing is not given up half-way. If it fails all the same, what the database holds is not known: the
	// question is opened anew from there.
	next, err := q.desk.Store.Keep(context.WithoutCancel(ctx), write)
	if err != nil {
		q.desk.forget(q.ID)
		return Effect{}, err
	}
	c.state.Revision = next
	if c.state.kept != before.kept {
		q.StopSuggestions(before) // they are looked for in a reading that is no more
	}
	q.state.Store(c.state)
	q.tried.forget()
	q.desk.Events.Send(Event{Kind: "edit", Question: q.ID, Revision: next})
	return effect(before, c.state, c.summary), nil
}

func effect(before, after *State, summary string) Effect {
	e := Effect{Revision: after.Revision, Summary: summary, CodedBefore: int(before.Coding.Coded.GetCardinality()), Coded: int(after.Coding.Coded.GetCardinality()),
		Categories: []CategoryEffect{}, Proof: []Proof{}, Misfits: misfits(before, after)}
	for _, r := range after.Coding.Results {
		was := roaring.New()
		if b, ok := before.Coding.Of(r.ID); ok {
			was = b.Answers
		}
		gained, lost := countWithout(r.Answers, was), countWithout(was, r.Answers)
		if gained+lost > 0 {
			e.Categories = append(e.Categories, CategoryEffect{r.ID, r.PathName(), gained, lost})
		}
	}
	for _, r := range before.Coding.Results {
		if _, ok := after.Coding.Of(r.ID); !ok && !r.Answers.IsEmpty() {
			e.Categories = append(e.Categories, CategoryEffect{r.ID, r.PathName(), 0, int(r.Answers.GetCardinality())})
		}
	}
	return e
}

// work applies an edit to a state and recomputes what depends on it, no more.
func (q *Question) work(ctx context.Context, before *State, e Edit) (change, error) {
	p := before.Playbook.Clone()
	c := change{inverse: Edit{Kind: "restore"}}
	var err error
	switch e.Kind {
	case "decide", "settle":
		c.marks, c.summary, err = q.marks(before, e)
	case "merge categories":
		if c.marks, c.summary, err = mergeCategories(&p, before, e); err == nil {
			c.marks = append(c.marks, marksLost(before, p)...)
		}
	case "go back":
		var then *State
		if then, err = q.At(ctx, before, e.State); err == nil {
			p, c.marks, c.summary = then.Playbook.Clone(), marksBetween(before, then.Decisions), "Went back to "+stateName(e.State)
		}
	case "restore":
		if e.Playbook != nil {
			p = e.Playbook.Clone()
		}
		c.marks = e.Put
	default:
		c.summary, err = apply(&p, before, e)
		if err == nil {
			c.marks = marksLost(before, p)
		}
	}
	if err != nil {
		return change{}, err
	}
	if err := p.Check(); err != nil {
		return change{}, fmt.Errorf("%w: %w", ErrRequest, err)
	}
	for _, m := range c.marks {
		c.inverse.Put = append(c.inverse.Put, HandMark{m.Answer, m.Category, before.mark(m.Answer, m.Category)})
	}
	if e.Kind != "decide" && e.Kind != "settle" && (e.Kind != "restore" || e.Playbook != nil) {
		old := before.Playbook
		c.inverse.Playbook = &old
	}
	c.state = &State{Revision: before.Revision, Study: before.Study, kept: before.kept, Playbook: p, Decisions: withMarks(before.Decisions, c.marks), Reading: before.Reading, View: before.View, Counter: before.Counter}
	s := c.state
	if !sameReading(p, before.Playbook) {
		s.kept = &kept{}
		if s.Reading, err = p.Read(ctx, q.Answers, runtime.GOMAXPROCS(0), q.progress("cleaning")); err != nil {
			return change{}, err
		}
	}
	if s.Reading.Index != before.Reading.Index || !same(p.Lexicon, before.Playbook.Lexicon) {
		if s.Reading.Index == before.Reading.Index {
			s.View = before.View.With(p.Lexicon)
		} else {
			s.View = p.View(s.Reading)
		}
		s.Counter = terms.NewCounter(s.View, before.Counter)
	}
	s.Coding = p.Code(s.View, q.Answers, s.Study.Variables, s.Decisions, before.Coding)
	return c, nil
}

// sameReading says whether two schemes read the answers in the same way.
func sameReading(a, b playbook.Playbook) bool {
	return same(a.Cleaning, b.Cleaning) && a.Language == b.Language && slices.Equal(a.NoAnswers, b.NoAnswers)
}

// same compares two parts of a scheme as they are written.
func same(a, b any) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && string(x) == string(y)
}
