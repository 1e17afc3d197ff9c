package export

import (
	"archive/zip"
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"iter"
	"slices"
	"strconv"
	"strings"

	"github.com/parquet-go/parquet-go"

	"aftermath/core/frame"
)

// Types are the media types of tables, by format.
var Types = map[string]string{
	"csv":  "text/csv; charset=utf-8",
	"xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}

// CodedFormat is a file that coded data is written as.
type CodedFormat struct {
	Name  string // as it is asked for, and as the name of a file ends
	Type  string // media type
	write func(c Coded, ctx context.Context, w io.Writer) error
}

// CodedFormats are all there are, the usual one first.
var CodedFormats = []CodedFormat{
	{"csv", Types["csv"], func(c Coded, ctx context.Context, w io.Writer) error { return Sheet(w, "csv", "coded", c.table(ctx)) }},
	{"xlsx", Types["xlsx"], func(c Coded, ctx context.Context, w io.Writer) error { return Sheet(w, "xlsx", "coded", c.table(ctx)) }},
	{"json", "application/json", func(c Coded, ctx context.Context, w io.Writer) error { return c.objects(ctx, w, true) }},
	{"ndjson", "application/x-ndjson", func(c Coded, ctx context.Context, w io.Writer) error { return c.objects(ctx, w, false) }},
	{"parquet", "application/vnd.apache.parquet", Coded.parquet},
}

// CodedFormatOf finds a format by its name.
func CodedFormatOf(name string) (CodedFormat, error) {
	var names []string
	for _, f := range CodedFormats {
		if f.Name == name {
			return f, nil
		}
		names = append(names, f.Name)
	}
	return CodedFormat{}, fmt.Errorf("there is no format %q; there are %s", name, strings.Join(names, ", "))
}

// Write writes coded data in a format, row by row. When ctx ends, what is written is not whole, and the error says so.
func (c Coded) Write(ctx context.Context, w io.Writer, format CodedFormat) error {
	return errors.Join(format.write(c, ctx, w), ctx.Err())
}

// table is the rows below their heads.
func (c Coded) table(ctx context.Context) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		var head []any
		for _, f := range c.Fields() {
			head = append(head, f.Name)
		}
		if !yield(head) {
			return
		}
		for row := range c.Rows(ctx) {
			if !yield(row) {
				return
			}
		}
	}
}

// objects writes an object for each row: in one list, or one a line.
func (c Coded) objects(ctx context.Context, w io.Writer, list bool) error {
	out := bufio.NewWriter(w)
	var names [][]byte
	for _, f := range c.Fields() {
		name, err := json.Marshal(f.Name)
		if err != nil {
			return err
		}
		names = append(names, append(name, ':'))
	}
	between, value := "", []byte{}
	if list {
		_, _ = out.WriteString("[") // the writer keeps the first error
	}
	for row := range c.Rows(ctx) {
		_, _ = out.WriteString(between)
		between = "\n"
		if list {
			between = ",\n"
		}
		_ = out.WriteByte('{')
		for i, cell := range row {
			if i > 0 {
				_ = out.WriteByte(',')
			}
			_, _ = out.Write(names[i])
			var err error
			switch x := cell.(type) {
			case nil:
				value = append(value[:0], "null"...)
			case int:
				value = strconv.AppendInt(value[:0], int64(x), 10)
			default:
				value, err = json.Marshal(cell)
			}
			if err != nil {
				return err
			}
			_, _ = out.Write(value)
		}
		if _, err := out.WriteString("}"); err != nil {
			return err
		}
	}
	if list {
		_, _ = out.WriteString("]")
	}
	_, _ = out.WriteString("\n")
	return out.Flush()
}

// rowGroup is how many rows of a Parquet file stand together: what is held in memory.
const rowGroup = 50_000

// ordered is a group of fields in the order of the file; parquet.Group has them by name.
type ordered struct {
	parquet.Group
	names []string
}

// Fields are the fields in their order.
func (o ordered) Fields() []parquet.Field {
	all := o.Group.Fields()
	out := make([]parquet.Field, len(o.names))
	for i, name := range o.names {
		out[i] = all[slices.IndexFunc(all, func(f parquet.Field) bool { return f.Name() == name })]
	}
	return out
}

