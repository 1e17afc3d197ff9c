package frame

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"aftermath/core/naming"
)

// fieldColumn begins the name of a column with the values of a field, so that a misspelt name of another column is no field.
const fieldColumn = "field: "

// Columns of a frame as a table. A category is one row; several rules stand in one cell, one per line. Behind them stands a column
// for each field.
var Columns = []string{"code", "key", "net", "name", "note", "rules", "unless", "resting", "alone", "off", "colour"}

// Table gives the frame as rows, the first with the names of the columns.
func (f Frame) Table(fields Fields) [][]string {
	head := slices.Clone(Columns)
	for _, field := range fields {
		head = append(head, fieldColumn+field.Name)
	}
	rows := [][]string{head}
	for p := range f.All() {
		row := []string{strconv.Itoa(p.Code), p.Short, naming.Path(p.Path[:len(p.Path)-1]), p.Name, p.Note,
			strings.Join(p.Rules, "\n"), strings.Join(p.Unless, "\n"), strings.Join(p.Resting, "\n"), yes(p.Alone), yes(p.Off), ""}
		if p.Colour > 0 {
			row[10] = strconv.Itoa(p.Colour)
		}
		for _, field := range fields {
			row = append(row, p.Fields[field.Name])
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

// FromTable reads a frame from rows as Table gives them. Columns are found by their names in the first row, in any order;
// only "name" must be there. Nets that have no row of their own are made. A field that is among those known has its type, any other
// holds text; the fields of the table are given back. An error names the row, counted from 1.
func FromTable(rows [][]string, known Fields) (Frame, Fields, error) {
	if len(rows) == 0 {
		return nil, nil, fmt.Errorf("%w: the table is empty", ErrFrame)
	}
	at := map[string]int{}
	var fields Fields
	for i, name := range rows[0] {
		if field, is := fieldOf(name, known); is {
			fields = append(fields, field)
			at[fieldColumn+field.Name] = i
			continue
		}
		name = strings.ToLower(strings.TrimSpace(name))
		if !slices.Contains(Columns, name) {
			return nil, nil, fmt.Errorf(
				"%w: there is no column %q; there are %s, and “%sPriority” for a field Priority", ErrFrame, name,
				strings.Join(Columns, ", "), fieldColumn,
			)
		}
		at[name] = i
	}
	if _, ok := at["name"]; !ok {
		return nil, nil, fmt.Errorf("%w: the column \"name\" is missing", ErrFrame)
	}
	if err := fields.Check(nil); err != nil {
		return nil, nil, err
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
		fail := func(format string, args ...any) (Frame, Fields, error) {
			return nil, nil, fmt.Errorf("%w: row %d: "+format, append([]any{ErrFrame, i + 2}, args...)...)
		}
		if strings.Join(row, "") == "" {
			continue
		}
		c := Category{
			Name:    cell("name"),
			Short:   cell("key"),
			Note:    cell("note"),
			Rules:   lines(cell("rules")),
			Unless:  lines(cell("unless")),
			Resting: lines(cell("resting")),
		}
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
		for _, field := range fields {
			if err := c.Set(field, cell(fieldColumn+field.Name)); err != nil {
				return nil, nil, fmt.Errorf("row %d: %w", i+2, err)
			}
		}
		var path []string
		if net := cell("net"); net != "" {
			above, ok := naming.ParsePath(net)
			if !ok {
				return fail(
					"%q is no path of nets; write People / Crew, with quotes around a name that holds a stroke, and a quote in a name twice",
					net,
				)
			}
			path = above
		}
		path = append(path, c.Name)
		key := strings.ToLower(strings.Join(path, "\n"))
		if filled[key] {
			return fail("%q stands there twice", naming.Path(path))
		}
		filled[key] = true
		to := f.make(path)
		c.Children = to.Children
		*to = c
	}
	return f, fields, f.Check()
}

// fieldOf gives the field whose values stand in a column, by the name of the column: false where it is none of a field.
func fieldOf(column string, known Fields) (Field, bool) {
	before, name, is := strings.Cut(column, ":")
	if !is || !strings.EqualFold(strings.TrimSpace(before)+": ", fieldColumn) {
		return Field{}, false
	}
	name = strings.TrimSpace(name)
	if field, there := known.Find(name); there {
		return field, true
	}
	return Field{FieldName{name}, TextField{}}, true
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
