// Package document is a report as it reads: text, charts, findings, quotes, and how the figures came about, in an order.
package document

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/report/chart"
	"aftermath/internal/desk/state"
)

// Block is a part of a report as it is kept. Kind says which of the other parts count.
type Block struct {
	ID       string       `json:"id" minLength:"1" maxLength:"40" doc:"one of its own within the report"`
	Kind     string       `json:"kind" enum:"text,chart,finding,quotes,method"`
	Question int64        `json:"question,omitempty" doc:"all but text: the question that it is of"`
	Text     string       `json:"text,omitempty" maxLength:"100000" doc:"text: in Markdown"`
	Title    string       `json:"title,omitempty" maxLength:"300" doc:"chart, finding, quotes: stands over it"`
	Note     string       `json:"note,omitempty" maxLength:"5000" doc:"chart, finding, quotes: what is said of it, in Markdown"`
	Drawn    *chart.Drawn `json:"drawn,omitempty" doc:"chart"`
	Table    bool         `json:"table,omitempty" doc:"chart: its table stands below it"`
	Finding  *Found       `json:"finding,omitempty" doc:"finding"`
	Quotes   []Quote      `json:"quotes,omitempty" maxItems:"200" doc:"quotes"`
	Bare     bool         `json:"bare,omitempty" doc:"quotes: without who said it"`
}

// Found names a finding: it is worked out anew wherever it is shown.
type Found struct {
	Focus    focus.Focus `json:"focus"`
	Base     string      `json:"base,omitempty" enum:"answered,respondents,coded"`
	Weighted bool        `json:"weighted,omitempty"`
	Category string      `json:"category" doc:"key"`
	Variable string      `json:"variable"`
	Value    string      `json:"value"`
}

// Quote is an answer, or a part of one.
type Quote struct {
	Respondent survey.Respondent `json:"respondent" doc:"number, as in a list of answers"`
	From       int               `json:"from,omitempty" minimum:"0" doc:"characters before this one are left out"`
	To         int               `json:"to,omitempty" minimum:"0" doc:"characters from this one on are left out; 0: none"`
	Of         string            `json:"of,omitempty" maxLength:"64" doc:"sum of the text that from and to were chosen in; where it reads otherwise by now, for instance masked, it is told whole"`
}

// Document is a report as it reads now, or read when it was frozen.
type Document struct {
	Study    string    `json:"study"`
	Name     string    `json:"name"`
	At       time.Time `json:"at" doc:"when its figures were worked out"`
	Frozen   string    `json:"frozen,omitempty" doc:"the name it was frozen under"`
	Style    Style     `json:"style"`
	Sections []Section `json:"sections"`
}

// Section is a block with what it says.
type Section struct {
	Block
	About      string         `json:"about,omitempty" doc:"the question, as it is called"`
	Revision   int            `json:"revision" doc:"of the question; 0 for text"`
	Problem    string         `json:"problem,omitempty" doc:"why it can't be shown"`
	Categories []CategoryName `json:"categories,omitempty" doc:"categories that its focus speaks of"`
	chart.Figures
	Found  *FoundNow `json:"found,omitempty"`
	Said   []Said    `json:"said,omitempty"`
	Method *Method   `json:"method,omitempty"`
}

// CategoryName names a category.
type CategoryName struct {
	ID   string   `json:"id"`
	Path []string `json:"path"`
}

// FoundNow is a finding as it is now.
type FoundNow struct {
	*chart.Finding
	Sure  bool     `json:"sure" doc:"corrected p under 0.05"`
	Notes []string `json:"notes"`
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

// Limits of a report.
const (
	MaxBlocks = 300
	MaxQuotes = 200
)

// Check says what is wrong with the blocks of a report.
func Check(blocks []Block) error {
	if len(blocks) > MaxBlocks {
		return fmt.Errorf("%w: a report has up to %d parts", state.ErrRequest, MaxBlocks)
	}
	seen := map[string]bool{}
	for _, b := range blocks {
		if b.ID == "" || seen[b.ID] {
			return fmt.Errorf("%w: each part of a report needs an id of its own", state.ErrRequest)
		}
		seen[b.ID] = true
		switch {
		case b.Kind != "text" && b.Question == 0:
			return fmt.Errorf("%w: a %s is of a question, which is missing", state.ErrRequest, b.Kind)
		case b.Kind == "chart" && b.Drawn == nil, b.Kind == "finding" && b.Finding == nil:
			return fmt.Errorf("%w: what the %s is made of is missing", state.ErrRequest, b.Kind)
		case len(b.Quotes) > MaxQuotes:
			return fmt.Errorf("%w: up to %d quotes stand together", state.ErrRequest, MaxQuotes)
		}
		if b.Drawn != nil {
			if err := b.Drawn.Check(); err != nil {
				return err
			}
		}
		for _, q := range b.Quotes {
			if q.To > 0 && q.To <= q.From {
				return fmt.Errorf("%w: nothing would be left of a quote", state.ErrRequest)
			}
		}
	}
	return nil
}

// Fill works a block out on its question. What is wrong with it is said in the section, so that the others stand; the only errors
// are those of ctx.
func Fill(ctx context.Context, s *state.State, b Block) (Section, error) {
	p := Section{Block: b, About: s.Study.Columns[s.Column].Name, Revision: s.Revision}
	var err error
	switch b.Kind {
	case "chart":
		p.Figures, err = b.Drawn.Figures(ctx, s)
		p.Categories = named(s, b.Drawn.Focus)
	case "finding":
		err = p.find(ctx, s, *b.Finding)
	case "quotes":
		p.Said = []Said{}
		for _, q := range b.Quotes {
			p.Said = append(p.Said, said(s, q))
		}
	case "method":
		m := methodOf(s)
		p.Method = &m
	}
	if ctx.Err() != nil {
		return Section{}, ctx.Err()
	}
	if err != nil {
		p.Problem = err.Error()
	}
	return p, nil
}

func (p *Section) find(ctx context.Context, s *state.State, of Found) error {
	q := chart.Query{Base: of.Base, Weighted: of.Weighted}
	f, notes, err := chart.FindingOf(ctx, s, of.Focus, q, of.Category, of.Variable, of.Value)
	switch {
	case err != nil:
		return err
	case f == nil:
		return fmt.Errorf("%w: the category or the value is gone, or too few answers are left to test", state.ErrRequest)
	}
	p.Found, p.Categories = &FoundNow{f, f.Sure(), notes}, named(s, of.Focus)
	return nil
}

// named are the names of the categories that a focus speaks of.
func named(s *state.State, f focus.Focus) (out []CategoryName) {
	for _, c := range f {
		if r, ok := s.Coding.Of(c.ID); ok && c.ID != "" {
			out = append(out, CategoryName{r.ID, r.Path})
		}
	}
	return out
}

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
