package report

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"unicode/utf8"

	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/chart"
)

// TextPart is text of one's own.
type TextPart struct {
	Text string `json:"text,omitempty" maxLength:"100000" doc:"in Markdown"`
}

// TextContent is text as it reads.
type TextContent struct {
	Block TextPart `json:"block"`
}

// Kind is text.
func (TextPart) Kind() string { return "text" }

// On is no question.
func (TextPart) On() (question int64, any bool) { return 0, false }

func (TextPart) check() error { return nil }

func (p TextPart) fill(context.Context, *state.State) (Content, error) { return TextContent{p}, nil }

func (p TextPart) bare() Content { return TextContent{p} }

func (TextPart) focus() focus.Focus { return nil }

// Kind is text.
func (TextContent) Kind() string { return "text" }

// Part is the part as it is kept.
func (c TextContent) Part() Part { return c.Block }

// ChartPart is a chart, worked out anew wherever it is shown.
type ChartPart struct {
	OfQuestion
	Heading
	Drawn chart.Design `json:"drawn"`
	Table bool         `json:"table,omitempty" doc:"its table stands below it"`
}

// ChartContent is a chart with its figures.
type ChartContent struct {
	Block   ChartPart         `json:"block"`
	Figures *chart.AnyFigures `json:"figures,omitempty" doc:"left out where there is a problem"`
}

// Kind is chart.
func (ChartPart) Kind() string { return "chart" }

func (p ChartPart) check() error {
	if err := p.OfQuestion.check(); err != nil {
		return err
	}
	return p.Drawn.Check()
}

func (p ChartPart) fill(ctx context.Context, s *state.State) (Content, error) {
	figures, err := p.Drawn.Figures(ctx, s, p.Drawn.Focus)
	if err != nil {
		return p.bare(), err
	}
	return ChartContent{p, &chart.AnyFigures{Figures: figures}}, nil
}

func (p ChartPart) bare() Content { return ChartContent{Block: p} }

func (p ChartPart) focus() focus.Focus { return p.Drawn.Focus }

// Kind is chart.
func (ChartContent) Kind() string { return "chart" }

// Part is the part as it is kept.
func (c ChartContent) Part() Part { return c.Block }

// FindingPart is a finding, worked out anew wherever it is shown.
type FindingPart struct {
	OfQuestion
	Heading
	Finding Found `json:"finding"`
}

// Found names a finding.
type Found struct {
	Focus    focus.Focus `json:"focus"`
	Base     string      `json:"base,omitempty" enum:"answered,respondents,coded"`
	Weighted bool        `json:"weighted,omitempty"`
	Category string      `json:"category" doc:"key"`
	Variable string      `json:"variable"`
	Value    string      `json:"value"`
}

// FindingContent is a finding as it is now.
type FindingContent struct {
	Block FindingPart `json:"block"`
	Found *FoundNow   `json:"found,omitempty" doc:"left out where there is a problem"`
}

// FoundNow is a finding as it is now.
type FoundNow struct {
	*chart.Finding
	Sure  bool     `json:"sure" doc:"corrected p under 0.05"`
	Notes []string `json:"notes"`
}

// Kind is finding.
func (FindingPart) Kind() string { return "finding" }

func (p FindingPart) fill(ctx context.Context, s *state.State) (Content, error) {
	of := p.Finding
	q := chart.Query{Base: of.Base, Weighted: of.Weighted}
	f, notes, err := chart.FindingOf(ctx, s, of.Focus, q, of.Category, of.Variable, of.Value)
	if err == nil && f == nil {
		err = fmt.Errorf("%w: the category or the value is gone, or too few answers are left to test", state.ErrRequest)
	}
	if err != nil {
		return p.bare(), err
	}
	return FindingContent{p, &FoundNow{f, f.Sure(), notes}}, nil
}

func (p FindingPart) bare() Content { return FindingContent{Block: p} }

func (p FindingPart) focus() focus.Focus { return p.Finding.Focus }

// Kind is finding.
func (FindingContent) Kind() string { return "finding" }

// Part is the part as it is kept.
func (c FindingContent) Part() Part { return c.Block }

// QuotesPart is answers, or parts of them, in the respondents' words.
type QuotesPart struct {
	OfQuestion
	Heading
	Quotes []Quote `json:"quotes" maxItems:"200"`
	Bare   bool    `json:"bare,omitempty" doc:"without who said it"`
}

