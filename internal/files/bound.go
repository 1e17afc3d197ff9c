package files

import (
	"fmt"
	"io"
)

// maxText is how much text the cells of a table may hold together, in bytes: more than a file of the greatest size has, but for
// one that says "and so on" a million times.
const maxText = 4 << 30

// piecewise reads a text of which each piece (a row, a value) may have so many bytes. Who reads says where the next piece begins.
type piecewise struct {
	from io.Reader
	most int64
	left int64
	over bool // a piece was longer
}

func newPiecewise(from io.Reader, most int64) *piecewise {
	return &piecewise{from: from, most: most, left: most}
}

func (p *piecewise) next() { p.left = p.most }

func (p *piecewise) Read(b []byte) (int, error) {
	if p.left <= 0 {
		p.over = true
		return 0, fmt.Errorf("%w: it is larger than %d MiB", ErrFile, p.most>>20)
	}
	n, err := p.from.Read(b[:min(int64(len(b)), p.left)])
	p.left -= int64(n)
	return n, err
}
