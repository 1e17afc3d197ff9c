package api

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"path"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/rule"
	"aftermath/core/survey"
	"aftermath/internal/desk"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/export"
	"aftermath/internal/files"
	"aftermath/internal/view/code"
)

// registerCode adds the routes of the code frame and of rules that are being written.
func registerCode(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	const q = "/questions/{question}"
	huma.Register(a, op(http.MethodGet, q+"/frame", "frame", "The code frame with its figures"), s.frame)
	huma.Register(a, op(http.MethodGet, q+"/frame/file", "frame-file", "The code frame as a table, or as a REFI-QDA codebook"), s.frameFile)
	read := op(
		http.MethodPost, q+"/frame/read", "read-frame", "Read a code frame from a file: a playbook, a table or a REFI-QDA codebook",
	)
	read.MaxBodyBytes = 64 << 20
	huma.Register(a, read, s.readFrame)
	huma.Register(a, op(http.MethodGet, q+"/health", "health", "What in the code frame wants a look"), s.health)
	huma.Register(a, op(http.MethodGet, q+"/drafts", "drafts", "Proposals for categories from what is not coded"), s.drafts)
	huma.Register(a, op(http.MethodGet, q+"/why", "why", "Why an answer has a category, or not"), s.why)
	huma.Register(a, op(http.MethodPost, q+"/rule", "preview-rule", "What a rule finds and would change"), s.rule)
	huma.Register(a, op(http.MethodPost, q+"/rule/misses", "misses", "Answers that lack just one part of a rule"), s.misses)
	huma.Register(a, op(http.MethodPost, q+"/rule/sharpen", "sharpen", "What might be made of a rule"), s.sharpen)
	huma.Register(a, op(http.MethodPost, q+"/rule/part", "rule-part", "What the part of a rule at a rune finds"), s.rulePart)
	huma.Register(a, op(http.MethodPost, q+"/rule/complete", "complete-rule", "What may come at a rune of a rule"), s.completeRule)
	written := op(http.MethodPost, "/rules", "read-rules", "How rules are written: the look of their parts, notes, names")
	written.MaxBodyBytes = 16 << 20 // as many rules as it takes, each as long as it may be
	huma.Register(a, written, s.readRules)
	huma.Register(a, op(http.MethodPost, q+"/rule/format", "format-rule", "A rule in its usual form"), s.formatRule)
	huma.Register(
		a, op(http.MethodPost, q+"/rule/examples", "rules-from-examples", "Rules that find what examples have in common"), s.induce,
	)
	huma.Register(
		a, op(http.MethodPost, q+"/rule/beside", "rules-beside", "What two rules find, each alone and both"), s.beside,
	)
	huma.Register(
		a, op(http.MethodGet, q+"/check", "check-sample", "A random sample of what a rule or a category catches"), s.checkSample,
	)
	huma.Register(a, op(http.MethodGet, q+"/revisions", "revisions", "The newest edits"), s.revisions)
	huma.Register(a, op(http.MethodGet, q+"/between", "between", "What lies between two states of the scheme"), s.between)
	huma.Register(a, op(http.MethodGet, q+"/states", "states", "States of the scheme that have a name"), s.states)
	huma.Register(a, op(http.MethodPost, q+"/states", "name-state", "Give a state of the scheme a name"), s.nameState)
	huma.Register(a, op(http.MethodDelete, q+"/states", "drop-state", "Take the name off a state"), s.dropState)
}

func (s *server) frame(ctx context.Context, in *struct {
	FocusInput
	Since string `query:"since" doc:"an earlier state to compare with: the number of a revision, or = and a name"`
}) (*body[code.FrameTable], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.FrameTable, error) {
		return code.Frame(ctx, st, f, in.Since)
	})
}

func (s *server) frameFile(ctx context.Context, in *struct {
	QuestionInput
	Format string `query:"format" enum:"csv,qdc" default:"csv" doc:"a table with all of it, or a codebook of names, notes and colours"`
}) (*huma.StreamResponse, error) {
	st, _, err := s.open(ctx, FocusInput{QuestionInput: in.QuestionInput})
	if err != nil {
		return nil, problem(err)
	}
	if in.Format == "qdc" {
		data, err := st.Scheme.Frame.Codebook(st.Study.Name + "\n" + st.Name + "\n" + strconv.FormatInt(st.ID, 10))
		if err != nil {
			return nil, problem(err)
		}
		return download("codebook.qdc", "application/xml", func(w io.Writer) error { _, err := w.Write(data); return err }), nil
	}
	return download("frame.csv", export.Types["csv"], func(w io.Writer) error {
		out := files.NewWriter(w)
		for _, row := range st.Scheme.Frame.Table(st.Scheme.Fields) {
			if err := out.Write(row); err != nil {
				return err
			}
		}
		return out.Flush()
	}), nil
}

