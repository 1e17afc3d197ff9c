package api

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"reflect"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

// A download that breaks half-way is cut off, so that whoever reads it knows that it is not whole; one that breaks before the
// first byte, and a panic, are plain errors.
func TestDownloadsThatBreakLookBroken(t *testing.T) {
	r := gin.New()
	r.Use(recovered)
	a := humagin.New(r, config())
	route := func(path string, write func(w io.Writer) error) {
		huma.Register(
			a,
			huma.Operation{Method: http.MethodGet, Path: path},
			func(context.Context, *struct{}) (*huma.StreamResponse, error) {
				return download("x.csv", "text/csv", write), nil
			},
		)
	}
	rows := strings.Repeat("a,b\n", 100_000)
	route("/whole", func(w io.Writer) error { _, err := io.WriteString(w, rows); return err })
	route("/broken", func(w io.Writer) error {
		_, err := io.WriteString(w, rows)
		return errors.Join(err, errors.New("the disk is gone"))
	})
	route("/early", func(io.Writer) error { return errors.New("nothing was written") })
	route("/panic", func(io.Writer) error { panic("oh") })
	server := httptest.NewServer(r)
	defer server.Close()
	for path, want := range map[string]bool{"/whole": true, "/broken": false, "/early": false} {
		reply, err := http.Get(server.URL + path)
		if err == nil {
			_, err = io.ReadAll(reply.Body)
			reply.Body.Close()
		}
		assert.Equal(t, want, err == nil, "%s: %v", path, err)
	}
	reply, err := http.Get(server.URL + "/panic")
	require.NoError(t, err)
	defer reply.Body.Close()
	assert.Equal(t, 500, reply.StatusCode)
}

// What is the caller's doing is said as such, in a plain sentence; nothing of the database or the machine is in any message.
func TestRefusalsArePlain(t *testing.T) {
	base := serve(t, Options{}).URL + prefix
	asJSON := []string{"Content-Type", "application/json"}
	post := func(path, body string) (int, string) {
		status, reply, _ := ask(t, "POST", base+path, body, asJSON...)
		return status, reply
	}
	_, _ = post("/uploads?name=a.csv", "id,route,answer\n1,North,late boat\n2,South,cold tea\n")
	status, body := post(
		"/studies",
		`{"upload":"LAST","name":"x\u0000y","columns":[{"name":"id","role":"identifier"},{"name":"route","role":"segment"},{"name":"answer","role":"open-ended"}]}`,
	)
	assert.Equal(t, 422, status, body)
	assert.Contains(t, body, "null character")
	status, body = post(
		"/studies",
		`{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},{"name":"route","role":"segment"},{"name":"answer","role":"open-ended"}]}`,
	)
	require.Equal(t, 200, status, body)
	status, body = post("/questions/1/edits", `{"revision":0,"edit":{"kind":"add category","name":"Late","rules":["late"]}}`)
	require.Equal(t, 200, status, body)
	long := strings.Repeat("a ", 10_100)
	for _, c := range []struct {
		method, path, body string
		status             int
		says               string
	}{
		{"POST", "/questions/1/edits", `{"revision":1,"edit":{"kind":"add category","name":"a\u0000"}}`, 422, "null character"},
		{"POST", "/questions/1/edits", `{"revision":1,"edit":{"kind":"rule","category":"c1","rule":"` + long + `"}}`, 422, "at most 20000"},
		{"POST", "/questions/1/states", `{"name":"a\u0000"}`, 422, "null character"},
		{"POST", "/questions/1/focuses", `{"name":"a\u0000","conditions":[{"kind":"coded"}]}`, 422, "null character"},
		{"POST", "/questions/99/focuses", `{"name":"a","conditions":[{"kind":"coded"}]}`, 404, "not here any more"},
		{"POST", "/questions/99/states", `{"name":"a"}`, 404, "not here any more"},
		{"POST", "/questions/99/edits", `{"revision":0,"edit":{"kind":"mask","on":true}}`, 404, "not here any more"},
		{"POST", "/studies/1/edits", `{"revision":0,"edit":{"kind":"derive","derived":{"name":"a\u0000","kind":"groups","of":["route"]}}}`, 422, "null character"},
		{"GET", "/questions/1/answers?offset=9223372036854775807", "", 422, "offset"},
		{"GET", "/questions/1/answers?offset=2147483647", "", 200, `"answers":[]`},
		{"GET", "/questions/1/context?text=late&offset=2147483647", "", 200, `"lines":[]`},
		{"GET", "/questions/1/terms?offset=2147483647", "", 200, `"terms":[]`},
		{"GET", "/questions/1/suggestions?offset=2147483647", "", 200, `"list":[]`},
		{"GET", "/studies/1/sheet?offset=2147483647", "", 200, `"rows":[]`},
		{"GET", "/questions/1/answers?focus=" + url.QueryEscape(`[{"kind":"words","text":"`+long+`"}]`), "", 422, "longer than"},
		{"POST", "/questions/1/rule", `{"rule":"` + long + `"}`, 422, "body.rule"},
	} {
		status, body, _ := ask(t, c.method, base+c.path, c.body, asJSON...)
		assert.Equal(t, c.status, status, "%s %.80s: %.300s", c.path, c.body, body)
		assert.Contains(t, body, c.says, "%s %.80s", c.path, c.body)
		for _, secret := range []string{"SQLSTATE", "postgres", "127.0.0.1", "insert into", "/tmp"} {
			assert.NotContains(t, body, secret, "%s %.80s", c.path, c.body)
		}
	}
	// The same answer twice in one decision is decided once.
	status, body = post("/questions/1/edits", `{"revision":1,"edit":{"kind":"decide","category":"c1","answers":[1,1],"to":"on"}}`)
	assert.Equal(t, 200, status, body)
	assert.Contains(t, body, "by hand")
	assert.Contains(t, body, "one answer")

	// A body that breaks off, or is no chunks at all.
	u, err := url.Parse(base)
	require.NoError(t, err)
	conn, err := net.DialTimeout("tcp", u.Host, 10*time.Second)
	require.NoError(t, err)
	defer conn.Close()
	require.NoError(t, conn.SetDeadline(time.Now().Add(30*time.Second)))
	_, err = fmt.Fprintf(
		conn,
		"POST %s/uploads?name=a.csv HTTP/1.1\r\nHost: %s\r\nContent-Type: text/csv\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\nno chunk\r\n",
		prefix,
		u.Host,
	)
	require.NoError(t, err)
	data := make([]byte, 600)
	n, err := conn.Read(data)
	require.NoError(t, err)
	assert.Contains(t, string(data[:n]), " 400 ")
}

