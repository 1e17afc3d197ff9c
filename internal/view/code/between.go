package code

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/scheme"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

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

// BetweenOf says what lies between two states.
func BetweenOf(ctx context.Context, now *state.State, f focus.Focus, from, to string) (Between, error) {
	a, fromName, err := now.Links.Earlier(ctx, now, from)
	if err != nil {
		return Between{}, err
	}
	b, toName, err := now.Links.Earlier(ctx, now, to)
	if err != nil {
		return Between{}, err
	}
	set, err := f.Answers(ctx, now)
	if err != nil {
		return Between{}, err
	}
	out := Between{From: fromName, To: toName, Base: int(set.GetCardinality()), Parts: []string{}, Categories: []CategoryBetween{},
		CodedBefore: int(set.AndCardinality(a.Coding.Coded)), Coded: int(set.AndCardinality(b.Coding.Coded))}
	apart := scheme.Diff(a.Scheme, b.Scheme).Touches()
	for _, part := range []struct {
		name    string
		differs bool
	}{{"cleaning", apart.Text}, {"decisions", apart.Decisions}, {"lexicon", apart.Lexicon}} {
		if part.differs {
			out.Parts = append(out.Parts, part.name)
		}
	}
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
		x.Before, x.After = int(before.GetCardinality()), int(after.GetCardinality())
		x.Gained, x.Lost = view.CountWithout(after, before), view.CountWithout(before, after)
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
