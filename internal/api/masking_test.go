package api

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/accounts"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

// planted is personal data that stands in answers, identifiers and values of the study below, in any of the shapes it could be told in.
var planted = []string{"ann.lee", "ben.moor", "4111 1111", "41111111", "960123", "960 123"}

// told gives which of the planted data a reply tells: in its text, in files that are packed in it, in rows of Parquet.
func told(t *testing.T, body []byte) (out []string) {
	if bytes.HasPrefix(body, []byte("PK\x03\x04")) {
		z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
		require.NoError(t, err)
		for _, f := range z.File {
			r, err := f.Open()
			require.NoError(t, err)
			data, err := io.ReadAll(r)
			require.NoError(t, err)
			out = append(out, told(t, data)...)
		}
		return out
	}
	text := strings.ToLower(string(body))
	if bytes.HasPrefix(body, []byte("PAR1")) {
		f, err := parquet.OpenFile(bytes.NewReader(body), int64(len(body)))
		require.NoError(t, err)
		for _, group := range f.RowGroups() {
			rows, all := group.Rows(), make([]parquet.Row, group.NumRows())
			_, _ = rows.ReadRows(all)
			text += strings.ToLower(fmt.Sprint(all))
			require.NoError(t, rows.Close())
		}
	}
	for _, p := range planted {
		if strings.Contains(text, p) {
			out = append(out, p)
		}
	}
	return out
}

// withPersonalData adds a second study, Olga's, with two questions, identifiers and values that hold personal data, and a report of it
// that was frozen before anything was masked. Sam is an analyst who may see what is masked, Ann is one who may not.
func withPersonalData(t *testing.T, p *people) {
	rows := "id,change,enjoy,contact,visits\n"
	for i := range 12 {
		rows += fmt.Sprintf("p%d@larkmoor.example,the tea was cold and late %d,more tea please,desk 01632 96%04d,%d\n", i, i, i+2000, i)
	}
	rows += "ann.lee@larkmoor.example,write to ann.lee@larkmoor.example about the tea,card 4111 1111 1111 1111 was charged for tea,desk 01632 960123,3\n" +
		"ben.moor@larkmoor.example,ring 01632 960123 about the tea,ben.moor@larkmoor.example knows about the tea,desk 01632 960123,4\n"
	status, body := p.ask("Olga", "POST", "/uploads?name=y.csv", rows)
	require.Equal(t, 200, status, body)
	status, body = p.ask("Olga", "POST", "/studies", `{"upload":"LAST","name":"y","columns":[{"name":"id","role":"identifier"},
		{"name":"change","role":"open-ended"},{"name":"enjoy","role":"open-ended"},{"name":"contact","role":"segment"},{"name":"visits","role":"number"}]}`)
	require.Equal(t, 200, status, body)
	for name, as := range map[string]accounts.Rights{
		"Ann": {Role: accounts.Analyst}, "Sam": {Role: accounts.Analyst, Personal: true}, "Ray": {Role: accounts.Reader, Exports: true, Personal: true}, "Rea": {Role: accounts.Reader},
	} {
		status, body := p.ask("Olga", "PUT", fmt.Sprintf("/studies/2/members/%d", p.ids[name]),
			fmt.Sprintf(`{"role":%q,"exports":%t,"personal":%t}`, as.Role, as.Exports, as.Personal))
		require.Equal(t, 204, status, body)
	}
	for _, made := range [][2]string{
		{"/questions/2/edits", `{"revision":0,"edit":{"kind":"add category","name":"Tea","rules":["tea"]}}`},
		{"/questions/2/charts", `{"name":"By contact","drawn":{"kind":"bars","query":{"nests":[["contact"]]}}}`},
		{"/questions/2/samples", `{"name":"Blind","size":14,"focus":[],"seed":1}`},
		{"/studies/2/reports", `{"name":"Autumn","blocks":[{"id":"q","kind":"quotes","question":2,"quotes":[{"respondent":12},{"respondent":13}]},
			{"id":"r","kind":"quotes","question":3,"quotes":[{"respondent":12}]}]}`},
		{"/studies/2/reports/1/frozen", `{"name":"As it was"}`},
	} {
		status, body := p.ask("Olga", "POST", made[0], made[1])
		if made[0] != "/questions/2/charts" { // its picture is none of this test's
			require.Equal(t, 200, status, "%s %s", made[0], body)
		}
	}
}

