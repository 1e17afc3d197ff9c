package api

import (
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/effect"
	"aftermath/internal/view/termview"

	"context"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/lexicon"
	"aftermath/core/scheme"
	"aftermath/core/terms"
	"aftermath/internal/export"
)

// registerTerms adds the routes of what is said.
func registerTerms(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	const q = "/questions/{question}"
	get := func(path, id, summary string) huma.Operation { return op(http.MethodGet, q+path, id, summary) }
	huma.Register(a, get("/terms", "terms", "The term table in a focus"), s.terms)
	huma.Register(a, get("/values", "values", "Amounts, times and the like in a focus"), s.values)
	huma.Register(a, get("/members", "members", "All that is joined under a term"), s.members)
	huma.Register(a, get("/context", "context", "A term, a row of terms or a rule in context"), s.context)
	huma.Register(a, get("/branches", "branches", "What leads to a subject and follows from it"), s.branches)
	huma.Register(a, get("/company", "company", "What a subject is said with, and by whom more often"), s.company)
	huma.Register(a, get("/compare", "compare", "The terms that tell two groups apart"), s.compare)
	huma.Register(a, get("/corpus", "corpus", "Figures of the text as a whole"), s.corpus)
	huma.Register(a, get("/timeline", "timeline", "Subjects over time"), s.timeline)
	huma.Register(a, get("/rising", "rising", "Terms that are said more than before"), s.rising)
	huma.Register(a, get("/network", "network", "Terms that come together"), s.network)
	huma.Register(a, get("/suggestions", "suggestions", "Terms that may be one"), s.suggestions)
	huma.Register(
		a, op(http.MethodDelete, q+"/suggestions", "stop-suggestions", "Give up looking for terms that may be one"),
		s.stopSuggestions,
	)
	huma.Register(a, get("/lexicon", "lexicon", "What was decided about words"), s.lexicon)
	huma.Register(a, get("/lexicon/{part}", "lexicon-part", "Stop words, merges or term lists as CSV"), s.lexiconPart)
	put := op(
		http.MethodPost, q+"/lexicon/{part}", "add-lexicon-part", "Add what a CSV file holds to stop words, merges or term lists",
	)
	put.RequestBody = &huma.RequestBody{
		Required: true,
		Content:  map[string]*huma.MediaType{"text/csv": {Schema: &huma.Schema{Type: "string"}}},
	}
	put.MaxBodyBytes = 16 << 20
	huma.Register(a, put, s.addLexiconPart)
	huma.Register(a, get("/terms/file", "terms-out", "The term table as a file"), s.termsOut)
	huma.Register(a, get("/context/file", "context-out", "Lines of context as a file"), s.contextOut)
	huma.Register(a, get("/compare/file", "compare-out", "A comparison as a file"), s.compareOut)
	huma.Register(a, get("/company/file", "company-out", "What a subject is said with, as a file"), s.companyOut)
	huma.Register(a, get("/corpus/file", "corpus-out", "Figures of the text as a file"), s.corpusOut)
	huma.Register(a, get("/timeline/file", "timeline-out", "Subjects over time as a file"), s.timelineOut)
	huma.Register(a, get("/rising/file", "rising-out", "Terms that are said more than before, as a file"), s.risingOut)
	huma.Register(a, get("/network/file", "network-out", "Links of a network as a file"), s.networkOut)
	huma.Register(a, get("/matrix/file", "matrix", "Answers by terms, for statistics programs"), s.matrix)
}

// TermFilters say which terms are asked for.
type TermFilters struct {
	Row        int     `query:"row" minimum:"1" maximum:"3" default:"1" doc:"single terms, or two or three in a row"`
	Search     string  `query:"search" doc:"letters in the label or a member; with * or ? a pattern"`
	Stop       bool    `query:"stop" doc:"what is hidden instead"`
	Answers    int     `query:"answers" minimum:"0" doc:"at least"`
	Letters    int     `query:"letters" minimum:"0" doc:"at least"`
	List       string  `query:"list" doc:"in this term list"`
	NotMerged  bool    `query:"notMerged" doc:"in no merge"`
	NotInRules bool    `query:"notInRules" doc:"in no rule"`
	Class      string  `query:"class" enum:"any,noun,verb,adjective,adverb,other" default:"any" doc:"of this word class; other: not in the table of words"`
	Everyday   float64 `query:"everyday" minimum:"0" doc:"said at least so many times as often as in everyday speech"`
	Sort       string  `query:"sort" enum:"answers,times,uncoded,distinct,everyday,term" default:"answers"`
	Up         bool    `query:"up" doc:"the smallest first"`
}

func (f TermFilters) query(offset, limit int) termview.TermQuery {
	return termview.TermQuery{
		Row:        f.Row,
		Search:     f.Search,
		Stop:       f.Stop,
		Answers:    f.Answers,
		Letters:    f.Letters,
		List:       f.List,
		NotMerged:  f.NotMerged,
		NotInRules: f.NotInRules,
		Class:      f.Class,
		Everyday:   f.Everyday,
		Sort:       f.Sort,
		Descending: !f.Up,
		Offset:     offset,
		Limit:      limit,
	}
}

