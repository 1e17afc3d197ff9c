// Package document writes reports and pictures as files. The interface's own code does it, which draws them on the screen too:
// here it runs without a browser, in an interpreter, so that a file is the same whoever asks for it.
package document

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"sync"

	"github.com/dop251/goja"
	"golang.org/x/sync/semaphore"

	"aftermath/ui"
)

// Format is a kind of file.
type Format struct {
	Extension string
	Type      string // media type
}

// Formats are the files that a report is written as.
var Formats = map[string]Format{
	"html":     {"html", "text/html; charset=utf-8"},
	"markdown": {"md", "text/markdown; charset=utf-8"},
	"pptx":     {"pptx", "application/vnd.openxmlformats-officedocument.presentationml.presentation"},
	"docx":     {"docx", "application/vnd.openxmlformats-officedocument.wordprocessingml.document"},
	"json":     {"json", "application/json"},
}

// ErrNotBuilt is given where the program was built without the interface.
var ErrNotBuilt = errors.New("this program was built without the interface, which writes reports: run make build")

// Writer writes files, a few at a time.
type Writer struct {
	program func() (*goja.Program, error) // the interface's code for files, read once
	atOnce  *semaphore.Weighted
}

// atOnce is how many files are written at the same time: each takes a processor and some hundred megabytes.
const atOnce = 2

// New is a writer; the code is read when the first file is wanted.
func New() *Writer {
	return &Writer{atOnce: semaphore.NewWeighted(atOnce), program: sync.OnceValues(func() (*goja.Program, error) {
		source, err := ui.Script("paper/paper.js")
		if err != nil {
			return nil, ErrNotBuilt
		}
		return goja.Compile("paper.js", string(source), true)
	})}
}

// Write writes what a format is made of, as JSON has it, as a file. It ends when ctx does.
func (w *Writer) Write(ctx context.Context, format string, of any) ([]byte, error) {
	given, err := json.Marshal(of)
	if err != nil || format == "json" {
		return given, err
	}
	if err := w.atOnce.Acquire(ctx, 1); err != nil {
		return nil, err
	}
	defer w.atOnce.Release(1)
	if format == "docx" {
		return w.docx(ctx, string(given))
	}
	return w.run(ctx, format, string(given))
}

// run has the program write a file.
func (w *Writer) run(ctx context.Context, format, given string) ([]byte, error) {
	p, err := w.program()
	if err != nil {
		return nil, err
	}
	m := newMachine()
	stop := context.AfterFunc(ctx, func() { m.js.Interrupt(ctx.Err()) })
	defer stop()
	out, err := m.write(p, format, given)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	return out, err
}

// machine runs the program once, for one file: nothing of one is there for another.
type machine struct {
	js    *goja.Runtime
	queue []func() error // what was put off
}

func newMachine() *machine {
	m := &machine{js: goja.New()}
	m.js.SetFieldNameMapper(goja.TagFieldNameMapper("json", true))
	later := func(c goja.FunctionCall) goja.Value {
		if f, ok := goja.AssertFunction(c.Argument(0)); ok {
			m.queue = append(m.queue, func() error {
				_, err := f(goja.Undefined())
				return err
			})
		}
		return m.js.ToValue(len(m.queue))
	}
	pack := func(c goja.FunctionCall) goja.Value {
		file, err := m.pack(c.Argument(0))
		if err != nil {
			panic(m.js.NewGoError(err))
		}
		return m.js.ToValue(base64.StdEncoding.EncodeToString(file))
	}
	for name, to := range map[string]any{
		"pack":         pack,
		"setTimeout":   later,
		"clearTimeout": func(goja.FunctionCall) goja.Value { return goja.Undefined() },
		"utf8":         func(s string) goja.ArrayBuffer { return m.js.NewArrayBuffer([]byte(s)) },
	} {
		if err := m.js.Set(name, to); err != nil {
			panic(err) // these names are free
		}
	}
	return m
}

// repeated is how a paragraph looks, said again for each run of its text: the library of slides does so, and some programs refuse
// what says it twice.
var repeated = regexp.MustCompile(`(</a:r>|<a:br/>)<a:pPr(?: [^>]*)?(?:/>|>.*?</a:pPr>)`)

// pack packs the parts of an archive that the program has written.
func (m *machine) pack(of goja.Value) ([]byte, error) {
	var written []struct {
		Name   string `json:"name"`
		Data   string `json:"data"`
		Base64 bool   `json:"base64"`
	}
	if err := m.js.ExportTo(of, &written); err != nil {
		return nil, err
	}
	parts, names := map[string][]byte{}, []string{}
	for _, p := range written {
		data := repeated.ReplaceAll([]byte(p.Data), []byte("$1"))
		if p.Base64 {
			var err error
			if data, err = base64.StdEncoding.DecodeString(p.Data); err != nil {
				return nil, err
			}
		}
		if parts[p.Name] == nil {
			names = append(names, p.Name)
		}
		parts[p.Name] = data
	}
	return pack(parts, names)
}

// write calls the program's one function: write(format, given) promises the file, in base64 where it is no text.
func (m *machine) write(p *goja.Program, format, given string) ([]byte, error) {
	if _, err := m.js.RunProgram(p); err != nil {
		return nil, err
	}
	write, ok := goja.AssertFunction(m.js.Get("write"))
	if !ok {
		return nil, errors.New("paper.js has no function write")
	}
	promised, err := write(goja.Undefined(), m.js.ToValue(format), m.js.ToValue(given))
	if err != nil {
		return nil, err
	}
	promise, ok := promised.Export().(*goja.Promise)
	if !ok {
		return nil, errors.New("paper.js promised nothing")
	}
	for promise.State() == goja.PromiseStatePending {
		if len(m.queue) == 0 {
			return nil, errors.New("paper.js waits for nothing")
		}
		next := m.queue[0]
		m.queue = m.queue[1:]
		if err := next(); err != nil {
			return nil, err
		}
	}
	if promise.State() == goja.PromiseStateRejected {
		return nil, fmt.Errorf("paper.js: %.500v", promise.Result())
	}
	out := promise.Result().String()
	if strings.HasPrefix(Formats[format].Type, "text/") {
		return []byte(out), nil
	}
	return base64.StdEncoding.DecodeString(out)
}
