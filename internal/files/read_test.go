package files

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"aftermath/core/text"
)

// bar writes rows shortly: cells separated by " | ".
func bar(t *Table) (rows []string) {
	for _, r := range append([][]string{t.Columns}, t.Rows...) {
		rows = append(rows, strings.Join(r, " | "))
	}
	return rows
}

// Awkward files, read as they are guessed to be read.
func TestAwkwardFiles(t *testing.T) {
	for _, c := range []struct {
		file string
		want Recipe // what of the guess matters
		rows []string
	}{
		{"semicolon.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ";", Quotes: "strict", Headers: 1}, []string{"id | answer | route", "P1 | too slow; again | North", "P2 | two\nlines | South", "P3 | café €5 | North"}},
		{"bom.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ",", Quotes: "strict", Headers: 1}, []string{"id | answer", "P1 | naïve queue", "P2 | late", "P3 | cold tea"}},
		{"utf16.txt", Recipe{Format: Delimited, Encoding: "utf-16le", Delimiter: "\t", Quotes: "lax", Headers: 1}, []string{"id | answer", "P1 | naïve queue", "P2 | late", `P3 | said "no"`}},
		{"utf16-no-mark.txt", Recipe{Format: Delimited, Encoding: "utf-16be", Delimiter: "\t", Quotes: "strict", Headers: 1}, []string{"id | answer", "P1 | naïve queue", "P2 | late again and again", "P3 | cold"}},
		{"windows-1252.csv", Recipe{Format: Delimited, Encoding: "windows-1252", Delimiter: ",", Quotes: "strict", Headers: 1}, []string{"id | answer", "P1 | café was “grim”", "P2 | £5 tea", "P3 | late"}},
		{"old-breaks.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ",", Quotes: "strict", Headers: 1}, []string{"id | answer", "P1 | queue", "P2 | late", "P3 | tea"}},
		{"quoted.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ",", Quotes: "strict", Headers: 1}, []string{"id | answer", "1 | two\nlines, \"quoted\"", "2 | ", "3 | a, b"}},
		{"ragged.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ",", Quotes: "strict", Headers: 1}, []string{"id | answer | route", "P1 | queue | North", "P2 | late | ", "P3 | slow |  cold, wet,South", "P4 | tea | West", "P5 | fine | North", "P6 | ok | South", "P7 | long | West"}},
		{"headers.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ",", Quotes: "strict", Headers: 1}, []string{"id | answer | column 3 | answer (2) | Answer (3) | column 6", "1 | queue | x | y | z | w", "2 | late | x | y | z | w"}},
		{"no-header.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ",", Quotes: "strict"}, []string{"column 1 | column 2 | column 3", "P1 | North | queue was long", "P2 | South | late again", "P3 | North | cold tea", "P4 | South | late"}},
		{"title.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: ",", Quotes: "strict", Skip: 2, Headers: 1}, []string{"id | route | answer", "P1 | North | queue", "P2 | South | late boat", "P3 | West | tea"}},
		{"stray-quotes.tsv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: "\t", Quotes: "none", Headers: 1}, []string{"id | answer", `P1 | the 6" gap`, `P2 | said "never" again`, `P3 | "late`, "P4 | cold"}},
		{"bars.txt", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: "|", Quotes: "strict", Headers: 1}, []string{"id | answer", "P1 | queue, long; slow", "P2 | late, late", "P3 | tea"}},
		{"one-column.csv", Recipe{Format: Delimited, Encoding: UTF8, Delimiter: "\t", Quotes: "strict", Headers: 1}, []string{"What should we change?", "the queue, mostly", "late", "nothing at all"}},
		{"lines.txt", Recipe{Format: Lines, Encoding: UTF8}, []string{"answer", "Shorter queues, please.", "The boat was late; again.", "Tea"}},
		{"blocks.txt", Recipe{Format: Blocks, Encoding: UTF8}, []string{"answer", "The queue was long\nand nobody spoke.\nAgain.", "Cold tea, cold crew,\ncold morning.", "Late boats.\nEvery day."}},
		{"objects.json", Recipe{Format: JSON, Encoding: UTF8, Headers: 1}, []string{"id | answer | trip.port | trip.deck | channels | late", "1 | queue | Orrin | 2 | App; Phone | ", "2 |  |  |  |  | true", "3.5 | tea ☃ |  |  |  | "}},
		{"wrapped.json", Recipe{Format: JSON, Encoding: UTF8, Headers: 1}, []string{"a | b", "1 | ", `2 | [{"x": 1}]`}},
		{"arrays.json", Recipe{Format: JSON, Encoding: UTF8, Headers: 1}, []string{"id | answer", "1 | queue", "2 | late"}},
		{"texts.json", Recipe{Format: JSON, Encoding: UTF8, Headers: 1}, []string{"answer", "queue", "late", ""}},
		{"answers.ndjson", Recipe{Format: NDJSON, Encoding: UTF8, Headers: 1}, []string{"id | answer | route", "P1 | queue | ", "P2 | late\nboat | North"}},
		{"page.html", Recipe{Format: Page, Encoding: UTF8}, []string{"answer | block", "Letters | heading", "The queue was long. | paragraph", "Stray text | block", "Late & cold | paragraph", "First thing | list item"}},
		{"writer-a.xlsx", Recipe{Format: Sheet, Sheet: "Answers", Skip: 1, Headers: 2}, []string{"id | sailed | Rating / food | Rating / crew | What should we change?",
			"P1 | 2026-03-14 | 7 | 8 | the queue", "P2 | 2026-10-02 18:30:00 | 0.5 | 9 | ", "P3 | 2026-12-31 | 10 |  | late & cold\ntwice", "P4 |  | 1234567.25 | 5 | =1+1"}},
		{"writer-b.xlsx", Recipe{Format: Sheet, Sheet: "lo", Headers: 1}, []string{"id | sailed | score | answer", "P1 | 2026-03-14 | 7 | the queue", "P2 | 2026-10-02 | 45% | late", "P3 | 2026-12-31 | 3.5 | tea, cold"}},
	} {
		t.Run(c.file, func(t *testing.T) {
			path := filepath.Join("testdata", c.file)
			g, err := Recognise(t.Context(), path, c.file, "")
			require.NoError(t, err)
			assert.Equal(t, c.want, g.Recipe)
			assert.NotEmpty(t, g.Because["format"])
			got, err := ReadTable(t.Context(), path, g.Recipe, 0)
			require.NoError(t, err)
			assert.Equal(t, c.rows, bar(got))
			assert.Equal(t, len(got.Rows), got.Notes.Rows)
		})
	}
}

func TestNotesSayWhatWasOdd(t *testing.T) {
	read := func(file string) Notes {
		path := filepath.Join("testdata", file)
		g, err := Recognise(t.Context(), path, file, "")
		require.NoError(t, err)
		got, err := ReadTable(t.Context(), path, g.Recipe, 0)
		require.NoError(t, err)
		return got.Notes
	}
	assert.Equal(t, Notes{Rows: 7, Short: 1, Long: 1, Places: []int{3, 4}}, read("ragged.csv"))
	assert.Equal(t, 1, read("one-column.csv").Blank)
	assert.Equal(t, 1, read("lines.txt").Blank)
	assert.Equal(
		t,
		[]string{
			`the 3rd column has no name; it is called "column 3"`,
			`another column is called "answer"; the 4th one is called "answer (2)"`,
			`another column is called "Answer"; the 5th one is called "Answer (3)"`,
			`the 6th column has no name; it is called "column 6"`,
		},
		read("headers.csv").Renamed,
	)
}

// Rows are numbered as a spreadsheet numbers them, whatever was passed over.
func TestRowsAreNumberedWithTheBlankOnes(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.csv")
	require.NoError(t, os.WriteFile(path, []byte("title\n\na,b\n\n1,2\n\n\n3\n4,5,6\n7,\x00\n"), 0o600))
	got, err := ReadTable(t.Context(), path, Recipe{Format: Delimited, Delimiter: ",", Skip: 1, Headers: 1}, 0)
	require.EqualError(t, err, `file: row 10, column "b": the cell holds a zero byte; this may be no text file`)
	assert.Equal(t, []int{8, 9}, got.Notes.Places)
	f := excelize.NewFile()
	for cell, value := range map[string]string{"A1": "a", "B1": "b", "A3": "1", "A5": "2", "B5": strings.Repeat("x", 10)} {
		require.NoError(t, f.SetCellStr("Sheet1", cell, value))
	}
	path = filepath.Join(t.TempDir(), "x.xlsx")
	require.NoError(t, f.SaveAs(path))
	got, err = ReadTable(t.Context(), path, Recipe{Format: Sheet, Headers: 1}, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"a | b", "1 | ", "2 | xxxxxxxxxx"}, bar(got))
	assert.Equal(t, 2, got.Notes.Blank)
}

func TestOverruledGuesses(t *testing.T) {
	for _, c := range []struct {
		file   string
		recipe Recipe
		rows   []string
	}{
		{"ragged.csv", Recipe{Format: Lines}, []string{"answer", "id,answer,route", "P1,queue,North", "P2,late", "P3,slow, cold, wet,South", "P4,tea,West,,", "P5,fine,North", "P6,ok,South", "P7,long,West"}},
		{"bars.txt", Recipe{Format: Delimited, Delimiter: "|", Quotes: "strict"}, []string{"column 1 | column 2", "id | answer", "P1 | queue, long; slow", "P2 | late, late", "P3 | tea"}},
		{"windows-1252.csv", Recipe{Format: Delimited, Delimiter: ",", Encoding: "macintosh", Headers: 1}, []string{"id | answer", "P1 | cafÈ was ìgrimî", "P2 | £5 tea", "P3 | late"}},
		{"writer-a.xlsx", Recipe{Format: Sheet, Sheet: "Notes"}, []string{"column 1", "How this was made"}},
		{"blocks.txt", Recipe{Format: Blocks, Split: &Split{text.Division{By: "line"}, "answer"}}, []string{"answer | document | part | position", "The queue was long | 1 | 1 | 1st quarter", "and nobody spoke. | 1 | 2 | 2nd quarter", "Again. | 1 | 3 | 3rd quarter",
			"Cold tea, cold crew, | 2 | 1 | 1st quarter", "cold morning. | 2 | 2 | 3rd quarter", "Late boats. | 3 | 1 | 1st quarter", "Every day. | 3 | 2 | 3rd quarter"}},
	} {
		got, err := ReadTable(t.Context(), filepath.Join("testdata", c.file), c.recipe, 0)
		require.NoError(t, err, c.file)
		assert.Equal(t, c.rows, bar(got), c.file)
	}
}

func TestFilesThatAreRefused(t *testing.T) {
	for file, want := range map[string]string{
		"not-a-table.pdf": "this is a PDF", "old.xls": "save it as XLSX", "broken.json": "breaks off at row 2",
		"zero.csv": `row 3, column "b": the cell holds a zero byte`, "empty.csv": "it is empty",
	} {
		path := filepath.Join("testdata", file)
		g, err := Recognise(t.Context(), path, file, "")
		if err == nil {
			_, err = ReadTable(t.Context(), path, g.Recipe, 0)
		}
		require.ErrorIs(t, err, ErrFile, file)
		assert.Contains(t, err.Error(), want, file)
	}
	for _, c := range []struct {
		recipe     Recipe
		file, want string
	}{
		{Recipe{Format: Delimited, Delimiter: ",", Headers: 1}, "never-closed.csv", "row 3 (line"},
		{Recipe{Format: Delimited, Delimiter: ",", Encoding: UTF8, Headers: 1}, "windows-1252.csv", `row 2, column "answer": the cell is not UTF-8`},
		{Recipe{Format: Delimited, Delimiter: "xx"}, "bom.csv", "give one sign"},
		{Recipe{Format: Sheet, Sheet: "None"}, "writer-a.xlsx", "there are: Notes, Answers"},
		{Recipe{Format: Lines, Encoding: "morse"}, "lines.txt", "windows-1252"},
		{Recipe{Format: Lines, Split: &Split{text.Division{By: "pattern", At: "x*"}, "answer"}}, "lines.txt", "cut everywhere"},
		{Recipe{Format: Lines, Split: &Split{text.Division{By: "line"}, "reply"}}, "lines.txt", `no column "reply"`},
	} {
		_, err := ReadTable(t.Context(), filepath.Join("testdata", c.file), c.recipe, 0)
		require.ErrorIs(t, err, ErrFile, "%+v", c.recipe)
		assert.Contains(t, err.Error(), c.want)
	}
}

func TestFormulasAreMadeText(t *testing.T) {
	var b bytes.Buffer
	w := NewWriter(&b)
	require.NoError(t, w.Write([]string{"=1+1", "-3.5", "- none", "@x", "plain"}))
	require.NoError(t, w.Flush())
	assert.Equal(t, "'=1+1,-3.5,'- none,'@x,plain\n", b.String())
}

// Whatever bytes a file holds and however it is read: no panic, and every row as long as the header.
func FuzzRead(f *testing.F) {
	entries, err := os.ReadDir("testdata")
	require.NoError(f, err)
	for _, e := range entries {
		if e.Type().IsRegular() {
			data, err := os.ReadFile(filepath.Join("testdata", e.Name()))
			require.NoError(f, err)
			f.Add(data, uint8(0))
			f.Add(data, uint8(3))
		}
	}
	formats := []Format{"", Delimited, Lines, Blocks, JSON, NDJSON, Page, Sheet}
	f.Fuzz(func(t *testing.T, data []byte, choice uint8) {
		path := filepath.Join(t.TempDir(), "x")
		require.NoError(t, os.WriteFile(path, data, 0o600))
		g, err := Recognise(t.Context(), path, "x.csv", "")
		if err != nil {
			require.ErrorIs(t, err, ErrFile)
			return
		}
		if format := formats[int(choice)%len(formats)]; format != "" {
			g.Format, g.Delimiter = format, ";"
		}
		got, err := ReadTable(t.Context(), path, g.Recipe, 0)
		if err == nil {
			for _, row := range got.Rows {
				require.Len(t, row, len(got.Columns))
			}
		}
	})
}

func ExampleRecognise() {
	dir, _ := os.MkdirTemp("", "example")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "answers.csv")
	_ = os.WriteFile(path, []byte("id;answer\n1;late boat\n2;cold tea, again\n"), 0o600)
	seen, _ := Recognise(context.Background(), path, "answers.csv", "text/csv")
	table, _ := ReadTable(context.Background(), path, seen.Recipe, 10)
	fmt.Println(seen.Recipe.Delimiter, table.Columns, table.Rows[1])
	// Output: ; [id answer] [2 cold tea, again]
}
