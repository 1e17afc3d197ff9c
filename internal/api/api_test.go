package api

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/accounts"
	"aftermath/internal/desk"
	"aftermath/internal/kept"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// The document that the interface's types are made from is the server's own; run make types.
func TestDocumentIsNotStale(t *testing.T) {
	want, err := Document()
	require.NoError(t, err)
	got, err := os.ReadFile("openapi.json")
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(got))
}

func serve(t *testing.T, o Options) *httptest.Server {
	s, err := store.Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return serveOn(t, s, o)
}

// serveOn serves what a store holds.
func serveOn(t *testing.T, s *store.Store, o Options) *httptest.Server {
	server := httptest.NewServer(checked(t, handlerOn(t, s, o)))
	t.Cleanup(server.Close)
	return server
}

func handlerOn(t *testing.T, s *store.Store, o Options) http.Handler {
	o.Desk, o.Accounts, o.Uploads = desk.New(s), accounts.New(s), t.TempDir()
	o.Kept = kept.New(o.Desk, s)
	handler, err := New(o)
	require.NoError(t, err)
	return handler
}

// ask sends a request. LAST in an address or a body stands for the file that the test brought in last.
func ask(t *testing.T, method, url, body string, header ...string) (int, string, http.Header) {
	last, _ := uploaded.Load(t.Name())
	named := strings.NewReplacer("/LAST/", fmt.Sprint("/", last, "/"), `"LAST"`, fmt.Sprintf("%q", fmt.Sprint(last)))
	url, body = named.Replace(url), named.Replace(body)
	r, err := http.NewRequestWithContext(t.Context(), method, url, strings.NewReader(body))
	require.NoError(t, err)
	for i := 0; i < len(header); i += 2 {
		if header[i] == "Host" {
			r.Host = header[i+1]
		}
		r.Header.Set(header[i], header[i+1])
	}
	reply, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer reply.Body.Close()
	data, err := io.ReadAll(reply.Body)
	require.NoError(t, err)
	if id := struct{ ID string }{}; strings.Contains(url, "/uploads") && json.Unmarshal(data, &id) == nil && id.ID != "" {
		uploaded.Store(t.Name(), id.ID)
	}
	return reply.StatusCode, string(data), reply.Header
}

// uploaded is the file that was brought in last, by the name of the test.
var uploaded sync.Map

func TestUploadAndLoad(t *testing.T) {
	base := serve(t, Options{}).URL + prefix
	status, body, _ := ask(t, "POST", base+"/uploads?name=x.pdf", "%PDF-1.7", "Content-Type", "application/pdf")
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "this is a PDF")
	json := []string{"Content-Type", "application/json"}
	status, body, _ = ask(
		t, "POST", base+"/uploads?name=x.csv", "id;answer\nA1;the boat was late again\nA2;more seats in the lounge\n", "Content-Type",
		"text/csv",
	)
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, `"delimiter":";"`)
	status, body, _ = ask(t, "POST", base+"/uploads/LAST/try", `{"format":"delimited","delimiter":";","headers":1}`, json...)
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, `"role":"open-ended"`)
	status, body, _ = ask(t, "POST", base+"/uploads/LAST/try", `{"format":"sheet","headers":1}`, json...)
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, `this workbook can't be read`)
	const load = `{"upload":"LAST","name":"x","columns":[{"name":"id","role":"%"},{"name":"answer","role":"open-ended"}]}`
	status, body, _ = ask(t, "POST", base+"/studies", strings.Replace(load, "%", "identifier", 1), json...)
	require.Equal(t, 200, status, body)
	status, body, _ = ask(t, "POST", base+"/studies", strings.Replace(load, "%", "identifier", 1), json...)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "choose it again")
	_, _, _ = ask(t, "POST", base+"/uploads", "id;answer\nA1;late again\n")
	status, body, _ = ask(
		t,
		"POST",
		base+"/studies",
		strings.Replace(load, "%", "weight", 1),
		json...)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, `Nothing was loaded: row 1 of the data, column \"id\"`)

	// What is wrong is said as problem details, and changes nothing.
	for path, want := range map[string]int{"/questions/99": 404, "/questions/1/answers?focus=x": 422, "/questions/1/answers?limit=9999": 422, "/questions/1/chart?by=nope": 422, "/nope": 404} {
		status, body, header := ask(t, "GET", base+path, "")
		assert.Equal(t, want, status, path)
		assert.Contains(t, body, `"detail"`, path)
		assert.Contains(t, header.Get("Content-Type"), "json")
	}
	status, _, _ = ask(t, "POST", base+"/questions/1/edits", `{"revision":7,"edit":{"kind":"hide","terms":["late"]}}`, json...)
	assert.Equal(t, 409, status)
	status, body, _ = ask(t, "PUT", base+"/questions/1/playbook?revision=0", `{"aftermath":1,"lexikon":{}}`, json...)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "lexikon")
	status, _, _ = ask(t, "DELETE", base+"/studies/1", "")
	assert.Equal(t, 204, status)
	status, _, _ = ask(t, "GET", base+"/questions/1", "")
	assert.Equal(t, 404, status)
}

