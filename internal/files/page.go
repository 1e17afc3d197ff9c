package files

import (
	"bytes"
	"fmt"
	"io"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Limits of a web page.
const (
	maxPage     = 32 << 20 // bytes
	maxElements = 300_000  // and as many attributes
)

// pageBlocks are the elements whose text is an answer of its own, as they are named in the table.
var pageBlocks = map[atom.Atom]string{
	atom.P:          "paragraph",
	atom.Li:         "list item",
	atom.Blockquote: "quotation",
	atom.Td:         "table cell",
	atom.Th:         "table head",
	atom.Dd:         "description",
	atom.Dt:         "term",
	atom.Pre:        "set text",
	atom.Figcaption: "caption",
	atom.H1:         "heading",
	atom.H2:         "heading",
	atom.H3:         "heading",
	atom.H4:         "heading",
	atom.H5:         "heading",
	atom.H6:         "heading",
	atom.Div:        "block",
	atom.Section:    "block",
	atom.Article:    "block",
	atom.Main:       "block",
	atom.Body:       "block",
}

// pageFurniture is what surrounds the text of a page.
var pageFurniture = map[atom.Atom]bool{
	atom.Head:     true,
	atom.Script:   true,
	atom.Style:    true,
	atom.Nav:      true,
	atom.Header:   true,
	atom.Footer:   true,
	atom.Aside:    true,
	atom.Form:     true,
	atom.Button:   true,
	atom.Select:   true,
	atom.Template: true,
	atom.Noscript: true,
	atom.Iframe:   true,
	atom.Svg:      true,
}

// readPage gives the blocks of text of a web page, in their order, and what kind of block each is.
func readPage(from io.Reader, g *grid) error {
	page, err := io.ReadAll(io.LimitReader(from, maxPage+1))
	if err != nil {
		return err
	}
	if len(page) > maxPage {
		return fmt.Errorf("%w: the page is larger than %d MiB", ErrFile, maxPage>>20)
	}
	if !bearable(page) {
		return fmt.Errorf("%w: the page has more than %d elements or attributes, more than any page of answers", ErrFile, maxElements)
	}
	doc, err := html.Parse(bytes.NewReader(page))
	if err != nil {
		return fmt.Errorf("%w: the page can't be read: %w", ErrFile, err)
	}
	if err := g.only(AnswerColumn, "block"); err != nil {
		return err
	}
	w := pageWalk{add: g.add}
	w.walk(doc, "")
	w.flush("block")
	if w.err == nil && g.notes.Rows == 0 {
		return fmt.Errorf("%w: there is no text on the page", ErrFile)
	}
	return w.err
}

// bearable says whether a page, which becomes far larger when it is taken apart, has no more elements than pages have.
func bearable(page []byte) bool {
	z := html.NewTokenizer(bytes.NewReader(page))
	elements, attributes := 0, 0
	for {
		switch z.Next() {
		case html.ErrorToken:
			return true
		case html.StartTagToken, html.SelfClosingTagToken:
			elements++
			_, more := z.TagName()
			for more {
				_, _, more = z.TagAttr()
				attributes++
			}
		}
		if max(elements, attributes) > maxElements {
			return false
		}
	}
}

type pageWalk struct {
	text strings.Builder
	add  func(cells []string) error
	err  error
}

func (w *pageWalk) walk(n *html.Node, kind string) {
	if w.err != nil {
		return
	}
	switch n.Type {
	case html.TextNode:
		w.text.WriteString(n.Data)
		return
	case html.ElementNode:
		if pageFurniture[n.DataAtom] {
			return
		}
		if n.DataAtom == atom.Br {
			w.text.WriteString("\n")
		}
	}
	own := pageBlocks[n.DataAtom]
	if own != "" {
		w.flush(kind)
		kind = own
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		w.walk(c, kind)
	}
	if own != "" {
		w.flush(kind)
	}
}

// flush ends a block: white space is as a browser shows it.
func (w *pageWalk) flush(kind string) {
	var lines []string
	for line := range strings.SplitSeq(w.text.String(), "\n") {
		if line = strings.Join(strings.Fields(line), " "); line != "" {
			lines = append(lines, line)
		}
	}
	w.text.Reset()
	if len(lines) > 0 && w.err == nil {
		w.err = w.add([]string{strings.Join(lines, " "), kind})
	}
}
