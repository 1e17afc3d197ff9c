package frame

import (
	"context"
	"fmt"
	"maps"
	"strings"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/naming"
	"aftermath/core/rule"
)

// Decisions are what the analyst put on or took off answers by hand. They do not change once made.
type Decisions struct {
	On, Off   map[string]*roaring.Bitmap // by category key
	Settled   *roaring.Bitmap            // looked at, needs no category
	Suggested map[string]*roaring.Bitmap // of those that were put on: since they are likely, not yet looked at; by category key
}

// NewDecisions has none.
func NewDecisions() Decisions {
	return Decisions{On: map[string]*roaring.Bitmap{}, Off: map[string]*roaring.Bitmap{}, Settled: roaring.New()}
}

// RuleResult is what one rule of a category does.
type RuleResult struct {
	Source   string
	Answers  *roaring.Bitmap // all that it matches
	Problems []rule.Problem
	program  *rule.Program
}

// Result is what a category has.
type Result struct {
	Place
	Top           int // colour of its top category, from 0: the one it was given, else that of its place
	Rules, Unless []RuleResult
	ByRules       *roaring.Bitmap // by its own rules, those that Unless takes away aside
	Answers       *roaring.Bitmap // in the end
	Own           *roaring.Bitmap // ByRules and decisions, before nets and before alone

	before *roaring.Bitmap // Own and what children have, before alone: what {X} speaks of
	net    *Result         // the one it stands in; nil at the top
}

// Coding is a frame applied to answers. It does not change once made.
type Coding struct {
	Results []*Result // in frame order
	Coded   *roaring.Bitmap

	frame     Frame
	decisions Decisions
	scope     *rule.Scope
	byID      map[string]*Result
	byPath    map[string]*Result
	cache     map[string]RuleResult
	circular  bool // rules were taken out that go round in a circle
	single    bool // each answer is in the first category only that has it

	counted func() counted
}

// Of gives the result of a category.
func (c *Coding) Of(id string) (*Result, bool) {
	r, ok := c.byID[id]
	return r, ok
}

// Code applies a frame. Single has each answer in the first category only that has it. Earlier, if given, is a coding of the
// same variables whose rule results are used again: all of them under the same lexicon, under another one those that come down
// to the same words. It gives up with an error when ctx ends.
func Code(ctx context.Context, f Frame, single bool, d Decisions, scope rule.Scope, earlier *Coding) (*Coding, error) {
	c := &Coding{
		frame:     f,
		decisions: d,
		byID:      map[string]*Result{},
		byPath:    map[string]*Result{},
		cache:     map[string]RuleResult{},
		Coded:     roaring.New(),
		scope:     &scope,
		single:    single,
	}
	scope.Category, scope.Categories, scope.CategoryPaths = c.resolve, nil, nil
	place, colour := -1, 0
	var nets []*Result // the way to the category at hand
	for p := range f.All() {
		if len(p.Path) == 1 {
			place++
			colour = place % len(Colours)
			if p.Colour > 0 && p.Colour <= len(Colours) {
				colour = p.Colour - 1
			}
		}
		r := &Result{Place: p, Top: colour}
		nets = append(nets[:len(p.Path)-1], r)
		if len(nets) > 1 {
			r.net = nets[len(nets)-2]
		}
		c.Results = append(c.Results, r)
		c.byID[p.ID], c.byPath[p.key()] = r, r
		scope.Categories, scope.CategoryPaths = append(scope.Categories, p.PathName()), append(scope.CategoryPaths, p.Path)
	}
	for _, r := range c.Results {
		r.Rules, r.Unless = c.compile(r.Category.Rules, earlier), c.compile(r.Category.Unless, earlier)
	}
	c.breakCircles()
	for _, r := range c.Results {
		if err := c.evaluate(ctx, r, d); err != nil {
			return nil, err
		}
	}
	c.leaveAlone(d)
	if single {
		c.leaveFirst(d)
	}
	for _, r := range c.Results {
		c.Coded.Or(r.Answers)
	}
	c.counted = sync.OnceValue(c.count)
	return c, nil
}

// resolve finds a category for a rule that names it.
func (c *Coding) resolve(path []string) (string, error) {
	r, ok := c.byPath[Place{Path: path}.key()]
	switch {
	case !ok:
		return "", fmt.Errorf("there is no category %q", naming.Path(path))
	case r.Alone:
		return "", fmt.Errorf("%q stands alone: it has what no other category has, so no rule may name it", r.PathName())
	}
	return r.ID, nil
}

