// Package export writes coded data and tables as files. The application and the command line both use it.
package export

import (
	"context"
	"fmt"
	"iter"
	"strconv"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/corpus"
	"aftermath/core/frame"
	"aftermath/core/text"
)

// Data is what comes out again with the coding: columns as they came in.
type Data struct {
	Columns []string
	Cell    func(row, column int) string
	ID      int // column that names the respondent, -1 for none
	Text    int // column of the answers, -1 if they stay out
	// Decisions say which categories were put on since they are likely, unread.
	Decisions frame.Decisions
}

// Shapes of coded data.
const (
	Wide     = "wide"     // a column per category
	Mentions = "mentions" // a column for each category that an answer has, with its number
	Long     = "long"     // a row per answer and category
)

// Shapes lists the shapes.
var Shapes = []string{Wide, Mentions, Long}

// What the cells of a category hold, in the wide shape.
const (
	Digits = "digits" // 1 and 0
	YesNo  = "yesno"  // yes and no
	Labels = "labels" // its name, or nothing
)

// Coded is coded data, in one of its shapes.
type Coded struct {
	Data
	Index  *corpus.Index
	Coding *frame.Coding
	Shape  string // wide if empty
	Values string // of the wide shape; digits if empty
}

// Kinds of fields.
const (
	TextField    = "text"
	IntegerField = "integer"
	YesNoField   = "yes or no"
)

// Field is a column of coded data. Cells are a string or, in integer fields, an int; nil is blank.
type Field struct {
	Name     string
	Kind     string
	About    string // what it is, in a sentence
	Category bool   // it holds numbers of categories
}

// suggested heads the column that says so, which is there only if there are any.
const suggested = "suggested, unread"

// anySuggested says whether a coding has categories that were put on unread.
func (d Data) anySuggested() bool {
	for _, set := range d.Decisions.Suggested {
		if !set.IsEmpty() {
			return true
		}
	}
	return false
}

// Fields are the columns, each with a name of its own.
func (c Coded) Fields() []Field {
	var out []Field
	add := func(f Field) { out = append(out, f) }
	column := func(i int) { add(Field{Name: c.Columns[i], Kind: TextField, About: "as it came in"}) }
	switch c.Shape {
	case Long:
		if c.ID >= 0 {
			column(c.ID)
		} else {
			add(Field{Name: "row", Kind: IntegerField, About: "row of the data, from 1"})
		}
		if c.Text >= 0 {
			column(c.Text)
		}
		add(Field{Name: "category", Kind: TextField, About: "a category that the answer has, with the nets that it stands in"})
		add(Field{Name: "code", Kind: IntegerField, About: "its number", Category: true})
	default:
		for i := range c.Columns {
			column(i)
		}
	}
	switch c.Shape {
	case Long:
	case Mentions:
		for i := range c.most() {
			add(Field{
				Name: fmt.Sprint("mention ", i+1), Kind: IntegerField, Category: true,
				About: "number of a category that the answer has; blank where it has no more",
			})
		}
	default:
		kind := map[string]string{Digits: IntegerField, YesNo: YesNoField, Labels: TextField}[c.values()]
		for _, r := range c.Coding.Results {
			add(Field{Name: r.PathName(), Kind: kind, About: aboutCategory(r, c.values())})
		}
	}
	if c.anySuggested() {
		add(Field{Name: suggested, Kind: TextField, About: map[string]string{
			Long: "1 where the category was put on since it is likely, and nobody has read it",
		}[c.Shape]})
		if c.Shape != Long {
			out[len(out)-1].About = "categories that were put on since they are likely, and that nobody has read"
		}
	}
	used := map[string]bool{}
	for i, f := range out {
		for n := 2; used[out[i].Name]; n++ {
			out[i].Name = fmt.Sprintf("%s (%d)", f.Name, n)
		}
		used[out[i].Name] = true
	}
	return out
}

func (c Coded) values() string {
	if c.Values == "" {
		return Digits
	}
	return c.Values
}

// aboutCategory says what a category's column holds.
func aboutCategory(r *frame.Result, values string) string {
	about := map[string]string{
		Digits: "1 where the answer has the category, 0 where not", YesNo: "whether the answer has the category",
		Labels: "the category, where the answer has it",
	}[values] + "; blank where there is no answer"
	if r.Note != "" {
		about += ". " + strings.Join(strings.Fields(r.Note), " ")
	}
	return about
}