// The whole life of a study's columns over the API: bad requests are refused with a reason, and change nothing.
func TestStudyRoutes(t *testing.T) {
	base := serve(t, Options{}).URL + prefix
	json := []string{"Content-Type", "application/json"}
	post := func(path, body string) (int, string) {
		status, reply, _ := ask(t, "POST", base+path, body, json...)
		return status, reply
	}
	_, _ = post("/uploads?name=a.csv", "id,score,answer\n1,9,late boat\n2,3,cold tea\n3,x,late again\n")
	status, body := post(
		"/studies",
		`{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},{"name":"score","role":"number"},{"name":"answer","role":"open-ended"}]}`,
	)
	require.Equal(t, 200, status, body)
	status, body, _ = ask(t, "GET", base+"/studies/1/sheet", "")
	require.Equal(t, 200, status)
	assert.Contains(t, body, "some cells are no numbers and count as missing")
	for _, c := range []struct {
		path, body string
		status     int
		want       string
	}{
		{"/studies/1/derived/try", `{"name":"b","kind":"bands","of":["score"],"edges":[5]}`, 200, `"values":[{"value":"up to 4","count":1},{"value":"5 and over","count":1}],"missing":1`},
		{"/studies/1/derived/try", `{"name":"b","kind":"bands","of":["nope"],"edges":[5]}`, 200, `there is no variable \"nope\"`},
		{"/studies/1/edits", `{"revision":0,"edit":{"kind":"derive","derived":{"name":"score","kind":"bands","of":["score"],"edges":[5]}}}`, 422, "already"},
		{"/studies/1/edits", `{"revision":0,"edit":{"kind":"column","column":{"name":"answer","role":"segment"}}}`, 422, "no column would be open-ended"},
		{"/studies/1/edits", `{"revision":0,"edit":{"kind":"derive","derived":{"name":"b","kind":"groups","of":["b"]}}}`, 422, `there is no variable \"b\"`},
		{"/studies/1/edits", `{"revision":0,"edit":{"kind":"derive"}}`, 422, "required property derived"},
		{"/studies/1/edits", `{"revision":7,"edit":{"kind":"derive","derived":{"name":"b","kind":"bands","of":["score"],"edges":[5]}}}`, 409, "Another window"},
		{"/studies/1/edits", `{"revision":0,"edit":{"kind":"derive","derived":{"name":"b","kind":"bands","of":["score"],"edges":[5]}}}`, 200, `"revision":1`},
		{"/studies/9/edits", `{"revision":0,"edit":{"kind":"study name","name":"x"}}`, 404, "not here any more"},
		{"/studies/1/rows", `{"upload":"LAST","revision":1,"further":{"columns":[]}}`, 422, "no longer held"},
		{"/questions/1/undo", ``, 422, "edit"},
		{"/questions/1/undo?edit=7", ``, 409, "“Made the variable b” is to be undone first."},
		{"/questions/1/undo?edit=1", ``, 200, "Undone: Made the variable b"},
		{"/questions/1/undo?edit=1", ``, 409, "nothing to undo"},
		{"/questions/1/redo?edit=1", ``, 200, "Done again: Made the variable b"},
		{"/questions/1/text/try", `{"text":"<b>It's</b> late"}`, 200, `"text":"It is late"`},
		{"/questions/1/edits/try", `{"kind":"cleaning","steps":[{"step":"replace","rules":[{"find":"","with":"x"}]}]}`, 422, "matches nothing at all"},
		{"/questions/1/edits", `{"revision":0,"edit":{"kind":"copy","question":1,"parts":[]}}`, 422, "body.edit.parts"},
		{"/questions/1/edits", `{"revision":0,"edit":{"kind":"copy","question":9,"parts":["frame"]}}`, 404, "not here any more"},
		{"/questions/1/edits", `{"revision":0,"edit":{"kind":"mask"}}`, 422, "required property on"},
		{"/questions/1/edits", `{"revision":0,"edit":{"kind":"cleaning","terms":["x"]}}`, 422, "required property steps"},
		{"/questions/1/edits", `{"revision":0,"edit":{"kind":"restore"}}`, 422, "kind"},
	} {
		status, body := post(c.path, c.body)
		assert.Equal(t, c.status, status, "%s %s: %s", c.path, c.body, body)
		assert.Contains(t, body, c.want, "%s %s", c.path, c.body)
	}
	_, body, _ = ask(t, "GET", base+"/questions/1/revisions", "")
	assert.Contains(t, body, `"summary":"Made the variable b","study":true`)

	// A variable can't come to be made of itself.
	status, body = post(
		"/studies/1/edits", `{"revision":3,"edit":{"kind":"derive","derived":{"name":"b","kind":"groups","of":["b"]}}}`,
	)
	assert.Equal(t, 422, status, body)

	// A wave with a column that nobody has yet, tried and added; nothing is stored by trying.
	_, _ = post("/uploads?name=b.csv", "id,answer,deck\n4,more tea,2\n")
	status, body = post("/studies/1/rows/try", `{"upload":"LAST","revision":3}`)
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, `"rows":1,"blank":["score"],"leftOut":["deck"]`)
	status, body = post(
		"/studies/1/rows/try",
		`{"upload":"LAST","revision":3,"further":{"columns":[{"column":"id","to":"id"},{"column":"answer"},{"column":"deck"}]}}`,
	)
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, "would say nothing")
	status, body = post(
		"/studies/1/rows",
		`{"upload":"LAST","revision":3,"further":{"columns":[{"column":"id","to":"id"},{"column":"answer","to":"answer"},{"column":"deck","new":{"name":"deck","role":"segment"}}]}}`,
	)
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, "Added one respondent")
	_, body, _ = ask(t, "GET", base+"/studies/1", "")
	assert.Contains(t, body, `"respondents":4`)

	// What is masked is masked in Data too.
	_, _ = post("/uploads?name=c.csv", "id,answer\n5,mail me.x@larkmoor.example\n6,mail me.x@larkmoor.example\n")
	status, body = post(
		"/studies/1/rows",
		`{"upload":"LAST","revision":4,"further":{"columns":[{"column":"id","to":"id"},{"column":"answer","to":"answer"}]}}`,
	)
	require.Equal(t, 200, status, body)
	for _, mask := range []bool{false, true} {
		if mask {
			status, body = post("/questions/1/edits", `{"revision":0,"edit":{"kind":"mask","on":true}}`)
			require.Equal(t, 200, status, body)
		}
		for _, path := range []string{"/studies/1/sheet", "/questions/1/cleaning", "/questions/1/answers", "/questions/1/coded"} {
			_, body, _ = ask(t, "GET", base+path, "")
			assert.Equal(t, !mask, strings.Contains(body, "me.x@larkmoor.example"), path)
			assert.Equal(t, mask, strings.Contains(body, "•••"), path)
		}
	}
}

