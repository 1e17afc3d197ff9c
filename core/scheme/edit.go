package scheme

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/oneof"
	"aftermath/core/survey"
)

// Edit is one change to a scheme. Each kind is a type with what it needs and nothing else; Kinds lists them.
type Edit interface {
	oneof.Kinded
	// change makes the edit on a scheme that nobody else holds, and says in words what it did.
	change(s *Scheme, at Situation) (summary string, err error)
}

// Kinds are all edits there are, each with nothing in it.
var Kinds = []Edit{
	Hide{}, Show{}, MergeTerms{}, SplitMerge{}, PartWords{}, JoinWords{}, PutOnList{}, TakeOffList{}, RenameMerge{}, RenameList{},
	KeepApart{}, SuggestAgain{}, JoinInflections{}, JoinComparatives{}, SetBaseStopWords{}, SetLanguage{}, AddLexiconRows{},
	SetCleaning{}, SetNoAnswers{}, MaskPersonalData{}, PassPersonal{}, PutAside{},
	AddCategory{}, ChangeCategory{}, MoveCategory{}, RemoveCategory{}, DuplicateCategory{}, SplitCategory{}, MergeCategories{},
	WriteRule{}, RestRule{}, ReplaceInRules{}, CheckRule{}, BringFrame{}, RefuseDraft{}, ProposeAgain{}, Several{}, SetSingle{},
	AddField{}, ChangeField{}, RemoveField{},
	TakePlaybook{}, CopyFrom{}, GoBack{},
	Decide{}, Settle{}, TakeOver{},
}

// Situation is what edits may ask about the question as it is.
type Situation struct {
	View   *lexicon.View // the lexicon of the scheme, applied
	Coding *frame.Coding // the frame of the scheme, applied
	Rows   survey.Rows
	By     string // who makes the edit, as they call themselves; may be empty
	Day    string // today, as 2006-01-02
	// Question gives the scheme of another question. State gives an earlier one of this question, and what it is called.
	Question func(id int64) (Scheme, error)
	State    func(ref string) (Scheme, string, error)
}

// Change is an edit worked out.
type Change struct {
	Scheme  Scheme // as it is then
	Summary string // what was done, in words
	Undo    Patch  // leads back
	Redo    Patch  // leads there again
}

// Apply works an edit out. Errors wrap ErrEdit; nothing was changed then.
func Apply(ctx context.Context, before Scheme, e Edit, at Situation) (Change, error) {
	if err := checkText(e); err != nil {
		return Change{}, err
	}
	after := before.Clone()
	summary, err := e.change(&after, at)
	if err != nil {
		return Change{}, err
	}
	if err := ctx.Err(); err != nil {
		return Change{}, err
	}
	// Lists that a playbook always writes are never without a value.
	after.Cleaning, after.NoAnswers, after.Frame = list(after.Cleaning), list(after.NoAnswers), list(after.Frame)
	after.LastKey = after.Frame.Complete(before.Frame, after.LastKey)
	after.Decisions = after.Decisions.only(after.Frame)
	dropChecks(before.Frame, after.Frame)
	if err := after.Check(); err != nil {
		return Change{}, err
	}
	return Change{after, summary, Diff(after, before), Diff(before, after)}, nil
}

func list[L ~[]T, T any](l L) L {
	if l == nil {
		return L{}
	}
	return l
}

// checkText refuses what no database holds.
func checkText(e Edit) error {
	data, err := json.Marshal(e)
	if err != nil {
		return refuse("the edit can't be written down: %s", err)
	}
	if bytes.Contains(data, []byte(`\u0000`)) {
		return refuse("a name, rule or word holds a null character, which can't be stored; take it out")
	}
	return nil
}

// Any is an edit of any kind, as JSON has it: an object whose "kind" says which.
type Any struct{ Edit }

// MarshalJSON writes the edit with its kind.
func (a Any) MarshalJSON() ([]byte, error) { return oneof.Encode(a.Edit) }

// UnmarshalJSON reads an edit. What the kind does not know is an error, and so is what it lacks.
func (a *Any) UnmarshalJSON(data []byte) (err error) {
	if a.Edit, err = oneof.Decode("edit", Kinds, data); err != nil {
		return refuse("%s", err)
	}
	return nil
}

// words lists things in a sentence; many of them are only counted.
func words(of []string) string {
	const listed = 12
	if len(of) > listed {
		return fmt.Sprintf("%s and %d more", strings.Join(of[:listed], ", "), len(of)-listed)
	}
	return strings.Join(of, ", ")
}