func (c *Coding) compile(sources []string, earlier *Coding) []RuleResult {
	var out []RuleResult
	for _, src := range sources {
		known, ok := RuleResult{}, false
		if earlier != nil {
			known, ok = earlier.cache[src]
		}
		if !ok || earlier.scope.View != c.scope.View {
			p, problems := rule.Compile(src, c.scope)
			r := RuleResult{Source: src, Problems: problems, program: p}
			if ok && p != nil && p.Same(known.program) {
				r.Answers = known.Answers
			}
			known, ok = r, r.Answers != nil
		}
		if ok {
			c.cache[src] = known
		}
		out = append(out, known)
	}
	return out
}

// evaluate works out what a category has before the last step, after all that its rules name.
func (c *Coding) evaluate(ctx context.Context, r *Result, d Decisions) error {
	if r.before != nil {
		return nil
	}
	rules, err := c.results(ctx, r.Rules, d)
	if err != nil {
		return err
	}
	unless, err := c.results(ctx, r.Unless, d)
	if err != nil {
		return err
	}
	r.ByRules = roaring.New()
	if !r.Off {
		r.ByRules.Or(rules)
		r.ByRules.AndNot(unless)
	}
	r.Own = r.ByRules.Clone()
	if len(r.Children) == 0 {
		if on := d.On[r.ID]; on != nil {
			r.Own.Or(on)
		}
		if off := d.Off[r.ID]; off != nil {
			r.Own.AndNot(off)
		}
	}
	before := r.Own.Clone()
	for _, child := range r.Children {
		kid := c.byID[child.ID]
		if err := c.evaluate(ctx, kid, d); err != nil {
			return err
		}
		before.Or(kid.before)
	}
	r.before = before
	r.Answers = r.before
	return nil
}

// results runs rules, and gives what any of them matches.
func (c *Coding) results(ctx context.Context, rules []RuleResult, d Decisions) (*roaring.Bitmap, error) {
	all := roaring.New()
	for i := range rules {
		r := &rules[i]
		if r.Answers == nil && r.program == nil {
			r.Answers = roaring.New()
		}
		if r.Answers == nil {
			for _, use := range r.program.Uses() {
				if err := c.evaluate(ctx, c.byID[use], d); err != nil {
					return nil, err
				}
			}
			found, err := c.Matcher().Answers(ctx, r.program)
			if err != nil {
				return nil, err
			}
			if r.Answers = found; len(r.program.Uses()) == 0 {
				c.cache[r.Source] = *r
			}
		}
		all.Or(r.Answers)
	}
	return all, nil
}

// leaveAlone takes the alone categories away where another category applies, and then makes their nets anew.
func (c *Coding) leaveAlone(d Decisions) {
	var alone, nets []*Result
	leaves := roaring.New()
	for _, r := range c.Results {
		switch {
		case r.Alone:
			alone = append(alone, r)
		case len(r.Children) > 0:
			nets = append(nets, r)
		default:
			leaves.Or(r.Own)
		}
	}
	if len(alone) == 0 {
		return
	}
	for _, r := range alone {
		others := leaves.Clone()
		for _, net := range nets {
			if !above(net, r) {
				others.Or(net.Own)
			}
		}
		others.AndNot(on(d, r))
		r.Answers = roaring.AndNot(r.before, others)
	}
	for i := len(c.Results) - 1; i >= 0; i-- { // children stand after their net
		if r := c.Results[i]; len(r.Children) > 0 {
			sum := r.Own.Clone()
			if r.Alone {
				sum.And(r.Answers)
			}
			for _, child := range r.Children {
				sum.Or(c.byID[child.ID].Answers)
			}
			r.Answers = sum
		}
	}
}

// leaveFirst leaves each answer in the first category, in the order of the frame, that has it by itself; one that was put on it
// by hand goes before all others, and of these none is taken away. Nets are made anew.
func (c *Coding) leaveFirst(d Decisions) {
	byHand, taken := roaring.New(), roaring.New()
	for _, r := range c.Results {
		if len(r.Children) == 0 {
			byHand.Or(on(d, r))
		}
	}
	for _, r := range c.Results {
		first := r.Carries()
		others := roaring.Or(taken, byHand)
		if len(r.Children) == 0 {
			others.AndNot(on(d, r))
		}
		r.Own = roaring.AndNot(first, others)
		taken.Or(r.Own)
	}
	for i := len(c.Results) - 1; i >= 0; i-- { // children stand after their net
		r := c.Results[i]
		r.Answers = r.Own.Clone()
		for _, child := range r.Children {
			r.Answers.Or(c.byID[child.ID].Answers)
		}
	}
}

