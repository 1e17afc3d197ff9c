package document_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"aftermath/internal/demo"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/document"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/report"
	"aftermath/ui/uitest"
)

var ctx = context.Background()

func ferries(t testing.TB) *state.State {
	uitest.Fresh(t)
	book, err := demo.Playbook(demo.Change)
	require.NoError(t, err)
	cells := make([][]string, len(demo.Columns))
	for n, row := range demo.Make(3, 900).Rows {
		row[0] = fmt.Sprint("P", n%450) // each person answered twice
		for i, c := range row {
			cells[i] = append(cells[i], c)
		}
	}
	s, err := state.Unstored(ctx, demo.Specs(), cells, 10, book)
	require.NoError(t, err)
	return s
}

// nasty is text that every kind of file must tell as it is.
const nasty = `<script>alert("1")</script> & 'so' *on* ]]> é 漢 🙂`

// sample is a report with all kinds of parts.
func sample(t testing.TB, s *state.State) report.Document {
	of := report.OfQuestion{Question: 1}
	titled := func(title string) report.Heading { return report.Heading{Title: title} }
	drawn := func(as, by string) chart.Design {
		return chart.Design{Plan: chart.TablePlan{Query: chart.Query{By: by, Rows: "nets"}}, Look: chart.Look{
			Focus: focus.Focus{focus.Not(focus.Category{ID: s.Coding.Results[0].ID})}, As: as,
		}}
	}
	d := report.Document{Style: report.UsualStyle(), Study: "Ferries & co", Name: "Report " + nasty, At: time.Unix(1_790_000_000, 0).UTC()}
	for i, part := range []report.Part{
		report.TextPart{Text: "# Head " + nasty + "\n\nIt is **bold** and [a link](https://example.org/?a=1&b=2) and [none](javascript:alert(1)).\n\n" +
			"- one **bold** one\n- two\n\n1. first\n2. second\n\n> said\n\n| a | b |\n|---|---|\n| x | 12 |\n\n```\ncode <b>\n```\n\n---\n"},
		report.ChartPart{OfQuestion: of, Heading: report.Heading{Title: "Bars " + nasty, Note: "A *note*."}, Drawn: drawn("bars", "wave")},
		report.ChartPart{OfQuestion: of, Heading: titled("Dots"), Drawn: drawn("dots", "age band"), Table: true},
		report.ChartPart{OfQuestion: of, Heading: titled("Heat"), Drawn: drawn("heat", "route")},
		report.ChartPart{OfQuestion: of, Heading: titled("Lines"), Drawn: drawn("lines", "wave")},
		report.ChartPart{OfQuestion: of, Heading: titled("Table"), Drawn: drawn("table", `[["wave"],["route"]]`)},
		report.QuotesPart{OfQuestion: of, Heading: titled("Words"), Quotes: []report.Quote{{Respondent: 1}, {Respondent: 1_000_000}}},
		report.FindingPart{OfQuestion: of, Finding: report.Found{Category: s.Coding.Results[0].ID, Variable: "passenger type", Value: "Tourist"}},
		report.FindingPart{OfQuestion: of, Finding: report.Found{Category: "c999", Variable: "wave", Value: "Spring 2026"}},
		report.MethodPart{OfQuestion: of},
		report.ChartPart{OfQuestion: of, Heading: report.Heading{Title: "Often", Note: "Often noted."}, Drawn: chart.Design{Plan: chart.MeansQuery{Of: "recommend"}}},
		report.ChartPart{OfQuestion: of, Heading: titled("Network"), Drawn: chart.Design{Plan: chart.TogetherPlan{Measure: "both"}, Look: chart.Look{As: "network"}}, Table: true},
		report.ChartPart{OfQuestion: of, Heading: titled("Flow"), Drawn: chart.Design{Plan: chart.FlowQuery{}, Look: chart.Look{As: "flow"}}},
		report.ChartPart{OfQuestion: of, Heading: titled("Questions"), Drawn: chart.Design{Plan: chart.SideBySideQuery{Query: chart.Query{By: "route"}, Questions: `["` + demo.Change + `"]`}}},
		report.ChartPart{OfQuestion: of, Heading: titled("Matrix"), Drawn: chart.Design{Plan: chart.TogetherPlan{TogetherQuery: chart.TogetherQuery{With: "route"}}}},
	} {
		p, err := report.Fill(ctx, s, report.Block{BlockID: report.BlockID{ID: fmt.Sprint(i)}, Part: part})
		require.NoError(t, err)
		d.Sections = append(d.Sections, p)
	}
	require.NotNil(t, d.Sections[7].Content.(report.FindingContent).Found)
	require.NotEmpty(t, d.Sections[8].Problem)
	return d
}

