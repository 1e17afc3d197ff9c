package export

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"aftermath/core/frame"
	"aftermath/core/playbook"
)

// someCoded is data with what makes trouble in files: a name twice, signs of formulas, quotes, line breaks, and nothing.
func someCoded(t *testing.T) Coded {
	p := playbook.New("en")
	p.Frame = frame.Frame{
		{Name: "Time", Code: 10, Note: "All that\nis late", Children: []frame.Category{{Name: "Late", Code: 11, Rules: []string{"late"}}}},
		{Name: "answer", Code: 20, Rules: []string{"cold"}},
	}
	p.Frame.Complete(nil, 0)
	answers := []string{"late, “cold” tea\nagain", "=cold", "", "fine", "late"}
	r, err := p.Read(t.Context(), answers, 1, nil)
	require.NoError(t, err)
	d := frame.NewDecisions()
	d.On["c3"] = roaring.BitmapOf(3)
	d.Suggested = map[string]*roaring.Bitmap{"c3": roaring.BitmapOf(3)}
	c, err := p.Code(t.Context(), p.View(r), answers, nil, d, nil)
	require.NoError(t, err)
	cells := [][]string{{"a", "b", "c", "d", "e"}, answers}
	return Coded{
		Data:  Data{Columns: []string{"id", "answer"}, Cell: func(row, column int) string { return cells[column][row] }, Text: 1, Decisions: d},
		Index: r.Index, Coding: c,
	}
}

// all are the rows, with their fields' names above them.
func all(t *testing.T, c Coded) (out [][]string) {
	for row := range c.table(t.Context()) {
		var line []string
		for _, cell := range row {
			line = append(line, plainCell(cell))
		}
		out = append(out, line)
	}
	return out
}

func written(t *testing.T, c Coded, format string) []byte {
	var b bytes.Buffer
	of, err := CodedFormatOf(format)
	require.NoError(t, err)
	require.NoError(t, c.Write(t.Context(), &b, of))
	return b.Bytes()
}

func TestCodedShapes(t *testing.T) {
	c := someCoded(t)
	c.Shape = Mentions
	assert.Equal(t, [][]string{
		{"id", "answer", "mention 1", "mention 2", "suggested, unread"},
		{"a", "late, “cold” tea\nagain", "11", "20", ""}, {"b", "=cold", "20", "", ""}, {"c", "", "", "", ""},
		{"d", "fine", "20", "", "answer"}, {"e", "late", "11", "", ""},
	}, all(t, c))
	c.Shape, c.Values = Wide, YesNo
	assert.Equal(t, [][]string{
		{"id", "answer", "Time", "Time / Late", "answer (2)", "suggested, unread"},
		{"a", "late, “cold” tea\nagain", "yes", "yes", "yes", ""}, {"b", "=cold", "no", "no", "yes", ""}, {"c", "", "", "", "", ""},
		{"d", "fine", "no", "no", "yes", "answer"}, {"e", "late", "yes", "yes", "no", ""},
	}, all(t, c))
	c.Values = Labels
	assert.Equal(t, []string{"b", "=cold", "", "", "answer", ""}, all(t, c)[2])
	c.Shape, c.ID, c.Text = Long, -1, -1
	assert.Equal(t, [][]string{
		{"row", "category", "code", "suggested, unread"}, {"1", "Time", "10", ""}, {"1", "Time / Late", "11", ""}, {"1", "answer", "20", ""},
		{"2", "answer", "20", ""}, {"4", "answer", "20", "1"}, {"5", "Time", "10", ""}, {"5", "Time / Late", "11", ""},
	}, all(t, c))
}

// Each format gives back, read by a reader that is not ours, what the rows are.
func TestFormatsReadBack(t *testing.T) {
	for _, shape := range Shapes {
		for _, values := range []string{Digits, YesNo, Labels} {
			c := someCoded(t)
			c.Shape, c.Values = shape, values
			want := all(t, c)
			name := shape + " " + values

			lines, err := csv.NewReader(bytes.NewReader(written(t, c, "csv"))).ReadAll()
			require.NoError(t, err)
			for _, line := range lines {
				for i := range line {
					line[i] = strings.Replace(line[i], "'=", "=", 1)
				}
			}
			assert.Equal(t, want, lines, name)

			f, err := excelize.OpenReader(bytes.NewReader(written(t, c, "xlsx")))
			require.NoError(t, err)
			rows, err := f.GetRows("coded")
			require.NoError(t, err)
			for i := range rows {
				for len(rows[i]) < len(want[0]) {
					rows[i] = append(rows[i], "")
				}
			}
			assert.Equal(t, want, rows, name)
			kind, err := f.GetCellType("coded", "B3")
			require.NoError(t, err)
			assert.NotEqual(t, excelize.CellTypeFormula, kind)

			var list []map[string]any
			require.NoError(t, json.Unmarshal(written(t, c, "json"), &list))
			assert.Equal(t, want, tableOf(want[0], list), name)
			list = nil
			for line := range strings.Lines(string(written(t, c, "ndjson"))) {
				var one map[string]any
				require.NoError(t, json.Unmarshal([]byte(line), &one))
				list = append(list, one)
			}
			assert.Equal(t, want, tableOf(want[0], list), name)

			list = parquetRows(t, written(t, c, "parquet"))
			assert.Equal(t, want, tableOf(want[0], list), name)
		}
	}
}

