package api

import (
	"context"
	"fmt"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/kept"
	"aftermath/internal/view/review"
)

// registerReview adds the routes of how good the coding is.
func registerReview(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	const q = "/questions/{question}"
	huma.Register(a, op(http.MethodGet, q+"/decisions", "decisions", "Decisions by hand, against what the rules say"), s.decisions)
	huma.Register(a, op(http.MethodGet, q+"/queue", "queue", "Answers in the order in which they are gone through"), s.queue)
	huma.Register(a, op(http.MethodGet, q+"/groups", "groups", "What is left, in groups that one rule or decision may do for"), s.groups)
	huma.Register(a, op(http.MethodGet, q+"/suggester", "suggester", "How well likely categories are told"), s.suggester)
	huma.Register(a, op(http.MethodGet, q+"/likely", "likely", "What is left with its likely categories, as one edit puts them on"), s.likely)
	huma.Register(a, op(http.MethodGet, q+"/coverage", "coverage", "How far answers are coded, by the values of a variable"), s.coverage)
	huma.Register(a, op(http.MethodPost, q+"/texts/try", "try-texts", "How texts would be coded, and what they are likely to have"), s.texts)
	huma.Register(a, op(http.MethodGet, q+"/samples", "samples", "Samples that are coded blind"), s.samples)
	huma.Register(a, op(http.MethodPost, q+"/samples", "draw-sample", "Draw a sample to be coded blind"), s.drawSample)
	read := op(http.MethodPost, q+"/samples/read", "read-sample", "Bring in a sample that was coded elsewhere")
	read.MaxBodyBytes = 16 << 20
	huma.Register(a, read, s.readSample)
	const one = q + "/samples/{sample}"
	huma.Register(a, op(http.MethodDelete, one, "throw-sample", "Throw a sample away; it can be brought back"), s.throwSample)
	huma.Register(a, op(http.MethodPost, one+"/restore", "restore-sample", "Bring a sample back"), s.restoreSample)
	huma.Register(a, op(http.MethodGet, one+"/answers", "blind-answer", "An answer of a sample, to be coded blind"), s.blindAnswer)
	huma.Register(a, op(http.MethodPut, one+"/codes", "code-blind", "What a coder gives an answer of a sample"), s.codeBlind)
	huma.Register(
		a, op(http.MethodGet, one+"/agreement", "sample-agreement", "How far the coding agrees with a coder, or two coders with each other"),
		s.sampleAgreement,
	)
	huma.Register(a, op(http.MethodGet, one+"/file", "blind-sample", "The answers of a sample, to be coded elsewhere"), s.blindSample)
}

func (s *server) decisions(ctx context.Context, in *FocusInput) (*body[review.Decisions], error) {
	return reply(ctx, s, *in, review.DecisionsOf)
}

// SampleInput names a sample of a question.
type SampleInput struct {
	QuestionInput
	Sample int64 `path:"sample"`
}

func (s *server) samples(ctx context.Context, in *QuestionInput) (*body[[]kept.SampleInfo], error) {
	return replied(s.kept.Samples(ctx, in.Question))
}

func (s *server) drawSample(ctx context.Context, in *struct {
	QuestionInput
	Body review.Draw
}) (*body[kept.SampleInfo], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	return replied(s.kept.MakeSample(ctx, q, in.Body))
}

func (s *server) readSample(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Name  string `json:"name" minLength:"1" maxLength:"200"`
		Coder string `json:"coder,omitempty" maxLength:"100" doc:"who coded it"`
		CSV   string `json:"csv" minLength:"1" doc:"a table with the columns id and category: a row for each category of an answer, and one without for none"`
	}
}) (*body[kept.SampleInfo], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	rows, err := readTable([]byte(in.Body.CSV))
	if err != nil {
		return nil, problem(err)
	}
	return replied(s.kept.ReadSample(ctx, q, in.Body.Name, in.Body.Coder, rows))
}

func (s *server) throwSample(ctx context.Context, in *SampleInput) (*struct{}, error) {
	return nil, problem(s.kept.ThrowSample(ctx, in.Question, in.Sample, true))
}

func (s *server) restoreSample(ctx context.Context, in *SampleInput) (*struct{}, error) {
	return nil, problem(s.kept.ThrowSample(ctx, in.Question, in.Sample, false))
}

// asCoder is in whose name an answer is coded: where it is known who asks, in no other. What coders agree on is nobody's alone.
func asCoder(ctx context.Context, coder string) (string, error) {
	w := whoAsks(ctx)
	switch {
	case !w.on || coder == w.Name() || coder == kept.Agreed:
		return coder, nil
	case coder == "":
		return w.Name(), nil
	}
	return "", huma.Error403Forbidden("You are signed in as " + w.Name() + " and code in that name alone. Nothing was changed.")
}

