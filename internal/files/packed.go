package files

import (
	"bufio"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"

	"golang.org/x/net/html/charset"

	"aftermath/internal/archive"
)

// Limits of packed files. What is read of one is read as a stream, so that a few of these bound its memory whatever is in it.
const (
	maxUnpacked  = 2 << 30  // bytes of a part, unpacked
	maxDirectory = 4 << 20  // bytes of the list of its parts
	maxToken     = 2 << 20  // bytes of one piece of XML: a tag, or a text between two
	freeUnpacked = 32 << 20 // bytes of a part that are read however small it is packed; beyond, at most
	maxInflation = 100      // times its packed size, which no table of people's words comes near
)

// packedFile is a packed file that is open.
type packedFile struct{ *archive.Archive }

// openArchive opens a packed file.
func openArchive(path string) (packedFile, error) {
	a, err := archive.Open(path, maxDirectory)
	if err != nil {
		err = fmt.Errorf("%w: this workbook can't be read: %w", ErrFile, err)
	}
	return packedFile{a}, err
}

// part opens a part to be read as XML; nil if there is none of that name.
func (a packedFile) part(ctx context.Context, name string) (*part, error) {
	for _, f := range a.File {
		if f.Name != name {
			continue
		}
		from, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("%w: this workbook can't be read: %w", ErrFile, err)
		}
		left := min(maxUnpacked, freeUnpacked+int64(min(f.CompressedSize64, maxUnpacked))*maxInflation)
		p := &part{ctx: ctx, from: from, left: left}
		p.xml = xml.NewDecoder(bufio.NewReaderSize(p, 1<<16))
		p.xml.CharsetReader = charset.NewReaderLabel
		return p, nil
	}
	return nil, nil
}

// part is a part of a packed file, read as XML from its beginning to its end. It stops when its caller has left.
type part struct {
	ctx   context.Context
	from  io.ReadCloser
	left  int64 // bytes that it may still come to
	token int64 // bytes that the piece that is being read may still come to
	depth int   // elements that are open
	xml   *xml.Decoder
	bad   error // what is wrong with the part, which the decoder puts in its own words
}

func (p *part) Close() error { return p.from.Close() }

func (p *part) Read(b []byte) (int, error) {
	switch {
	case p.ctx.Err() != nil:
		p.bad = p.ctx.Err()
	case p.left <= 0:
		p.bad = fmt.Errorf("%w: this workbook is far larger unpacked than any table of answers", ErrFile)
	case p.token <= 0:
		p.bad = fmt.Errorf("%w: a cell of this workbook is larger than %d MiB", ErrFile, maxToken>>20)
	}
	if p.bad != nil {
		return 0, p.bad
	}
	n, err := p.from.Read(b[:min(int64(len(b)), p.left)])
	p.left -= int64(n)
	p.token -= int64(n)
	return n, err
}

// next gives the next piece of the part; io.EOF at its end.
func (p *part) next() (xml.Token, error) {
	p.token = maxToken
	t, err := p.xml.RawToken()
	switch {
	case err == nil:
		switch t.(type) {
		case xml.StartElement:
			p.depth++
		case xml.EndElement:
			p.depth--
		}
		return t, nil
	case errors.Is(err, io.EOF):
		return nil, io.EOF
	case p.bad != nil:
		return nil, p.bad
	}
	return nil, fmt.Errorf("%w: this workbook can't be read: %w", ErrFile, err)
}

// inside gives the pieces within the element whose start was read last, up to its end; visit may read on to the end of one that
// starts.
func (p *part) inside(visit func(t xml.Token) error) error {
	for outside := p.depth - 1; ; {
		t, err := p.next()
		if errors.Is(err, io.EOF) {
			return fmt.Errorf("%w: this workbook breaks off", ErrFile)
		}
		if err != nil || p.depth <= outside {
			return err
		}
		if err := visit(t); err != nil {
			return err
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
