package export

import (
	"fmt"
	"iter"
	"strings"

	"aftermath/core/survey"
	"aftermath/internal/view/termview"
)

// rows is a table: a header, then a row for each of n things.
func rows(header []any, n int, row func(i int) []any) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		if !yield(header) {
			return
		}
		for i := range n {
			if !yield(row(i)) {
				return
			}
		}
	}
}

// Terms gives the term table as rows.
func Terms(t termview.TermTable) iter.Seq[[]any] {
	header := []any{
		"term", "answers", "share of answers", "occurrences", "share of words", "uncoded answers", "uncoded share", "distinctiveness",
		"times everyday speech", "members",
	}
	return rows(header, len(t.Terms), func(i int) []any {
		x := t.Terms[i]
		var members []string
		for _, m := range x.Members {
			members = append(members, m.Word)
		}
		uncoded := 0.0
		if x.Answers > 0 {
			uncoded = float64(x.Uncoded) / float64(x.Answers)
		}
		usual := any("") // not known
		if t.Everyday {
			usual = x.Everyday
		}
		return []any{x.Label, x.Answers, x.Share, x.Times, x.OfWords, x.Uncoded, uncoded, x.Distinct, usual, strings.Join(members, ", ")}
	})
}

// Context gives lines of a subject in context as rows.
func Context(p termview.ContextPage, called func(survey.Respondent) string) iter.Seq[[]any] {
	return rows([]any{"respondent", "before", "found", "after", "who"}, len(p.Lines), func(i int) []any {
		l := p.Lines[i]
		return []any{called(l.Answer), l.Before, l.Hit, l.After, l.Who}
	})
}

// Compared gives a comparison as rows; the header says of how many answers and words each side is.
func Compared(c termview.Comparison) iter.Seq[[]any] {
	side := func(x termview.Side) []any {
		return []any{
			fmt.Sprintf("%s: answers (of %d)", x.Name, x.Answers), x.Name + ": share of answers",
			fmt.Sprintf("%s: occurrences (of %d words)", x.Name, x.Words),
		}
	}
	header := append(append(append([]any{"term"}, side(c.A)...), side(c.B)...), "G2 of answers", "p", "p adjusted",
		"G2 of words", "log2 ratio of words")
	return rows(header, len(c.Terms), func(i int) []any {
		t := c.Terms[i]
		return []any{t.Label, t.A, t.AShare, t.ATimes, t.B, t.BShare, t.BTimes, t.G2OfAnswers, t.P, t.Adjusted, t.Keyness.G2, t.Ratio}
	})
}

// Company gives what a subject is said with as rows.
func Company(c termview.Company) iter.Seq[[]any] {
	return rows([]any{"term", "answers with both", "answers", "G2", "PMI", "Jaccard", "lift"}, len(c.Terms), func(i int) []any {
		t := c.Terms[i]
		return []any{t.Label, t.Both, t.Answers, t.G2, t.PMI, t.Jaccard, t.Lift}
	})
}

// Corpus gives the figures of the text as rows.
func Corpus(c termview.Corpus) iter.Seq[[]any] {
	return rows(
		[]any{c.Segment, "answers", "words", "different words", "richness", "mean words", "median words"},
		len(c.Figures),
		func(i int) []any {
			f := c.Figures[i]
			return []any{f.Name, f.Answers, f.Words, f.Distinct, f.Richness, f.Mean, f.Median}
		},
	)
}

// Timeline gives subjects over time as rows: one for each subject and period.
func Timeline(t termview.Timeline) iter.Seq[[]any] {
	n := len(t.Periods)
	return rows([]any{"term", t.By, "base", "answers", "share", "low", "high"}, len(t.Lines)*n, func(i int) []any {
		l, p := t.Lines[i/n], t.Lines[i/n].Points[i%n]
		return []any{l.Name, t.Periods[i%n].Name, t.Periods[i%n].Base, p.Answers, p.Share, p.Low, p.High}
	})
}

// Rising gives the terms that rose as rows.
func Rising(r termview.Rising) iter.Seq[[]any] {
	return rows(
		[]any{"term", "moved", r.Now + ": answers", r.Now + ": share", "before: answers", "before: share", "p"},
		len(r.Terms)+len(r.Fell),
		func(i int) []any {
			t, moved := termview.TermRising{}, "rose"
			if i < len(r.Terms) {
				t = r.Terms[i]
			} else {
				t, moved = r.Fell[i-len(r.Terms)], "fell"
			}
			return []any{t.Label, moved, t.Now, t.Share, t.Before, t.Past, t.P}
		},
	)
}

// Network gives the links of a network as rows.
func Network(n termview.Network) iter.Seq[[]any] {
	header := []any{
		"term", "other term", "cluster", "other cluster", "answers", "other answers", "answers with both", "G2", "PMI", "Jaccard",
		"lift",
	}
	return rows(header, len(n.Links), func(i int) []any {
		l := n.Links[i]
		a, b := n.Nodes[l.From], n.Nodes[l.To]
		return []any{a.Label, b.Label, a.Cluster + 1, b.Cluster + 1, a.Answers, b.Answers, l.Both, l.G2, l.PMI, l.Jaccard, l.Lift}
	})
}
