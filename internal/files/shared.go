package files

import (
	"bufio"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"os"
	"regexp"
	"strconv"
	"strings"
)

// sharedTexts are the texts of a workbook, which its cells name by number. They are read as far as they are asked for; what goes
// beyond a bound is kept on disk.
type sharedTexts struct {
	part   *part   // what is not read yet; nil at its end
	starts []int64 // where each text begins, and where the last one ends
	held   []byte  // the first texts
	rest   *os.File
	to     *bufio.Writer
	window []byte // what was read last of the rest
	at0    int64  // where it begins
}

// Limits of the texts.
const (
	maxTexts   = 4_000_000
	heldTexts  = 8 << 20 // bytes in memory
	windowSize = 16 << 10
)

func openTexts(ctx context.Context, a packedFile) (*sharedTexts, error) {
	p, err := a.part(ctx, "xl/sharedStrings.xml")
	return &sharedTexts{part: p, starts: []int64{0}}, err
}

func (s *sharedTexts) Close() (err error) {
	if s.part != nil {
		err = s.part.Close()
	}
	if s.rest != nil {
		err = errors.Join(err, s.rest.Close(), os.Remove(s.rest.Name()))
	}
	return err
}

// at gives a text by its number, from 0.
func (s *sharedTexts) at(number string) (string, error) {
	i, err := strconv.Atoi(strings.TrimSpace(number))
	if err != nil || i < 0 {
		return "", fmt.Errorf("%w: a cell names a text by %q, which is no number", ErrFile, number)
	}
	for i >= len(s.starts)-1 {
		if s.part == nil {
			return "", fmt.Errorf("%w: a cell names text %d, and the workbook has %d", ErrFile, i, len(s.starts)-1)
		}
		if err := s.readOn(); err != nil {
			return "", err
		}
	}
	return s.read(s.starts[i], s.starts[i+1])
}

// readOn reads the next text.
func (s *sharedTexts) readOn() error {
	for {
		t, err := s.part.next()
		if errors.Is(err, io.EOF) {
			err = s.part.Close()
			s.part = nil
			return err
		}
		if err != nil {
			return err
		}
		if e, ok := t.(xml.StartElement); ok && e.Name.Local == "si" {
			text, err := plainText(s.part)
			if err != nil {
				return err
			}
			if len(s.starts) > maxTexts {
				return fmt.Errorf("%w: the workbook has more than %d different texts; save the sheet as CSV", ErrFile, maxTexts)
			}
			return s.keep(text)
		}
	}
}

// plainText reads a text of a workbook up to its end: its runs without how they look, and without how they are pronounced.
func plainText(p *part) (string, error) {
	var text strings.Builder
	in, phonetic := false, 0
	err := p.inside(func(t xml.Token) error {
		switch t := t.(type) {
		case xml.StartElement:
			if in = t.Name.Local == "t"; t.Name.Local == "rPh" {
				phonetic++
			}
		case xml.EndElement:
			if in = false; t.Name.Local == "rPh" {
				phonetic--
			}
		case xml.CharData:
			if in && phonetic == 0 {
				if text.Write(t); text.Len() > maxLine {
					return fmt.Errorf("%w: a cell of this workbook is larger than %d MiB", ErrFile, maxLine>>20)
				}
			}
		}
		return nil
	})
	return unescaped(text.String()), err
}

func (s *sharedTexts) keep(text string) (err error) {
	end := s.starts[len(s.starts)-1] + int64(len(text))
	switch {
	case s.rest == nil && end <= heldTexts:
		s.held = append(s.held, text...)
	default:
		if s.rest == nil {
			if s.rest, err = os.CreateTemp("", "aftermath-texts-"); err != nil {
				return err
			}
			s.to = bufio.NewWriterSize(s.rest, 1<<16)
		}
		if _, err := s.to.WriteString(text); err != nil {
			return err
		}
	}
	s.starts = append(s.starts, end)
	return nil
}

func (s *sharedTexts) read(from, to int64) (string, error) {
	if to <= int64(len(s.held)) {
		return string(s.held[from:to]), nil
	}
	if from < s.at0 || to > s.at0+int64(len(s.window)) {
		if err := s.to.Flush(); err != nil {
			return "", err
		}
		size := max(int(to-from), windowSize)
		if cap(s.window) < size {
			s.window = make([]byte, size)
		}
		s.window = s.window[:size]
		n, err := s.rest.ReadAt(s.window, from-int64(len(s.held)))
		if err != nil && !errors.Is(err, io.EOF) {
			return "", err
		}
		s.window, s.at0 = s.window[:n], from
	}
	return string(s.window[from-s.at0 : to-s.at0]), nil
}

// escape is how a workbook writes signs that XML can't (ECMA-376, part 1, 22.9.2.19).
var escape = regexp.MustCompile(`_x[0-9A-Fa-f]{4}_`)

func unescaped(text string) string {
	if !strings.Contains(text, "_x") {
		return text
	}
	text = strings.ReplaceAll(text, "_x000D_\n", "\n") // one break
	return escape.ReplaceAllStringFunc(text, func(e string) string {
		code, _ := strconv.ParseUint(e[2:6], 16, 16) // it has these digits
		return string(rune(code))
	})
}
