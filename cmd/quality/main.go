// Command quality prints what is proposed from texts, to be read and judged: which forms are joined, which terms may be one,
// and the drafts of an empty code frame. `make quality` prints it of a folder of files, after the figures on the demo's truth.
package main

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/view/code"
	"aftermath/internal/view/termview"
)

func main() {
	if len(os.Args) < 2 || len(os.Args) > 3 {
		fmt.Fprintln(os.Stderr, "usage: quality FOLDER [LANGUAGE]")
		os.Exit(2)
	}
	language := "en"
	if len(os.Args) == 3 {
		language = os.Args[2]
	}
	if err := run(context.Background(), os.Stdout, os.Args[1], language); err != nil {
		fmt.Fprintln(os.Stderr, "quality:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, out io.Writer, folder, language string) error {
	entries, err := os.ReadDir(folder)
	if err != nil {
		return err
	}
	for _, e := range entries {
		if ext := strings.ToLower(filepath.Ext(e.Name())); e.IsDir() || !slices.Contains([]string{".csv", ".tsv", ".txt", ".xlsx", ".ods"}, ext) {
			continue
		}
		name, answers, err := answersOf(ctx, filepath.Join(folder, e.Name()))
		if err != nil {
			return fmt.Errorf("%s: %w", e.Name(), err)
		}
		columns := []survey.Spec{{Name: name, Role: survey.OpenEnded}}
		s, err := state.Unstored(ctx, columns, [][]string{answers}, 0, playbook.New(language))
		if err != nil {
			return fmt.Errorf("%s: %w", e.Name(), err)
		}
		fmt.Fprintf(out, "\n== %s: %s, %d answers\n", e.Name(), name, s.Answered())
		joins(out, s)
		if err := proposals(ctx, out, s, language); err != nil {
			return err
		}
		if err := values(ctx, out, s); err != nil {
			return err
		}
	}
	return nil
}

// answersOf gives the column of a file that holds most letters.
func answersOf(ctx context.Context, path string) (name string, answers []string, err error) {
	r, err := files.Recognise(ctx, path, filepath.Base(path), "")
	if err != nil {
		return "", nil, err
	}
	t, err := files.ReadTable(ctx, path, r.Recipe, 0)
	if err != nil {
		return "", nil, err
	}
	most := -1
	for i, column := range t.Columns {
		cells := t.Column(i)
		if n := len(strings.Join(cells, "")); n > most {
			name, answers, most = column, cells, n
		}
	}
	return name, answers, nil
}

const frequent = 1000 // terms whose forms are listed

// joins lists the forms that are counted as one among the most frequent terms.
func joins(out io.Writer, s *state.State) {
	v := s.View
	times := func(term int) (n int) {
		for _, w := range v.Terms[term].Words {
			n += v.Index.Count(w)
		}
		return n
	}
	order := make([]int, len(v.Terms))
	for t := range order {
		order[t] = t
	}
	slices.SortStableFunc(order, func(a, b int) int { return times(b) - times(a) })
	fmt.Fprintf(out, "\n-- forms joined, of the %d most frequent terms\n", frequent)
	for _, t := range order[:min(len(order), frequent)] {
		if len(v.Terms[t].Words) < 2 {
			continue
		}
		var forms []string
		for _, w := range v.Terms[t].Words {
			forms = append(forms, v.Index.Spelling(w))
		}
		fmt.Fprintln(out, strings.Join(forms, " "))
	}
}

// proposals lists what is suggested of terms, and the drafts of categories.
func proposals(ctx context.Context, out io.Writer, s *state.State, language string) error {
	found, err := terms.Suggester{Counter: s.Counter, Language: language, Workers: state.Workers()}.Find(ctx)
	if err != nil {
		return err
	}
	for _, kind := range terms.Kinds {
		fmt.Fprintf(out, "\n-- %s\n", kind)
		for _, g := range found {
			if g.Kind != kind {
				continue
			}
			var variants []string
			for _, x := range g.Variants {
				variants = append(variants, fmt.Sprintf("%s %d", x.Text, x.Times))
			}
			fmt.Fprintf(out, "%s %d < %s\n", g.Term, g.Times, strings.Join(variants, ", "))
		}
	}
	drafts, err := code.DraftsOf(ctx, s, nil, "")
	if err != nil {
		return err
	}
	fmt.Fprintln(out, "\n-- drafts")
	for _, d := range drafts.Drafts {
		fmt.Fprintf(out, "%5d  %s\n", d.Matches, d.Rule)
	}
	return nil
}

// values lists what the built-in lists of amounts, times and the like find.
func values(ctx context.Context, out io.Writer, s *state.State) error {
	found, err := termview.ValuesOf(ctx, s, nil)
	if err != nil {
		return err
	}
	for _, l := range found.Lists {
		var list []string
		for _, v := range l.Values[:min(len(l.Values), 60)] {
			list = append(list, fmt.Sprintf("%s %d", v.Word, v.Times))
		}
		fmt.Fprintf(out, "\n-- @%s, in %d answers: %s\n", l.Name, l.Answers, strings.Join(list, ", "))
	}
	return nil
}