// shares are the figures that a picture has: rows by the columns of its first nest.
func shares(c *chart.Chart) (columns, rows []string, out [][]float64) {
	var at []int
	for i, k := range c.Columns {
		if k.Nest == 0 {
			at, columns = append(at, i), append(columns, k.Name)
		}
	}
	for i, r := range c.Rows {
		if r.ID == "" {
			continue
		}
		rows = append(rows, strings.TrimSpace(r.Short+"  "+r.Name))
		var line []float64
		for _, k := range at {
			line = append(line, c.Cells[i][k].Share)
		}
		out = append(out, line)
	}
	return columns, rows, out
}

func parts(t *testing.T, file []byte) map[string][]byte {
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		require.NotContains(t, out, f.Name, "each part once")
		out[f.Name], err = io.ReadAll(r)
		require.NoError(t, err)
		if strings.HasSuffix(f.Name, ".xml") || strings.HasSuffix(f.Name, ".rels") {
			wellFormed(t, f.Name, out[f.Name])
		}
	}
	return out
}

func wellFormed(t *testing.T, name string, data []byte) {
	d := xml.NewDecoder(bytes.NewReader(data))
	for {
		if _, err := d.Token(); err == io.EOF {
			return
		} else {
			require.NoError(t, err, name)
		}
	}
}

// chartPart is a chart of an office file.
type chartPart struct {
	Series []struct {
		Name   string   `xml:"tx>strRef>strCache>pt>v"`
		Labels []string `xml:"cat>multiLvlStrRef>multiLvlStrCache>lvl>pt>v"`
		Plain  []string `xml:"cat>strRef>strCache>pt>v"`
		Values []string `xml:"val>numRef>numCache>pt>v"`
	} `xml:"chart>plotArea>barChart>ser"`
	Lines []struct {
		Name   string   `xml:"tx>strRef>strCache>pt>v"`
		Values []string `xml:"val>numRef>numCache>pt>v"`
	} `xml:"chart>plotArea>lineChart>ser"`
}

