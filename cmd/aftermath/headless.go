package main

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/cells"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/export"
	"aftermath/internal/files"
)

// job is what the headless commands share: a file, its columns, and a playbook applied to one of them.
type job struct {
	data, text, id, playbook, out string
	recipe                        files.Recipe // settings given in place of the guess

	table   *files.Table
	textAt  int
	idAt    int // -1: none
	book    playbook.Playbook
	cells   cells.Cells
	answers []string // as they may be shown
	reading playbook.Reading
}

// flags are those of a command that writes a file.
func (j *job) flags(c *cobra.Command) {
	j.input(c)
	c.Flags().StringVar(&j.out, "out", "", "file to write")
	_ = c.MarkFlagRequired("out")
}

func (j *job) input(c *cobra.Command) {
	c.Flags().StringVar(&j.data, "data", "", "file of answers: CSV, TSV, XLSX, JSON, NDJSON, plain text or a web page")
	c.Flags().StringVar(&j.text, "text", "", "column of the answers")
	c.Flags().StringVar(&j.id, "id", "", "column that names the respondent")
	c.Flags().StringVar(&j.playbook, "playbook", "", "playbook file")
	c.Flags().StringVar(
		(*string)(&j.recipe.Format), "format", "",
		"how the file holds its table: delimited, sheet, json, ndjson, lines, blocks or page (default: found out)",
	)
	c.Flags().StringVar(&j.recipe.Encoding, "encoding", "", "encoding of the text (default: found out)")
	c.Flags().StringVar(&j.recipe.Delimiter, "delimiter", "", "sign between cells (default: found out)")
	c.Flags().StringVar(&j.recipe.Sheet, "sheet", "", "sheet of a workbook (default: the fullest)")
	c.Flags().IntVar(&j.recipe.Skip, "skip", -1, "rows above the header (default: found out)")
	c.Flags().IntVar(&j.recipe.Headers, "headers", -1, "rows that name the columns (default: found out)")
	for _, name := range []string{"data", "text"} {
		_ = c.MarkFlagRequired(name)
	}
}

// load reads the file and the playbook.
func (j *job) load(ctx context.Context) error {
	guess, err := files.Recognise(ctx, j.data, j.data, "")
	if err == nil {
		j.table, err = files.ReadTable(ctx, j.data, overruled(guess.Recipe, j.recipe), 0)
	}
	if err != nil {
		return fmt.Errorf("%s: %w", j.data, err)
	}
	if j.textAt, err = j.table.Find(j.text); err != nil {
		return err
	}
	j.idAt = -1
	if j.id != "" {
		if j.idAt, err = j.table.Find(j.id); err != nil {
			return err
		}
	}
	j.book = playbook.New(cmp.Or(lexicon.GuessLanguage(j.table.Column(j.textAt)).Language, "en"))
	if j.playbook != "" {
		data, err := os.ReadFile(j.playbook)
		if err != nil {
			return err
		}
		if j.book, err = playbook.Parse(data); err != nil {
			return fmt.Errorf("%s: %w", j.playbook, err)
		}
	}
	came := make([][]string, len(j.table.Columns))
	for i := range came {
		came[i] = j.table.Column(i)
	}
	specs := j.columns(io.Discard)
	j.cells = cells.New(came, func(i int) bool { return specs[i].Role == survey.OpenEnded }, cells.Masking{}.With(0, j.book.Mask, j.book.NotPersonal))
	j.answers = j.cells.Shown(j.textAt)
	return nil
}

// read also cleans and indexes the answers.
func (j *job) read(ctx context.Context) (err error) {
	if err = j.load(ctx); err == nil {
		j.reading, err = j.book.Read(ctx, j.answers, runtime.GOMAXPROCS(0), nil)
	}
	return err
}

// overruled is a guess with the settings that were given.
func overruled(r, given files.Recipe) files.Recipe {
	r.Format, r.Encoding, r.Sheet = cmp.Or(given.Format, r.Format), cmp.Or(given.Encoding, r.Encoding), cmp.Or(given.Sheet, r.Sheet)
	r.Delimiter, r.Quotes = cmp.Or(given.Delimiter, r.Delimiter, ","), cmp.Or(r.Quotes, "strict")
	if given.Skip >= 0 {
		r.Skip = given.Skip
	}
	if given.Headers >= 0 {
		r.Headers = given.Headers
	}
	return r
}

