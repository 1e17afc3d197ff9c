package chart

import (
	"fmt"
	"slices"
	"strings"

	"aftermath/core/crosstab"
	"aftermath/internal/view"
)

// baseNames are what shares are of, in words.
var baseNames = map[string]string{
	"": "the answered", BaseAnswered: "the answered", BaseRespondents: "all respondents", BaseCoded: "the coded",
	BaseMentions: "all mentions of categories",
}

// correctionNames are how p values are adjusted, in words.
var correctionNames = map[crosstab.Correction]string{
	crosstab.BenjaminiHochberg: "corrected after Benjamini and Hochberg", crosstab.Holm: "corrected after Holm",
	crosstab.Bonferroni: "corrected after Bonferroni", crosstab.NoCorrection: "not corrected for how many are made",
}

// notesOf says what has to be known of the figures of a table.
func notesOf(c Chart, correction crosstab.Correction) (notes []string) {
	say := func(format string, args ...any) { notes = append(notes, fmt.Sprintf(format, args...)) }
	weighted := "not weighted"
	if c.Weighted {
		weighted = "weighted by " + c.Weight
	}
	of := "An answer may be in several categories, so shares add up to more than 100 %."
	if c.Query.Base == BaseMentions {
		of = "An answer counts once for each of its categories. There are no intervals and no tests."
	}
	say("Shares of %s, %s. %s", baseNames[c.Query.Base], weighted, of)
	if c.Query.Group != "" {
		say("A value of %s has the answers of all categories with it; an answer may be under several values.", c.Query.Group)
	}
	if c.Query.Where != "" {
		say("Of the categories, only those with chosen values of their fields are rows.")
	}
	for _, n := range c.Nests {
		notes = append(notes, n.notes(len(c.Nests) == 1, c.Query.Base == BaseMentions)...)
	}
	if c.Suggested > 0 {
		say("%s of the base %s categories that were put on since they are likely, and that nobody has read.",
			view.Plural(c.Suggested, "answer"), map[bool]string{true: "has", false: "have"}[c.Suggested == 1])
	}
	if slices.ContainsFunc(c.Bases, func(b crosstab.Base) bool { return b.Answers < crosstab.SmallBase }) {
		say("A base under %d is small and marked; under %d no share is given.", crosstab.SmallBase, crosstab.TinyBase)
	}
	if len(c.Nests) == 0 || c.Query.Base == BaseMentions {
		return notes
	}
	effective := ""
	if c.Weighted {
		effective = " on the effective base, (Σw)² / Σw²"
	}
	say("Intervals are at 95 %% (Wilson)%s.", effective)
	say("A letter names a column of the same group whose share is surely lower: a capital at 95 %%, a small one at 90 %%. "+
		"▲ and ▼: surely above or below the rest of the group. Two-sided pooled z tests%s, %s within a row and segment; "+
		"none on a base under %d or an expected count under %d.",
		effective, correctionNames[correction], crosstab.SmallBase, crosstab.LeastExpected)
	return notes
}

func (n Nest) notes(only, mentions bool) (notes []string) {
	say := func(format string, args ...any) { notes = append(notes, fmt.Sprintf(format, args...)) }
	if n.Missing > 0 {
		left := "in the total, and in none of its columns"
		if only {
			left = "left out"
		}
		say("%s without a value in %s: %s.", sentence(view.Plural(n.Missing, "answer")), n.Label, left)
	}
	if n.Several {
		say("A respondent may be in several columns of %s; they are held against the rest only.", n.Label)
	}
	if n.Empty > 0 {
		say("%s of values of %s without answers: no columns.", sentence(view.Plural(n.Empty, "combination")), n.Label)
	}
	if n.Paired >= crosstab.SmallBase && !mentions {
		say(
			"%d persons are in several columns of %s: two columns with at least %d in common are held against each other by those "+
				"(McNemar).", n.Paired, n.Label, crosstab.SmallBase,
		)
	}
	return notes
}

// sentence begins with a capital.
func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// Letters are those of the columns that a cell is over: capitals at 95 %, small ones at 90 %.
func (c Chart) Letters(x crosstab.Cell) string {
	var out []string
	for _, o := range x.Over {
		letter := c.Columns[o.Column].Letter
		if o.Adjusted >= crosstab.Sure {
			letter = strings.ToLower(letter)
		}
		out = append(out, letter)
	}
	slices.Sort(out)
	return strings.Join(out, " ")
}
