package api

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A frame goes out as a table and as a codebook and comes in again; what can't be read says why, and nothing is changed.
func TestFramesInAndOut(t *testing.T) {
	base := serve(t, Options{}).URL + prefix
	asJSON := []string{"Content-Type", "application/json"}
	_, _, _ = ask(t, "POST", base+"/uploads?name=x.csv", "id,answer\n"+strings.Repeat("A1,the queue was long\nA2,cold tea\n", 20))
	status, body, _ := ask(
		t,
		"POST",
		base+"/studies",
		`{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`,
		asJSON...)
	require.Equal(t, 200, status, body)
	q := base + "/questions/1"
	edit := func(revision, edit string) (int, string) {
		status, body, _ := ask(t, "POST", q+"/edits", `{"revision":`+revision+`,"edit":`+edit+`}`, asJSON...)
		return status, body
	}
	status, body, _ = ask(t, "GET", q+"/frame/file?format=qdc", "")
	assert.Equal(t, 422, status, "a codebook must hold a code")
	assert.Contains(t, body, "no category yet")
	status, body = edit(
		"0",
		`{"kind":"frame","frame":[{"name":"Food / drink","note":"=1+1","colour":3,"children":[{"name":"Tea","rules":["tea / coffee","cup"],"resting":["mug"]}]}]}`,
	)
	require.Equal(t, 200, status, body)

	_, table, header := ask(t, "GET", q+"/frame/file", "")
	assert.Contains(t, header.Get("Content-Disposition"), "attachment")
	assert.Contains(t, table, `'=1+1`, "no cell runs as a formula")
	assert.Contains(t, table, `"""Food / drink"""`, "a name with a stroke in it is no path")
	type read struct {
		Kind       string
		Frame      json.RawMessage
		Categories int
		Rules      int
		Notes      []string
	}
	bring := func(name, data string) (out read) {
		t.Helper()
		status, body, _ := ask(t, "POST", q+"/frame/read?name="+name, data, "Content-Type", "application/octet-stream")
		require.Equal(t, 200, status, body)
		require.NoError(t, json.Unmarshal([]byte(body), &out))
		return out
	}
	in := bring("frame.csv", "\xef\xbb\xbf"+table)
	assert.Equal(t, []any{"table", 2, 2}, []any{in.Kind, in.Categories, in.Rules})
	status, body = edit("1", `{"kind":"frame","frame":`+string(in.Frame)+`}`)
	require.Equal(t, 200, status, body)
	_, again, _ := ask(t, "GET", q+"/frame/file", "")
	assert.Equal(t, table, again)
	_, book, _ := ask(t, "GET", q+"/frame/file?format=qdc", "")
	in = bring("codebook.qdc", book)
	assert.Equal(t, []any{"codebook", 2, 0, 0}, []any{in.Kind, in.Categories, in.Rules, len(in.Notes)})

	for data, want := range map[string]string{
		"PK\x03\x04":                     "this is a workbook",
		"name,caf\xe9\n":                 "not in UTF-8",
		"name;weight\na;1\n":             `no column \"weight\"`,
		`{"aftermath":1,"lexikon":{}}`:   "lexikon",
		`<Project/>`:                     "REFI-QDA",
		"name,rules\n\"a":                "can't be read as CSV",
		`{"aftermath":1,"frame":[{"x":1`: "unexpected",
	} {
		status, body, _ := ask(t, "POST", q+"/frame/read", data, "Content-Type", "application/octet-stream")
		assert.Equal(t, 422, status, data)
		assert.Contains(t, body, want, data)
	}
	state := func(name string) (int, string) {
		status, body, _ := ask(t, "POST", q+"/states", `{"name":"`+name+`"}`, asJSON...)
		return status, body
	}
	status, body = state("sent")
	require.Equal(t, 200, status, body)
	status, body = state("sent")
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "already")
	for path, want := range map[string]string{"/between?from=9x": "is no revision", "/between?from=" + url.QueryEscape("=none"): "no state is called", "/why?answer=999&category=c1": "gone", "/health?least=-1": "least"} {
		status, body, _ := ask(t, "GET", q+path, "")
		assert.Equal(t, 422, status, path)
		assert.Contains(t, body, want, path)
	}
	status, _, _ = ask(t, "DELETE", q+"/states?name=sent", "")
	assert.Equal(t, 204, status)
	_, body, _ = ask(t, "GET", q+"/states", "")
	assert.Equal(t, "[]", strings.TrimSpace(body))
}