// A link is followed to public addresses only, wherever it leads.
func TestLinks(t *testing.T) {
	site := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/on":
			http.Redirect(w, r, "/page", http.StatusFound)
		case "/page":
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			_, _ = io.WriteString(w, "<p>The queue</p><p>was long</p>")
		default:
			http.NotFound(w, r)
		}
	}))
	defer site.Close()
	json := []string{"Content-Type", "application/json"}
	base := serve(t, Options{}).URL + prefix
	for link, want := range map[string]string{site.URL + "/page": "those are not reached", "http://[::1]:1/": "those are not reached", "http://169.254.169.254/": "those are not reached",
		"file:///etc/passwd": "only http", "ftp://x.example/": "only http", "http://me:pw@x.example/": "not sent"} {
		status, body, _ := ask(t, "POST", base+"/uploads/link", `{"link":"`+link+`"}`, json...)
		assert.Equal(t, 422, status, link)
		assert.Contains(t, body, want, link)
	}
	base = serve(t, Options{Private: true}).URL + prefix
	status, body, _ := ask(t, "POST", base+"/uploads/link", `{"link":"`+site.URL+`/on"}`, json...)
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, `"format":"page"`)
	status, body, _ = ask(t, "POST", base+"/uploads/link", `{"link":"`+site.URL+`/gone"}`, json...)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "404")
}

