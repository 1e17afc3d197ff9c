package termview

import (
	"context"
	"log/slog"
	"slices"
	"sync"
	"time"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/oneof"
	"aftermath/core/parallel"
	"aftermath/core/terms"
	"aftermath/internal/desk/state"
)

// Suggestions are terms that may be one.
type Suggestions struct {
	Running bool           `json:"running" doc:"they are still being looked for"`
	Stopped bool           `json:"stopped" doc:"looking was given up: nothing is listed until it is asked for again"`
	Part    float64        `json:"part" doc:"how much of the looking is done, 0 to 1"`
	Counts  map[string]int `json:"counts" doc:"suggestions of each kind"`
	Refused int            `json:"refused" doc:"pairs that are kept apart"`
	Total   int            `json:"total" doc:"of the kind that was asked for"`
	List    []Suggestion   `json:"list"`
}

// Suggestion says that variants may be merged with a term.
type Suggestion struct {
	SuggestionKind
	SuggestedMerge
}

// SuggestionKind is why terms may be one. Each kind is a type with what it says and nothing else; SuggestionKinds lists them.
type SuggestionKind interface{ oneof.Kinded }

// SuggestionKinds are all kinds of suggestions there are, each with nothing in it.
var SuggestionKinds = []SuggestionKind{Misspelt{}, WrittenApart{}, SameStem{}, UsedAlike{}}

// Misspelt are rare words that are almost a frequent one.
type Misspelt struct{}

// WrittenApart are words that are one word here and two there.
type WrittenApart struct{}

// SameStem are words of one stem that the stemmer did not join.
type SameStem struct{}

// UsedAlike are words around which the same words stand.
type UsedAlike struct {
	Score  float64  `json:"score" doc:"cosine of what stands around both, 0 to 1"`
	Shared []string `json:"shared" doc:"what says most of that"`
	Same   bool     `json:"same" doc:"both mean much the same, by the table of the language"`
}

// Kind is that of the search.
func (Misspelt) Kind() string { return string(terms.Misspelt) }

// Kind is that of the search.
func (WrittenApart) Kind() string { return string(terms.Joined) }

// Kind is that of the search.
func (SameStem) Kind() string { return string(terms.Stem) }

// Kind is that of the search.
func (UsedAlike) Kind() string { return string(terms.Alike) }

// MarshalJSON writes the suggestion with its kind.
func (s Suggestion) MarshalJSON() ([]byte, error) {
	return oneof.Encode(s.SuggestionKind, s.SuggestedMerge)
}

// UnmarshalJSON reads a suggestion.
func (s *Suggestion) UnmarshalJSON(data []byte) (err error) {
	s.SuggestedMerge = SuggestedMerge{}
	s.SuggestionKind, err = oneof.Decode("suggestion", SuggestionKinds, data, &s.SuggestedMerge)
	return err
}

// kindOf says why terms may be one.
func kindOf(g terms.Suggestion) SuggestionKind {
	switch g.Kind {
	case terms.Misspelt:
		return Misspelt{}
	case terms.Joined:
		return WrittenApart{}
	case terms.Stem:
		return SameStem{}
	case terms.Alike:
		return UsedAlike{g.Score, append([]string{}, g.Shared...), g.Close > 0}
	}
	panic("no suggestion is of the kind " + string(g.Kind))
}

// SuggestedMerge is what would be merged.
type SuggestedMerge struct {
	Term     string        `json:"term"`
	Stop     bool          `json:"stop,omitempty" doc:"the term is hidden: what is merged with it will be"`
	Times    int           `json:"times" doc:"occurrences of the term"`
	Variants []VariantInfo `json:"variants"`
	Answers  int           `json:"answers" doc:"answers with a variant"`
}

// VariantInfo is what would be merged with a term.
type VariantInfo struct {
	Text  string   `json:"text"`
	Times int      `json:"times"`
	Edits []string `json:"edits" doc:"misspelt: what was done to the letters"`
}

type searchKey struct{}

func (searchKey) Most() int { return 1 }

// searchOf is the search for suggestions in the answers as they are read, begun or not.
func searchOf(s *state.State) *search {
	out, _ := state.Remember(
		context.Background(), s.Text, searchKey{}, func(context.Context) (*search, error) { return &search{}, nil },
	)
	return out
}

// search is a search for suggestions, made once per reading and language.
type search struct {
	mu      sync.Mutex
	done    bool
	stopped bool
	part    float64
	found   []terms.Suggestion
	stop    context.CancelFunc
	over    chan struct{} // closed when the looking ends; nil before it begins
}

