package files

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"
)

// pack makes a packed file of parts.
func pack(t require.TestingT, path string, parts map[string]string) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
}

// odsOf is the document of a workbook with one sheet: what is the same stands there once, with how often it comes.
func odsOf(rows [][]string) string {
	var b strings.Builder
	b.WriteString(`<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x"><office:body><office:spreadsheet>
		<table:table table:name="Notes"/><table:table table:name="Answers"><table:table-column/>`)
	for i := 0; i < len(rows); {
		same := 1
		for i+same < len(rows) && fmt.Sprint(rows[i+same]) == fmt.Sprint(rows[i]) {
			same++
		}
		fmt.Fprintf(&b, `<table:table-row table:number-rows-repeated="%d">`, same)
		for j := 0; j < len(rows[i]); {
			cell, cells := rows[i][j], 1
			for j+cells < len(rows[i]) && rows[i][j+cells] == cell {
				cells++
			}
			fmt.Fprintf(&b, `<table:table-cell table:number-columns-repeated="%d" office:value-type="string">`, cells)
			if cell != "" {
				b.WriteString(`<office:annotation><text:p>a note</text:p></office:annotation>`)
				for _, line := range strings.Split(cell, "\n") {
					b.WriteString("<text:p>")
					for n, part := range strings.Split(line, "  ") {
						if n > 0 {
							b.WriteString(`<text:s text:c="2"/>`)
						}
						_ = xml.EscapeText(&b, []byte(part))
					}
					b.WriteString("</text:p>")
				}
			}
			b.WriteString("</table:table-cell>")
			j += cells
		}
		fmt.Fprintf(&b, `<table:table-cell table:number-columns-repeated="%d"/></table:table-row>`, 16384-len(rows[i]))
		i += same
	}
	b.WriteString(`<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16384"/></table:table-row>
		</table:table></office:spreadsheet></office:body></office:document-content>`)
	return b.String()
}

// What stands in an OpenDocument workbook is read as it stands there.
func TestOpenDocumentAgainstItsRows(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.ods")
	cell := rapid.SampledFrom([]string{"", "queue", "late & <b>cold</b>", "two\nlines", "a  b", "é☃", "7"})
	rapid.Check(t, func(t *rapid.T) {
		width := rapid.IntRange(1, 4).Draw(t, "width")
		rows := [][]string{[]string{"id", "answer", "route", "note"}[:width]}
		for range rapid.IntRange(1, 12).Draw(t, "rows") {
			row := []string{fmt.Sprint(rapid.IntRange(1, 3).Draw(t, "id"))}
			for len(row) < width {
				row = append(row, cell.Draw(t, "cell"))
			}
			rows = append(rows, row)
		}
		pack(t, path, map[string]string{"mimetype": "application/vnd.oasis.opendocument.spreadsheet", "content.xml": odsOf(rows)})
		got, err := ReadTable(context.Background(), path, Recipe{Format: Sheet, Sheet: "Answers", Headers: 1}, 0)
		require.NoError(t, err)
		require.Equal(t, rows, append([][]string{got.Columns}, got.Rows...))
	})
	g, err := Recognise(t.Context(), path, "x.ods", "")
	require.NoError(t, err)
	assert.Equal(t, []string{"Notes", "Answers"}, g.Sheets)
	assert.Equal(t, "Answers", g.Sheet)
}

// Values are read as they are stored, however they are shown.
func TestOpenDocumentValues(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.ods")
	pack(t, path, map[string]string{"content.xml": `<a xmlns:o="o" xmlns:t="t" xmlns:x="x"><t:table t:name="S">
		<t:table-row><t:table-cell><x:p>n</x:p></t:table-cell><t:table-cell><x:p>d</x:p></t:table-cell><t:table-cell><x:p>yes</x:p></t:table-cell></t:table-row>
		<t:table-row><t:table-cell o:value-type="percentage" o:value="0.347"><x:p>35 %</x:p></t:table-cell>
		<t:table-cell o:value-type="date" o:date-value="2026-03-14T00:00:00"><x:p>14/03/26</x:p></t:table-cell>
		<t:table-cell o:value-type="boolean" o:boolean-value="true"><x:p>WAHR</x:p></t:table-cell></t:table-row></t:table></a>`})
	got, err := ReadTable(t.Context(), path, Recipe{Format: Sheet, Headers: 1}, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"n | d | yes", "0.347 | 2026-03-14 | TRUE"}, bar(got))
}