// While the database is away, an edit says that; what was kept is there when it comes back.
func TestDatabaseAway(t *testing.T) {
	// The database stands behind a door that can be shut.
	real, err := url.Parse(pgtest.Database(t))
	require.NoError(t, err)
	door, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer door.Close()
	var shut atomic.Bool
	go func() {
		for {
			in, err := door.Accept()
			if err != nil {
				return
			}
			out, err := net.Dial("tcp", real.Host)
			if shut.Load() || err != nil {
				in.Close()
				continue
			}
			for _, way := range [][2]net.Conn{{in, out}, {out, in}} {
				go func() {
					buf := make([]byte, 32<<10)
					for {
						n, err := way[0].Read(buf)
						if err != nil || shut.Load() {
							in.Close()
							out.Close()
							return
						}
						if _, err := way[1].Write(buf[:n]); err != nil {
							return
						}
					}
				}()
			}
		}
	}()
	through := *real
	through.Host = door.Addr().String()
	s, err := store.Open(t.Context(), through.String())
	require.NoError(t, err)
	defer s.Close()
	server := serveOn(t, s, Options{})
	defer server.Close()
	base := server.URL + prefix
	asJSON := []string{"Content-Type", "application/json"}
	_, _, _ = ask(t, "POST", base+"/uploads?name=a.csv", "id,answer\n1,late boat\n2,cold tea\n")
	status, body, _ := ask(
		t,
		"POST",
		base+"/studies",
		`{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`,
		asJSON...)
	require.Equal(t, 200, status, body)
	status, body, _ = ask(t, "POST", base+"/questions/1/edits", `{"revision":0,"edit":{"kind":"hide","terms":["late"]}}`, asJSON...)
	require.Equal(t, 200, status, body)
	shut.Store(true)
	for range 3 {
		status, body, _ = ask(t, "POST", base+"/questions/1/edits", `{"revision":1,"edit":{"kind":"hide","terms":["tea"]}}`, asJSON...)
		assert.Equal(t, 503, status, body)
		assert.Contains(t, body, "database can't be reached")
		assert.NotContains(t, body, "127.0.0.1")
	}
	hung := problem(fmt.Errorf("asking: %w", store.ErrHung)).(huma.StatusError)
	assert.Equal(t, 503, hung.GetStatus())
	assert.Contains(t, hung.Error(), "does not answer")
	shut.Store(false)
	status, body, _ = ask(t, "POST", base+"/questions/1/edits", `{"revision":1,"edit":{"kind":"hide","terms":["tea"]}}`, asJSON...)
	assert.Equal(t, 200, status, body)
	_, body, _ = ask(t, "GET", base+"/questions/1/lexicon", "")
	assert.Contains(t, body, `"add":["late","tea"]`)
}

// An edit that lacks something it needs, has something too much, or is of no kind is refused, and nothing is changed.
func TestHalfAnEditIsRefused(t *testing.T) {
	base := serve(t, Options{}).URL + prefix
	asJSON := []string{"Content-Type", "application/json"}
	_, _, _ = ask(t, "POST", base+"/uploads?name=a.csv", "id,answer\n1,late boat\n2,cold tea\n", asJSON...)
	study := `{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`
	status, body, _ := ask(t, "POST", base+"/studies", study, asJSON...)
	require.Equal(t, 200, status, body)
	bad := []string{`{}`, `{"kind":"restore"}`, `{"kind":""}`, `[]`, `"mask"`, `{"kind":"mask","on":"yes"}`, `{"kind":"cleaning","terms":["x"]}`}
	for _, e := range scheme.Kinds {
		bad = append(bad, fmt.Sprintf(`{"kind":%q,"nonsense":1}`, e.Kind()))
		if reflect.TypeOf(e).NumField() > 0 {
			bad = append(bad, fmt.Sprintf(`{"kind":%q}`, e.Kind()))
		}
	}
	for _, e := range bad {
		for _, route := range []string{"edits", "edits/try"} {
			status, body, _ := ask(t, "POST", base+"/questions/1/"+route, `{"revision":0,"edit":`+e+`}`, asJSON...)
			assert.True(t, status == 422 || status == 400, "%s %s: %d %.200s", route, e, status, body)
		}
	}
	status, body, _ = ask(t, "GET", base+"/questions/1", "", asJSON...)
	assert.Equal(t, 200, status)
	assert.Contains(t, body, `"revision":0`)
}