// above says whether net is a net that r stands in.
func above(net, r *Result) bool {
	for at := r.net; at != nil; at = at.net {
		if at == net {
			return true
		}
	}
	return false
}

// Matcher runs further rules against this coding.
func (c *Coding) Matcher() *rule.Matcher {
	return &rule.Matcher{Scope: c.scope, Category: func(key string) *roaring.Bitmap { return c.byID[key].before }}
}

// Try runs a rule that is not in the frame. It gives up with an error when ctx ends.
func (c *Coding) Try(ctx context.Context, src string) (RuleResult, error) {
	p, problems := c.Compile(src)
	r := RuleResult{Source: src, Problems: problems, program: p, Answers: roaring.New()}
	var err error
	if p != nil {
		r.Answers, err = c.Matcher().Answers(ctx, p)
	}
	return r, err
}

// knowing gives the coding with the result of a further rule to use again, for a frame that holds it.
func (c *Coding) knowing(r RuleResult) *Coding {
	out := *c
	out.cache = maps.Clone(c.cache)
	if r.program != nil && len(r.program.Uses()) == 0 {
		out.cache[r.Source] = r
	}
	return &out
}

// OfOtherVariables gives the coding with the results to use again that hold whatever the variables are: those of rules
// that ask for none.
func (c *Coding) OfOtherVariables() *Coding {
	out := *c
	out.cache = maps.Clone(c.cache)
	maps.DeleteFunc(out.cache, func(src string, _ RuleResult) bool { return strings.Contains(src, "[") })
	return &out
}

// Readable says whether the rule could be read.
func (r RuleResult) Readable() bool { return r.program != nil }

// Compile makes a rule ready that may name this coding's categories.
func (c *Coding) Compile(src string) (*rule.Program, []rule.Problem) {
	return rule.Compile(src, c.scope)
}

// RuleTerms visits the terms that the rules of the frame look for, each perhaps several times.
func (c *Coding) RuleTerms(visit func(term int)) {
	for _, r := range c.Results {
		c.TermsOf(r, visit)
		termsOf(r.Unless, c, visit)
	}
}

// TermsOf visits the terms that the rules of a category look for, those of what takes it away aside.
func (c *Coding) TermsOf(r *Result, visit func(term int)) { termsOf(r.Rules, c, visit) }

func termsOf(rules []RuleResult, c *Coding, visit func(term int)) {
	for _, x := range rules {
		if x.program != nil {
			x.program.Terms(c.scope.View, visit)
		}
	}
}

// Suggests says whether an answer has a category since it is likely, and nobody has looked at it.
func (d Decisions) Suggests(category string, row uint32) bool {
	set := d.Suggested[category]
	return set != nil && set.Contains(row)
}

// Why says which rules of a category match an answer (from 0), and whether it was given by hand.
func (r *Result) Why(answer uint32, d Decisions) (rules []int, byHand bool) {
	for i, res := range r.Rules {
		if res.Answers.Contains(answer) {
			rules = append(rules, i)
		}
	}
	on := d.On[r.ID]
	return rules, on != nil && on.Contains(answer)
}

// Evidence is what in an answer decided that rule i of the category matches it.
func (c *Coding) Evidence(r *Result, i int, answer uint32) rule.Evidence {
	if r.Rules[i].program == nil {
		return rule.Evidence{}
	}
	e, _ := c.Matcher().Explain(r.Rules[i].program, int(answer))
	return e
}

// Trace holds every part of a rule against an answer; none for a rule that can't be read.
func (c *Coding) Trace(r RuleResult, answer int) []rule.Step {
	if r.program == nil {
		return nil
	}
	return c.Matcher().Trace(r.program, answer)
}

// Places visits where a rule stands in the answers of a set, up to a number of places.
func (c *Coding) Places(
	ctx context.Context, r RuleResult, set *roaring.Bitmap, most int, visit func(answer uint32, start, length int),
) error {
	if r.program == nil {
		return nil
	}
	n := 0
	return c.Matcher().Places(ctx, r.program, set, func(answer uint32, start, length int) bool {
		visit(answer, start, length)
		n++
		return n < most
	})
}