func tableOf(head []string, list []map[string]any) [][]string {
	out := [][]string{head}
	for _, one := range list {
		var line []string
		for _, name := range head {
			cell := one[name]
			switch cell {
			case nil:
				cell = ""
			case true:
				cell = "yes"
			case false:
				cell = "no"
			}
			line = append(line, fmt.Sprint(cell))
		}
		out = append(out, line)
	}
	return out
}

// parquetRows reads a file with a reader in another language.
func parquetRows(t *testing.T, data []byte) (list []map[string]any) {
	path := filepath.Join(t.TempDir(), "coded.parquet")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	const script = `import { asyncBufferFromFile, parquetReadObjects } from 'hyparquet';
		const rows = await parquetReadObjects({ file: await asyncBufferFromFile(process.argv[1]) });
		console.log(JSON.stringify(rows))`
	ctx, stop := context.WithTimeout(t.Context(), 60e9)
	defer stop()
	node := exec.CommandContext(ctx, "node", "--input-type=module", "-e", script, path)
	node.Dir = "../../ui"
	out, err := node.CombinedOutput()
	require.NoError(t, err, string(out))
	require.NoError(t, json.Unmarshal(out, &list), string(out))
	return list
}

// The metadata names the fields of the file beside it, in their order, and what it refers to is there.
func TestPackDescribesItself(t *testing.T) {
	c := someCoded(t)
	c.Shape = Mentions
	var b bytes.Buffer
	require.NoError(t, c.Pack(t.Context(), &b, CodedFormats[0]))
	pack, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	files := map[string][][]string{}
	var metadata struct {
		Context any `json:"@context"`
		Tables  []struct {
			URL         string
			TableSchema struct {
				PrimaryKey  string
				Columns     []struct{ Name, Titles string }
				ForeignKeys []struct {
					ColumnReference string
					Reference       struct{ Resource, ColumnReference string }
				}
			}
		}
	}
	for _, entry := range pack.File {
		r, err := entry.Open()
		require.NoError(t, err)
		data, err := io.ReadAll(r)
		require.NoError(t, err)
		if strings.HasSuffix(entry.Name, ".json") {
			assert.Equal(t, "coded.csv-metadata.json", entry.Name)
			require.NoError(t, json.Unmarshal(data, &metadata))
			continue
		}
		files[entry.Name], err = csv.NewReader(bytes.NewReader(data)).ReadAll()
		require.NoError(t, err)
	}
	require.Len(t, metadata.Tables, 2)
	titles := map[string]map[string]string{} // by file and name
	for _, table := range metadata.Tables {
		require.Contains(t, files, table.URL)
		var heads []string
		titles[table.URL] = map[string]string{}
		for _, column := range table.TableSchema.Columns {
			heads = append(heads, column.Titles)
			titles[table.URL][column.Name] = column.Titles
		}
		assert.Equal(t, files[table.URL][0], heads)
	}
	keys := metadata.Tables[0].TableSchema.ForeignKeys
	require.Len(t, keys, 2)
	codes := map[string]bool{"": true}
	for _, line := range files["categories.csv"][1:] {
		codes[line[0]] = true
	}
	for _, key := range keys {
		assert.Equal(t, "categories.csv", key.Reference.Resource)
		title := titles["coded.csv"][key.ColumnReference]
		at := 0
		for i, head := range files["coded.csv"][0] {
			if head == title {
				at = i
			}
		}
		for _, line := range files["coded.csv"][1:] {
			assert.True(t, codes[line[at]], line)
		}
	}
	assert.Len(t, files["dictionary.csv"], len(files["coded.csv"][0])+1)
}

// What is broken off says so, in every format.
func TestCodedBreaksOff(t *testing.T) {
	left, leave := context.WithCancel(t.Context())
	leave()
	for _, format := range CodedFormats {
		assert.ErrorIs(t, someCoded(t).Write(left, io.Discard, format), context.Canceled, format.Name)
		assert.Error(t, someCoded(t).Write(t.Context(), full{}, format), format.Name)
	}
	_, err := CodedFormatOf("doc")
	assert.ErrorContains(t, err, "there are csv, xlsx, json, ndjson, parquet")
}

type full struct{}

func (full) Write([]byte) (int, error) { return 0, errors.New("the disk is full") }
