package api

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/accounts"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

// people are those of the tests, each with a session.
type people struct {
	t    *testing.T
	base string
	// database is the address of what is kept.
	database string
	of       map[string][]string // the header that brings the session
	ids      map[string]int64
}

const secret = "correct horse battery"

// withPeople serves a store on which some have accounts: an admin, and others; and a study of Olga's, shared with some.
func withPeople(t *testing.T) (*people, *store.Store) {
	database := pgtest.Database(t)
	s, err := store.Open(t.Context(), database)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	a := accounts.New(s)
	p := &people{t, serveOn(t, s, Options{}).URL + prefix, database, map[string][]string{"": nil}, map[string]int64{}}
	for _, name := range []string{"Ada", "Olga", "Ann", "Ray", "Rea", "Sam", "Cleo"} {
		u, err := a.Add(t.Context(), name, "", secret, name == "Ada" || name == "Cleo", name == "Olga")
		require.NoError(t, err)
		p.ids[name] = u.ID
		p.signIn(name)
	}
	for name, scope := range map[string]string{"Ada": "read", "Ann": "read", "Olga": "write", "Cleo": "write"} {
		p.token(name, scope)
	}
	// An administrator whose account was closed: whatever let them in is nobody's now.
	status, body := p.ask("Ada", "PUT", fmt.Sprint("/users/", p.ids["Cleo"]), `{"closed":true}`)
	require.Equal(t, 200, status, body)
	status, body = p.ask("Olga", "POST", "/uploads?name=x.csv", "id,answer,route\n1,late boat,N\n2,cold tea,S\n")
	require.Equal(t, 200, status, body)
	status, body = p.ask("Olga", "POST", "/studies",
		`{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"},{"name":"route","role":"segment"}]}`)
	require.Equal(t, 200, status, body)
	for name, as := range map[string]string{"Ann": `"analyst","exports":true`, "Ray": `"reader","exports":true`, "Rea": `"reader","exports":false`} {
		status, body = p.ask("Olga", "PUT", fmt.Sprintf("/studies/1/members/%d", p.ids[name]), `{"role":`+as+`}`)
		require.Equal(t, 204, status, body)
	}
	return p, s
}

func (p *people) signIn(name string) {
	status, body, header := ask(p.t, "POST", p.base+"/session", fmt.Sprintf(`{"name":%q,"password":%q}`, name, secret), "Content-Type", "application/json")
	require.Equal(p.t, 200, status, body)
	cookie, _, _ := strings.Cut(header.Get("Set-Cookie"), ";")
	require.Contains(p.t, header.Get("Set-Cookie"), "HttpOnly; SameSite=Lax")
	p.of[name] = []string{"Cookie", cookie}
}

// token makes a token of somebody, by which they are known as "Ada read" then.
func (p *people) token(name, scope string) {
	status, body := p.ask(name, "POST", "/tokens", `{"name":"nightly","scope":"`+scope+`","days":1}`)
	require.Equal(p.t, 200, status, body)
	var made NewToken
	require.NoError(p.t, json.Unmarshal([]byte(body), &made))
	p.of[name+" "+scope] = []string{"Authorization", "Bearer " + made.Token}
}

func (p *people) ask(name, method, path, body string) (int, string) {
	status, reply, _ := ask(p.t, method, p.base+path, body, append([]string{"Content-Type", "application/json"}, p.of[name]...)...)
	return status, reply
}

// allowed says who may do something, by the shape of its address alone: a second definition of what access has by name.
func allowed(method, path, who string) bool {
	if name, _, token := strings.Cut(who, " "); token && name != "Cleo" {
		// A token does what its account may; one to read changes nothing, and brings nothing in.
		_, scope, _ := strings.Cut(who, " ")
		tries := method == "POST" && (strings.Contains(path, "/rule") || slices.Contains([]string{"figures",
			"try", "suggestions",
		}, path[strings.LastIndex(path, "/")+1:]) && !strings.HasPrefix(path, "/uploads") || path == "/questions/{question}/frame/read") ||
			method == "DELETE" && strings.HasSuffix(path, "/suggestions") // working them out stops
		return (scope == "write" || method == "GET" || tries || path == "/session") && allowed(method, path, name)
	}
	return slices.Contains(allowedTo(method, path), who)
}