// specs says what the columns are, and on the way which of them might be something else.
func (j *job) specs() []survey.Spec { return j.columns(os.Stderr) }

// columns are what the columns are: as the playbook has it, else as they seem to be.
func (j *job) columns(doubts io.Writer) []survey.Spec {
	known := map[string]survey.Spec{}
	for _, v := range j.book.Variables {
		for _, was := range v.Was {
			known[was] = v
		}
		known[v.Name] = v
	}
	specs := make([]survey.Spec, len(j.table.Columns))
	for i, guess := range intake.Guesses(j.table) {
		name := guess.Name
		spec, ok := known[name]
		if !ok {
			spec = guess.Spec
			if guess.Ask != "" && i != j.textAt && i != j.idAt {
				fmt.Fprintf(doubts, "column %q: %s %s or %s? It is read as the first; a playbook with the column's settings says it.\n",
					name, guess.Ask, guess.Choices[0].Words, guess.Choices[1].Words)
			}
		}
		if i == j.textAt {
			spec = survey.Spec{Name: name, Role: survey.OpenEnded}
		} else if i == j.idAt {
			spec = survey.Spec{Name: name, Role: survey.Identifier}
		}
		specs[i] = spec
	}
	return specs
}

// unstored opens the question of the file.
func (j *job) unstored(ctx context.Context, specs []survey.Spec) (*state.State, error) {
	came := make([][]string, len(specs))
	for i := range came {
		came[i] = j.cells.AsCame(i, cells.ToStore)
	}
	return state.Unstored(ctx, specs, came, j.textAt, j.book)
}

// cell gives the cells as they are written: with personal data masked if the playbook says so.
func (j *job) cell(row, column int) string { return j.cells.Shown(column)[row] }

// write makes the file whole or not at all: it takes its name only when all is written.
func write(path string, fill func(w io.Writer) error) error { return writeFor(0o644, path, fill) }

// writeFor makes a file that so many may read.
func writeFor(mode os.FileMode, path string, fill func(w io.Writer) error) error {
	return writeChecked(mode, path, fill, func(string) error { return nil })
}

// writeChecked is writeFor with a look at what was written, under another name, before it takes its own.
func writeChecked(mode os.FileMode, path string, fill func(w io.Writer) error, check func(written string) error) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".aftermath-*")
	if err != nil {
		return err
	}
	err = errors.Join(fill(f), f.Chmod(mode), f.Sync(), f.Close())
	if err == nil {
		err = check(f.Name())
	}
	if err == nil {
		err = os.Rename(f.Name(), path)
	}
	if err != nil {
		_ = os.Remove(f.Name())
	}
	return err
}

// Summary is what `code --json` prints.
type Summary struct {
	Respondents int               `json:"respondents"`
	Answered    int               `json:"answered"`
	Coded       int               `json:"coded"`
	Uncoded     int               `json:"uncoded"`
	Categories  []CategorySummary `json:"categories"`
}

// CategorySummary is a category's figure.
type CategorySummary struct {
	Name    string `json:"name"`
	Code    int    `json:"code"`
	Answers int    `json:"answers"`
}