func (c Coded) parquet(ctx context.Context, w io.Writer) error {
	fields := c.Fields()
	group := ordered{Group: parquet.Group{}}
	for _, f := range fields {
		node := parquet.String()
		switch f.Kind {
		case IntegerField:
			node = parquet.Leaf(parquet.Int32Type)
		case YesNoField:
			node = parquet.Leaf(parquet.BooleanType)
		}
		group.Group[f.Name] = parquet.Optional(parquet.Encoded(parquet.Compressed(node, &parquet.Snappy), &parquet.Plain))
		group.names = append(group.names, f.Name)
	}
	out := parquet.NewWriter(w, parquet.NewSchema("coded", group), parquet.MaxRowsPerRowGroup(rowGroup))
	var batch []parquet.Row
	for row := range c.Rows(ctx) {
		record := make(parquet.Row, len(fields))
		for i, cell := range row {
			record[i] = parquetValue(cell, fields[i].Kind).Level(0, defined(cell), i)
		}
		if batch = append(batch, record); len(batch) == 1000 {
			if _, err := out.WriteRows(batch); err != nil {
				return err
			}
			batch = batch[:0]
		}
	}
	if _, err := out.WriteRows(batch); err != nil {
		return err
	}
	return out.Close()
}

// defined is the definition level of a cell of an optional field.
func defined(cell any) int {
	if cell == nil {
		return 0
	}
	return 1
}

func parquetValue(cell any, kind string) parquet.Value {
	switch x := cell.(type) {
	case int:
		return parquet.Int32Value(int32(x)) //nolint:gosec // codes and rows are far below
	case string:
		if kind == YesNoField {
			return parquet.BooleanValue(x == "yes")
		}
		return parquet.ByteArrayValue([]byte(x))
	}
	return parquet.NullValue()
}

// Pack writes a ZIP file with coded data, a dictionary of its fields and of the categories, and, beside CSV, its metadata as the
// W3C's recommendation "Metadata Vocabulary for Tabular Data" has it.
func (c Coded) Pack(ctx context.Context, w io.Writer, format CodedFormat) error {
	pack := zip.NewWriter(w)
	name := "coded." + format.Name
	entry := func(name string, fill func(w io.Writer) error) error {
		to, err := pack.Create(name)
		if err != nil {
			return err
		}
		return fill(to)
	}
	err := errors.Join(
		entry(name, func(w io.Writer) error { return c.Write(ctx, w, format) }),
		entry("dictionary.csv", func(w io.Writer) error { return Sheet(w, "csv", "", c.dictionary()) }),
		entry("categories.csv", func(w io.Writer) error { return Sheet(w, "csv", "", categories(c.Coding)) }),
	)
	if err == nil && format.Name == "csv" {
		err = entry(name+"-metadata.json", func(w io.Writer) error {
			out := json.NewEncoder(w)
			out.SetIndent("", "  ")
			out.SetEscapeHTML(false)
			return out.Encode(c.metadata(name))
		})
	}
	return errors.Join(err, pack.Close())
}

// dictionary says what each field is.
func (c Coded) dictionary() iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		if !yield([]any{"field", "kind", "what it is"}) {
			return
		}
		for _, f := range c.Fields() {
			if !yield([]any{f.Name, f.Kind, f.About}) {
				return
			}
		}
	}
}

// categories lists the categories with their numbers.
func categories(coding *frame.Coding) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		if !yield([]any{"code", "category", "short code", "net", "note"}) {
			return
		}
		for _, r := range coding.Results {
			net := map[bool]string{true: "yes", false: "no"}[len(r.Children) > 0]
			if !yield([]any{r.Code, r.PathName(), r.Short, net, r.Note}) {
				return
			}
		}
	}
}

// metadata describes the CSV file and the list of categories beside it.
func (c Coded) metadata(url string) map[string]any {
	type object = map[string]any
	var columns, keys []any
	for i, f := range c.Fields() {
		datatype := any("string")
		switch f.Kind {
		case IntegerField:
			datatype = "integer"
		case YesNoField:
			datatype = object{"base": "boolean", "format": "yes|no"}
		}
		name := fmt.Sprint("field", i+1)
		columns = append(columns, object{
			"name": name, "titles": f.Name, "datatype": datatype, "dc:description": f.About, "required": false,
		})
		if f.Category {
			keys = append(keys, object{
				"columnReference": name, "reference": object{"resource": "categories.csv", "columnReference": "code"},
			})
		}
	}
	schema := object{"columns": columns}
	if keys != nil {
		schema["foreignKeys"] = keys
	}
	text := func(name, title string) object { return object{"name": name, "titles": title, "datatype": "string"} }
	return object{
		"@context": []any{"http://www.w3.org/ns/csvw", object{"@language": "en"}},
		"tables": []any{
			object{"url": url, "tableSchema": schema},
			object{"url": "categories.csv", "tableSchema": object{
				"primaryKey": "code",
				"columns": []any{
					object{"name": "code", "titles": "code", "datatype": "integer", "required": true}, text("category", "category"),
					text("short", "short code"), object{"name": "net", "titles": "net", "datatype": object{"base": "boolean", "format": "yes|no"}},
					text("note", "note"),
				},
			}},
		},
	}
}
