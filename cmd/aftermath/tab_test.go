package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"aftermath/internal/view/chart"
)

// The command line counts what a file says by segments, in three formats with the same figures.
func TestTabHeadless(t *testing.T) {
	dir := t.TempDir()
	var rows strings.Builder
	rows.WriteString("id,route,wave,heft,answer\n")
	for i := range 400 { // a quarter of the North and three quarters of the South wait
		route, answer := []string{"North", "South"}[i%2], "fine"
		if i/2%4 == 0 || i%2 == 1 && i/2%4 < 3 {
			answer = "long queue"
		}
		fmt.Fprintf(&rows, "a%d,%s,%d,%d,%s\n", i, route, 2025+i/200, 1+i%2, answer)
	}
	data := file(t, dir, "in.csv", rows.String())
	book := file(t, dir, "book.json", `{"aftermath":1,"frame":[{"name":"Waiting","rules":["queue"]},{"name":"Crew","rules":["crew"]}],
		"variables":[{"name":"wave","role":"wave"}]}`)
	args := []string{"--data", data, "--text", "answer", "--id", "id", "--playbook", book, "--weight", "heft", "--by", "route", "--by", "wave > route"}
	out := func(name string) string {
		path := filepath.Join(dir, name)
		headless(t, tabCommand(), append(args, "--out", path)...)
		return path
	}
	text, err := os.ReadFile(out("tab.json"))
	require.NoError(t, err)
	var c chart.Chart
	require.NoError(t, json.Unmarshal(text, &c))
	assert.Len(t, c.Columns, 1+2+4)
	assert.Equal(t, []int{50, 150}, []int{c.Cells[0][1].Answers, c.Cells[0][2].Answers})
	assert.InDelta(t, (50+2*150)/(200.0+2*200), c.Cells[0][0].Share, 1e-12, "the South counts twice")
	assert.Equal(t, "A", c.Letters(c.Cells[0][2]))

	text, err = os.ReadFile(out("tab.csv"))
	require.NoError(t, err)
	assert.Contains(t, string(text), "route South (B): share")
	assert.Contains(t, string(text), "weighted by heft")

	f, err := excelize.OpenFile(out("tab.xlsx"))
	require.NoError(t, err)
	defer f.Close()
	sheets := f.GetSheetList()
	require.Len(t, sheets, 2)
	to, where, err := f.GetCellHyperLink(sheets[0], "A5")
	require.NoError(t, err)
	assert.True(t, to)
	assert.Equal(t, "'"+sheets[1]+"'!A1", where)
	cells, err := f.GetRows(sheets[1], excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	all := map[string][]string{}
	for _, row := range cells {
		if len(row) > 0 && all[row[0]] == nil {
			all[row[0]] = row
		}
	}
	for i, cell := range c.Cells[0] {
		var share float64
		_, err := fmt.Sscan(all["Waiting"][1+2*i], &share)
		require.NoError(t, err)
		assert.InDelta(t, cell.Share, share, 1e-12, c.Columns[i].Key)
		assert.Equal(t, fmt.Sprint(c.Bases[i].Answers), all["Base: answered"][1+2*i])
	}
	assert.Equal(t, "A ▲", all["Waiting"][1+2*2+1])

	for _, bad := range [][]string{{"--by", "nope"}, {"--weight", "nope"}, {"--rows", "x"}, {"--test", "x"}, {"--base", "x"}} {
		command := tabCommand()
		command.SetArgs(append([]string{"--data", data, "--text", "answer", "--playbook", book, "--out", filepath.Join(dir, "no.csv")}, bad...))
		command.SilenceUsage, command.SilenceErrors = true, true
		assert.Error(t, command.Execute(), bad)
	}
	assert.NoFileExists(t, filepath.Join(dir, "no.csv"))
}