// holdChart holds the figures of a chart's part, and those of the workbook in it, against the table's.
func holdChart(t *testing.T, all map[string][]byte, dir string, n int, c *chart.Chart) {
	columns, rows, want := shares(c)
	name := fmt.Sprintf("%s/charts/chart%d.xml", dir, n)
	var part chartPart
	require.NoError(t, xml.Unmarshal(all[name], &part), name)
	require.Len(t, part.Series, len(columns), name)
	for k, s := range part.Series {
		require.Equal(t, columns[k], s.Name)
		require.Equal(t, rows, append(s.Labels, s.Plain...))
		for r, v := range s.Values {
			x, err := strconv.ParseFloat(v, 64)
			require.NoError(t, err)
			require.InDelta(t, want[r][k], x, 1e-12, "%s %s", rows[r], columns[k])
		}
	}
	target := regexp.MustCompile(`Target="\.\./(embeddings/[^"]+)"`).FindSubmatch(all[fmt.Sprintf("%s/charts/_rels/chart%d.xml.rels", dir, n)])
	require.NotNil(t, target)
	book, err := excelize.OpenReader(bytes.NewReader(all[dir+"/"+string(target[1])]))
	require.NoError(t, err)
	cells, err := book.GetRows(book.GetSheetName(0), excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	for r := range rows {
		for k := range columns {
			if want[r][k] == 0 && (len(cells[r+1]) <= k+1 || cells[r+1][k+1] == "") {
				continue // a cell of nothing is empty
			}
			x, err := strconv.ParseFloat(cells[r+1][k+1], 64)
			require.NoError(t, err)
			require.InDelta(t, want[r][k], x, 1e-12)
		}
	}
}

func words(xmlText []byte) string {
	var out strings.Builder
	d := xml.NewDecoder(bytes.NewReader(xmlText))
	for {
		token, err := d.Token()
		if err != nil {
			return out.String()
		}
		switch x := token.(type) {
		case xml.CharData:
			out.Write(x)
		case xml.EndElement:
			if x.Name.Local == "p" {
				out.WriteByte('\n')
			}
		}
	}
}

// A report is the same in every kind of file: its words as they are, and the figures of its tables.
func TestReportsAsFiles(t *testing.T) {
	s := ferries(t)
	d := sample(t, s)
	w := document.New()
	file := func(format string) []byte {
		out, err := w.Write(ctx, format, d)
		require.NoError(t, err, format)
		return out
	}
	in := func(i int) chart.Figures { return d.Sections[i].Content.(report.ChartContent).Figures.Figures }
	pictures := []*chart.Chart{tableIn(d.Sections[1]), tableIn(d.Sections[2]), tableIn(d.Sections[3]), tableIn(d.Sections[4])}
	figure := fmt.Sprintf("%.1f %%", 100*tableIn(d.Sections[5]).Cells[0][2].Share)
	quote := d.Sections[6].Content.(report.QuotesContent).Said[0].Text
	// What programs draw no chart of is a table there.
	means, flow, matrix := in(10).(chart.Means), in(12).(chart.Flow), in(14).(chart.Together)
	require.Positive(t, flow.Nodes[0].Both)
	tabled := []string{
		fmt.Sprintf("%.2f", means.Rows[1].With.Mean), fmt.Sprintf("%.3f", matrixTop(in(11).(chart.Together)).Jaccard),
		fmt.Sprint(flow.Nodes[0].Before - flow.Nodes[0].Both), fmt.Sprintf("%.1f", matrix.Pairs[0].Lift),
		fmt.Sprintf("%.1f %%", 100*in(13).(chart.SideBySide).Rows[0].Cells[0].Cells[1].Share), "Often noted", "not listed",
	}
	slanted := strings.ReplaceAll(nasty, "*", "") // in Markdown

	page := string(file("html"))
	assert.NotContains(t, page, "<script")
	assert.NotContains(t, page, "javascript:")
	assert.NotContains(t, regexp.MustCompile(`(src|href)="?[^"#]`).FindAllString(strings.ReplaceAll(page, `href="https://example.org`, ""), -1), "src=")
	assert.NotRegexp(t, `url\((?:"|')?(?:https?:|/)`, page, "it loads nothing")
	assert.Equal(t, len(pictures)+3, strings.Count(page, "<svg "), "no two meet surely more often: there is no network")
	assert.NotContains(t, page, "var(--color-c1)\"", "pictures carry their colours")
	for _, svg := range regexp.MustCompile(`(?s)<svg .*?</svg>`).FindAllString(page, -1) {
		wellFormed(t, "svg", []byte(svg))
	}
	assert.Contains(t, page, "&lt;script&gt;alert")
	assert.Contains(t, page, figure)

	md := string(file("markdown"))
	assert.Contains(t, md, figure)
	assert.Contains(t, md, `\<script\>`)
	net := func(side chart.MeanSide) string {
		return strings.ReplaceAll(fmt.Sprintf("%+.0f", 100*side.Net.Score), "-", "−")
	}
	assert.Contains(t, md, net(means.Rows[1].With)+" ("+net(means.Rows[1].Without)+")", "rounded as on the screen")
	for _, want := range tabled {
		assert.Contains(t, md, want)
	}
	assert.Contains(t, md, "- one **bold** one\n- two")

	text := parts(t, file("docx"))
	body := words(text["word/document.xml"])
	for _, want := range append(tabled, nasty, "Head "+slanted, quote, figure, "in the data no more", "can’t be shown", "said", "code <b>") {
		assert.Contains(t, body, want)
	}
	assert.NotContains(t, body, "\ue000")
	for i, c := range []*chart.Chart{pictures[0], pictures[1], pictures[2]} {
		holdChart(t, text, "word", i+1, c)
	}
	types := string(text["[Content_Types].xml"])
	for name := range text {
		if strings.HasPrefix(name, "word/charts/chart") {
			assert.Contains(t, types, `"/`+name+`"`)
		}
	}

	slides := parts(t, file("pptx"))
	told := ""
	for name, data := range slides {
		if strings.HasPrefix(name, "ppt/slides/slide") {
			told += words(data)
			for _, p := range regexp.MustCompile(`(?s)<a:p>.*?</a:p>`).FindAll(data, -1) {
				require.LessOrEqual(t, bytes.Count(p, []byte("<a:pPr")), 1, "%s", p)
			}
		}
	}
	for _, want := range append(tabled, "Head "+slanted, quote, figure, "two") {
		assert.Contains(t, told, want)
	}
	holdChart(t, slides, "ppt", 1, pictures[0])
	holdChart(t, slides, "ppt", 2, pictures[1]) // a heat table is a table
	var lines chartPart
	require.NoError(t, xml.Unmarshal(slides["ppt/charts/chart3.xml"], &lines))
	columns, rows, want := shares(pictures[3])
	require.NotEmpty(t, lines.Lines)
	for _, l := range lines.Lines {
		r := slices.Index(rows, l.Name)
		require.GreaterOrEqual(t, r, 0, l.Name)
		require.Len(t, l.Values, len(columns))
		for k, v := range l.Values {
			x, err := strconv.ParseFloat(v, 64)
			require.NoError(t, err)
			require.InDelta(t, want[r][k], x, 1e-12)
		}
	}
}

// matrixTop is the pair with most answers.
func matrixTop(t chart.Together) chart.TogetherPair {
	return slices.MaxFunc(t.Pairs, func(a, b chart.TogetherPair) int { return a.Both - b.Both })
}

// Writing ends with its caller, and one file has nothing of another.
func TestWritingEndsWithItsCaller(t *testing.T) {
	d := sample(t, ferries(t))
	w := document.New()
	left, leave := context.WithCancel(ctx)
	time.AfterFunc(50*time.Millisecond, leave)
	_, err := w.Write(left, "docx", d)
	require.ErrorIs(t, err, context.Canceled)
	_, err = w.Write(left, "html", d)
	require.ErrorIs(t, err, context.Canceled)
	first, err := w.Write(ctx, "markdown", d)
	require.NoError(t, err)
	_, err = w.Write(ctx, "markdown", report.Document{Name: "another", Style: report.UsualStyle(), Sections: []report.Section{}})
	require.NoError(t, err)
	again, err := w.Write(ctx, "markdown", d)
	require.NoError(t, err)
	assert.Equal(t, string(first), string(again))
}

func BenchmarkReportFiles(b *testing.B) {
	d := sample(b, ferries(b))
	w := document.New()
	for _, format := range []string{"html", "markdown", "pptx", "docx"} {
		b.Run(format, func(b *testing.B) {
			for b.Loop() {
				if _, err := w.Write(ctx, format, d); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

func tableIn(s report.Section) *chart.Chart {
	c := s.Content.(report.ChartContent).Figures.Figures.(chart.Chart)
	return &c
}