func allowedTo(method, path string) []string {
	all := []string{"Ada", "Olga", "Ann", "Ray", "Rea", "Sam"}
	has := func(parts ...string) bool {
		return slices.ContainsFunc(parts, func(part string) bool { return strings.Contains(path, part) })
	}
	ends := func(parts ...string) bool {
		return slices.ContainsFunc(parts, func(part string) bool { return strings.HasSuffix(path, part) })
	}
	get := method == "GET"
	switch {
	case path == "/session":
		return append(all, "", "Cleo", "Cleo write")
	case has("/uploads", "/restore") && !has("{study}", "{question}"), (path == "/studies" || path == "/studies/demo") && !get:
		return all[:3] // Sam has nothing to work on, the readers neither
	case has("/users", "/log") || path == "/entries/all" || path == "/backup" || path == "/house-style" && !get:
		return all[:1]
	case !has("{study}", "{question}"):
		return all
	case has("/members", "/deleted-studies") && !strings.HasPrefix(path, "/questions") || path == "/studies/{study}" && !get:
		return all[:2]
	case path == "/studies/{study}/copy" || path == "/studies/{study}/backup":
		return all[:3]
	case get && (ends("/file", "/playbook", "/coded", "/lexicon/{part}")):
		return all[:4]
	case path == "/questions/{question}/samples/{sample}/answers": // whoever codes a sample blind
		return all[:3]
	case get || has("/rule") || ends("/try") && strings.HasPrefix(path, "/questions") && !ends("/edits/try") || ends("/suggestions", "/figures"):
		return all[:5]
	}
	return all[:3]
}

// Every operation of the document is held to what it needs, for everybody: who may not is told so, and nothing is done.
func TestEveryRouteIsHeldToRoles(t *testing.T) {
	p, _ := withPeople(t)
	doc, err := Document()
	require.NoError(t, err)
	var of struct {
		Paths map[string]map[string]struct{ OperationID string }
	}
	require.NoError(t, json.Unmarshal(doc, &of))
	checked := 0
	for path, methods := range of.Paths {
		for method, op := range methods {
			method, path := strings.ToUpper(method), strings.TrimPrefix(path, prefix)
			_, known := needs[op.OperationID]
			require.True(t, known, "%s has no entry in needs", op.OperationID)
			address := strings.NewReplacer("{study}", "1", "{question}", "1", "{format}", "csv", "{part}", "merges").Replace(path)
			for i := strings.Index(address, "{"); i >= 0; i = strings.Index(address, "{") {
				address = address[:i] + "987654" + address[strings.Index(address, "}")+1:]
			}
			for name := range p.of {
				can := allowed(method, path, name)
				if can && (path == "/events" || path == "/session" || method == "DELETE" && strings.HasSuffix(path, "{study}") || path == "/studies/demo" || path == "/studies/{study}/copy") {
					continue // these would go on for ever, or undo what the test stands on
				}
				status, body := p.ask(name, method, address, "{}")
				checked++
				switch {
				case can:
					assert.NotContains(t, []int{401, 403}, status, "%s: %s %s %s", name, method, path, body)
					assert.NotContains(t, body, "shared with you", "%s: %s %s", name, method, path)
				case name == "" || strings.HasPrefix(name, "Cleo"):
					assert.Equal(t, 401, status, "%s: %s %s", name, method, path)
				case name == "Sam" && strings.ContainsAny(path, "{") && !strings.HasPrefix(path, "/users"):
					assert.Contains(t, []int{403, 404}, status, "Sam: %s %s", method, path)
					assert.NotContains(t, body, "late", "Sam: %s %s", method, path)
				default:
					assert.Equal(t, 403, status, "%s: %s %s %s", name, method, path, body)
				}
			}
		}
	}
	require.Greater(t, checked, 800)
	t.Logf("%d requests", checked)
}