// ReadFrame is a code frame that was read from a file.
type ReadFrame struct {
	Kind       string             `json:"kind" enum:"playbook,table,codebook"`
	Frame      frame.Frame        `json:"frame"`
	Fields     frame.Fields       `json:"fields" doc:"that its categories have"`
	Playbook   *playbook.Playbook `json:"playbook,omitempty" doc:"all of it, if it was one"`
	Categories int                `json:"categories"`
	Rules      int                `json:"rules"`
	Notes      []string           `json:"notes" doc:"what was left out or changed"`
}

func (s *server) readFrame(ctx context.Context, in *struct {
	QuestionInput
	Name    string `query:"name" doc:"of the file"`
	RawBody []byte
}) (*body[ReadFrame], error) {
	return reply(
		ctx,
		s,
		FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, f focus.Focus) (ReadFrame, error) {
			return readFrame(in.Name, in.RawBody, st.Scheme.Fields)
		},
	)
}

// readFrame reads a code frame by what the file holds, or by its name where that does not tell. Fields are those that are known.
func readFrame(name string, data []byte, fields frame.Fields) (out ReadFrame, err error) {
	plain := bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	out.Notes = []string{}
	switch start := bytes.TrimSpace(plain); {
	case bytes.HasPrefix(start, []byte("<")):
		var notes []string
		out.Kind = "codebook"
		out.Frame, notes, err = frame.FromCodebook(start)
		out.Notes = append(out.Notes, notes...)
	case bytes.HasPrefix(start, []byte("{")):
		var p playbook.Playbook
		out.Kind = "playbook"
		p, err = playbook.Parse(start)
		out.Frame, out.Fields, out.Playbook = p.Frame, p.Fields, &p
	case strings.EqualFold(path.Ext(name), ".xlsx") || bytes.HasPrefix(start, []byte("PK")):
		return out, fmt.Errorf("%w: this is a workbook; save its sheet as CSV", state.ErrRequest)
	default:
		var rows [][]string
		out.Kind = "table"
		if rows, err = readTable(plain); err == nil {
			out.Frame, out.Fields, err = frame.FromTable(rows, fields)
		}
	}
	if err != nil {
		return out, err
	}
	if out.Frame == nil {
		out.Frame = frame.Frame{}
	}
	out.Fields = append(frame.Fields{}, out.Fields...)
	for p := range out.Frame.All() {
		out.Categories++
		out.Rules += len(p.Rules) + len(p.Unless)
	}
	return out, nil
}

// readTable reads a CSV file in UTF-8, separated by commas or semicolons. What a spreadsheet was kept from running as a formula
// is as it was before.
func readTable(data []byte) ([][]string, error) {
	if !utf8.Valid(data) {
		return nil, fmt.Errorf("%w: the file is not in UTF-8, nothing was changed; save it as CSV UTF-8", state.ErrRequest)
	}
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))))
	r.FieldsPerRecord = -1
	if head, _, _ := strings.Cut(string(data), "\n"); !strings.Contains(head, ",") && strings.Contains(head, ";") {
		r.Comma = ';'
	}
	rows, err := r.ReadAll()
	if err != nil {
		return nil, fmt.Errorf("%w: the file can't be read as CSV, nothing was changed: %w", state.ErrRequest, err)
	}
	for _, row := range rows {
		for i, cell := range row {
			row[i] = files.AsGiven(cell)
		}
	}
	return rows, nil
}

func (s *server) health(ctx context.Context, in *struct {
	FocusInput
	Least int `query:"least" minimum:"0" default:"30" doc:"categories with fewer answers are small"`
}) (*body[code.Health], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.Health, error) {
		return code.HealthOf(ctx, st, f, in.Least)
	})
}

func (s *server) drafts(ctx context.Context, in *struct {
	FocusInput
	Net string `query:"net" doc:"the net or category that is to be divided further; left out, what no category has"`
}) (*body[code.Drafts], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.Drafts, error) {
		return code.DraftsOf(ctx, st, f, in.Net)
	})
}

func (s *server) why(ctx context.Context, in *struct {
	QuestionInput
	Answer   survey.Respondent `query:"answer" doc:"the number of its respondent"`
	Category string            `query:"category"`
}) (*body[code.Why], error) {
	return reply(
		ctx,
		s,
		FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, f focus.Focus) (code.Why, error) {
			return code.WhyOf(st, in.Answer, in.Category)
		},
	)
}

func (s *server) rule(ctx context.Context, in *struct {
	FocusInput
	Body code.RuleQuery
}) (*body[code.RulePreview], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.RulePreview, error) {
		return code.PreviewRule(ctx, st, f, in.Body)
	})
}

func (s *server) misses(ctx context.Context, in *struct {
	FocusInput
	Way  string `query:"way" doc:"the relaxed rule of which examples are wanted; empty for the first"`
	Body code.RuleQuery
}) (*body[code.Misses], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.Misses, error) {
		return code.MissesOf(ctx, st, f, in.Body, in.Way)
	})
}

