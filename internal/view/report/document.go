// Package report is a report as it reads: text, charts, findings, quotes, and how the figures came about, in an order.
package report

import (
	"context"
	"fmt"
	"time"

	"aftermath/core/oneof"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Block is a part of a report as it is kept.
type Block struct {
	BlockID
	Part
}

// BlockID tells a part from the others of its report.
type BlockID struct {
	ID string `json:"id" minLength:"1" maxLength:"40" doc:"one of its own within the report"`
}

// Part is what a part of a report is made of. Each kind is a type with what it needs and nothing else; Parts lists them.
type Part interface {
	oneof.Kinded
	// On is the question that the part is of, if it is of one.
	On() (question int64, any bool)
	// check says what is wrong with the part.
	check() error
	// fill works out what the part says. What is wrong with it is an error of the part alone.
	fill(ctx context.Context, s *state.State) (Content, error)
	// bare is the part without anything worked out.
	bare() Content
	// focus is the focus of the part, if it has one.
	focus() focus.Focus
}

// Parts are all kinds of parts there are, each with nothing in it.
var Parts = []Part{TextPart{}, ChartPart{}, FindingPart{}, QuotesPart{}, MethodPart{}}

// MarshalJSON writes the block with its kind.
func (b Block) MarshalJSON() ([]byte, error) { return oneof.Encode(b.Part, b.BlockID) }

// UnmarshalJSON reads a block. What its kind does not know is an error, and so is what it lacks.
func (b *Block) UnmarshalJSON(data []byte) (err error) {
	b.BlockID = BlockID{}
	if b.Part, err = oneof.Decode("part of a report", Parts, data, &b.BlockID); err != nil {
		return fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	return nil
}

// OfQuestion names the question that a part is of.
type OfQuestion struct {
	Question int64 `json:"question"`
}

// On is the question that the part is of.
func (q OfQuestion) On() (question int64, any bool) { return q.Question, true }

func (q OfQuestion) check() error {
	if q.Question == 0 {
		return fmt.Errorf("%w: a part is of a question, which is missing", state.ErrRequest)
	}
	return nil
}

// Heading stands over and under a part.
type Heading struct {
	Title string `json:"title,omitempty" maxLength:"300" doc:"stands over it"`
	Note  string `json:"note,omitempty" maxLength:"5000" doc:"what is said of it, in Markdown"`
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
	SectionHead
	Content
}

// SectionHead is what sections of all kinds have.
type SectionHead struct {
	ID         string         `json:"id"`
	About      string         `json:"about,omitempty" doc:"the question, as it is called"`
	Revision   int            `json:"revision" doc:"of the question; 0 for text"`
	Problem    string         `json:"problem,omitempty" doc:"why it can't be shown"`
	Categories []CategoryName `json:"categories" doc:"categories that its focus speaks of"`
}

// Content is a part of a report with what it says: for each Part there is one of the same kind.
type Content interface {
	oneof.Kinded
	// Part is the part as it is kept.
	Part() Part
}

// Contents are the contents of each kind of part, with nothing in them.
var Contents = []Content{TextContent{}, ChartContent{}, FindingContent{}, QuotesContent{}, MethodContent{}}

// Block is the section as it is kept.
func (s Section) Block() Block { return Block{BlockID{s.ID}, s.Part()} }

// MarshalJSON writes the section with its kind.
func (s Section) MarshalJSON() ([]byte, error) {
	s.Categories = append([]CategoryName{}, s.Categories...)
	return oneof.Encode(s.Content, s.SectionHead)
}

// UnmarshalJSON reads a section that was kept, perhaps by another version of this program.
func (s *Section) UnmarshalJSON(data []byte) (err error) {
	s.SectionHead = SectionHead{}
	s.Content, err = oneof.DecodeKept("part of a report", Contents, data, &s.SectionHead)
	return err
}

// CategoryName names a category.
type CategoryName struct {
	ID   string   `json:"id"`
	Path []string `json:"path"`
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
		if err := b.check(); err != nil {
			return err
		}
	}
	return nil
}

// Fill works a block out on its question. What is wrong with it is said in the section, so that the others stand; the only errors
// are those of ctx.
func Fill(ctx context.Context, s *state.State, b Block) (Section, error) {
	content, err := b.fill(ctx, s)
	if ctx.Err() != nil {
		return Section{}, ctx.Err()
	}
	out := Section{SectionHead{ID: b.ID, About: s.Study.Columns[s.Column].Name, Revision: s.Revision}, content}
	if out.Categories = named(s, b.focus()); err != nil {
		out.Problem = err.Error()
	}
	return out, nil
}

// Unfilled is the section of a block that can't be worked out, or need not be.
func Unfilled(b Block, problem string) Section {
	return Section{SectionHead{ID: b.ID, Problem: problem}, b.bare()}
}

// named are the names of the categories that a focus speaks of.
func named(s *state.State, f focus.Focus) (out []CategoryName) {
	for _, c := range f {
		for _, key := range c.Scope().Categories {
			if r, ok := s.Coding.Of(key); ok {
				out = append(out, CategoryName{r.ID, r.Path})
			}
		}
	}
	return out
}