func (s *server) terms(ctx context.Context, in *struct {
	ListInput
	TermFilters
}) (*body[termview.TermTable], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (termview.TermTable, error) {
		return termview.Terms(ctx, st, f, in.query(in.Offset, in.Limit))
	})
}

func (s *server) values(ctx context.Context, in *FocusInput) (*body[termview.Values], error) {
	return reply(ctx, s, *in, termview.ValuesOf)
}

func (s *server) members(ctx context.Context, in *struct {
	FocusInput
	Term string `query:"term" required:"true"`
}) (*body[[]termview.Member], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) ([]termview.Member, error) {
		return termview.Members(ctx, st, f, in.Term)
	})
}

type ContextInput struct {
	ListInput
	termview.Subject
	By   string `query:"by" enum:"after,before,given" default:"after" doc:"in the order of the words after, of those before, or of the file"`
	Show string `query:"show" enum:"written,read" default:"written" doc:"as written, or as people read it: without tags, entities decoded"`
}

func (s *server) context(ctx context.Context, in *ContextInput) (*body[termview.ContextPage], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (termview.ContextPage, error) {
		return termview.Context(ctx, st, f, in.Subject, terms.Order(in.By), in.Show == "read", in.Offset, in.Limit)
	})
}

func (s *server) branches(ctx context.Context, in *struct {
	FocusInput
	termview.Subject
	Depth   int  `query:"depth" minimum:"1" maximum:"6" default:"3" doc:"words away from the subject"`
	Breadth int  `query:"breadth" minimum:"1" maximum:"20" default:"8" doc:"branches of the first fork"`
	Least   int  `query:"least" minimum:"1" default:"2" doc:"answers that a branch must have"`
	Telling bool `query:"telling" doc:"stop words are passed over"`
}) (*body[termview.BranchesOf], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (termview.BranchesOf, error) {
		return termview.Branches(ctx, st, f, in.Subject, terms.Shape{Depth: in.Depth, Breadth: in.Breadth, Least: in.Least}, in.Telling)
	})
}

type CompanyInput struct {
	FocusInput
	termview.Subject
	Least int `query:"least" minimum:"1" default:"3" doc:"answers that a term must share with it"`
	Limit int `query:"limit" minimum:"1" maximum:"500" default:"40"`
}

func (s *server) company(ctx context.Context, in *CompanyInput) (*body[termview.Company], error) {
	return reply(ctx, s, in.FocusInput, in.ask)
}

func (in *CompanyInput) ask(ctx context.Context, st *state.State, f focus.Focus) (termview.Company, error) {
	return termview.CompanyOf(ctx, st, f, in.Subject, in.Least, in.Limit)
}

type CompareInput struct {
	FocusInput
	By    string `query:"by" doc:"the variable; the first that serves if left out"`
	A     string `query:"a" doc:"a value; the first if left out"`
	B     string `query:"b" doc:"another value; the rest if left out"`
	Least int    `query:"least" minimum:"1" default:"5" doc:"answers that a term must have on both sides together"`
	Limit int    `query:"limit" minimum:"1" maximum:"2000" default:"60" doc:"terms per side"`

	Row      int    `query:"row" minimum:"1" maximum:"3" default:"1" doc:"single terms, or two or three in a row"`
	Class    string `query:"class" enum:"any,noun,verb,adjective,adverb,other" default:"any" doc:"of this word class"`
	Weighted bool   `query:"weighted" doc:"shares are weighted, where the study has weights; tests are not"`
}

func (in *CompareInput) query() termview.CompareQuery {
	return termview.CompareQuery{
		By: in.By, A: in.A, B: in.B, Least: in.Least, Limit: in.Limit, Row: in.Row, Class: in.Class, Weighted: in.Weighted,
	}
}

func (s *server) compare(ctx context.Context, in *CompareInput) (*body[termview.Comparison], error) {
	return reply(ctx, s, in.FocusInput, in.ask)
}

func (in *CompareInput) ask(ctx context.Context, st *state.State, f focus.Focus) (termview.Comparison, error) {
	return termview.Compare(ctx, st, f, in.query())
}

type CorpusInput struct {
	FocusInput
	By string `query:"by"`
}

func (s *server) corpus(ctx context.Context, in *CorpusInput) (*body[termview.Corpus], error) {
	return reply(ctx, s, in.FocusInput, in.ask)
}

func (in *CorpusInput) ask(ctx context.Context, st *state.State, f focus.Focus) (termview.Corpus, error) {
	return termview.CorpusOf(ctx, st, f, in.By)
}

type TimelineInput struct {
	FocusInput
	termview.TimeQuery
	Kind string   `query:"of" enum:"term,row,rule" default:"term"`
	Text []string `query:"text,explode" required:"true" maxItems:"12"`
}

func (s *server) timeline(ctx context.Context, in *TimelineInput) (*body[termview.Timeline], error) {
	return reply(ctx, s, in.FocusInput, in.ask)
}