// readsOf are the addresses of all that can be read of the second study and of the server, by operation, with each choice of the
// parameters that change what is told.
func readsOf(t *testing.T) map[string][]string {
	doc, err := Document()
	require.NoError(t, err)
	var of struct {
		Paths map[string]map[string]struct {
			OperationID string
			Parameters  []struct {
				Name, In string
				Schema   struct{ Enum []any }
			}
		}
	}
	require.NoError(t, json.Unmarshal(doc, &of))
	fill := map[string]string{
		"by": "contact", "text": "tea", "term": "tea", "category": "c1", "from": "0", "answer": "12", "frozen": "1", "since": "0", "limit": "50",
	}
	out, n := map[string][]string{}, 0
	for path, methods := range of.Paths {
		op, get := methods["get"]
		if !get || op.OperationID == "events" {
			continue
		}
		queries, paths := []url.Values{{}}, []string{
			strings.NewReplacer("{study}", "2", "{report}", "1", "{frozen}", "1", "{sample}", "1").Replace(strings.TrimPrefix(path, prefix)),
		}
		for _, param := range op.Parameters {
			var choices []string
			for _, choice := range param.Schema.Enum {
				choices = append(choices, fmt.Sprint(choice))
			}
			switch {
			case param.In == "path":
				if param.Name == "question" {
					choices = []string{"2", "3"}
				}
				var next []string
				for _, address := range paths {
					for _, choice := range choices {
						next = append(next, strings.ReplaceAll(address, "{"+param.Name+"}", choice))
					}
				}
				if len(next) > 0 {
					paths = next
				}
			case len(choices) == 0 && fill[param.Name] != "":
				for _, q := range queries {
					q.Set(param.Name, fill[param.Name])
				}
			case slices.Contains([]string{"format", "show", "shape", "kind", "order"}, param.Name):
				for _, choice := range choices {
					q := maps.Clone(queries[0])
					q.Set(param.Name, choice)
					queries = append(queries, q)
				}
			}
		}
		for _, address := range paths {
			for _, q := range queries {
				out[op.OperationID] = append(out[op.OperationID], address+"?"+q.Encode())
				n++
			}
		}
	}
	require.Greater(t, n, 150)
	return out
}