func codeCommand() *cobra.Command {
	var j job
	var shape string
	var asJSON bool
	c := &cobra.Command{Use: "code", Short: "Code a file by a playbook, without a database; --out ends in .csv, .xlsx, .json, .ndjson or .parquet", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			format, err := export.CodedFormatOf(strings.TrimPrefix(strings.ToLower(filepath.Ext(j.out)), "."))
			if err != nil {
				format = export.CodedFormats[0]
			}
			if !slices.Contains(export.Shapes, shape) {
				return fmt.Errorf("--shape is one of %s, not %q", strings.Join(export.Shapes, ", "), shape)
			}
			if err := j.read(c.Context()); err != nil {
				return err
			}
			coding, err := j.code(c)
			if err != nil {
				return err
			}
			data := export.Coded{
				Data:  export.Data{Columns: j.table.Columns, Cell: j.cell, ID: j.idAt, Text: j.textAt},
				Index: j.reading.Index, Coding: coding, Shape: shape,
			}
			if err := write(j.out, func(w io.Writer) error { return data.Write(c.Context(), w, format) }); err != nil {
				return err
			}
			if !asJSON {
				return nil
			}
			return json.NewEncoder(c.OutOrStdout()).Encode(summary(j, coding))
		}}
	j.flags(c)
	_ = c.MarkFlagRequired("playbook")
	c.Flags().StringVar(&shape, "shape", "wide", "wide: a column per category; mentions: numbers of categories in columns; long: a row per answer and category")
	c.Flags().BoolVar(&asJSON, "json", false, "print a summary as JSON")
	return c
}

// code applies the frame, and says what of it can't be.
func (j *job) code(c *cobra.Command) (*frame.Coding, error) {
	specs := j.specs()
	set, err := survey.Build(specs, j.book.Derived, j.cells.Variables(specs), survey.Set{})
	if err != nil {
		return nil, err
	}
	for name, failed := range set.Failed {
		fmt.Fprintf(c.ErrOrStderr(), "the variable %q can't be made: %v\n", name, failed)
	}
	coding, err := j.book.Code(c.Context(), j.book.View(j.reading), j.answers, set.Variables, frame.NewDecisions(), nil)
	if err != nil {
		return nil, err
	}
	warnProblems(c.ErrOrStderr(), coding)
	return coding, nil
}

// warnProblems says which rules can't be read: they catch nothing.
func warnProblems(w io.Writer, coding *frame.Coding) {
	for _, r := range coding.Results {
		for _, rules := range [][]frame.RuleResult{r.Rules, r.Unless} {
			for _, x := range rules {
				if len(x.Problems) > 0 && !x.Problems[0].Warning {
					fmt.Fprintf(
						w, "%s: the rule %q catches nothing: at character %d: %s\n", r.PathName(), x.Source, x.Problems[0].Start+1,
						x.Problems[0].Message,
					)
				}
			}
		}
	}
}

func summary(j job, coding *frame.Coding) Summary {
	answered := j.reading.Index.Answered()
	s := Summary{
		Respondents: len(j.answers),
		Answered:    int(answered.GetCardinality()),
		Coded:       int(answered.AndCardinality(coding.Coded)),
		Categories:  []CategorySummary{},
	}
	s.Uncoded = s.Answered - s.Coded
	for _, r := range coding.Results {
		s.Categories = append(s.Categories, CategorySummary{r.PathName(), r.Code, int(r.Answers.GetCardinality())})
	}
	return s
}

// cleanedRow is a line that `clean` writes.
type cleanedRow struct {
	ID     string      `json:"id"`
	Status string      `json:"status"`
	Text   string      `json:"text"`
	Words  []text.Word `json:"words"`
}

func cleanCommand() *cobra.Command {
	var j job
	c := &cobra.Command{
		Use:   "clean",
		Short: "Clean a file's answers and write their words with their places, as NDJSON",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if err := j.read(c.Context()); err != nil {
				return err
			}
			no := text.NewNoAnswers(j.reading.Pipeline, j.book.NoAnswers)
			return write(j.out, func(w io.Writer) error {
				lines := json.NewEncoder(w)
				lines.SetEscapeHTML(false)
				for i, answer := range j.answers {
					cleaned := j.reading.Pipeline.Clean(answer)
					row := cleanedRow{ID: fmt.Sprint(i + 1), Text: cleaned.Text, Words: append([]text.Word{}, cleaned.Words...)}
					if j.idAt >= 0 {
						row.ID = j.cell(i, j.idAt)
					}
					row.Status = no.Status(answer, cleaned.Words).String()
					if err := lines.Encode(row); err != nil {
						return err
					}
				}
				return nil
			})
		},
	}
	j.flags(c)
	return c
}
