package demo

import (
	_ "embed"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/files"
)

// The demo study: its name, its seed and its size.
const (
	Name        = "Larkmoor Ferries 2026"
	Seed        = 7
	Respondents = 6000
)

//go:embed change.json
var changePlaybook []byte

//go:embed enjoy.json
var enjoyPlaybook []byte

// Playbook is the starting point for one of the questions: a lexicon and a frame that leave work to do.
func Playbook(question string) (playbook.Playbook, error) {
	if question == Change {
		return playbook.Parse(changePlaybook)
	}
	return playbook.Parse(enjoyPlaybook)
}

// Specs says what the columns of the data are.
func Specs() []survey.Spec {
	roles := []survey.Role{survey.Identifier, survey.Segment, survey.Segment, survey.Segment, survey.Segment, survey.Date,
		survey.Wave, survey.Number, survey.Several, survey.Weight, survey.OpenEnded, survey.OpenEnded}
	specs := make([]survey.Spec, len(Columns))
	for i, name := range Columns {
		specs[i] = survey.Spec{Name: name, Role: roles[i]}
		if roles[i] == survey.Several {
			specs[i].Delimiter = ";"
		}
	}
	return specs
}

// Write writes the data and the truth as CSV files into a folder.
func Write(dir string, s Study) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	for name, rows := range map[string][][]string{
		"larkmoor.csv": append([][]string{Columns}, s.Rows...),
		"truth.csv":    append([][]string{TruthColumns}, s.Truth...),
	} {
		if err := writeCSV(filepath.Join(dir, name), rows); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
	}
	return nil
}

func writeCSV(path string, rows [][]string) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := files.NewWriter(io.Writer(f))
	for _, row := range rows {
		if err := w.Write(row); err != nil {
			_ = f.Close()
			return err
		}
	}
	if err := w.Flush(); err != nil {
		_ = f.Close()
		return err
	}
	return f.Close()
}