// Masked is masked, for a study: once one of its questions asks for it, no route and no file tells anybody personal data, whatever
// question or column it stands in, but the list of it and back-ups, and those to nobody who may not see it.
func TestMaskedDataIsToldNowhere(t *testing.T) {
	p, _ := withPeople(t)
	withPersonalData(t, p)
	reads := readsOf(t)
	// walk asks for all that can be read as some people, and counts who is told something, by operation.
	walk := func(names ...string) map[string]map[string]int {
		tells := map[string]map[string]int{}
		for operation, addresses := range reads {
			for _, address := range addresses {
				for _, name := range names {
					if operation == "report-file" && name != "Ray" { // the same page for everybody, and long to write
						continue
					}
					status, body := p.ask(name, "GET", address, "")
					if found := told(t, []byte(body)); len(found) > 0 {
						if tells[operation] == nil {
							tells[operation] = map[string]int{}
						}
						tells[operation][name]++
						require.Less(t, status, 300, "a refusal tells nothing: %s", body)
					}
				}
			}
		}
		return tells
	}
	before := walk("Ray")
	for _, op := range []string{"answers", "coded", "sheet", "queue", "frozen-report", "report-file", "blind-sample", "context", "chart"} {
		assert.NotEmpty(t, before[op], "%s: the data would be told where nothing is masked", op)
	}
	assert.Empty(t, before["personal"]["Ray"], "readers are told how much there is, and no text")

	status, body := p.ask("Ann", "POST", "/questions/3/edits", `{"revision":0,"edit":{"kind":"mask","on":true}}`)
	require.Equal(t, 200, status, body)
	want := map[string]map[string]int{
		"personal":      {"Olga": 2, "Sam": 2, "Ada read": 2},
		"back-up-study": {"Olga": 1, "Sam": 1, "Ada read": 1},
		"back-up":       {"Ada read": 1},
	}
	assert.Equal(t, want, walk("Ada read", "Olga", "Ann", "Sam", "Ray", "Rea"), "question 3 asks for it, and it holds for question 2 and all columns")

	// What a question that masks nothing finds to be none counts for nothing, until it masks too: that would show it.
	status, body = p.ask("Ann", "POST", "/questions/2/edits", `{"revision":1,"edit":{"kind":"not personal","texts":["ann.lee@larkmoor.example"]}}`)
	require.Equal(t, 200, status, body)
	// Who may not see it has it shown by no edit, no undo and no other way round.
	for _, try := range [][3]string{
		{"POST", "/questions/3/edits/try", `{"kind":"mask","on":false}`},
		{"POST", "/questions/3/edits", `{"revision":1,"edit":{"kind":"mask","on":false}}`},
		{"POST", "/questions/3/edits", `{"revision":1,"edit":{"kind":"not personal","texts":["ann.lee@larkmoor.example"]}}`},
		{"POST", "/questions/3/undo", `{"edit":2}`},
		{"POST", "/questions/2/edits", `{"revision":2,"edit":{"kind":"mask","on":true}}`},
		{"POST", "/studies/2/copy", `{}`},
		{"GET", "/studies/2/backup", ""},
		{"POST", "/questions/3/undo", `{"edit":3}`},
	} {
		status, body := p.ask("Ann", try[0], try[1], try[2])
		assert.Contains(t, []int{403, 409, 422}, status, "%s %s", try[1], body)
		assert.Empty(t, told(t, []byte(body)), try[1])
	}
	status, body = p.ask("Ann", "POST", "/studies/2/divide/try", `{"column":"change","by":"sign","sign":" "}`)
	assert.Empty(t, told(t, []byte(body)), "%d", status)
	// A column that is open-ended no longer still asks for it.
	status, body = p.ask("Ann", "POST", "/studies/2/edits", `{"revision":0,"edit":{"kind":"column","column":{"name":"enjoy","role":"left out"}}}`)
	require.Equal(t, 200, status, body)
	_, body = p.ask("Ann", "GET", "/questions/2/answers?limit=50", "")
	assert.Contains(t, body, "about the tea")
	assert.Empty(t, told(t, []byte(body)))
	_, body = p.ask("Ann", "GET", "/questions/2/chart?by=contact", "")
	assert.Contains(t, body, "desk ••• 2", "values of different people stay different")

	// An owner may, and all is as it was.
	status, body = p.ask("Olga", "POST", "/studies/2/edits", `{"revision":1,"edit":{"kind":"column","column":{"name":"enjoy","role":"open-ended"}}}`)
	require.Equal(t, 200, status, body)
	status, body = p.ask("Olga", "POST", "/questions/3/edits", `{"revision":1,"edit":{"kind":"mask","on":false}}`)
	require.Equal(t, 200, status, body)
	_, body = p.ask("Ann", "GET", "/questions/2/answers?limit=50", "")
	assert.Contains(t, told(t, []byte(body)), "ann.lee")
}

// What only reads needs no database that takes writes: all is opened, read and taken out as before, and an edit is refused in words.
func TestReadingNeedsNoWrites(t *testing.T) {
	p, _ := withPeople(t)
	withPersonalData(t, p)
	reads := readsOf(t)
	statuses := func() map[string]int {
		out := map[string]int{}
		for _, addresses := range reads {
			for _, name := range []string{"Olga", "Olga write"} {
				out[name+" "+addresses[0]], _ = p.ask(name, "GET", addresses[0], "")
			}
		}
		return out
	}
	want := statuses()
	pgtest.Exec(t, p.database, "alter database "+pgtest.Query(t, p.database, "select current_database()::text")+" set default_transaction_read_only = on")
	pgtest.Exec(t, p.database, "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()")
	again, err := store.Open(t.Context(), p.database) // as a server that is started on it
	require.NoError(t, err)
	defer again.Close()
	p.base = serveOn(t, again, Options{}).URL + prefix
	assert.Equal(t, want, statuses())
	status, body := p.ask("Olga", "POST", "/questions/2/edits", `{"revision":1,"edit":{"kind":"add category","name":"More","rules":["more"]}}`)
	assert.Equal(t, 503, status)
	assert.Contains(t, body, "read only")
	assert.Contains(t, body, "Nothing was changed")
}