// SuggestionsOf gives what is found of one kind, and starts looking if nobody has. What is one term by now, or kept apart,
// is left out. It does not wait for long: while Running, ask again. With anew, what was found or given up is forgotten.
func SuggestionsOf(ctx context.Context, s *state.State, kind string, anew bool, offset, limit int) (Suggestions, error) {
	look := searchOf(s)
	if anew {
		look.forget()
	}
	select {
	case <-look.start(s):
	case <-time.After(patience):
	case <-ctx.Done():
		return Suggestions{}, ctx.Err()
	}
	look.mu.Lock()
	out := Suggestions{
		Running: !look.done && !look.stopped,
		Stopped: look.stopped,
		Part:    look.part,
		Counts:  map[string]int{},
		List:    []Suggestion{},
	}
	found := look.found
	look.mu.Unlock()
	for _, m := range s.View.Lexicon.Apart {
		out.Refused += len(m.Variants)
	}
	var wanted []Suggestion
	for _, k := range terms.Kinds {
		out.Counts[string(k)] = 0
	}
	for _, g := range found {
		if left, ok := stillOpen(s, g); ok {
			out.Counts[left.Kind()]++
			if kind == "" || left.Kind() == kind {
				wanted = append(wanted, left)
			}
		}
	}
	out.Total = len(wanted)
	out.List = append(out.List, wanted[min(offset, len(wanted)):min(offset+limit, len(wanted))]...)
	return out, nil
}

// stillOpen is what is left of a suggestion under the lexicon of now.
func stillOpen(s *state.State, g terms.Suggestion) (Suggestion, bool) {
	to, ok := s.View.Find(g.Term)
	if !ok || s.View.Terms[to].Stop && g.Kind != terms.Misspelt {
		return Suggestion{}, false
	}
	out := Suggestion{kindOf(g), SuggestedMerge{
		Term:     s.View.Terms[to].Label,
		Stop:     s.View.Terms[to].Stop,
		Times:    g.Times,
		Variants: []VariantInfo{},
	}}
	answers := roaring.New()
	for _, v := range g.Variants {
		t, known := s.View.Find(v.Text)
		if known && (t == to || s.View.Terms[t].Merge >= 0 || s.View.Terms[t].Stop) || s.View.Lexicon.KeptApart(g.Term, v.Text) ||
			s.View.Lexicon.KeptApart(out.Term, v.Text) {
			continue
		}
		out.Variants = append(out.Variants, VariantInfo{v.Text, v.Times, append([]string{}, v.Edits...)})
		answers.Or(s.View.ListPhrases(v.Text).Answers(s.View.Index))
	}
	answers.And(s.View.Index.Answered())
	out.Answers = int(answers.GetCardinality())
	if g.Kind == terms.Joined {
		out.usualForm()
	}
	return out, out.Answers >= 2
}

// usualForm has the form that is written most often stay, be it of two words.
func (s *SuggestedMerge) usualForm() {
	most := slices.IndexFunc(s.Variants, func(v VariantInfo) bool { return v.Times > s.Times })
	if most < 0 {
		return
	}
	for i, v := range s.Variants {
		if v.Times > s.Variants[most].Times {
			most = i
		}
	}
	v := &s.Variants[most]
	s.Term, v.Text = v.Text, s.Term
	s.Times, v.Times = v.Times, s.Times
}

// patience is how long is waited for suggestions before it is said that they are being looked for.
const patience = 400 * time.Millisecond

// start looks for suggestions in the background, if that has not been done or given up. What it gives is closed when they
// are there, or given up. What is kept apart is looked for too, so that it can be suggested again.
func (l *search) start(s *state.State) <-chan struct{} {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.over != nil {
		return l.over
	}
	ctx, stop := context.WithCancel(s.Text.Life())
	over := make(chan struct{})
	l.stop, l.over = stop, over
	together := s.View.Lexicon.Clone()
	together.Apart = nil
	finder := terms.Suggester{
		Counter:  terms.NewCounter(s.View.With(together), s.Counter),
		Language: s.Scheme.Language,
		Workers:  state.Workers(),
	}
	finder.Progress = func(part float64) {
		l.mu.Lock()
		defer l.mu.Unlock()
		if l.over == over {
			l.part = part
		}
	}
	go func() {
		defer stop()
		defer close(over)
		var found []terms.Suggestion
		var err error
		if p := parallel.Caught(func() { found, err = finder.Find(ctx) }); p != nil {
			slog.Error("looking for suggestions failed", "problem", p)
			err = p
		}
		l.mu.Lock()
		defer l.mu.Unlock()
		if l.over == over {
			l.found, l.done, l.stopped = found, err == nil, err != nil
		}
	}()
	return over
}

// forget lets suggestions be looked for anew.
func (l *search) forget() {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.stop != nil {
		l.stop()
	}
	l.done, l.stopped, l.part, l.found, l.stop, l.over = false, false, 0, nil, nil, nil
}

// StopSuggestions gives up looking.
func StopSuggestions(s *state.State) {
	l := searchOf(s)
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.stop != nil && !l.done {
		l.stopped = true
		l.stop()
	}
}
