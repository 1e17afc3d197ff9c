package files

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// UTF8 is the encoding that most files are in.
const UTF8 = "utf-8"

// encodings are those that text can be read in; nil is UTF-8, which needs no decoding.
var encodings = []struct {
	name string
	of   encoding.Encoding
}{
	{UTF8, nil},
	{"utf-16le", unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)},
	{"utf-16be", unicode.UTF16(unicode.BigEndian, unicode.UseBOM)},
	{"windows-1252", charmap.Windows1252},
	{"iso-8859-1", charmap.ISO8859_1},
	{"iso-8859-15", charmap.ISO8859_15},
	{"windows-1250", charmap.Windows1250},
	{"windows-1251", charmap.Windows1251},
	{"macintosh", charmap.Macintosh},
}

// Encodings are the names of the encodings that text can be read in.
func Encodings() (names []string) {
	for _, e := range encodings {
		names = append(names, e.name)
	}
	return names
}

// decoded reads text in an encoding as UTF-8, without its byte order mark, and with the line breaks of old machines (a
// lone carriage return) made plain.
func decoded(r io.Reader, name string, loneCR bool) (io.Reader, error) {
	known := false
	for _, e := range encodings {
		if e.name == name || name == "" && e.of == nil {
			known = true
			if e.of != nil {
				r = transform.NewReader(r, e.of.NewDecoder())
			}
		}
	}
	if !known {
		return nil, fmt.Errorf("%w: there is no encoding %q; there are %s", ErrFile, name, strings.Join(Encodings(), ", "))
	}
	return &plainBreaks{from: r, first: true, loneCR: loneCR}, nil
}

// plainBreaks takes the byte order mark off, and makes lone carriage returns line breaks.
type plainBreaks struct {
	from          io.Reader
	first, loneCR bool
}

func (p *plainBreaks) Read(b []byte) (int, error) {
	if p.first {
		p.first = false
		var head [3]byte
		n, err := io.ReadFull(p.from, head[:])
		if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
			return 0, err
		}
		rest := bytes.TrimPrefix(head[:n], []byte("\ufeff"))
		p.from = io.MultiReader(bytes.NewReader(bytes.Clone(rest)), p.from)
	}
	n, err := p.from.Read(b)
	if p.loneCR {
		for i := range n {
			if b[i] == '\r' {
				b[i] = '\n'
			}
		}
	}
	return n, err
}

// sampleSize is how much of a file is looked at for guesses, in bytes; its encoding is judged by all of it.
const sampleSize = 1 << 20

func head(path string) (data []byte, whole bool, err error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, false, err
	}
	defer f.Close()
	data, err = io.ReadAll(io.LimitReader(f, sampleSize+1))
	if len(data) > sampleSize {
		return data[:sampleSize], false, err
	}
	return data, true, err
}

// guessEncoding judges by the byte order mark, else by all bytes of the file.
func guessEncoding(path string, sample []byte) (name, because string, err error) {
	switch {
	case bytes.HasPrefix(sample, []byte("\xef\xbb\xbf")):
		return UTF8, "it begins with the UTF-8 mark", nil
	case bytes.HasPrefix(sample, []byte{0xff, 0xfe}):
		return "utf-16le", "it begins with the UTF-16 mark", nil
	case bytes.HasPrefix(sample, []byte{0xfe, 0xff}):
		return "utf-16be", "it begins with the UTF-16 mark", nil
	}
	var zeros [2]int // at even and odd places: Latin letters in UTF-16 have a zero byte each
	for i, b := range sample {
		if b == 0 {
			zeros[i%2]++
		}
	}
	switch n := len(sample); {
	case zeros[1] > n/5 && zeros[0] < n/50:
		return "utf-16le", "every other byte is zero", nil
	case zeros[0] > n/5 && zeros[1] < n/50:
		return "utf-16be", "every other byte is zero", nil
	}
	line, plain, err := firstBad(path)
	switch {
	case err != nil:
		return "", "", err
	case plain:
		return UTF8, "it has plain letters only", nil
	case line == 0:
		return UTF8, "every letter in it is whole in UTF-8", nil
	}
	return "windows-1252", fmt.Sprintf(
		"it is not UTF-8 (line %d is the first that is not), and this is how most others are written", line,
	), nil
}

// firstBad gives the line of the first byte that is not UTF-8, or 0, and whether all is ASCII.
func firstBad(path string) (line int, plain bool, err error) {
	f, err := os.Open(path)
	if err != nil {
		return 0, false, err
	}
	defer f.Close()
	buf := make([]byte, 1<<16)
	kept, line, plain := 0, 1, true
	for {
		n, err := f.Read(buf[kept:])
		if err != nil && err != io.EOF {
			return 0, false, err
		}
		part := buf[:kept+n]
		end := len(part)
		if n > 0 { // a letter may go on in the next part
			for back := 1; back < utf8.UTFMax && back <= len(part); back++ {
				if c := part[len(part)-back]; utf8.RuneStart(c) {
					if !utf8.FullRune(part[len(part)-back:]) {
						end = len(part) - back
					}
					break
				}
			}
		}
		if !utf8.Valid(part[:end]) {
			for i := 0; i < end; {
				c, size := utf8.DecodeRune(part[i:end])
				if c == utf8.RuneError && size <= 1 {
					return line + bytes.Count(part[:i], []byte{'\n'}), false, nil
				}
				i += size
			}
		}
		if plain {
			for _, b := range part[:end] {
				if b >= utf8.RuneSelf {
					plain = false
					break
				}
			}
		}
		line += bytes.Count(part[:end], []byte{'\n'})
		kept = copy(buf, part[end:])
		if n == 0 {
			if kept > 0 {
				return line, false, nil
			}
			return 0, plain, nil
		}
	}
}
