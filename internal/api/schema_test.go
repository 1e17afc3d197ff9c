package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// documented is the OpenAPI document with a way to find an operation by its address.
type documented struct {
	registry   huma.Registry
	operations []operation
}

type operation struct {
	method string
	path   *regexp.Regexp
	is     *huma.Operation
}

var describe = sync.OnceValue(func() documented {
	gin.SetMode(gin.ReleaseMode)
	a := humagin.New(gin.New(), config())
	register(a, &server{})
	doc := a.OpenAPI()
	out := documented{registry: doc.Components.Schemas}
	for path, item := range doc.Paths {
		pattern := regexp.MustCompile("^" + regexp.MustCompile(`\\\{\w+\\\}`).ReplaceAllString(regexp.QuoteMeta(path), `[^/]+`) + "$")
		for method, is := range map[string]*huma.Operation{
			http.MethodGet: item.Get, http.MethodPost: item.Post, http.MethodPut: item.Put, http.MethodDelete: item.Delete,
		} {
			if is != nil {
				out.operations = append(out.operations, operation{method, pattern, is})
			}
		}
	}
	return out
})

// find gives the operation of a request; of several, the one with the fewest parameters in its path.
func (d documented) find(r *http.Request) (found *huma.Operation) {
	for _, o := range d.operations {
		if o.method != r.Method || !o.path.MatchString(r.URL.Path) {
			continue
		}
		if found == nil || strings.Count(o.is.Path, "{") < strings.Count(found.Path, "{") {
			found = o.is
		}
	}
	return found
}

// check says in what a reply differs from what the document says of it.
func (d documented) check(o *huma.Operation, status int, header http.Header, data []byte) error {
	kind, _, _ := strings.Cut(header.Get("Content-Type"), ";")
	if status >= 400 {
		if kind != "application/problem+json" {
			return fmt.Errorf("a refusal comes as %q", kind)
		}
		return nil
	}
	reply, told := o.Responses[fmt.Sprint(status)]
	switch {
	case !told:
		return fmt.Errorf("a reply with status %d is not in the document", status)
	case len(reply.Content) == 0: // a file, or nothing
		return nil
	case len(data) == 0:
		return fmt.Errorf("a reply without a body")
	case reply.Content[kind] == nil:
		return fmt.Errorf("a reply as %q is not in the document", kind)
	}
	var value any
	if err := json.Unmarshal(data, &value); err != nil {
		return err
	}
	result := &huma.ValidateResult{}
	huma.Validate(d.registry, reply.Content[kind].Schema, huma.NewPathBuffer(nil, 0), huma.ModeReadFromServer, value, result)
	if len(result.Errors) > 0 {
		return result.Errors[0]
	}
	return nil
}

// checked serves what a handler serves, and holds each reply against the document.
func checked(t *testing.T, handler http.Handler) http.Handler {
	d := describe()
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		o := d.find(r)
		if o == nil || o.OperationID == "events" {
			handler.ServeHTTP(w, r)
			return
		}
		copy := &copied{ResponseWriter: w, status: http.StatusOK}
		handler.ServeHTTP(copy, r)
		if err := d.check(o, copy.status, w.Header(), copy.data.Bytes()); err != nil {
			t.Errorf("%s %s (%s): %v\n%.400s", r.Method, r.URL, o.OperationID, err, copy.data.String())
		}
	})
}

// copied keeps a copy of what is written.
type copied struct {
	http.ResponseWriter
	status int
	data   bytes.Buffer
}

func (k *copied) WriteHeader(status int) {
	k.status = status
	k.ResponseWriter.WriteHeader(status)
}

func (k *copied) Write(data []byte) (int, error) {
	k.data.Write(data)
	return k.ResponseWriter.Write(data)
}

func (k *copied) Unwrap() http.ResponseWriter { return k.ResponseWriter }

// The check itself notices an array that is null, a field that is missing and one that is not known.
func TestRepliesAreChecked(t *testing.T) {
	d := describe()
	r, err := http.NewRequest(http.MethodGet, "http://x/api/v1/questions/1/states", nil)
	require.NoError(t, err)
	o := d.find(r)
	require.NotNil(t, o)
	header := http.Header{"Content-Type": {"application/json"}}
	for body, fine := range map[string]bool{
		`[]`:   true,
		`null`: false,
		`[{"name":"a","number":1,"at":"2026-12-01T10:00:00Z"}]`:          true,
		`[{"name":"a","number":1}]`:                                      false,
		`[{"name":"a","number":1,"at":"2026-12-01T10:00:00Z","more":1}]`: false,
	} {
		assert.Equal(t, fine, d.check(o, http.StatusOK, header, []byte(body)) == nil, body)
	}
	assert.Error(t, d.check(o, http.StatusTeapot, header, nil))
}