// What one may not see is in no list, in no event, and can't be copied from.
func TestStudiesOfOthersAreNotSeen(t *testing.T) {
	p, _ := withPeople(t)
	for name, want := range map[string]int{"Ada": 1, "Olga": 1, "Rea": 1, "Sam": 0} {
		_, body := p.ask(name, "GET", "/studies", "")
		assert.Equal(t, want, strings.Count(body, `"name":"x"`), name)
	}
	status, body := p.ask("Sam", "POST", "/uploads?name=x.csv", "id,answer\n1,mine\n")
	assert.Equal(t, 403, status, body)
	status, body = p.ask("Ada", "PUT", fmt.Sprint("/users/", p.ids["Sam"]), `{"begins":true}`)
	require.Equal(t, 200, status, body)
	_, _ = p.ask("Sam", "POST", "/uploads?name=x.csv", "id,answer\n1,mine\n")
	status, body = p.ask("Sam", "POST", "/studies", `{"upload":"LAST","name":"y","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`)
	require.Equal(t, 200, status, body)
	const steal = `{"kind":"copy","question":1,"parts":["frame"]}`
	for at, edit := range map[string]string{"edits/try": steal, "edits": `{"revision":0,"edit":` + steal + `}`} {
		status, body = p.ask("Sam", "POST", "/questions/2/"+at, edit)
		assert.Equal(t, 404, status, "%s %s", at, body)
	}

	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	heard := map[string]*bufio.Scanner{}
	for _, name := range []string{"Sam", "Rea"} {
		r, err := http.NewRequestWithContext(ctx, "GET", p.base+"/events", nil)
		require.NoError(t, err)
		r.Header.Set(p.of[name][0], p.of[name][1])
		reply, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer reply.Body.Close()
		heard[name] = bufio.NewScanner(reply.Body)
		require.True(t, heard[name].Scan())
	}
	status, body = p.ask("Ann", "POST", "/questions/1/edits", `{"revision":0,"edit":{"kind":"add category","name":"Late","rules":["late"]}}`)
	require.Equal(t, 200, status, body)
	status, body = p.ask("Ada", "POST", "/questions/2/edits", `{"revision":0,"edit":{"kind":"add category","name":"Mine","rules":["mine"]}}`)
	require.Equal(t, 200, status, body)
	next := func(name string) string {
		for heard[name].Scan() {
			if strings.Contains(heard[name].Text(), `"kind":"edit"`) {
				return heard[name].Text()
			}
		}
		t.Fatal("nothing was heard")
		return ""
	}
	assert.Contains(t, next("Rea"), `"question":1`)
	assert.Contains(t, next("Sam"), `"question":2`, "the first that Sam hears is Sam's own")

	// Nobody codes in somebody else's name.
	for method, path := range map[string]string{"PUT": "codes", "GET": "answers"} {
		status, body = p.ask("Ann", method, "/questions/1/samples/1/"+path+"?coder=Olga", `{"answer":0,"coded":true,"categories":[]}`)
		assert.Equal(t, 403, status, body)
		assert.Contains(t, body, "signed in as Ann")
	}
	// Who made it is whoever was signed in, whatever the browser says.
	_, body = p.ask("Ray", "GET", "/questions/1/revisions", "")
	assert.Contains(t, body, `"by":"Ann"`)
	_, body = p.ask("Ada", "GET", "/log", "")
	for _, line := range []string{`"who":"Ann"`, `"detail":"add category"`, `"action":"signed in"`, `"action":"Let somebody do something with a study"`} {
		assert.Contains(t, body, line)
	}
	assert.NotContains(t, body, secret)
	_, _ = p.ask("", "POST", "/session", `{"name":"my secret by mistake","password":"x"}`)
	_, body = p.ask("Ada", "GET", "/log", "")
	assert.Contains(t, body, "no account of that name")
	assert.NotContains(t, body, "by mistake")
	status, body = p.ask("Ada", "GET", "/log/file", "")
	assert.Equal(t, 200, status)
	assert.Contains(t, body, "add category")
}

