package files

import (
	"context"
	"io"
	"strings"
)

// AnswerColumn names the column of a file that holds nothing but answers.
const AnswerColumn = "answer"

// readLines gives an answer per line; blank lines part nothing and are counted.
func readLines(ctx context.Context, from io.Reader, g *grid) error {
	if g.recipe.Headers == 0 {
		if err := g.only(AnswerColumn); err != nil {
			return err
		}
	}
	return eachLine(ctx, from, func(line string) error {
		if strings.TrimSpace(line) == "" {
			g.notes.Blank++
			return nil
		}
		return g.add([]string{line})
	})
}

// readBlocks gives an answer per run of lines that are not blank.
func readBlocks(ctx context.Context, from io.Reader, g *grid) error {
	if err := g.only(AnswerColumn); err != nil {
		return err
	}
	var block []string
	flush := func() error {
		if len(block) == 0 {
			return nil
		}
		answer := strings.Join(block, "\n")
		block = nil
		return g.add([]string{answer})
	}
	err := eachLine(ctx, from, func(line string) error {
		if strings.TrimSpace(line) == "" {
			return flush()
		}
		block = append(block, line)
		return nil
	})
	if err != nil {
		return err
	}
	return flush()
}

// only says beforehand what the columns are.
func (g *grid) only(columns ...string) error {
	g.columns = columns
	return g.to.Columns(columns)
}
