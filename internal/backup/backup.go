// Package backup writes and reads back-ups: a packed file (ZIP) of tables in open formats, each a text file with a JSON object
// per line, and a manifest that says what is in it, with checksums. It knows parts and lines, not what they mean.
package backup

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"slices"
	"strings"
	"time"

	"aftermath/internal/archive"
)

// Format is the newest format that this program writes; it reads all from 1 on.
const Format = 2

// AccountsFormat is the format of a back-up of accounts: programs that know only studies refuse it.
const AccountsFormat = 3

// manifestName is the part that says what the others are.
const manifestName = "manifest.json"

// Limits of what is read, and so of what is written: a back-up that could not be read is not written either. They are variables for
// tests alone.
var (
	maxManifest  = 16 << 20  // bytes
	maxDirectory = 16 << 20  // bytes of the list of parts
	maxLine      = 256 << 20 // bytes: a row, or a scheme with all its decisions
)

// ErrTooLarge says that a back-up would hold something that can't be read back.
var ErrTooLarge = errors.New("it is too large for a back-up")

// ErrBackup is behind every error about a file that is no back-up, or a damaged one.
var ErrBackup = errors.New("back-up")

// Manifest says what is in a back-up.
type Manifest struct {
	Format int       `json:"aftermathBackup"`
	Made   time.Time `json:"made"`
	// Accounts says that it holds accounts, with their roles and what is set for all, in the place of studies.
	Accounts bool    `json:"accounts,omitempty"`
	Studies  []Study `json:"studies"`
	Parts    []Part  `json:"parts"`
}

// Study is a study in a back-up.
type Study struct {
	ID          int64  `json:"id"`
	Name        string `json:"name"`
	Revision    int    `json:"revision"`
	Respondents int    `json:"respondents"`
}

