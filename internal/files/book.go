package files

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
)

// book is a workbook: sheets of rows of cells, as texts.
type book interface {
	sheets() []string
	// eachRow gives the rows of a sheet; the cells may be kept.
	eachRow(sheet string, visit func(cells []string) error) error
	io.Closer
}

// openBook opens a workbook, whichever of the kinds that are read it is. Its reading stops when the caller has left.
func openBook(ctx context.Context, path string) (b book, err error) {
	a, err := openArchive(path)
	if err != nil {
		return nil, err
	}
	parts := map[string]bool{}
	for _, f := range a.File {
		top, _, _ := strings.Cut(f.Name, "/")
		parts[top] = true
	}
	switch {
	case parts["content.xml"]:
		b, err = openODS(ctx, a)
	case parts["xl"] || parts["[Content_Types].xml"] && !parts["word"] && !parts["ppt"]:
		b, err = openXLSX(ctx, a)
	default:
		err = fmt.Errorf("%w: %s", ErrFile, otherKind(parts))
	}
	if err != nil {
		return nil, errors.Join(err, a.Close())
	}
	return b, nil
}

// otherKind says what a packed file is that is no workbook, with what to do.
func otherKind(parts map[string]bool) string {
	switch {
	case parts["word"]:
		return "this is a word processor's document (DOCX); save it as plain text"
	case parts["ppt"]:
		return "these are slides (PPTX); copy the answers out of them"
	}
	return "this file is packed (ZIP); unpack it first, and choose the file in it"
}

func readSheet(ctx context.Context, path string, g *grid) error {
	b, err := openBook(ctx, path)
	if err != nil {
		return err
	}
	defer b.Close()
	names := b.sheets()
	name := g.recipe.Sheet
	if name == "" && len(names) > 0 {
		name = names[0]
	}
	if !slices.Contains(names, name) {
		return fmt.Errorf("%w: there is no sheet %q; there are: %s", ErrFile, name, strings.Join(names, ", "))
	}
	n := 0
	err = b.eachRow(name, func(cells []string) error {
		if n++; n%1000 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if n > g.recipe.Skip && blankRow(cells) {
			g.notes.Blank++
			return nil
		}
		return g.add(cells)
	})
	if x, ok := b.(*xlsx); ok && (err == nil || errors.Is(err, errEnough)) {
		g.notes.Unvalued, g.notes.UnvaluedAt = x.unvalued, x.unvaluedAt
	}
	return err
}

func blankRow(cells []string) bool {
	return !slices.ContainsFunc(cells, func(c string) bool { return strings.TrimSpace(c) != "" })
}

// ods is a workbook as OpenDocument has it (ISO/IEC 26300): one XML document of tables.
type ods struct {
	packedFile
	ctx   context.Context
	names []string
}

func openODS(ctx context.Context, a packedFile) (*ods, error) {
	o := &ods{packedFile: a, ctx: ctx}
	err := o.tables(func(name string, _ *part) error {
		if o.names = append(o.names, name); len(o.names) > maxSheets {
			return fmt.Errorf("%w: this workbook has more than %d sheets", ErrFile, maxSheets)
		}
		return nil
	})
	if err == nil && len(o.names) == 0 {
		err = fmt.Errorf("%w: this is an OpenDocument file without a table; save it as plain text", ErrFile)
	}
	return o, err
}

func (o *ods) sheets() []string { return o.names }

// tables goes through the tables of the document; visit may read on to the end of its table.
func (o *ods) tables(visit func(name string, p *part) error) error {
	p, err := o.part(o.ctx, "content.xml")
	if err != nil {
		return err
	}
	defer p.Close()
	for {
		t, err := p.next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if e, ok := t.(xml.StartElement); ok && e.Name.Local == "table" {
			if err := visit(attribute(e, "name"), p); err != nil {
				return err
			}
		}
	}
}

func (o *ods) eachRow(sheet string, visit func(cells []string) error) error {
	return o.tables(func(name string, p *part) error {
		if name != sheet {
			return nil
		}
		return odsRows(p, visit)
	})
}

// odsRows reads the rows of a table up to its end. Rows and cells that are the same stand there once, with how often they come.
func odsRows(p *part, visit func(cells []string) error) error {
	var row []string
	blanks, rows, again := 0, 0, 1 // cells that are blank so far at the end; blank rows so far; how often the row comes
	for {
		t, err := p.next()
		if err != nil {
			return brokenOff(err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "table-row":
				row, blanks, again = nil, 0, times(t, "number-rows-repeated")
			case "table-cell", "covered-table-cell":
				n := times(t, "number-columns-repeated")
				cell, err := odsCell(p, t)
				if err != nil {
					return err
				}
				if cell == "" {
					blanks += n
					continue
				}
				if len(row)+blanks+n > MaxColumns {
					return fmt.Errorf("%w: a row has more than %d cells", ErrFile, MaxColumns)
				}
				row = append(row, make([]string, blanks)...)
				blanks = 0
				for range n {
					row = append(row, cell)
				}
			}
		case xml.EndElement:
			switch t.Name.Local {
			case "table-row":
				if len(row) == 0 { // the last rows of a sheet are blank, a million of them
					rows += again
					continue
				}
				for ; rows > 0; rows-- {
					if err := visit(nil); err != nil {
						return err
					}
				}
				for range min(again, MaxRows+1) {
					if err := visit(slices.Clone(row)); err != nil {
						return err
					}
				}
			case "table":
				return nil
			}
		}
	}
}

func brokenOff(err error) error {
	if errors.Is(err, io.EOF) {
		return fmt.Errorf("%w: this workbook breaks off", ErrFile)
	}
	return err
}

func times(e xml.StartElement, name string) int {
	n, err := strconv.Atoi(attribute(e, name))
	if err != nil || n < 1 {
		return 1
	}
	return min(n, MaxRows+1)
}

// odsCell reads a cell up to its end: numbers and dates as they are stored, however they are shown, and else its text.
func odsCell(p *part, cell xml.StartElement) (string, error) {
	var text strings.Builder
	paragraphs, depth, aside := 0, 1, 0 // aside: within a note, which is no part of the text
	for depth > 0 {
		t, err := p.next()
		if err != nil {
			return "", brokenOff(err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			depth++
			switch t.Name.Local {
			case "annotation":
				aside++
			case "p":
				if aside == 0 {
					if paragraphs++; paragraphs > 1 {
						text.WriteByte('\n')
					}
				}
			case "s":
				n, _ := strconv.Atoi(attribute(t, "c"))
				text.WriteString(strings.Repeat(" ", min(max(n, 1), 1000)))
			case "tab":
				text.WriteByte('\t')
			case "line-break":
				text.WriteByte('\n')
			}
		case xml.EndElement:
			depth--
			if t.Name.Local == "annotation" {
				aside--
			}
		case xml.CharData:
			if aside == 0 && paragraphs > 0 && text.Len() <= MaxCell {
				text.Write(t)
			}
		}
	}
	switch attribute(cell, "value-type") {
	case "float", "percentage", "currency":
		return attribute(cell, "value"), nil
	case "date":
		return strings.TrimSuffix(strings.Replace(attribute(cell, "date-value"), "T", " ", 1), " 00:00:00"), nil
	case "boolean":
		return strings.ToUpper(attribute(cell, "boolean-value")), nil
	}
	return text.String(), nil
}