func (s *server) sharpen(ctx context.Context, in *struct {
	FocusInput
	Body code.RuleQuery
}) (*body[code.Sharpening], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.Sharpening, error) {
		return code.Sharpen(ctx, st, f, in.Body)
	})
}

func (s *server) induce(ctx context.Context, in *struct {
	FocusInput
	Body code.ExampleQuery
}) (*body[code.Induced], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.Induced, error) {
		return code.Induce(ctx, st, f, in.Body)
	})
}

func (s *server) beside(ctx context.Context, in *struct {
	FocusInput
	Body code.TwoRules
}) (*body[code.Beside], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.Beside, error) {
		return code.BesideOf(ctx, st, f, in.Body)
	})
}

func (s *server) checkSample(ctx context.Context, in *struct {
	QuestionInput
	Category string `query:"category" required:"true" doc:"its key"`
	Rule     string `query:"rule" doc:"the text of one of its rules; left out, the category as a whole"`
	Size     int    `query:"size" minimum:"1" maximum:"1000" default:"50"`
	Seed     uint64 `query:"seed" default:"1" doc:"the same draws the same"`
}) (*body[code.CheckSample], error) {
	return reply(
		ctx, s, FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, _ focus.Focus) (code.CheckSample, error) {
			return code.SampleOf(ctx, st, in.Category, in.Rule, in.Size, in.Seed)
		},
	)
}

// PlaceInRule is a rune of a rule that is being written.
type PlaceInRule struct {
	Rule string `json:"rule" maxLength:"20000"`
	At   int    `json:"at" minimum:"0" doc:"the rune"`
}

// PartFound is the part of a rule that one points at, if there is one.
type PartFound struct {
	Part *code.RulePart `json:"part,omitempty"`
}

func (s *server) rulePart(ctx context.Context, in *struct {
	FocusInput
	Body PlaceInRule
}) (*body[PartFound], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (PartFound, error) {
		part, err := code.PartAt(ctx, st, f, in.Body.Rule, in.Body.At)
		return PartFound{part}, err
	})
}

func (s *server) completeRule(ctx context.Context, in *struct {
	QuestionInput
	Body PlaceInRule
}) (*body[code.Completions], error) {
	return reply(
		ctx,
		s,
		FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, f focus.Focus) (code.Completions, error) {
			return code.Complete(ctx, st, in.Body.Rule, in.Body.At)
		},
	)
}

// RuleText is a rule.
type RuleText struct {
	Rule string `json:"rule" maxLength:"20000"`
}

func (s *server) formatRule(_ context.Context, in *struct {
	QuestionInput
	Body RuleText
}) (*body[RuleText], error) {
	n, problems := rule.Parse(in.Body.Rule)
	if len(problems) > 0 {
		return nil, problem(fmt.Errorf("%w: a rule that can't be read has no usual form: %s", state.ErrRequest, problems[0].Message))
	}
	_, note := rule.Note(in.Body.Rule)
	return &body[RuleText]{RuleText{rule.WithNote(n.String(), note)}}, nil
}

func (s *server) readRules(_ context.Context, in *struct {
	Body struct {
		Rules []string `json:"rules" maxItems:"500"`
	}
}) (*body[[]rule.Written], error) {
	out := make([]rule.Written, len(in.Body.Rules))
	for i, src := range in.Body.Rules {
		out[i] = rule.Read(src)
	}
	return &body[[]rule.Written]{out}, nil
}

func (s *server) revisions(ctx context.Context, in *QuestionInput) (*body[[]desk.RevisionInfo], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	return replied(s.desk.Revisions(ctx, q, 500))
}

func (s *server) between(ctx context.Context, in *struct {
	FocusInput
	From string `query:"from" required:"true" doc:"the number of a revision, 0 for the beginning, = and a name, or now"`
	To   string `query:"to" default:"now"`
}) (*body[code.Between], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (code.Between, error) {
		return code.BetweenOf(ctx, st, f, in.From, in.To)
	})
}

func (s *server) states(ctx context.Context, in *QuestionInput) (*body[[]desk.NamedInfo], error) {
	return replied(s.desk.Named(ctx, in.Question))
}

func (s *server) nameState(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Name  string `json:"name" minLength:"1" maxLength:"200"`
		State string `json:"state,omitempty" doc:"the number of a revision; empty for the present state"`
	}
}) (*body[[]desk.NamedInfo], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	if err := s.desk.NameState(ctx, q, in.Body.State, in.Body.Name); err != nil {
		return nil, problem(err)
	}
	return replied(s.desk.Named(ctx, in.Question))
}

func (s *server) dropState(ctx context.Context, in *struct {
	QuestionInput
	Name string `query:"name" required:"true"`
}) (*struct{}, error) {
	return nil, problem(s.desk.DropNamedState(ctx, in.Question, in.Name))
}