func (in *TimelineInput) ask(ctx context.Context, st *state.State, f focus.Focus) (termview.Timeline, error) {
	var subjects []termview.Subject
	for _, t := range in.Text {
		subjects = append(subjects, termview.Subject{Kind: in.Kind, Text: t})
	}
	return termview.TimelineOf(ctx, st, f, subjects, in.TimeQuery)
}

type RisingInput struct {
	FocusInput
	termview.TimeQuery
	Now   string `query:"now" doc:"the period that is compared with all before it; the last one if left out"`
	Limit int    `query:"limit" minimum:"1" maximum:"500" default:"60"`
}

func (s *server) rising(ctx context.Context, in *RisingInput) (*body[termview.Rising], error) {
	return reply(ctx, s, in.FocusInput, in.ask)
}

func (in *RisingInput) ask(ctx context.Context, st *state.State, f focus.Focus) (termview.Rising, error) {
	return termview.RisingOf(ctx, st, f, in.TimeQuery, in.Now, in.Limit)
}

type NetworkInput struct {
	FocusInput
	Terms   int     `query:"terms" minimum:"2" maximum:"500" default:"150" doc:"how many of the most frequent terms are looked at"`
	Measure string  `query:"measure" enum:"g2,lift,pmi,jaccard,both" default:"g2"`
	Least   float64 `query:"least" minimum:"0" doc:"links under this of the measure are left out"`
	Both    int     `query:"both" minimum:"1" default:"5" doc:"and those with fewer answers with both"`
	Class   string  `query:"class" enum:"any,noun,verb,adjective,adverb,other" default:"any" doc:"terms of this word class only"`
	Links   int     `query:"links" minimum:"1" maximum:"600" default:"120" doc:"and all but so many of the strongest"`
}

func (s *server) network(ctx context.Context, in *NetworkInput) (*body[termview.Network], error) {
	return reply(ctx, s, in.FocusInput, in.ask)
}

func (in *NetworkInput) ask(ctx context.Context, st *state.State, f focus.Focus) (termview.Network, error) {
	return termview.NetworkOf(
		ctx, st, f,
		termview.NetworkQuery{Class: in.Class, Terms: in.Terms, Measure: terms.Measure(in.Measure), Least: in.Least, Both: in.Both, Links: in.Links},
	)
}

func (s *server) suggestions(ctx context.Context, in *struct {
	QuestionInput
	Kind   string `query:"kind" enum:"misspelt,joined,stem,alike" doc:"all if left out"`
	Anew   bool   `query:"anew" doc:"forget what was found or given up, and look again"`
	Offset int    `query:"offset" minimum:"0" maximum:"2147483647"`
	Limit  int    `query:"limit" minimum:"0" maximum:"100" default:"30"`
}) (*body[termview.Suggestions], error) {
	return reply(
		ctx,
		s,
		FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, f focus.Focus) (termview.Suggestions, error) {
			return termview.SuggestionsOf(ctx, st, in.Kind, in.Anew, in.Offset, in.Limit)
		},
	)
}

func (s *server) stopSuggestions(ctx context.Context, in *QuestionInput) (*struct{}, error) {
	st, _, err := s.open(ctx, FocusInput{QuestionInput: *in})
	if err != nil {
		return nil, problem(err)
	}
	termview.StopSuggestions(st)
	return nil, nil
}

func (s *server) lexicon(ctx context.Context, in *QuestionInput) (*body[termview.LexiconState], error) {
	return reply(
		ctx,
		s,
		FocusInput{QuestionInput: *in},
		func(ctx context.Context, st *state.State, f focus.Focus) (termview.LexiconState, error) {
			return termview.LexiconOf(ctx, st)
		},
	)
}

type PartInput struct {
	QuestionInput
	Part string `path:"part" enum:"stop-words,merges,lists"`
}

func (s *server) lexiconPart(ctx context.Context, in *PartInput) (*huma.StreamResponse, error) {
	st, _, err := s.open(ctx, FocusInput{QuestionInput: in.QuestionInput})
	if err != nil {
		return nil, problem(err)
	}
	return download(in.Part+".csv", export.Types["csv"], func(w io.Writer) error {
		return export.Sheet(w, "csv", in.Part, func(yield func([]any) bool) {
			for _, row := range st.View.Lexicon.Table(lexicon.Part(in.Part)) {
				if !yield([]any{row[0], row[1]}) {
					return
				}
			}
		})
	}), nil
}

func (s *server) addLexiconPart(ctx context.Context, in *struct {
	PartInput
	Revision int `query:"revision" doc:"the revision that the edit is made on"`
	RawBody  []byte
}) (*body[effect.Effect], error) {
	rows, err := readTable(in.RawBody)
	if err != nil {
		return nil, problem(err)
	}
	return replied(s.desk.Edit(ctx, in.Question, in.Revision, scheme.AddLexiconRows{Part: lexicon.Part(in.Part), Rows: rows}))
}