// Attempts are slowed; sessions end when they are signed out of, everywhere if one likes, when the password changes or the account is
// closed; tokens do what they are for, and no more.
func TestSessionsAndTokens(t *testing.T) {
	p, s := withPeople(t)
	in := func(name, password string) int {
		status, _ := p.ask("", "POST", "/session", fmt.Sprintf(`{"name":%q,"password":%q}`, name, password))
		return status
	}
	_, body := p.ask("", "GET", "/session", "")
	assert.JSONEq(t, `{"on":true,"brings":false}`, body)
	in_ := func(name string) bool {
		_, body := p.ask(name, "GET", "/session", "")
		return strings.Contains(body, `"name"`)
	}

	first := p.of["Ray"]
	p.signIn("Ray")
	p.of["Ray before"] = first
	assert.True(t, in_("Ray") && in_("Ray before"))
	status, _ := p.ask("Ray", "DELETE", "/session", "")
	assert.Equal(t, 200, status)
	assert.False(t, in_("Ray"))
	assert.True(t, in_("Ray before"))
	p.signIn("Ray")
	_, _ = p.ask("Ray", "DELETE", "/session?everywhere=true", "")
	assert.False(t, in_("Ray") || in_("Ray before"))

	status, body = p.ask("Ann", "PUT", "/password", `{"before":"wrong","after":"another long secret"}`)
	assert.Equal(t, 401, status, body)
	status, body = p.ask("Ann", "PUT", "/password", `{"before":"`+secret+`","after":"short"}`)
	assert.Equal(t, 422, status, body)
	assert.Contains(t, body, "at least 12 characters")
	p.of["Ann before"] = p.of["Ann"]
	status, _ = p.ask("Ann", "PUT", "/password", `{"before":"`+secret+`","after":"another long secret"}`)
	assert.Equal(t, 200, status)
	assert.False(t, in_("Ann before"))

	status, _ = p.ask("Olga write", "GET", "/questions/1/coded?shape=wide", "")
	assert.Equal(t, 200, status)
	status, body = p.ask("Olga write", "POST", "/tokens", `{"name":"another","scope":"write","days":1}`)
	assert.Equal(t, 200, status, body)
	status, body = p.ask("Ann read", "POST", "/tokens", `{"name":"another","scope":"write","days":1}`)
	assert.Equal(t, 401, status, "with the password its tokens ended: %s", body)
	// All that lets somebody in is in one list, each line can be ended, and ending says so to those who listen.
	entries := func(name, path string) (out []Entry) {
		status, body := p.ask(name, "GET", path, "")
		require.Equal(t, 200, status, body)
		require.NoError(t, json.Unmarshal([]byte(body), &out))
		return out
	}
	own := entries("Olga", "/entries")
	require.Len(t, own, 3)
	var session, token Entry
	for _, e := range own {
		assert.Equal(t, "Olga", e.Who)
		switch {
		case e.Kind == "session":
			session = e
		case e.Used != nil:
			token = e
		}
	}
	assert.True(t, session.This)
	assert.NotEmpty(t, session.From)
	assert.Equal(t, "127.0.0.1", token.From)
	assert.Greater(t, len(entries("Ada", "/entries/all")), len(own))
	status, _ = p.ask("Sam", "DELETE", fmt.Sprint("/entries/token/", token.ID), "")
	assert.Equal(t, 404, status, "it is Olga's")
	ends := func(name string) <-chan bool {
		r, err := http.NewRequestWithContext(t.Context(), "GET", p.base+"/events", nil)
		require.NoError(t, err)
		r.Header.Set(p.of[name][0], p.of[name][1])
		reply, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		heard, over := bufio.NewScanner(reply.Body), make(chan bool)
		require.True(t, heard.Scan())
		go func() {
			defer reply.Body.Close()
			for heard.Scan() {
			}
			close(over)
		}()
		return over
	}
	over := func(what string, all ...<-chan bool) {
		for _, c := range all {
			select {
			case <-c:
			case <-time.After(2 * beatEvery):
				t.Fatal("still listening: " + what)
			}
		}
	}
	byToken, bySession := ends("Olga write"), ends("Olga")
	status, _ = p.ask("Ada", "DELETE", fmt.Sprint("/entries/token/", token.ID), "")
	assert.Equal(t, 204, status)
	over("a token that was ended", byToken)
	status, _ = p.ask("Olga write", "GET", "/studies", "")
	assert.Equal(t, 401, status)
	assert.True(t, in_("Olga"))
	status, _ = p.ask("Olga", "DELETE", fmt.Sprint("/entries/session/", session.ID), "")
	assert.Equal(t, 204, status)
	over("a session that was ended", bySession)
	assert.False(t, in_("Olga"))
	p.signIn("Olga")
	p.token("Olga", "write")
	byToken, bySession = ends("Olga write"), ends("Olga")
	status, body = p.ask("Ada", "PUT", fmt.Sprint("/users/", p.ids["Olga"]), `{"password":"`+secret+`"}`)
	assert.Equal(t, 200, status, body)
	over("a password that was reset", byToken, bySession)
	assert.False(t, in_("Olga"))
	p.signIn("Olga")

	status, body = p.ask("Ada", "PUT", fmt.Sprint("/users/", p.ids["Rea"]), `{"closed":true}`)
	assert.Equal(t, 200, status, body)
	assert.False(t, in_("Rea"))
	assert.Equal(t, 401, in("Rea", secret))
	status, _ = p.ask("Ada", "PUT", fmt.Sprint("/users/", p.ids["Ada"]), `{"admin":false}`)
	assert.Equal(t, 409, status, "nobody could add accounts any more")
	status, body = p.ask("Olga", "DELETE", fmt.Sprintf("/studies/1/members/%d", p.ids["Olga"]), "")
	assert.Equal(t, 409, status, body)

	// A change that is refused changes nothing.
	status, body = p.ask("Ada", "PUT", fmt.Sprint("/users/", p.ids["Sam"]), `{"closed":true,"admin":true,"password":"short"}`)
	assert.Equal(t, 422, status, body)
	assert.True(t, in_("Sam"))

	// A name that nobody has is refused in the same words, and attempts run out for both.
	s2 := serveOn(t, s, Options{}).URL + prefix // with no attempts made yet
	for _, name := range []string{"Sam", "Nobody"} {
		var said []int
		for range 7 {
			status, _, _ := ask(t, "POST", s2+"/session", fmt.Sprintf(`{"name":%q,"password":"wrong"}`, name), "Content-Type", "application/json")
			said = append(said, status)
		}
		if name == "Sam" {
			assert.Equal(t, []int{401, 401, 401, 401, 401, 429, 429}, said)
			status, _, _ := ask(t, "POST", s2+"/session", `{"name":"Ada","password":"`+secret+`"}`, "Content-Type", "application/json")
			assert.Equal(t, 200, status, "it keeps nobody else out")
		} else {
			assert.Equal(t, []int{401, 401, 401, 401, 401, 429, 429}, said)
		}
	}
	// From one address not more either, whoever it is tried with; who knows the password of another account gets in until then.
	tried := 0
	for status := 401; status == 401 && tried < 30; tried++ {
		status, _, _ = ask(t, "POST", s2+"/session", fmt.Sprintf(`{"name":"Nobody %d","password":"wrong"}`, tried), "Content-Type", "application/json")
	}
	assert.Equal(t, 11, tried, "ten are left of twenty")
}
