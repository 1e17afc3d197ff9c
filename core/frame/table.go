package frame

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Columns of a frame as a table. A category is one row; several rules stand in one cell, one per line.
var Columns = []string{"code", "key", "net", "name", "note", "rules", "unless", "resting", "alone", "off", "colour"}

// Table gives the frame as rows, the first with the names of the columns.
func (f Frame) Table() [][]string {
	rows := [][]string{Columns}
	for p := range f.All() {
		row := []string{strconv.Itoa(p.Code), p.Short, pathText(p.Path[:len(p.Path)-1]), p.Name, p.Note,
			strings.Join(p.Rules, "\n"), strings.Join(p.Unless, "\n"), strings.Join(p.Resting, "\n"), yes(p.Alone), yes(p.Off), ""}
		if p.Colour > 0 {
			row[10] = strconv.Itoa(p.Colour)
		}
		rows = append(rows, row)
	}
	return rows
}

func yes(b bool) string {
	if b {
		return "yes"
	}
	return ""
}

// pathText writes a path so that names with a stroke in them can be told from two names: they stand in quotes, and a quote
// in a name is written twice.
func pathText(path []string) string {
	out := make([]string, len(path))
	for i, name := range path {
		if strings.ContainsAny(name, `/"`) {
			name = `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
		}
		out[i] = name
	}
	return strings.Join(out, " / ")
}

func splitPath(text string) (path []string) {
	var name strings.Builder
	quotes := false
	add := func() {
		if s := strings.TrimSpace(name.String()); s != "" {
			path = append(path, s)
		}
		name.Reset()
	}
	before := ' '
	for _, c := range text {
		switch {
		case c == '"':
			if quotes = !quotes; quotes && before == '"' { // two of them in quotes are one of the name
				name.WriteRune(c)
			}
		case c == '/' && !quotes:
			add()
		default:
			name.WriteRune(c)
		}
		before = c
	}
	add()
	return path
}

// FromTable reads a frame from rows as Table gives them. Columns are found by their names in the first row, in any order;
// only "name" must be there. Nets that have no row of their own are made. An error names the row, counted from 1.
func FromTable(rows [][]string) (Frame, error) {
	if len(rows) == 0 {
		return nil, fmt.Errorf("%w: the table is empty", ErrFrame)
	}
	at := map[string]int{}
	for i, name := range rows[0] {
		name = strings.ToLower(strings.TrimSpace(name))
		if !slices.Contains(Columns, name) {
			return nil, fmt.Errorf("%w: there is no column %q; there are %s", ErrFrame, name, strings.Join(Columns, ", "))
		}
		at[name] = i
	}
	if _, ok := at["name"]; !ok {
		return nil, fmt.Errorf("%w: the column \"name\" is missing", ErrFrame)
	}
	f := Frame{}
	filled := map[string]bool{} // paths that had a row of their own
	for i, row := range rows[1:] {
		cell := func(column string) string {
			if c, ok := at[column]; ok && c < len(row) {
				return strings.TrimSpace(row[c])
			}
			return ""
		}
		fail := func(format string, args ...any) (Frame, error) {
			return nil, fmt.Errorf("%w: row %d: "+format, append([]any{ErrFrame, i + 2}, args...)...)
		}
		if strings.Join(row, "") == "" {
			continue
		}
		c := Category{Name: cell("name"), Short: cell("key"), Note: cell("note"), Rules: lines(cell("rules")), Unless: lines(cell("unless")), Resting: lines(cell("resting"))}
		if c.Name == "" {
			return fail("the category has no name")
		}
		for column, to := range map[string]*int{"code": &c.Code, "colour": &c.Colour} {
			if text := cell(column); text != "" {
				n, err := strconv.Atoi(text)
				if err != nil {
					return fail("%q is no whole number for %s", text, column)
				}
				*to = n
			}
		}
		for column, to := range map[string]*bool{"alone": &c.Alone, "off": &c.Off} {
			switch strings.ToLower(cell(column)) {
			case "yes":
				*to = true
			case "", "no":
			default:
				return fail("%s is yes or no, not %q", column, cell(column))
			}
		}
		path := append(splitPath(cell("net")), c.Name)
		key := strings.ToLower(strings.Join(path, "\n"))
		if filled[key] {
			return fail("%q stands there twice", pathText(path))
		}
		filled[key] = true
		to := f.make(path)
		c.Children = to.Children
		*to = c
	}
	return f, f.Check()
}

func lines(cell string) (out []string) {
	for line := range strings.Lines(cell) {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// make gives the category at a path, made with its nets where it is not there.
func (f *Frame) make(path []string) *Category {
	i := slices.IndexFunc(*f, func(c Category) bool { return strings.EqualFold(c.Name, path[0]) })
	if i < 0 {
		*f = append(*f, Category{Name: path[0]})
		i = len(*f) - 1
	}
	if len(path) == 1 {
		return &(*f)[i]
	}
	return (*Frame)(&(*f)[i].Children).make(path[1:])
}