// Who is reached by another name, or spoken to by another site, answers neither; and every answer says what a browser may do with it.
func TestGuard(t *testing.T) {
	base := serve(t, Options{Hosts: []string{"127.0.0.1"}}).URL
	studies := base + prefix + "/studies"
	for _, c := range []struct {
		want   int
		method string
		header []string
	}{
		{200, "GET", nil},
		{403, "GET", []string{"Host", "evil.example"}},
		{403, "GET", []string{"Origin", "http://evil.example"}},
		{403, "GET", []string{"Origin", strings.Replace(base, "http://", "https://", 1)}},
		{200, "GET", []string{"Origin", base}},
		{403, "GET", []string{"Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "no-cors"}},
		{403, "POST", []string{"Sec-Fetch-Site", "same-site", "Sec-Fetch-Mode", "navigate"}},
		{200, "GET", []string{"Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "navigate"}},
		{200, "GET", []string{"Sec-Fetch-Site", "same-origin"}},
	} {
		status, _, header := ask(t, c.method, studies, "", c.header...)
		assert.Equal(t, c.want, status, c.header)
		assert.Equal(t, "nosniff", header.Get("X-Content-Type-Options"))
		assert.Contains(t, header.Get("Content-Security-Policy"), "frame-ancestors 'none'")
		assert.Equal(t, "same-origin", header.Get("Cross-Origin-Resource-Policy"))
		assert.Empty(t, header.Get("Strict-Transport-Security"))
		assert.Len(t, header.Get("X-Request-Id"), 12)
	}
	// Behind a proxy, by the documented block, on any port: the host comes with it.
	for _, host := range []string{"127.0.0.1", "127.0.0.1:8443"} {
		proxied := serve(t, Options{Hosts: []string{"127.0.0.1"}, Proxies: []string{"127.0.0.1"}, Secure: true}).URL
		status, body, _ := ask(t, "GET", proxied+prefix+"/studies", "", "Host", host, "Origin", "https://"+host, "X-Forwarded-For", "10.1.2.3")
		assert.Equal(t, 200, status, body)
	}
	secure := serve(t, Options{Secure: true}).URL
	_, _, header := ask(t, "GET", secure+"/healthz", "")
	assert.NotEmpty(t, header.Get("Strict-Transport-Security"))
	status, body, _ := ask(t, "GET", secure+"/readyz", "")
	assert.Equal(t, 200, status, body)
}

// The lexicon's parts go out and in as CSV; tables come as files; what can't be is refused in words.
func TestTermsInAndOut(t *testing.T) {
	base := serve(t, Options{}).URL + prefix
	json := []string{"Content-Type", "application/json"}
	rows := strings.Repeat("A1,the queue was long,North\nA2,tailback at the pier and cold tea,South\n", 40)
	_, _, _ = ask(t, "POST", base+"/uploads?name=x.csv", "id,answer,route\n"+rows)
	status, body, _ := ask(
		t,
		"POST",
		base+"/studies",
		`{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"},{"name":"route","role":"segment"}]}`,
		json...)
	require.Equal(t, 200, status, body)

	q := base + "/questions/1"
	status, body, _ = ask(t, "GET", q+"/lexicon", "")
	require.Equal(t, 200, status, body)
	assert.Contains(t, body, `"guess":{"language":"en","share":1,"answers":80}`)
	assert.Contains(t, body, `"language":"en"`, "what was guessed was taken")

	csv := []string{"Content-Type", "text/csv"}
	status, body, _ = ask(t, "POST", q+"/lexicon/merges?revision=0", "term;variant\nqueue;tailback\nqueue;cold tea\n", csv...)
	require.Equal(t, 200, status, body)
	_, body, _ = ask(t, "GET", q+"/lexicon/merges", "")
	assert.Equal(t, "term,variant\nqueue,tailback\nqueue,cold tea\n", body)
	status, body, _ = ask(t, "POST", q+"/lexicon/merges?revision=1", "queue,tailback\n", csv...)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "holds nothing that is not there already")
	status, body, _ = ask(t, "POST", q+"/lexicon/stop-words?revision=1", "word,use\npier,hidden\n", csv...)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, `row 2: the use of a stop word is hide or keep`)
	status, body, _ = ask(t, "POST", q+"/lexicon/lists?revision=1", "crew,caf\xe9\n", csv...)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "not in UTF-8")
	status, _, _ = ask(t, "POST", q+"/lexicon/lists?revision=0", "crew,staff\n", csv...)
	assert.Equal(t, 409, status, "another window was first")

	for path, want := range map[string]string{
		"/terms/file?format=csv&answers=40":                 "queue,80,1,120,",
		"/context/file?format=csv&text=queue&by=given":      "A1,the,queue,was long,North",
		"/compare/file?format=csv&by=route&a=North&limit=9": "queue,40,1,40,40,1,80,",
		"/company/file?format=csv&text=pier":                "cold,40,40,",
		"/corpus/file?format=csv&by=route":                  "route,answers,words,different words,richness,mean words,median words\nAll,80,440,",
		"/timeline/file?format=csv&text=queue":              "term,,base,answers,share,low,high\n",
		"/rising/file?format=csv":                           "term,moved,: answers,",
		"/network/file?format=csv&both=1":                   "other term,cluster",
		"/matrix/file?format=csv&values=binary":             "respondent,queue,cold,long,pier,tea\nA1,1,0,1,0,0\n",
	} {
		status, body, header := ask(t, "GET", q+path, "")
		require.Equal(t, 200, status, body)
		assert.Contains(t, body, want, path)
		assert.Contains(t, header.Get("Content-Disposition"), "attachment")
	}
	for _, path := range []string{"/terms/file?format=xlsx", "/context/file?format=xlsx&text=queue", "/compare/file?format=xlsx", "/matrix/file?format=zip"} {
		status, body, _ := ask(t, "GET", q+path, "")
		assert.Equal(t, 200, status)
		assert.True(t, strings.HasPrefix(body, "PK"), path)
	}
	for path, want := range map[string]string{"/context?text=nowhere": "there is no term", "/context?of=rule&text=((": "something is missing", "/context?of=row&text=a": "no two or three terms",
		"/compare?by=answer": "there is no variable", "/rising?by=nope": "there is no variable", "/terms?list=nope": "there is no term list", "/members?term=nope": "there is no term"} {
		status, body, _ := ask(t, "GET", q+path, "")
		assert.Equal(t, 422, status, path)
		assert.Contains(t, strings.ToLower(body), want, path)
	}
}