func TestFormulasWithoutValueAreSaid(t *testing.T) {
	f := excelize.NewFile()
	require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]any{"id", "sum"}))
	require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]any{"P1", 7}))
	require.NoError(t, f.SetCellFormula("Sheet1", "B3", "1+1"))
	require.NoError(t, f.SetCellStr("Sheet1", "A3", "P2"))
	path := filepath.Join(t.TempDir(), "x.xlsx")
	require.NoError(t, f.SaveAs(path))
	got, err := ReadTable(t.Context(), path, Recipe{Format: Sheet, Headers: 1}, 0)
	require.NoError(t, err)
	assert.Equal(t, 1, got.Notes.Unvalued)
	assert.Equal(t, []string{"B3"}, got.Notes.UnvaluedAt)
}

// Files of other kinds are named, and never read as text.
func TestOtherKindsOfFilesAreNamed(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "x")
	noise := make([]byte, 4000)
	for i := range noise {
		noise[i] = byte(i * 7919 >> 3)
	}
	for want, data := range map[string][]byte{
		"statistics package": []byte("$FL2@(#) data"), "Parquet": []byte("PAR1x"), "SQLite": []byte("SQLite format 3\x00"), "no text": noise,
	} {
		require.NoError(t, os.WriteFile(path, data, 0o600))
		_, err := Recognise(t.Context(), path, "answers.csv", "")
		require.ErrorIs(t, err, ErrFile)
		assert.Contains(t, err.Error(), want)
		assert.Less(t, len(err.Error()), 200)
	}
	for want, part := range map[string]string{"DOCX": "word/document.xml", "PPTX": "ppt/slides/1.xml", "unpack it": "answers.csv", "without a table": "content.xml"} {
		pack(t, path, map[string]string{part: "<a/>"})
		_, err := Recognise(t.Context(), path, "answers", "")
		require.ErrorIs(t, err, ErrFile)
		assert.Contains(t, err.Error(), want)
	}
}

// A quote that is never closed takes the next rows into its cell: that is said, with the row, and reading line by line
// loses nobody.
func TestRowsThatAQuoteSwallows(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.csv")
	for _, c := range []struct {
		text      string
		swallowed []int
		lines     []string // rows when each line is one
	}{
		{"id,answer\nP1,fine\nP2,\"late\nP3,a 12\"\nP4,tea\n", []int{3}, []string{"id | answer", "P1 | fine", `P2 | "late`, `P3 | a 12"`, "P4 | tea"}},
		{"id,route,answer\n1,N,\"slow\n2,S,late\n3,N,\"\n4,S,ok\n", []int{2}, []string{"id | route | answer", `1 | N | "slow`, "2 | S | late", `3 | N | "`, "4 | S | ok"}},
		{"id,answer\nP1,\"I liked it,\nbut it was late, and cold\"\nP2,\"one\n\ntwo\"\n", nil, nil},
		{"id,answer\nP1,\"Dear crew,\nthanks, all\"\n", nil, nil},
	} {
		require.NoError(t, os.WriteFile(path, []byte(c.text), 0o600))
		got, err := ReadTable(t.Context(), path, Recipe{Format: Delimited, Delimiter: ",", Quotes: "strict", Headers: 1}, 0)
		require.NoError(t, err)
		assert.Equal(t, c.swallowed, got.Notes.SwallowedAt, c.text)
		if c.lines != nil {
			got, err = ReadTable(t.Context(), path, Recipe{Format: Delimited, Delimiter: ",", Quotes: "lines", Headers: 1}, 0)
			require.NoError(t, err)
			assert.Equal(t, c.lines, bar(got))
		}
	}
}

// A few uneven rows are a table where the first one names its columns; sentences with commas are none.
func TestRaggedFilesOfFewRows(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x")
	for _, c := range []struct {
		name, text string
		delimiter  string // empty: no table
	}{
		{"x.txt", "id;route;answer\nP1;North;late\nP2;South\nP3;North;slow;again;and cold\n", ";"},
		{"x.txt", "id\tanswer\tnote\nP1\t\"late\nP2\tslow\tx\ty\nP3\tcold\n", "\t"},
		{"x.csv", "id,route,answer\nP1,North,late, again\nP2,South\nP3,\"cold\n", ","},
		{"x.txt", "Late, again, and cold.\nThe tea, too.\nNice, though slow, crew.\n", ""},
		{"x.txt", "too slow\nnice view | good tea\ncold\n", ""},
	} {
		require.NoError(t, os.WriteFile(path, []byte(c.text), 0o600))
		g, err := Recognise(t.Context(), path, c.name, "")
		require.NoError(t, err)
		if c.delimiter == "" {
			assert.Equal(t, Lines, g.Format, c.text)
			continue
		}
		assert.Equal(t, []any{Delimited, c.delimiter}, []any{g.Format, g.Delimiter}, c.text)
		got, err := ReadTable(t.Context(), path, g.Recipe, 0)
		require.NoError(t, err)
		assert.Len(t, got.Rows, 3, "nobody is lost: %s", c.text)
	}
}
