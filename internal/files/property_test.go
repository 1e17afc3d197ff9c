package files

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"
)

// anyTable draws a table with a header; its cells hold what cells are quoted for.
func anyTable(t *rapid.T, signs string) (rows [][]string) {
	width := rapid.IntRange(2, 5).Draw(t, "columns")
	header := make([]string, width)
	for i := range header {
		header[i] = "name " + string(rune('a'+i))
	}
	rows = append(rows, header)
	cell := rapid.StringOfN(rapid.SampledFrom([]rune(signs)), 0, 12, -1)
	for range rapid.IntRange(1, 12).Draw(t, "rows") {
		row := make([]string, width)
		for i := range row {
			row[i] = cell.Draw(t, "cell")
		}
		rows = append(rows, row)
	}
	return rows
}

// reread writes a file and reads it by a recipe.
func reread(rt *rapid.T, t *testing.T, name string, data []byte, recipe Recipe) [][]string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(rt, os.WriteFile(path, data, 0o600))
	got, err := ReadTable(t.Context(), path, recipe, 0)
	require.NoError(rt, err)
	return append([][]string{got.Columns}, got.Rows...)
}

// Whatever stands in the cells, and whatever parts and encodes them: what was written is what is read.
func TestDelimitedTablesComeBack(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		rows := anyTable(rt, "ab1 ,;|\t\"'\né£€")
		delimiter := rapid.SampledFrom([]string{",", ";", "\t", "|"}).Draw(rt, "delimiter")
		var b strings.Builder
		w := csv.NewWriter(&b)
		w.Comma = rune(delimiter[0])
		w.UseCRLF = rapid.Bool().Draw(rt, "crlf")
		require.NoError(rt, w.WriteAll(rows))
		encoding := rapid.SampledFrom([]string{"utf-8", "utf-16le", "utf-16be", "windows-1252", "iso-8859-15"}).Draw(rt, "encoding")
		data := []byte(b.String())
		for _, e := range encodings {
			if e.name == encoding && e.of != nil {
				var err error
				data, err = e.of.NewEncoder().Bytes(data)
				require.NoError(rt, err)
			}
		}
		got := reread(
			rt, t, "x.csv", data, Recipe{Format: Delimited, Encoding: encoding, Delimiter: delimiter, Quotes: "strict", Headers: 1},
		)
		if w.UseCRLF { // a line break in a cell is written as the file's own
			for _, row := range rows {
				for i := range row {
					row[i] = strings.ReplaceAll(row[i], "\r\n", "\n")
				}
			}
		}
		require.Equal(rt, rows, got)
	})
}

func TestWorkbooksComeBack(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		rows := anyTable(rt, "ab1 ,\"'é£=\n")
		f := excelize.NewFile()
		for i, row := range rows {
			for j, cell := range row {
				name, err := excelize.CoordinatesToCellName(j+1, i+1)
				require.NoError(rt, err)
				require.NoError(rt, f.SetCellStr("Sheet1", name, cell))
			}
		}
		var b strings.Builder
		require.NoError(rt, f.Write(&b))
		got := reread(rt, t, "x.xlsx", []byte(b.String()), Recipe{Format: Sheet, Headers: 1})
		want := rows[:1]
		for _, row := range rows[1:] {
			if !blankRow(row) { // a row with nothing in it is no row of a workbook
				want = append(want, row)
			}
		}
		require.Equal(rt, want, got)
	})
}

// The guess reads what was written, wherever rows are enough to judge by.
func TestGuessesReadWhatWasWritten(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		n := rapid.IntRange(6, 30).Draw(rt, "rows")
		words := rapid.SliceOfN(
			rapid.SampledFrom([]string{"queue", "late, again", "said \"no\"", "two\nlines", "café; tea", "cold"}), n, n,
		).Draw(rt, "answers")
		rows := [][]string{{"id", "route", "answer"}}
		for i, answer := range words {
			rows = append(rows, []string{"P" + strings.Repeat("x", i), []string{"North", "South"}[i%2], answer})
		}
		delimiter := rapid.SampledFrom([]rune{',', ';', '\t'}).Draw(rt, "delimiter")
		var b strings.Builder
		w := csv.NewWriter(&b)
		w.Comma = delimiter
		require.NoError(rt, w.WriteAll(rows))
		path := filepath.Join(t.TempDir(), "x.csv")
		require.NoError(rt, os.WriteFile(path, []byte(b.String()), 0o600))
		g, err := Recognise(t.Context(), path, "x.csv", "")
		require.NoError(rt, err)
		got, err := ReadTable(t.Context(), path, g.Recipe, 0)
		require.NoError(rt, err)
		require.Equal(rt, rows, append([][]string{got.Columns}, got.Rows...), "%+v", g)
	})
}
