package document

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"path"
	"regexp"
	"strings"

	"golang.org/x/sync/errgroup"
)

// Office files are archives of parts (ISO/IEC 29500). A chart is a part of the same kind in slides and in text, with a workbook of
// its figures, so charts that were written for slides are moved into a text.

// chartPlace is where the text wants a chart: its number, and how high it stands, in points.
var chartPlace = regexp.MustCompile(`<w:t(?: [^>]*)?>\x{E000}chart (\d+) ([\d.]+)\x{E000}</w:t>`)

// Names of parts and kinds.
const (
	chartType    = "application/vnd.openxmlformats-officedocument.drawingml.chart+xml"
	workbookType = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	chartRelated = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/chart"
)

// docx writes a text document with the charts that it has places for.
func (w *Writer) docx(ctx context.Context, given string) ([]byte, error) {
	var text, slides []byte
	both, at := errgroup.WithContext(ctx) // each takes seconds
	both.Go(func() (err error) {
		text, err = w.run(at, "docx", given)
		return err
	})
	both.Go(func() (err error) {
		slides, err = w.run(at, "charts", given)
		return err
	})
	if err := both.Wait(); err != nil {
		return nil, err
	}
	parts, names, err := unpack(text)
	if err != nil {
		return nil, err
	}
	document := parts["word/document.xml"]
	places := chartPlace.FindAllSubmatch(document, -1)
	if len(places) == 0 {
		return pack(parts, names)
	}
	from, _, err := unpack(slides)
	if err != nil {
		return nil, err
	}
	add := func(name string, data []byte) {
		parts[name] = data
		names = append(names, name)
	}
	var related, types strings.Builder
	for i := range places {
		n := i + 1
		chart := fmt.Sprintf("charts/chart%d.xml", n)
		rels := fmt.Sprintf("charts/_rels/chart%d.xml.rels", n)
		if from["ppt/"+chart] == nil {
			return nil, fmt.Errorf("the chart %d of a report was not written", n)
		}
		add("word/"+chart, from["ppt/"+chart])
		add("word/"+rels, from["ppt/"+rels])
		fmt.Fprintf(&related, `<Relationship Id="chart%d" Type="%s" Target="%s"/>`, n, chartRelated, chart)
		fmt.Fprintf(&types, `<Override PartName="/word/%s" ContentType="%s"/>`, chart, chartType)
	}
	for name, data := range from {
		if strings.HasPrefix(name, "ppt/embeddings/") && path.Ext(name) == ".xlsx" {
			add("word/embeddings/"+path.Base(name), data)
		}
	}
	fmt.Fprintf(&types, `<Default Extension="xlsx" ContentType="%s"/>`, workbookType)
	parts["word/document.xml"] = chartPlace.ReplaceAllFunc(document, func(found []byte) []byte {
		m := chartPlace.FindSubmatch(found)
		return []byte(inline(string(m[1]), string(m[2])))
	})
	inside := func(name, end string, more string) {
		parts[name] = bytes.Replace(parts[name], []byte(end), []byte(more+end), 1)
	}
	inside("word/_rels/document.xml.rels", "</Relationships>", related.String())
	inside("[Content_Types].xml", "</Types>", types.String())
	return pack(parts, names)
}

// Sizes in EMU: 12,700 to the point.
const (
	perPoint   = 12_700
	chartWidth = 490 * perPoint
)

// inline is the drawing of a chart in a run of text.
func inline(number, points string) string {
	var high float64
	_, _ = fmt.Sscan(points, &high) // digits, by the pattern
	return fmt.Sprintf(
		`<w:drawing><wp:inline xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing" distT="0" distB="0" distL="0" distR="0">`+
			`<wp:extent cx="%d" cy="%d"/><wp:docPr id="%s" name="Chart %s"/>`+
			`<a:graphic xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main">`+
			`<a:graphicData uri="http://schemas.openxmlformats.org/drawingml/2006/chart">`+
			`<c:chart xmlns:c="http://schemas.openxmlformats.org/drawingml/2006/chart" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" r:id="chart%s"/>`+
			`</a:graphicData></a:graphic></wp:inline></w:drawing>`,
		chartWidth, int(high*perPoint), number, number, number,
	)
}

// unpack gives the parts of an office file, and their names in order.
func unpack(file []byte) (parts map[string][]byte, names []string, err error) {
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		return nil, nil, err
	}
	parts = map[string][]byte{}
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue // a folder
		}
		r, err := f.Open()
		if err != nil {
			return nil, nil, err
		}
		data, err := io.ReadAll(r)
		if err != nil {
			return nil, nil, err
		}
		parts[f.Name] = data
		names = append(names, f.Name)
	}
	return parts, names, nil
}

// pack writes parts as an office file, compressed.
func pack(parts map[string][]byte, names []string) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, name := range names {
		w, err := z.Create(name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(parts[name]); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return out.Bytes(), err
}
