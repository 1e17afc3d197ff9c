package files

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
)

// header is the first row.
func (t trial) header() []string {
	if len(t.rows) == 0 {
		return nil
	}
	return t.rows[0]
}

// names says whether the cells of a row are names of columns: short, different, and no data.
func names(row []string) bool {
	for _, c := range row {
		c = strings.TrimSpace(c)
		if c == "" || len(c) > 60 || isData(c) || strings.ContainsAny(c, ".!,") {
			return false
		}
	}
	return len(row) > 1 && distinct(row)
}

// recogniseHeader finds the rows above the table and those that name its columns.
func (g *Recognised) recogniseHeader(rows [][]string) {
	width := 0
	for _, r := range rows {
		width = max(width, len(trimRight(r)))
	}
	// A title stands alone in the first cell of its row.
	for width > 1 && g.Skip < len(rows)-2 && filledCells(rows[g.Skip]) == filledCells(rows[g.Skip][:min(1, len(rows[g.Skip]))]) {
		g.Skip++
	}
	if g.Skip > 0 {
		g.Because["skip"] = "nothing but the first cell is filled above the table"
	}
	rest := rows[g.Skip:]
	g.Headers = 1
	g.Because["headers"] = "each cell of the first row is a name"
	if len(rest) == 0 {
		return
	}
	for i, cell := range rest[0] {
		cell = strings.TrimSpace(cell)
		switch {
		case cell == "":
			continue
		case isData(cell) && !(len(rest) > 2 && numbersOnly(rest[0])):
			g.Headers, g.Because["headers"] = 0, fmt.Sprintf("the first row has %q in it, which is data", cell)
			return
		}
		for _, row := range rest[1:] {
			if i < len(row) && strings.TrimSpace(row[i]) == cell {
				g.Headers, g.Because["headers"] = 0, fmt.Sprintf("%q in the first row comes again below", cell)
				return
			}
		}
	}
	if len(rest) > 2 && fillsGaps(rest[0], rest[1], width) && !slices.ContainsFunc(rest[1], isData) && distinct(rest[1]) &&
		someData(rest[2:]) {
		g.Headers, g.Because["headers"] = 2, "the first row has gaps, as merged cells have, and the second is a row of names"
	}
}

func trimRight(row []string) []string {
	for len(row) > 0 && strings.TrimSpace(row[len(row)-1]) == "" {
		row = row[:len(row)-1]
	}
	return row
}

func filledCells(row []string) (n int) {
	for _, c := range row {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n
}

// fillsGaps says whether the upper row has gaps, and the lower a name for each of them.
func fillsGaps(upper, lower []string, width int) bool {
	gaps := 0
	for i := range width {
		if i >= len(upper) || strings.TrimSpace(upper[i]) == "" {
			gaps++
			if i >= len(lower) || strings.TrimSpace(lower[i]) == "" {
				return false
			}
		}
	}
	return gaps > 0
}

func distinct(row []string) bool {
	seen := map[string]bool{}
	for _, c := range row {
		if c = strings.TrimSpace(c); c != "" && seen[c] {
			return false
		}
		seen[c] = true
	}
	return true
}

func someData(rows [][]string) bool {
	return slices.ContainsFunc(rows, func(r []string) bool { return slices.ContainsFunc(r, isData) })
}

// numbersOnly says whether all names are whole numbers, as years or item numbers over columns are.
func numbersOnly(row []string) bool {
	for _, c := range row {
		if _, err := strconv.Atoi(strings.TrimSpace(c)); err != nil {
			return false
		}
	}
	return len(row) > 1 && distinct(row)
}

// isData says whether a cell is a number or a date: no name of a column.
func isData(cell string) bool {
	cell = strings.TrimSpace(cell)
	if _, err := strconv.ParseFloat(cell, 64); err == nil {
		return true
	}
	_, err := time.Parse(time.DateOnly, cell)
	return err == nil
}