func (s *server) blindAnswer(ctx context.Context, in *struct {
	SampleInput
	Coder string `query:"coder" doc:"who codes; (agreed) to go through what coders gave differently"`
	Place int    `query:"place" minimum:"-1" default:"-1" doc:"from 0; -1 for the first that the coder has not coded"`
}) (*body[kept.BlindPage], error) {
	coder, err := asCoder(ctx, in.Coder)
	if err != nil {
		return nil, err
	}
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	return replied(s.kept.BlindAt(ctx, q, in.Sample, coder, in.Place))
}

func (s *server) codeBlind(ctx context.Context, in *struct {
	SampleInput
	Coder string `query:"coder" maxLength:"100" doc:"who codes; (agreed) for what coders have settled between them"`
	Body  struct {
		Answer     survey.Respondent `json:"answer" doc:"number of the respondent"`
		Coded      bool              `json:"coded" doc:"false takes back that it was coded"`
		Categories []string          `json:"categories" maxItems:"500" doc:"keys; none where no category applies"`
	}
}) (*struct{}, error) {
	coder, err := asCoder(ctx, in.Coder)
	if err != nil {
		return nil, err
	}
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	var categories []string
	if in.Body.Coded {
		categories = append([]string{}, in.Body.Categories...)
	}
	return nil, problem(s.kept.CodeSample(ctx, q, in.Sample, coder, in.Body.Answer, categories))
}

func (s *server) sampleAgreement(ctx context.Context, in *struct {
	SampleInput
	Coder   string `query:"coder" doc:"whose codes the coding is held against; (agreed) for what coders agree on"`
	Against string `query:"against" doc:"another coder in the place of the coding"`
	Between bool   `query:"between" doc:"the two coders are held against each other"`
}) (*body[kept.SampleAgreement], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	var against *string
	if in.Between {
		against = &in.Against
	}
	return replied(s.kept.AgreementWith(ctx, q, in.Sample, in.Coder, against))
}

func (s *server) blindSample(ctx context.Context, in *SampleInput) (*huma.StreamResponse, error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	rows, err := s.kept.BlindTable(ctx, q, in.Sample)
	if err != nil {
		return nil, problem(err)
	}
	return download(fmt.Sprintf("sample-%d.csv", in.Sample), "text/csv; charset=utf-8", func(w io.Writer) error {
		out := files.NewWriter(w)
		for _, row := range rows {
			if err := out.Write(row); err != nil {
				return err
			}
		}
		return out.Flush()
	}), nil
}

func (s *server) queue(ctx context.Context, in *struct {
	FocusInput
	Order  string `query:"order" enum:"file,likely,doubtful,longest,newest,random" default:"file" doc:"those but the first and the last three learn from coded answers, and wait until that is done for the first time"`
	At     int    `query:"at" minimum:"-1" default:"-1" doc:"number of a respondent: offset counts from that answer, or from where it would stand; -1: from the beginning"`
	Offset int    `query:"offset" doc:"may be negative"`
	Limit  int    `query:"limit" minimum:"1" maximum:"500" default:"20"`
	Likely bool   `query:"likely" doc:"with likely categories, in every order, once something was learned"`
}) (*body[review.Queue], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (review.Queue, error) {
		q := review.QueueQuery{Order: review.Order(in.Order), Offset: in.Offset, Limit: in.Limit, Likely: in.Likely}
		if in.At >= 0 {
			at := survey.Respondent(in.At)
			q.From = &at
		}
		return review.QueueOf(ctx, st, f, q)
	})
}

func (s *server) groups(ctx context.Context, in *struct {
	FocusInput
	Of string `query:"of" enum:"all,alike" default:"all" doc:"alike: only answers that are alike or nearly so"`
}) (*body[review.Groups], error) {
	if in.Of == "alike" {
		return reply(ctx, s, in.FocusInput, review.AlikeOf)
	}
	return reply(ctx, s, in.FocusInput, review.GroupsOf)
}

func (s *server) suggester(ctx context.Context, in *FocusInput) (*body[review.Suggester], error) {
	return reply(ctx, s, *in, review.SuggesterOf)
}

func (s *server) likely(ctx context.Context, in *struct {
	FocusInput
	Least float64 `query:"least" minimum:"0.5" maximum:"1" default:"0.95" doc:"the least chance"`
}) (*body[review.Sure], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (review.Sure, error) {
		return review.SureOf(ctx, st, f, in.Least)
	})
}

func (s *server) coverage(ctx context.Context, in *struct {
	FocusInput
	By string `query:"by" doc:"name of a variable; empty for the total alone"`
}) (*body[review.Coverage], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (review.Coverage, error) {
		return review.CoverageOf(ctx, st, f, in.By)
	})
}

// TriedTexts are texts with how they would be coded, in the order they were given.
type TriedTexts struct {
	Texts []review.TriedText `json:"texts"`
}

func (s *server) texts(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Texts []string `json:"texts" minItems:"1" maxItems:"500" doc:"each up to 20,000 letters"`
	}
}) (*body[TriedTexts], error) {
	return reply(
		ctx, s, FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, _ focus.Focus) (TriedTexts, error) {
			tried, err := review.TryTexts(ctx, st, in.Body.Texts)
			return TriedTexts{tried}, err
		},
	)
}
