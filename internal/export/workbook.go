package export

import (
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/internal/view/chart"
)

// Workbook is tables as an XLSX file: a sheet each, with a chart, behind one of contents.
type Workbook struct {
	Study, Question string
	About           string // what the figures are of, in a sentence
	Tables          []chart.Chart
}

// Limits of the charts in a workbook: more can't be told apart.
const (
	mostBars   = 15
	mostSeries = 6
)

// Write writes the file.
func (b Workbook) Write(w io.Writer) error {
	f := excelize.NewFile()
	defer f.Close()
	styles, err := newStyles(f)
	if err != nil {
		return err
	}
	const contents = "Contents"
	if err := f.SetSheetName("Sheet1", contents); err != nil {
		return err
	}
	front := sheet{file: f, name: contents, styles: styles}
	front.put(1, 1, b.Study, styles.title)
	front.put(1, 2, b.Question, styles.plain)
	front.put(1, 3, b.About, styles.soft)
	front.width(1, 70)
	used := map[string]bool{strings.ToLower(contents): true}
	for i, c := range b.Tables {
		name := sheetName(fmt.Sprint(i+1, " ", by(c)), used)
		if _, err := f.NewSheet(name); err != nil {
			return err
		}
		s := &sheet{file: f, name: name, styles: styles}
		s.table(b, c)
		if s.err != nil {
			return s.err
		}
		front.put(1, 5+i, titleOf(c), styles.link)
		front.link(1, 5+i, "'"+strings.ReplaceAll(name, "'", "''")+"'!A1")
	}
	if front.err != nil {
		return front.err
	}
	_, err = f.WriteTo(w)
	return err
}

func titleOf(c chart.Chart) string {
	if len(c.Nests) == 0 {
		return "What was said"
	}
	return "What was said, by " + by(c)
}

// by names the segments of a table.
func by(c chart.Chart) string {
	var labels []string
	for _, n := range c.Nests {
		labels = append(labels, n.Label)
	}
	if len(labels) == 0 {
		return "all"
	}
	return strings.Join(labels, " and by ")
}