// Quote is an answer, or a part of one.
type Quote struct {
	Respondent survey.Respondent `json:"respondent" doc:"number, as in a list of answers"`
	From       int               `json:"from,omitempty" minimum:"0" doc:"characters before this one are left out"`
	To         int               `json:"to,omitempty" minimum:"0" doc:"characters from this one on are left out; 0: none"`
	Of         string            `json:"of,omitempty" maxLength:"64" doc:"sum of the text that from and to were chosen in; where it reads otherwise by now, for instance masked, it is told whole"`
}

// QuotesContent is quotes as they read.
type QuotesContent struct {
	Block QuotesPart `json:"block"`
	Said  []Said     `json:"said" doc:"by quote; none where there is a problem"`
}

// Said is a quote as it reads.
type Said struct {
	Text   string        `json:"text" doc:"as it may be shown: without tags, masked where the study masks"`
	Before bool          `json:"before" doc:"something is left out before it"`
	After  bool          `json:"after"`
	Who    []state.About `json:"who"`
	Of     string        `json:"of" doc:"sum of the whole text"`
	Whole  string        `json:"whole" doc:"the text that it is a part of"`
	Gone   bool          `json:"gone,omitempty" doc:"the respondent is in the data no more"`
}

// Kind is quotes.
func (QuotesPart) Kind() string { return "quotes" }

func (p QuotesPart) check() error {
	if len(p.Quotes) > MaxQuotes {
		return fmt.Errorf("%w: up to %d quotes stand together", state.ErrRequest, MaxQuotes)
	}
	for _, q := range p.Quotes {
		if q.To > 0 && q.To <= q.From {
			return fmt.Errorf("%w: nothing would be left of a quote", state.ErrRequest)
		}
	}
	return p.OfQuestion.check()
}

func (p QuotesPart) fill(_ context.Context, s *state.State) (Content, error) {
	out := QuotesContent{p, []Said{}}
	for _, q := range p.Quotes {
		out.Said = append(out.Said, said(s, q))
	}
	return out, nil
}

func (p QuotesPart) bare() Content { return QuotesContent{p, []Said{}} }

func (QuotesPart) focus() focus.Focus { return nil }

// Kind is quotes.
func (QuotesContent) Kind() string { return "quotes" }

// Part is the part as it is kept.
func (c QuotesContent) Part() Part { return c.Block }

// MethodPart tells how a question was coded.
type MethodPart struct {
	OfQuestion
	Title string `json:"title,omitempty" maxLength:"300" doc:"stands over it"`
}

// MethodContent is how a question was coded.
type MethodContent struct {
	Block  MethodPart `json:"block"`
	Method *Method    `json:"method,omitempty" doc:"left out where there is a problem"`
}

// Kind is method.
func (MethodPart) Kind() string { return "method" }

func (p MethodPart) fill(_ context.Context, s *state.State) (Content, error) {
	m := methodOf(s)
	return MethodContent{p, &m}, nil
}

func (p MethodPart) bare() Content { return MethodContent{Block: p} }

func (MethodPart) focus() focus.Focus { return nil }

// Kind is method.
func (MethodContent) Kind() string { return "method" }

// Part is the part as it is kept.
func (c MethodContent) Part() Part { return c.Block }

// said is what an answer says, cut as a quote wants it.
func said(s *state.State, q Quote) Said {
	row, ok := s.Study.Rows.Row(q.Respondent)
	if !ok {
		return Said{Gone: true, Who: []state.About{}}
	}
	o := s.Original(row)
	whole := strings.TrimSpace(o.AsRead())
	sum := sha256.Sum256([]byte(whole))
	out := Said{Text: whole, Who: s.Who(row), Of: hex.EncodeToString(sum[:8]), Whole: whole}
	if q.Of != out.Of || q.From == 0 && q.To == 0 {
		return out // where it was to be cut is not known in another text
	}
	letters := []rune(whole)
	from, to := min(q.From, len(letters)), len(letters)
	if q.To > 0 {
		to = min(q.To, len(letters))
	}
	if from >= to {
		return out
	}
	out.Text, out.Before, out.After = strings.TrimSpace(string(letters[from:to])), from > 0, to < utf8.RuneCountInString(whole)
	return out
}