// Part is a table in a back-up.
type Part struct {
	Name   string `json:"name"`
	Lines  int    `json:"lines"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

// Writer writes a back-up.
type Writer struct {
	zip      *zip.Writer
	manifest Manifest
}

// NewWriter begins a back-up that is made now. Nothing but Close makes it whole.
func NewWriter(to io.Writer, now time.Time) *Writer {
	return &Writer{zip.NewWriter(to), Manifest{Format: Format, Made: now.UTC(), Studies: []Study{}, Parts: []Part{}}}
}

// NewAccountsWriter begins a back-up of accounts that is made now.
func NewAccountsWriter(to io.Writer, now time.Time) *Writer {
	w := NewWriter(to, now)
	w.manifest.Format, w.manifest.Accounts = AccountsFormat, true
	return w
}

// Study takes note of a study that is in the back-up.
func (w *Writer) Study(s Study) { w.manifest.Studies = append(w.manifest.Studies, s) }

// Part writes a part; lines gives its lines, each a JSON value without a line break in it.
func (w *Writer) Part(name string, lines func(line func(data []byte) error) error) error {
	to, err := w.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: w.manifest.Made})
	if err != nil {
		return err
	}
	sum := &summing{to: to, sum: sha256.New()}
	out := bufio.NewWriterSize(sum, 1<<16)
	n := 0
	err = lines(func(data []byte) error {
		if n++; len(data) >= maxLine {
			return fmt.Errorf("%w: line %d of %s has %d MB, and %d MB can be read back", ErrTooLarge, n, name, len(data)>>20, maxLine>>20)
		}
		_, err := out.Write(data)
		return errors.Join(err, out.WriteByte('\n'))
	})
	if err = errors.Join(err, out.Flush()); err != nil {
		return err
	}
	w.manifest.Parts = append(w.manifest.Parts, Part{Name: name, Lines: n, Bytes: sum.bytes, SHA256: sum.hex()})
	return nil
}

// Close ends the back-up.
func (w *Writer) Close() error {
	data, err := json.MarshalIndent(w.manifest, "", "  ")
	if err != nil {
		return err
	}
	// What the list of parts takes at the end of the file is their names and less than 100 bytes each. Whoever reads it reads in blocks,
	// and somewhat more than the list.
	directory := 16 << 10
	for _, p := range w.manifest.Parts {
		directory += len(p.Name) + 100
	}
	if len(data) > maxManifest || directory > maxDirectory {
		return fmt.Errorf("%w: it has %d studies in %d parts; back up fewer at once", ErrTooLarge, len(w.manifest.Studies), len(w.manifest.Parts))
	}
	to, err := w.zip.CreateHeader(&zip.FileHeader{Name: manifestName, Method: zip.Deflate, Modified: w.manifest.Made})
	if err != nil {
		return err
	}
	_, err = to.Write(data)
	return errors.Join(err, w.zip.Close())
}

// summing sums up what goes through it.
type summing struct {
	to    io.Writer
	sum   hash.Hash
	bytes int64
}

func (s *summing) Write(p []byte) (int, error) {
	n, err := s.to.Write(p)
	s.sum.Write(p[:n])
	s.bytes += int64(n)
	return n, err
}

func (s *summing) hex() string { return hex.EncodeToString(s.sum.Sum(nil)) }

// Archive is a back-up that is open, and whole: all its parts were read once and are what the manifest says.
type Archive struct {
	Manifest
	file  *archive.Archive
	parts map[string]*zip.File
}

// Open opens a back-up that unpacks to so many bytes at most, and checks all of it. What is damaged is named in the error.
func Open(ctx context.Context, path string, most int64) (*Archive, error) {
	f, err := archive.Open(path, int64(maxDirectory))
	var noFile *fs.PathError
	switch {
	case errors.As(err, &noFile):
		return nil, err
	case err != nil:
		return nil, fmt.Errorf("%w: this file is no back-up, or its end is missing: %w", ErrBackup, err)
	}
	a := &Archive{file: f, parts: map[string]*zip.File{}}
	if err := a.read(ctx, most); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return a, nil
}

// Close closes the file.
func (a *Archive) Close() error { return a.file.Close() }

func (a *Archive) read(ctx context.Context, most int64) error {
	for _, f := range a.file.File {
		if a.parts[f.Name] != nil {
			return fmt.Errorf("%w: it is damaged: it has two parts called %s", ErrBackup, f.Name)
		}
		a.parts[f.Name] = f
	}
	list := a.parts[manifestName]
	if list == nil {
		return fmt.Errorf("%w: this file is no back-up: it has no %s", ErrBackup, manifestName)
	}
	if err := readManifest(list, &a.Manifest); err != nil {
		return err
	}
	if a.Format < 1 || a.Format > Format && !(a.Accounts && a.Format == AccountsFormat) {
		return fmt.Errorf("%w: its format is %d, and this program reads up to %d: use a newer program", ErrBackup, a.Format, Format)
	}
	named, size := map[string]bool{}, int64(0)
	for _, p := range a.Parts {
		if named[p.Name] || p.Bytes < 0 {
			return fmt.Errorf("%w: it is damaged: %s names %s twice, or without its size", ErrBackup, manifestName, p.Name)
		}
		named[p.Name] = true
		if size += p.Bytes; size > most || size < 0 {
			return fmt.Errorf("%w: it unpacks to more than %d MB, which is the most that is taken here (--restore-max, or the room on the disk)", ErrBackup, most>>20)
		}
	}
	var damaged []string
	for _, p := range a.Parts {
		sum := &summing{to: io.Discard, sum: sha256.New()}
		n := 0
		err := a.lines(ctx, p.Name, func(line []byte) error {
			n++
			_, _ = sum.Write(line) // what discards takes all
			_, _ = sum.Write([]byte{'\n'})
			if !json.Valid(line) {
				return fmt.Errorf("line %d is no JSON", n)
			}
			return nil
		})
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil:
			damaged = append(damaged, fmt.Sprintf("%s (%v)", p.Name, err))
		case n != p.Lines || sum.bytes != p.Bytes || sum.hex() != p.SHA256:
			damaged = append(damaged, fmt.Sprintf("%s (it is not what was written: %d of %d lines, %d of %d bytes)", p.Name, n, p.Lines, sum.bytes, p.Bytes))
		}
	}
	if len(damaged) > 0 {
		return fmt.Errorf("%w: it is damaged: %s", ErrBackup, strings.Join(damaged, "; "))
	}
	return nil
}

func readManifest(f *zip.File, to *Manifest) error {
	from, err := f.Open()
	if err != nil {
		return fmt.Errorf("%w: %s can't be read: %w", ErrBackup, manifestName, err)
	}
	defer from.Close()
	if err := json.NewDecoder(io.LimitReader(from, int64(maxManifest))).Decode(to); err != nil {
		return fmt.Errorf("%w: %s can't be read: %w", ErrBackup, manifestName, err)
	}
	return nil
}

// Only is the same back-up with one study of it, and nothing that was set for all.
func (a *Archive) Only(study Study) *Archive {
	out := *a
	out.Studies = []Study{study}
	return &out
}

// Has says whether there is a part of that name.
func (a *Archive) Has(name string) bool {
	return slices.ContainsFunc(a.Parts, func(p Part) bool { return p.Name == name })
}

// Lines gives the lines of a part, without their breaks; a line must not be kept. A part that is not there has none.
func (a *Archive) Lines(ctx context.Context, name string, visit func(line []byte) error) error {
	if !a.Has(name) {
		return nil
	}
	return a.lines(ctx, name, visit)
}

func (a *Archive) lines(ctx context.Context, name string, visit func(line []byte) error) error {
	part := a.parts[name]
	if part == nil {
		return fmt.Errorf("%w: %s is missing", ErrBackup, name)
	}
	from, err := part.Open()
	if err != nil {
		return fmt.Errorf("%w: %s: %w", ErrBackup, name, err)
	}
	defer from.Close()
	size := int64(0)
	for _, p := range a.Parts {
		if p.Name == name {
			size = p.Bytes
		}
	}
	s := bufio.NewScanner(io.LimitReader(from, size+1)) // what is more than it says is damage, and is not gone through
	s.Buffer(make([]byte, 1<<16), maxLine)
	s.Split(wholeLines)
	for n := 0; s.Scan(); n++ {
		if n%1000 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if err := visit(s.Bytes()); err != nil {
			return err
		}
	}
	if err := s.Err(); err != nil {
		return fmt.Errorf("%w: %s: %w", ErrBackup, name, err)
	}
	return nil
}

// wholeLines splits at line feeds and at nothing else: what stands before them is checked to the byte.
func wholeLines(data []byte, atEnd bool) (advance int, line []byte, err error) {
	if i := bytes.IndexByte(data, '\n'); i >= 0 {
		return i + 1, data[:i], nil
	}
	if atEnd && len(data) > 0 {
		return 0, nil, errors.New("its last line breaks off")
	}
	return 0, nil, nil
}
