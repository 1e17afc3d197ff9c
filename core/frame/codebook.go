package frame

import (
	"bytes"
	"crypto/sha1" //nolint:gosec // for names, not for secrets: RFC 9562, version 5
	"encoding/hex"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// codebookSpace is the namespace of the REFI-QDA codebook exchange format (QDC, version 1.0).
const codebookSpace = "urn:QDA-XML:codebook:1.0"

// The document as the published schema has it: a code holds a description, then further codes.
type qdcBook struct {
	XMLName xml.Name `xml:"urn:QDA-XML:codebook:1.0 CodeBook"`
	Origin  string   `xml:"origin,attr,omitempty"`
	Codes   qdcCodes `xml:"Codes"`
}

type qdcCodes struct {
	Code []qdcCode `xml:"Code"`
}

type qdcCode struct {
	GUID        string    `xml:"guid,attr"`
	Name        string    `xml:"name,attr"`
	IsCodable   bool      `xml:"isCodable,attr"`
	Color       string    `xml:"color,attr,omitempty"`
	Description string    `xml:"Description,omitempty"`
	Code        []qdcCode `xml:"Code"`
}

// Codebook writes the frame's nets, categories, notes and colours in the REFI-QDA codebook exchange format (QDC 1.0).
// Rules, keys and code numbers have no place in it. A net takes no decisions, so it is not codable. The study makes the
// identifiers of the codes: the same study gives the same ones. The format has no form for a frame without categories.
func (f Frame) Codebook(study string) ([]byte, error) {
	if len(f) == 0 {
		return nil, fmt.Errorf("%w: there is no category yet, and a codebook must hold one", ErrFrame)
	}
	book := qdcBook{Origin: "Aftermath"}
	for i, c := range f {
		colour := i%len(Colours) + 1
		if c.Colour > 0 {
			colour = c.Colour
		}
		book.Codes.Code = append(book.Codes.Code, qdcOf(c, Colours[colour-1], study))
	}
	data, err := xml.MarshalIndent(book, "", "  ")
	return append([]byte(xml.Header), append(data, '\n')...), err
}

func qdcOf(c Category, colour, study string) qdcCode {
	out := qdcCode{
		GUID:        guid(study + "\n" + c.ID),
		Name:        c.Name,
		IsCodable:   len(c.Children) == 0,
		Color:       colour,
		Description: c.Note,
	}
	for _, child := range c.Children {
		out.Code = append(out.Code, qdcOf(child, colour, study))
	}
	return out
}

// guid is a name-based identifier (RFC 9562, version 5).
func guid(name string) string {
	sum := sha1.Sum([]byte("aftermath category\n" + name))
	sum[6], sum[8] = sum[6]&0x0f|0x50, sum[8]&0x3f|0x80
	h := hex.EncodeToString(sum[:16])
	return strings.Join([]string{h[:8], h[8:12], h[12:16], h[16:20], h[20:]}, "-")
}

var (
	guidForm = regexp.MustCompile(
		`^(\{[0-9a-fA-F]{8}-([0-9a-fA-F]{4}-){3}[0-9a-fA-F]{12}\}|[0-9a-fA-F]{8}-([0-9a-fA-F]{4}-){3}[0-9a-fA-F]{12})$`,
	)
	colourForm = regexp.MustCompile(`^#([0-9a-fA-F]{6}|[0-9a-fA-F]{3})$`)
)

// FromCodebook reads a REFI-QDA codebook: codes, nets, descriptions, colours. The document is held to the structure of the
// published schema; an error names the element and its line. Notes say what is left out.
func FromCodebook(data []byte) (f Frame, notes []string, err error) {
	if err := checkCodebook(data); err != nil {
		return nil, nil, err
	}
	var book qdcBook
	if err := xml.Unmarshal(data, &book); err != nil {
		return nil, nil, fmt.Errorf("%w: this is no codebook that can be read: %w", ErrFrame, err)
	}
	f = Frame{}
	colours := 0
	for i, c := range book.Codes.Code {
		top := fromQDC(c)
		if k := nearestColour(c.Color); k > 0 && k != i%len(Colours)+1 {
			top.Colour = k
		}
		if c.Color != "" && !strings.EqualFold(c.Color, Colours[max(nearestColour(c.Color), 1)-1]) {
			colours++
		}
		f = append(f, top)
	}
	if colours > 0 {
		notes = append(notes, fmt.Sprintf("%d colours became the nearest of the eight that can be told apart by everyone", colours))
	}
	if bytes.Contains(data, []byte("<Sets")) {
		notes = append(notes, "sets of codes are left out: a category stands in one net")
	}
	return f, notes, f.Check()
}

func fromQDC(c qdcCode) Category {
	out := Category{Name: strings.TrimSpace(c.Name), Note: strings.TrimSpace(c.Description)}
	for _, k := range c.Code {
		out.Children = append(out.Children, fromQDC(k))
	}
	return out
}

// nearestColour is the number of the colour that is least far from another by red, green and blue; 0 for none given.
func nearestColour(hexadecimal string) int {
	rgb := func(s string) (out [3]int) {
		s = strings.TrimPrefix(s, "#")
		if len(s) == 3 {
			s = strings.Join([]string{s[:1], s[:1], s[1:2], s[1:2], s[2:], s[2:]}, "")
		}
		n, _ := strconv.ParseUint(s, 16, 32)
		return [3]int{int(n >> 16), int(n >> 8 & 255), int(n & 255)}
	}
	if hexadecimal == "" {
		return 0
	}
	best, least := 0, 1<<30
	for i, known := range Colours {
		a, b := rgb(hexadecimal), rgb(known)
		far := 0
		for k := range a {
			far += (a[k] - b[k]) * (a[k] - b[k])
		}
		if far < least {
			best, least = i+1, far
		}
	}
	return best
}

// qdcElements is the published schema: what may stand in what, in which order, and with which attributes.
var qdcElements = map[string]struct {
	children  []string // in their order
	once      []string // of those, what may stand there one time only
	needs     []string // of those, what must stand there
	has, must []string // attributes
}{
	"CodeBook": {
		children: []string{"Codes", "Sets"},
		once:     []string{"Codes", "Sets"},
		needs:    []string{"Codes"},
		has:      []string{"origin"},
	},
	"Codes": {children: []string{"Code"}, needs: []string{"Code"}},
	"Code": {
		children: []string{"Description", "Code"},
		once:     []string{"Description"},
		has:      []string{"guid", "name", "isCodable", "color"},
		must:     []string{"guid", "name", "isCodable"},
	},
	"Description": {},
	"Sets":        {children: []string{"Set"}, needs: []string{"Set"}},
	"Set": {
		children: []string{"Description", "MemberCode"},
		once:     []string{"Description"},
		has:      []string{"guid", "name"},
		must:     []string{"guid", "name"},
	},
	"MemberCode": {has: []string{"guid"}, must: []string{"guid"}},
}

// maxCodeDepth bounds how deep the codes of a file may nest.
const maxCodeDepth = 50

// checkCodebook holds a document to the published schema's structure.
func checkCodebook(data []byte) error {
	d := xml.NewDecoder(bytes.NewReader(data))
	type open struct {
		name string
		seen map[string]int
		last int // place of the newest child among those that may stand there
	}
	var stack []open
	guids := map[string]bool{}
	fail := func(format string, args ...any) error {
		line, _ := d.InputPos()
		return fmt.Errorf("%w: line %d of the codebook: "+format, append([]any{ErrFrame, line}, args...)...)
	}
	started := false
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			if !started {
				return fmt.Errorf("%w: this is no REFI-QDA codebook: it has no CodeBook", ErrFrame)
			}
			return nil
		}
		if err != nil {
			return fail("this is no XML that can be read: %w", err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			name := t.Name.Local
			known, ok := qdcElements[name]
			if t.Name.Space != codebookSpace || !ok {
				return fail("there is no %q in a REFI-QDA codebook (%s)", name, codebookSpace)
			}
			if len(stack) == 0 && name != "CodeBook" {
				return fail("a codebook begins with CodeBook, not with %s", name)
			}
			if len(stack) > maxCodeDepth {
				return fail("the codes nest too deep")
			}
			if len(stack) > 0 {
				parent := &stack[len(stack)-1]
				allowed := qdcElements[parent.name]
				at := slices.Index(allowed.children, name)
				switch {
				case at < 0:
					return fail("%s may not stand in %s", name, parent.name)
				case at < parent.last:
					return fail("%s must stand before %s in %s", name, allowed.children[parent.last], parent.name)
				case parent.seen[name] > 0 && slices.Index(allowed.once, name) >= 0:
					return fail("%s has two of %s", parent.name, name)
				}
				parent.last = at
				parent.seen[name]++
			}
			given := map[string]string{}
			for _, a := range t.Attr {
				if a.Name.Space != "" || a.Name.Local == "xmlns" {
					continue // namespaces, and where the schema is to be found
				}
				if slices.Index(known.has, a.Name.Local) < 0 {
					return fail("%s has no attribute %q", name, a.Name.Local)
				}
				given[a.Name.Local] = a.Value
			}
			for _, must := range known.must {
				if _, ok := given[must]; !ok {
					return fail("%s lacks its attribute %q", name, must)
				}
			}
			if err := qdcValues(name, given, guids); err != nil {
				return fail("%w", err)
			}
			stack = append(stack, open{name, map[string]int{}, 0})
			started = true
		case xml.EndElement:
			top := stack[len(stack)-1]
			for _, need := range qdcElements[top.name].needs {
				if top.seen[need] == 0 {
					return fail("%s lacks %s", top.name, need)
				}
			}
			stack = stack[:len(stack)-1]
		}
	}
}

// qdcValues checks the values of an element's attributes.
func qdcValues(name string, given map[string]string, guids map[string]bool) error {
	for attribute, value := range given {
		switch attribute {
		case "guid":
			if !guidForm.MatchString(value) {
				return fmt.Errorf("%q is no identifier (guid)", value)
			}
			if name == "Code" && guids[strings.ToLower(value)] {
				return fmt.Errorf("two codes have the identifier %q", value)
			}
			if name == "Code" {
				guids[strings.ToLower(value)] = true
			}
		case "color":
			if !colourForm.MatchString(value) {
				return fmt.Errorf("%q is no colour, as #RRGGBB", value)
			}
		case "isCodable":
			if slices.Index([]string{"true", "false", "1", "0"}, value) < 0 {
				return fmt.Errorf("isCodable is true or false, not %q", value)
			}
		}
	}
	return nil
}
