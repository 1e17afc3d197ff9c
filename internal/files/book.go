package files

import (
	"archive/zip"
	"bufio"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
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

// openBook opens a workbook, whichever of the kinds that are read it is.
func openBook(path string) (book, error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return nil, fmt.Errorf("%w: this workbook can't be read: %w", ErrFile, err)
	}
	defer z.Close()
	parts := map[string]bool{}
	for _, f := range z.File {
		parts[strings.SplitN(f.Name, "/", 2)[0]] = true
	}
	switch {
	case parts["content.xml"]:
		return openODS(path)
	case parts["xl"] || parts["[Content_Types].xml"] && !parts["word"] && !parts["ppt"]:
		return openXLSX(path)
	}
	return nil, fmt.Errorf("%w: %s", ErrFile, packed(parts))
}

// packed says what a packed file is that is no workbook, with what to do.
func packed(parts map[string]bool) string {
	switch {
	case parts["word"]:
		return "this is a word processor's document (DOCX); save it as plain text"
	case parts["ppt"]:
		return "these are slides (PPTX); copy the answers out of them"
	}
	return "this file is packed (ZIP); unpack it first, and choose the file in it"
}

func readSheet(ctx context.Context, path string, g *grid) error {
	b, err := openBook(path)
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
		g.notes.Unvalued, g.notes.UnvaluedAt = x.unvalued(ctx, path, name)
	}
	return err
}

func blankRow(cells []string) bool {
	return !slices.ContainsFunc(cells, func(c string) bool { return strings.TrimSpace(c) != "" })
}

// unvalued counts the formulas of a sheet without a stored value, and gives the places of the first: they come out
// blank. It reads the sheet's part of the file again; what can't be read holds none.
func (x *xlsx) unvalued(ctx context.Context, file, sheet string) (n int, at []string) {
	z, err := zip.OpenReader(file)
	if err != nil {
		return 0, nil
	}
	defer z.Close()
	part := sheetPart(&z.Reader, sheet)
	if part == nil {
		return 0, nil
	}
	from, err := part.Open()
	if err != nil {
		return 0, nil
	}
	defer from.Close()
	d := xml.NewDecoder(bufio.NewReaderSize(io.LimitReader(from, maxUnpacked), 1<<16))
	cell, formula, value, inside := "", false, false, ""
	for tokens := 0; ; tokens++ {
		if tokens%100_000 == 0 && ctx.Err() != nil {
			return n, at
		}
		t, err := d.RawToken()
		if err != nil {
			return n, at
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch inside = t.Name.Local; inside {
			case "c":
				cell, formula, value = attribute(t, "r"), false, false
			case "f":
				formula = true
			}
		case xml.CharData:
			value = value || (inside == "v" || inside == "t") && len(t) > 0
		case xml.EndElement:
			if t.Name.Local == "c" && formula && !value {
				if n++; len(at) < maxPlaces {
					at = append(at, cell)
				}
			}
			inside = ""
		}
	}
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// sheetPart finds the part of a workbook (ECMA-376, part 1) that holds a sheet, by the workbook's list and its relations.
func sheetPart(z *zip.Reader, sheet string) *zip.File {
	read := func(name string, to any) bool {
		f, err := z.Open(name)
		if err != nil {
			return false
		}
		defer f.Close()
		return xml.NewDecoder(io.LimitReader(f, 64<<20)).Decode(to) == nil
	}
	var list struct {
		Sheets []struct {
			Name string `xml:"name,attr"`
			ID   string `xml:"http://schemas.openxmlformats.org/officeDocument/2006/relationships id,attr"`
		} `xml:"sheets>sheet"`
	}
	var relations struct {
		All []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	if !read("xl/workbook.xml", &list) || !read("xl/_rels/workbook.xml.rels", &relations) {
		return nil
	}
	for _, s := range list.Sheets {
		for _, r := range relations.All {
			if s.Name != sheet || r.ID != s.ID {
				continue
			}
			target := strings.TrimPrefix(r.Target, "/")
			if !strings.HasPrefix(target, "xl/") {
				target = path.Join("xl", target)
			}
			for _, f := range z.File {
				if f.Name == target {
					return f
				}
			}
		}
	}
	return nil
}

// ods is a workbook as OpenDocument has it (ISO/IEC 26300): one XML document of tables.
type ods struct {
	zip   *zip.ReadCloser
	names []string
}

func openODS(path string) (*ods, error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return nil, fmt.Errorf("%w: this workbook can't be read: %w", ErrFile, err)
	}
	o := &ods{zip: z}
	err = o.tables(func(name string, _ *xml.Decoder) error {
		o.names = append(o.names, name)
		return nil
	})
	if err == nil && len(o.names) == 0 {
		err = fmt.Errorf("%w: this is an OpenDocument file without a table; save it as plain text", ErrFile)
	}
	if err != nil {
		_ = z.Close()
		return nil, err
	}
	return o, nil
}

func (o *ods) sheets() []string { return o.names }
func (o *ods) Close() error     { return o.zip.Close() }

// tables goes through the tables of the document; visit may read on to the end of its table.
func (o *ods) tables(visit func(name string, d *xml.Decoder) error) error {
	f, err := o.zip.Open("content.xml")
	if err != nil {
		return fmt.Errorf("%w: this workbook can't be read: %w", ErrFile, err)
	}
	defer f.Close()
	limited := &io.LimitedReader{R: f, N: maxUnpacked}
	d := xml.NewDecoder(bufio.NewReaderSize(limited, 1<<16))
	for {
		t, err := d.RawToken()
		switch {
		case errors.Is(err, io.EOF) && limited.N > 0:
			return nil
		case err != nil && limited.N == 0:
			return fmt.Errorf("%w: this workbook is larger than 2 GiB unpacked", ErrFile)
		case err != nil:
			return fmt.Errorf("%w: this workbook can't be read: %w", ErrFile, err)
		}
		if e, ok := t.(xml.StartElement); ok && e.Name.Local == "table" {
			if err := visit(attribute(e, "name"), d); err != nil {
				return err
			}
		}
	}
}

func (o *ods) eachRow(sheet string, visit func(cells []string) error) error {
	return o.tables(func(name string, d *xml.Decoder) error {
		if name != sheet {
			return nil
		}
		return odsRows(d, visit)
	})
}

// odsRows reads the rows of a table up to its end. Rows and cells that are the same stand there once, with how often they come.
func odsRows(d *xml.Decoder, visit func(cells []string) error) error {
	var row []string
	blanks, rows, again := 0, 0, 1 // cells that are blank so far at the end; blank rows so far; how often the row comes
	for {
		t, err := d.RawToken()
		if err != nil {
			return fmt.Errorf("%w: this workbook breaks off: %w", ErrFile, err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "table-row":
				row, blanks, again = nil, 0, times(t, "number-rows-repeated")
			case "table-cell", "covered-table-cell":
				n := times(t, "number-columns-repeated")
				cell, err := odsCell(d, t)
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

func times(e xml.StartElement, name string) int {
	n, err := strconv.Atoi(attribute(e, name))
	if err != nil || n < 1 {
		return 1
	}
	return min(n, MaxRows+1)
}

// odsCell reads a cell up to its end: numbers and dates as they are stored, however they are shown, and else its text.
func odsCell(d *xml.Decoder, cell xml.StartElement) (string, error) {
	var text strings.Builder
	paragraphs, depth, aside := 0, 1, 0 // aside: within a note, which is no part of the text
	for depth > 0 {
		t, err := d.RawToken()
		if err != nil {
			return "", fmt.Errorf("%w: this workbook breaks off: %w", ErrFile, err)
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