// sheetName is a name that a sheet may have and none has: up to 31 signs, and none of []:*?/\.
func sheetName(name string, used map[string]bool) string {
	clean := []rune(strings.Trim(strings.Map(func(r rune) rune {
		if strings.ContainsRune(`[]:*?/\`, r) {
			return '-'
		}
		return r
	}, name), "'"))
	for n := 1; ; n++ {
		end := ""
		if n > 1 {
			end = fmt.Sprintf(" (%d)", n)
		}
		out := string(clean[:min(len(clean), 31-len(end))]) + end
		if !used[strings.ToLower(out)] {
			used[strings.ToLower(out)] = true
			return out
		}
	}
}

// styles are the numbers of those in a file.
type styles struct {
	title, plain, soft, link, head, name, net, share, netShare, count, decimal, mark, small, note int
}

const ink = "23261F"

func newStyles(f *excelize.File) (s styles, err error) {
	make := func(to *int, style excelize.Style) {
		if err == nil {
			*to, err = f.NewStyle(&style)
		}
	}
	const soft, rule = "6B6A5E", "B9B39F"
	line := []excelize.Border{{Type: "bottom", Color: rule, Style: 1}}
	right := &excelize.Alignment{Horizontal: "right", Vertical: "bottom", WrapText: true}
	one, two := "0.0%", "0.00"
	make(&s.title, excelize.Style{Font: &excelize.Font{Size: 15, Bold: true, Color: ink}})
	make(&s.plain, excelize.Style{Font: &excelize.Font{Color: ink}})
	make(&s.soft, excelize.Style{Font: &excelize.Font{Color: soft}, Alignment: &excelize.Alignment{Vertical: "top"}})
	make(&s.note, excelize.Style{
		Font: &excelize.Font{Color: soft}, Alignment: &excelize.Alignment{Vertical: "top", WrapText: true},
	})
	make(&s.link, excelize.Style{Font: &excelize.Font{Color: "3E5C3A", Underline: "single"}})
	make(&s.head, excelize.Style{Font: &excelize.Font{Bold: true, Color: ink}, Alignment: right, Border: line})
	make(&s.name, excelize.Style{Font: &excelize.Font{Color: ink}})
	make(&s.net, excelize.Style{Font: &excelize.Font{Bold: true, Color: ink}})
	make(&s.share, excelize.Style{Font: &excelize.Font{Color: ink}, CustomNumFmt: &one})
	make(&s.netShare, excelize.Style{Font: &excelize.Font{Bold: true, Color: ink}, CustomNumFmt: &one})
	make(&s.small, excelize.Style{Font: &excelize.Font{Italic: true, Color: soft}, CustomNumFmt: &one})
	make(&s.count, excelize.Style{Font: &excelize.Font{Color: soft}, NumFmt: 3})
	make(&s.decimal, excelize.Style{Font: &excelize.Font{Color: soft}, CustomNumFmt: &two})
	make(&s.mark, excelize.Style{Font: &excelize.Font{Color: "B3542E", Size: 9}})
	return s, err
}

// sheet is one that is being written; the first error stays.
type sheet struct {
	file   *excelize.File
	name   string
	styles styles
	err    error
}

func at(column, row int) string {
	name, err := excelize.CoordinatesToCellName(column, row)
	if err != nil {
		panic(err) // columns and rows are counted from 1
	}
	return name
}

// put writes a cell; a text is never run as a formula.
func (s *sheet) put(column, row int, value any, style int) {
	if s.err == nil {
		s.err = s.file.SetCellValue(s.name, at(column, row), value)
	}
	if s.err == nil {
		s.err = s.file.SetCellStyle(s.name, at(column, row), at(column, row), style)
	}
}

func (s *sheet) link(column, row int, to string) {
	if s.err == nil {
		s.err = s.file.SetCellHyperLink(s.name, at(column, row), to, "Location")
	}
}

func (s *sheet) width(column int, width float64) {
	name, _ := excelize.ColumnNumberToName(column)
	if s.err == nil {
		s.err = s.file.SetColWidth(s.name, name, name, width)
	}
}

// table writes a table: for each of its columns one with the share and one with the marks of tests; answers stand below, then the
// chart and what has to be said.
func (s *sheet) table(b Workbook, c chart.Chart) {
	st := s.styles
	s.put(1, 1, titleOf(c), st.title)
	s.put(1, 2, b.Question, st.plain)
	s.put(1, 3, b.About, st.soft)
	s.width(1, nameWidth)
	head := s.heads(c, 5)
	row := head
	for r, line := range c.Rows {
		row++
		s.line(c, r, line, row)
	}
	last := row
	row += 2
	s.put(1, row, "Answers, not weighted", st.net)
	for r, line := range c.Rows {
		row++
		s.put(1, row, nameIn(line), st.name)
		for i, cell := range c.Cells[r] {
			s.put(2+2*i, row, cell.Answers, st.count)
		}
	}
	row += 2
	for _, note := range c.Notes {
		s.note(row, 1+2*len(c.Columns), note)
		row++
	}
	s.chart(c, head, last, row+1)
	s.onPaper()
	if s.err == nil {
		s.err = s.file.SetPanes(s.name, &excelize.Panes{
			Freeze: true, XSplit: 1, YSplit: head, TopLeftCell: at(2, head+1), ActivePane: "bottomRight",
		})
	}
}

// note writes a text across the first columns of a row, as high as it takes.
func (s *sheet) note(row, columns int, text string) {
	columns = min(columns, 13)
	s.put(1, row, text, s.styles.note)
	letters := nameWidth + (columns-1)/2*(headWidth+markWidth)
	if s.err == nil {
		s.err = s.file.MergeCell(s.name, at(1, row), at(columns, row))
	}
	if s.err == nil {
		s.err = s.file.SetRowHeight(s.name, row, 15*float64(min(20, wrapped(text, letters))))
	}
}

// onPaper has the sheet printed across, as wide as a page.
func (s *sheet) onPaper() {
	across, wide, high, fit := "landscape", 1, 0, true
	if s.err == nil {
		s.err = s.file.SetPageLayout(s.name, &excelize.PageLayoutOptions{Orientation: &across, FitToWidth: &wide, FitToHeight: &high})
	}
	if s.err == nil {
		s.err = s.file.SetSheetProps(s.name, &excelize.SheetPropsOptions{FitToPage: &fit})
	}
}

// heads writes the heads of the columns from a row on, and gives the last of their rows.
func (s *sheet) heads(c chart.Chart, row int) int {
	st, depth := s.styles, 1
	for _, n := range c.Nests {
		depth = max(depth, len(n.Variables))
	}
	values, letters := row+1, row+1+depth
	s.put(1, letters, "", st.head)
	for k := range depth {
		s.high(values+k, c, k-depth)
	}
	for i, column := range c.Columns {
		at := 2 + 2*i
		s.width(at, headWidth)
		s.width(at+1, markWidth)
		if column.Nest >= 0 && (i == 1 || c.Columns[i-1].Nest != column.Nest) {
			s.put(at, row, c.Nests[column.Nest].Label, st.net)
		}
		for k, value := range column.Values {
			s.put(at, values+depth-len(column.Values)+k, value, st.head)
		}
		if column.Nest < 0 {
			s.put(at, values+depth-1, column.Name, st.head)
		}
		s.put(at, letters, column.Letter, st.head)
		s.put(at+1, letters, "", st.head)
	}
	row = letters
	bases := []struct {
		name  string
		value func(b crosstab.Base) float64
	}{{"Base: " + baseWord(c), func(b crosstab.Base) float64 { return float64(b.Answers) }}}
	if c.Weighted {
		bases = append(bases, struct {
			name  string
			value func(b crosstab.Base) float64
		}{"Effective base", func(b crosstab.Base) float64 { return b.Effective }})
	}
	for _, base := range bases {
		row++
		s.put(1, row, base.name, st.soft)
		for i, b := range c.Bases {
			s.put(2+2*i, row, base.value(b), st.count)
			if b.Answers < c.Small {
				s.put(3+2*i, row, "small", st.mark)
			}
		}
	}
	row++
	s.put(1, row, "Mean number of categories", st.soft)
	for i, m := range c.Mean {
		s.put(2+2*i, row, m.Value, st.decimal)
	}
	return row
}

// Widths of columns, in letters: of names, of shares, of marks.
const (
	nameWidth = 38
	headWidth = 11
	markWidth = 7
)

// high makes a line of heads as high as its longest value takes; place counts from the innermost, which is -1.
func (s *sheet) high(row int, c chart.Chart, place int) {
	lines := 1
	for _, column := range c.Columns {
		if at := len(column.Values) + place; at >= 0 {
			lines = max(lines, wrapped(column.Values[at], headWidth-1))
		}
	}
	if lines > 1 && s.err == nil {
		s.err = s.file.SetRowHeight(s.name, row, 15*float64(min(lines, 8)))
	}
}

// wrapped is how many lines a text takes in so many letters.
func wrapped(text string, width int) int {
	lines, room := 0, 0
	for _, word := range strings.Fields(text) {
		size := utf8.RuneCountInString(word)
		if size+1 > room {
			lines += 1 + (size-1)/width
			room = width - (size-1)%width
			continue
		}
		room -= size + 1
	}
	return max(1, lines)
}

// nameIn is the name of a row, drawn in below its nets.
func nameIn(row chart.Row) string { return strings.Repeat("   ", row.Depth) + row.Name }

// line writes the shares of a row.
func (s *sheet) line(c chart.Chart, r int, line chart.Row, row int) {
	st := s.styles
	name, share := st.name, st.share
	if line.Depth == 0 {
		name, share = st.net, st.netShare
	}
	s.put(1, row, nameIn(line), name)
	for i, cell := range c.Cells[r] {
		base := c.Bases[i].Answers
		switch {
		case base < c.Tiny:
			s.put(2+2*i, row, "–", st.small)
			continue
		case base < c.Small:
			s.put(2+2*i, row, cell.Share, st.small)
		default:
			s.put(2+2*i, row, cell.Share, share)
		}
		s.put(3+2*i, row, marks(c, cell), st.mark)
	}
}

// marks are those of the tests of a cell.
func marks(c chart.Chart, cell crosstab.Cell) string {
	out := c.Letters(cell)
	if cell.Rest.Tested && cell.Rest.Adjusted < crosstab.Sure {
		out += map[bool]string{true: " ▲", false: " ▼"}[cell.Rest.Z > 0]
	}
	return strings.TrimSpace(out)
}

// chart draws bars of the first rows by the first segment, or by the total.
func (s *sheet) chart(c chart.Chart, head, last, row int) {
	bars := slices.IndexFunc(c.Rows, func(r chart.Row) bool { return r.Kind != chart.RowCategory && r.Kind != chart.RowValue })
	if bars < 0 {
		bars = len(c.Rows)
	}
	bars = min(bars, mostBars)
	if bars == 0 || s.err != nil {
		return
	}
	from, to := 0, 1
	if len(c.Columns) > 1 {
		for from, to = 1, 1; to < len(c.Columns) && c.Columns[to].Group == c.Columns[1].Group && to-from < mostSeries; {
			to++
		}
	}
	quoted := "'" + strings.ReplaceAll(s.name, "'", "''") + "'!"
	cells := func(column int) string {
		name, _ := excelize.ColumnNumberToName(column)
		return fmt.Sprintf("%s$%s$%d:$%s$%d", quoted, name, head+1, name, min(head+bars, last))
	}
	title := "Share of answers"
	if bars == mostBars {
		title = fmt.Sprintf("Share of answers, the first %d rows", bars)
	}
	drawn := &excelize.Chart{
		Type: excelize.Bar, Title: excelize.ChartTitle{Paragraph: []excelize.RichTextRun{{Text: title}}},
		Dimension: excelize.ChartDimension{Width: 760, Height: uint(140 + bars*(12+14*(to-from)))},
		XAxis:     excelize.ChartAxis{ReverseOrder: true, Font: excelize.Font{Color: ink}},
		YAxis:     excelize.ChartAxis{NumFmt: excelize.ChartNumFmt{CustomNumFmt: "0%"}, Font: excelize.Font{Color: ink}},
		Legend:    excelize.ChartLegend{Position: "bottom"},
	}
	for i := from; i < to; i++ {
		drawn.Series = append(drawn.Series, excelize.ChartSeries{
			Name:       quoted + "$" + strings.TrimRight(at(2+2*i, 1), "1") + "$" + fmt.Sprint(s.valueRow(c)),
			Categories: cells(1), Values: cells(2 + 2*i),
			Fill: excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{strings.TrimPrefix(frame.Colours[(i-from)%len(frame.Colours)], "#")}},
		})
	}
	s.err = s.file.AddChart(s.name, at(1, row), drawn)
}

// valueRow is the row in which the innermost values of the columns stand.
func (s *sheet) valueRow(c chart.Chart) int {
	depth := 1
	for _, n := range c.Nests {
		depth = max(depth, len(n.Variables))
	}
	return 5 + depth
}
