package files

import (
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"
)

// grid makes a table of rows of cells as they come: it takes the header off, brings all rows to one length, and hands
// them on. The first rows are held back until it is known how many columns there are.
type grid struct {
	recipe  Recipe
	to      Sink
	notes   *Notes
	rest    string // what joins cells too many to the last one
	held    [][]string
	heldAt  []int // their numbers
	columns []string
	row     int // rows that came so far, blank ones aside
	text    int // bytes in the cells that came so far
	holds   int // bytes in the cells that are held back
}

// heldRows is how many rows are looked at to know how many columns there are.
const heldRows = 200

// add takes the next row; the caller must not change it afterwards.
func (g *grid) add(cells []string) error {
	g.row++
	if g.row <= g.recipe.Skip {
		return nil
	}
	number := g.row + g.notes.Blank // as a spreadsheet numbers it
	size := len(cells)
	for _, c := range cells {
		size += len(c)
	}
	if g.text += size; g.text > maxText {
		return fmt.Errorf("%w: up to row %d its cells hold more than %d GiB; cut it into several", ErrFile, number, maxText>>30)
	}
	if g.columns == nil {
		g.held, g.heldAt = append(g.held, cells), append(g.heldAt, number)
		g.holds += size
		if len(g.held) < heldRows+g.recipe.Headers && (g.holds < maxLine || len(g.held) <= g.recipe.Headers) {
			return nil
		}
		return g.begin()
	}
	return g.pass(cells, number)
}

// end hands on what was held back.
func (g *grid) end() error {
	if g.columns == nil {
		return g.begin()
	}
	return nil
}

// begin names the columns: as many as the header has, or as most rows have where those are more.
func (g *grid) begin() error {
	headers := min(g.recipe.Headers, len(g.held))
	if len(g.held) == 0 {
		return fmt.Errorf("%w: it is empty", ErrFile)
	}
	width := usualWidth(g.held[headers:])
	for _, h := range g.held[:headers] {
		width = max(width, len(h))
	}
	if width > MaxColumns {
		return fmt.Errorf("%w: it has %d columns; at most %d can be read", ErrFile, width, MaxColumns)
	}
	names, err := g.name(g.held[:headers], width)
	if err != nil {
		return err
	}
	g.columns = names
	if err := g.to.Columns(names); err != nil {
		return err
	}
	for i, cells := range g.held[headers:] {
		if err := g.pass(cells, g.heldAt[headers+i]); err != nil {
			return err
		}
	}
	g.held, g.heldAt = nil, nil
	return nil
}

// usualWidth is the number of cells that most rows have.
func usualWidth(rows [][]string) int {
	counts, best := map[int]int{}, 0
	for _, r := range rows {
		counts[len(r)]++
	}
	for n, c := range counts {
		if c > counts[best] || c == counts[best] && n > best {
			best = n
		}
	}
	return best
}

// name makes the columns' names of the header rows. A blank cell in an upper row goes with the one to its left, as merged
// cells do; names from several rows are joined.
func (g *grid) name(headers [][]string, width int) ([]string, error) {
	taken := map[string]bool{} // a rule names a variable whatever its case
	out := make([]string, width)
	above := make([]string, len(headers))
	for i := range width {
		var parts []string
		for r, h := range headers {
			cell := ""
			if i < len(h) {
				cell = strings.TrimSpace(h[i])
			}
			if !utf8.ValidString(cell) {
				return nil, fmt.Errorf(
					"%w: row %d, column %d: the header is not UTF-8; choose another encoding", ErrFile, g.recipe.Skip+r+1, i+1,
				)
			}
			if r < len(headers)-1 {
				lowest := headers[len(headers)-1]
				named := i < len(lowest) && strings.TrimSpace(lowest[i]) != ""
				switch {
				case cell == "" && named:
					cell = above[r]
				case cell != "" && named:
					above[r] = cell
				case cell != "":
					above[r] = "" // it reaches down, not to the right
				}
			}
			if cell != "" && (len(parts) == 0 || parts[len(parts)-1] != cell) {
				parts = append(parts, cell)
			}
		}
		name := strings.Join(strings.Fields(strings.Join(parts, " / ")), " ")
		if name == "" {
			name = "column " + strconv.Itoa(i+1)
			if len(headers) > 0 {
				g.notes.Renamed = append(g.notes.Renamed, fmt.Sprintf("the %s column has no name; it is called %q", ordinal(i+1), name))
			}
		}
		given := name
		for n := 2; taken[strings.ToLower(name)]; n++ {
			name = fmt.Sprintf("%s (%d)", given, n)
		}
		taken[strings.ToLower(name)] = true
		if name != given {
			g.notes.Renamed = append(
				g.notes.Renamed, fmt.Sprintf("another column is called %q; the %s one is called %q", given, ordinal(i+1), name),
			)
		}
		out[i] = name
	}
	return out, nil
}

func ordinal(n int) string {
	suffix := "th"
	switch {
	case n%100/10 == 1:
	case n%10 == 1:
		suffix = "st"
	case n%10 == 2:
		suffix = "nd"
	case n%10 == 3:
		suffix = "rd"
	}
	return strconv.Itoa(n) + suffix
}

// pass checks a row, brings it to the table's length and hands it on.
func (g *grid) pass(cells []string, number int) error {
	width := len(g.columns)
	if q := g.recipe.Quotes; g.recipe.Format == Delimited && q != "none" && q != "lines" && swallows(cells, g.recipe.Delimiter, width) {
		if g.notes.Swallowed++; len(g.notes.SwallowedAt) < maxPlaces {
			g.notes.SwallowedAt = append(g.notes.SwallowedAt, number)
		}
	}
	switch n := len(cells); {
	case n < width:
		if g.recipe.Format != Sheet { // a workbook leaves blank cells at the end of a row out
			g.notes.Short++
			g.notes.place(number)
		}
		cells = append(make([]string, 0, width), cells...)[:width]
	case n > width:
		// Blank cells at the end are an export's habit, no answer.
		last := n
		for last > width && cells[last-1] == "" {
			last--
		}
		if last > width {
			g.notes.Long++
			g.notes.place(number)
			cells[width-1] = strings.Join(cells[width-1:last], g.rest)
		}
		cells = cells[:width]
	}
	for i, cell := range cells {
		if err := checkCell(cell); err != "" {
			return fmt.Errorf("%w: row %d, column %q: %s", ErrFile, number, g.columns[i], err)
		}
	}
	g.notes.Rows++
	if g.notes.Rows > MaxRows {
		return fmt.Errorf("%w: it has more than %d rows; cut it into several", ErrFile, MaxRows)
	}
	return g.to.Row(cells)
}

// checkCell says what is wrong with a cell, or nothing.
func checkCell(cell string) string {
	switch {
	case len(cell) > MaxCell:
		return fmt.Sprintf("the cell has %d bytes; at most %d can be read", len(cell), MaxCell)
	case strings.IndexByte(cell, 0) >= 0:
		return "the cell holds a zero byte; this may be no text file"
	case !utf8.ValidString(cell):
		return "the cell is not UTF-8; choose another encoding"
	}
	return ""
}