// most is how many categories an answer has at most; what a net has only since a category in it has it does not count twice.
func (c Coded) most() (most int) {
	counts := make([]uint16, c.Index.Len())
	for _, r := range c.Coding.Results {
		for it := r.Carries().Iterator(); it.HasNext(); {
			i := it.Next()
			counts[i]++
			most = max(most, int(counts[i]))
		}
	}
	return most
}

// cursor goes through a set along with the rows.
type cursor struct {
	it   roaring.IntPeekable
	next int64 // the next row of the set that was not asked for yet
}

// has says whether a row is in the set; rows are asked for one after the other, from the first.
func (c *cursor) has(row uint32) bool {
	if int64(row) != c.next {
		return false
	}
	c.move()
	return true
}

func (c *cursor) move() {
	c.next = -1
	if c.it.HasNext() {
		c.next = int64(c.it.Next())
	}
}

func cursorOf(set *roaring.Bitmap) *cursor {
	c := &cursor{it: set.Iterator()}
	c.move()
	return c
}

// Rows are the rows, in the order of the data. A row holds until the next is asked for. They end early when ctx does.
func (c Coded) Rows(ctx context.Context) iter.Seq[[]any] {
	if c.Shape == Long {
		return c.long(ctx)
	}
	return c.wide(ctx)
}

func (c Coded) wide(ctx context.Context) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		width := len(c.Fields())
		sets, marks := c.marks()
		missing := cursorOf(c.Index.Status(text.Missing))
		marked := c.anySuggested()
		row := make([]any, width)
		for i := range uint32(c.Index.Len()) {
			if i%1024 == 0 && ctx.Err() != nil {
				return
			}
			clear(row)
			for j := range c.Columns {
				row[j] = c.Cell(int(i), j)
			}
			at := len(c.Columns)
			if !missing.has(i) {
				for j, set := range sets {
					yes := set.has(i)
					switch {
					case c.Shape != Mentions:
						if row[at+j] = marks[j][0]; yes {
							row[at+j] = marks[j][1]
						}
					case yes:
						row[at] = c.Coding.Results[j].Code
						at++
					}
				}
			}
			if marked {
				row[width-1] = c.suggestedNames(i)
			}
			if !yield(row) {
				return
			}
		}
	}
}

// marks are the answers of each category, and what its cell holds without and with it.
func (c Coded) marks() (sets []*cursor, marks [][2]any) {
	for _, r := range c.Coding.Results {
		if c.Shape == Mentions {
			sets = append(sets, cursorOf(r.Carries()))
			continue
		}
		sets = append(sets, cursorOf(r.Answers))
		mark := map[string][2]any{
			Digits: {0, 1}, YesNo: {"no", "yes"}, Labels: {"", r.PathName()},
		}[c.values()]
		marks = append(marks, mark)
	}
	return sets, marks
}

func (c Coded) suggestedNames(row uint32) string {
	var names []string
	for _, r := range c.Coding.Results {
		if c.Decisions.Suggests(r.ID, row) {
			names = append(names, r.PathName())
		}
	}
	return strings.Join(names, "; ")
}

func (c Coded) long(ctx context.Context) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		var sets []*cursor
		for _, r := range c.Coding.Results {
			sets = append(sets, cursorOf(r.Answers))
		}
		marked := c.anySuggested()
		for i := range uint32(c.Index.Len()) {
			if i%1024 == 0 && ctx.Err() != nil {
				return
			}
			for j, r := range c.Coding.Results {
				if !sets[j].has(i) {
					continue
				}
				row := []any{any(int(i) + 1)}
				if c.ID >= 0 {
					row[0] = c.Cell(int(i), c.ID)
				}
				if c.Text >= 0 {
					row = append(row, c.Cell(int(i), c.Text))
				}
				row = append(row, r.PathName(), r.Code)
				if marked {
					row = append(row, map[bool]any{true: "1", false: ""}[c.Decisions.Suggests(r.ID, i)])
				}
				if !yield(row) {
					return
				}
			}
		}
	}
}

// plainCell is a cell as CSV has it.
func plainCell(cell any) string {
	switch x := cell.(type) {
	case nil:
		return ""
	case string:
		return x
	case int:
		return strconv.Itoa(x)
	case float64:
		return plain(x)
	}
	return fmt.Sprint(cell)
}
