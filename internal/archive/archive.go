// Package archive opens packed files (ZIP) that people give, without trusting how many parts they say they have.
package archive

import (
	"archive/zip"
	"errors"
	"io"
	"os"
)

// Archive is a packed file that is open.
type Archive struct {
	*zip.Reader
	file *os.File
}

// Open opens a packed file whose list of parts has up to so many bytes: each part takes several times that of memory.
func Open(path string, list int64) (*Archive, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	info, err := f.Stat()
	if err != nil {
		return nil, errors.Join(err, f.Close())
	}
	from := &bounded{file: f, left: list}
	z, err := zip.NewReader(from, info.Size())
	if err != nil {
		return nil, errors.Join(err, f.Close())
	}
	from.open = true
	return &Archive{z, f}, nil
}

// Close closes the file.
func (a *Archive) Close() error { return a.file.Close() }

// bounded reads up to a number of bytes of a file until it is open, and then all.
type bounded struct {
	file io.ReaderAt
	left int64
	open bool
}

var errParts = errors.New("it has too many parts")

func (b *bounded) ReadAt(p []byte, at int64) (int, error) {
	if b.left -= int64(len(p)); b.left < 0 && !b.open {
		return 0, errParts
	}
	return b.file.ReadAt(p, at)
}
