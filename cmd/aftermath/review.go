package main

import (
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/internal/desk/state"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/review"
)

// Reviewed is what `review --json` prints.
type Reviewed struct {
	Coverage review.Coverage  `json:"coverage"`
	Groups   []ReviewGroup    `json:"groups"`
	Likely   review.Suggester `json:"likely"`
	Surest   []ReviewAnswer   `json:"surest"`
}

// ReviewGroup is answers that are left and have something in common.
type ReviewGroup struct {
	Kind     string              `json:"kind"`
	Name     string              `json:"name,omitempty"`
	Rule     string              `json:"rule,omitempty"`
	Gained   int                 `json:"gained"`
	Likely   *review.GroupLikely `json:"likely,omitempty"`
	Examples []string            `json:"examples"`
}

// ReviewAnswer is an answer that is left, with what it is likely to be.
type ReviewAnswer struct {
	Row    int             `json:"row"` // of the file, from 1
	ID     string          `json:"id,omitempty"`
	Answer string          `json:"answer"`
	Likely []review.Likely `json:"likely"`
}

func reviewCommand() *cobra.Command {
	var j job
	var asJSON bool
	var surest int
	c := &cobra.Command{
		Use:   "review",
		Short: "Say what a playbook leaves uncoded of a file, in groups, and what that is likely to be",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			s, err := j.state(c)
			if err != nil {
				return err
			}
			out, err := j.reviewed(c, s, surest)
			if err != nil {
				return err
			}
			if asJSON {
				return json.NewEncoder(c.OutOrStdout()).Encode(out)
			}
			return out.print(c.OutOrStdout())
		},
	}
	j.input(c)
	_ = c.MarkFlagRequired("playbook")
	c.Flags().BoolVar(&asJSON, "json", false, "print all of it as JSON")
	c.Flags().IntVar(&surest, "surest", 50, "how many of the answers that are left are listed, those that are surest to have a category first")
	return c
}

// state reads the file as a question that is in no store.
func (j *job) state(c *cobra.Command) (*state.State, error) {
	if err := j.load(c.Context()); err != nil {
		return nil, err
	}
	s, err := j.unstored(c.Context(), j.specs())
	if err == nil {
		warnProblems(c.ErrOrStderr(), s.Coding)
	}
	return s, err
}

func (j *job) reviewed(c *cobra.Command, s *state.State, surest int) (out Reviewed, err error) {
	ctx := c.Context()
	if out.Coverage, err = review.CoverageOf(ctx, s, nil, ""); err != nil {
		return out, err
	}
	if out.Likely, err = review.SuggesterOf(ctx, s, nil); err != nil {
		return out, err
	}
	groups, err := review.GroupsOf(ctx, s, nil)
	if err != nil {
		return out, err
	}
	for _, g := range groups.Groups {
		x := ReviewGroup{Kind: g.Kind(), Gained: g.Gained, Likely: g.Likely, Examples: []string{}}
		switch k := g.GroupKind.(type) {
		case review.Telling:
			x.Name, x.Rule = k.Name, k.Rule
		case review.LikelyOne:
			x.Likely = &k.Category
		}
		for _, e := range g.Examples {
			x.Examples = append(x.Examples, textOf(e))
		}
		out.Groups = append(out.Groups, x)
	}
	queue, err := review.QueueOf(ctx, s, review.Left, review.QueueQuery{Order: review.Surest, Limit: surest})
	for _, a := range queue.Answers {
		if len(a.Likely) == 0 {
			break
		}
		x := ReviewAnswer{Row: int(a.Number) + 1, Answer: textOf(a.Answer), Likely: a.Likely}
		if j.idAt >= 0 {
			x.ID = s.Cell(int(a.Number), j.idAt)
		}
		out.Surest = append(out.Surest, x)
	}
	return out, err
}

func textOf(a answers.Answer) string {
	var b strings.Builder
	for _, p := range a.Parts {
		b.WriteString(p.Text)
	}
	return b.String()
}

// print writes it for people.
func (r Reviewed) print(out io.Writer) error {
	var b strings.Builder
	c := r.Coverage.All
	fmt.Fprintf(&b, "%d answers, %d coded, %d left\n\nGroups of what is left\n", c.Answered, c.Coded, c.Left)
	for _, g := range r.Groups {
		what := g.Rule
		if what == "" {
			what = g.Kind
		}
		if g.Likely != nil {
			what += fmt.Sprintf("  (likely %s, %.2f)", g.Likely.Name, g.Likely.Chance)
		}
		fmt.Fprintf(&b, "%6d  %s\n", g.Gained, what)
		for _, e := range g.Examples[:min(len(g.Examples), 1)] {
			fmt.Fprintf(&b, "        %s\n", strconv.Quote(state.Shortened(e, 100)))
		}
	}
	fmt.Fprintf(&b, "\nLikely categories, learned from %d coded answers\n", r.Likely.Given)
	for _, t := range r.Likely.Thresholds {
		fmt.Fprintf(&b, "  %.2f or more: %6d answers, about %.0f wrong\n", t.Least, t.Answers, t.Wrong)
	}
	t := r.Likely.Tested
	fmt.Fprintf(&b, "  tested as if left: mean F1 %.3f, chances off by %.3f; as they stand: %.3f, %.3f\n",
		t.AsLeft.MacroF1, t.AsLeft.Off, t.AsIs.MacroF1, t.AsIs.Off)
	_, err := io.WriteString(out, b.String())
	return err
}
