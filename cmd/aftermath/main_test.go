package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/agreement"
	"aftermath/internal/demo"
	"aftermath/internal/pg/pgtest"
)

func TestMain(m *testing.M) {
	pgtest.Main(m, func() {
		if programDir != "" {
			_ = os.RemoveAll(programDir)
		}
	})
}

// headless runs a command as from the command line and gives what it printed.
func headless(t *testing.T, c *cobra.Command, args ...string) string {
	var out bytes.Buffer
	c.SetArgs(args)
	c.SetOut(&out)
	c.SetErr(io.Discard)
	require.NoError(t, c.ExecuteContext(t.Context()))
	return out.String()
}

func file(t *testing.T, dir, name, content string) string {
	path := filepath.Join(dir, name)
	require.NoError(t, os.WriteFile(path, []byte(content), 0o644))
	return path
}

// The page of limits is the program's own; run make types.
func TestLimitsAreNotStale(t *testing.T) {
	want, err := os.ReadFile("../../docs/limits.md")
	require.NoError(t, err)
	assert.Equal(t, string(want), headless(t, limitsCommand()))
}

func TestCodeHeadless(t *testing.T) {
	dir := t.TempDir()
	data := file(t, dir, "in.csv", "id,answer,ticket\n7,Slow staff,Day\n8,\"=nothing, none\",Season\n9,,Day\n10,???,Day\n")
	book := file(
		t,
		dir,
		"book.json",
		`{"aftermath":1,"frame":[{"name":"People","children":[{"name":"Staff","code":11,"rules":["staff + [ticket = Day]"]}]},{"name":"None","code":90,"alone":true,"rules":["nothing"]}]}`,
	)
	out := filepath.Join(dir, "out.csv")
	printed := headless(
		t, codeCommand(), "--data", data, "--text", "answer", "--id", "id", "--playbook", book, "--out", out, "--json",
	)
	var got Summary
	require.NoError(t, json.Unmarshal([]byte(printed), &got))
	assert.Equal(t, Summary{4, 2, 2, 0, []CategorySummary{{"People", 1, 1}, {"People / Staff", 11, 1}, {"None", 90, 1}}}, got)
	wide, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(
		t,
		"id,answer,ticket,People,People / Staff,None\n7,Slow staff,Day,1,1,0\n8,\"'=nothing, none\",Season,0,0,1\n9,,Day,,,\n10,???,Day,0,0,0\n",
		string(wide),
	)
	headless(t, codeCommand(), "--data", data, "--text", "answer", "--id", "id", "--playbook", book, "--out", out, "--shape", "long")
	long, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(
		t, "id,answer,category,code\n7,Slow staff,People,1\n7,Slow staff,People / Staff,11\n8,\"'=nothing, none\",None,90\n",
		string(long),
	)
}

func TestCleanHeadless(t *testing.T) {
	dir := t.TempDir()
	data := file(t, dir, "in.csv", "id,answer\nA,<b>Don’t</b> queue!\nB,n/a\nC,\n")
	out := filepath.Join(dir, "out.ndjson")
	headless(t, cleanCommand(), "--data", data, "--text", "answer", "--id", "id", "--out", out)
	got, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(
		t,
		`{"id":"A","status":"answered","text":"Do not queue!","words":[{"surface":"do","start":3,"end":10,"sentence":0},{"surface":"not","start":3,"end":10,"sentence":0},{"surface":"queue","start":15,"end":20,"sentence":0}]}
{"id":"B","status":"no answer","text":"n/a","words":[{"surface":"n","start":0,"end":1,"sentence":0},{"surface":"a","start":2,"end":3,"sentence":0}]}
{"id":"C","status":"missing","text":"","words":[]}
`,
		string(got),
	)
}

// The command line reads what the application reads, with settings overruled, derived variables made, and masks put on.
func TestTermsHeadless(t *testing.T) {
	dir := t.TempDir()
	data := file(t, dir, "in.csv", "id,answer,route\n7,Slow queues,N\n8,slow tailback,N\n9,,N\n10,the queue is slow,S\n")
	book := file(
		t,
		dir,
		"book.json",
		`{"aftermath":1,"lexicon":{"merges":[{"term":"queue","variants":["tailback"]}]},"frame":[{"name":"Slow","code":1,"rules":["slow +2w queue"]}]}`,
	)
	run := func(out string, more ...string) string {
		t.Helper()
		path := filepath.Join(dir, out)
		headless(
			t,
			termsCommand(),
			append([]string{"--data", data, "--text", "answer", "--id", "id", "--playbook", book, "--out", path}, more...)...)
		got, err := os.ReadFile(path)
		require.NoError(t, err)
		return string(got)
	}
	const header = "term,answers,share of answers,occurrences,share of words,uncoded answers,uncoded share,distinctiveness,times everyday speech,members\n"
	assert.Equal(
		t,
		header+"queue,3,1,3,0.375,0,0,0.7071067811865475,153001.11834814306,\"queue, queues, tailback\"\nslow,3,1,3,0.375,0,0,0.7071067811865475,4543.944544822845,slow\n",
		run("t.csv"),
	)
	assert.Equal(t, header+"slow queues,2,0.6666666666666666,2,0.25,0,0,0,,\n", run("t.csv", "--row", "2"))
	assert.Equal(
		t, "respondent,queue,slow\n10,1,1\n",
		run("m.csv", "--matrix", "counts", "--focus", `[{"kind":"variable","name":"route","op":"=","values":["S"]}]`),
	)
	assert.True(t, strings.HasPrefix(run("m.zip", "--matrix", "tfidf"), "PK"))
	for _, bad := range [][]string{{"--row", "4"}, {"--matrix", "nope"}, {"--focus", "{"}, {"--out", filepath.Join(dir, "x.pdf")}} {
		c := termsCommand()
		c.SetArgs(append([]string{"--data", data, "--text", "answer", "--out", filepath.Join(dir, "x.csv")}, bad...))
		c.SetErr(io.Discard)
		c.SilenceUsage, c.SilenceErrors = true, true
		assert.Error(t, c.ExecuteContext(t.Context()), bad)
	}
	assert.NoFileExists(t, filepath.Join(dir, "x.csv"))
}

func TestHeadlessReadsAnyFile(t *testing.T) {
	dir := t.TempDir()
	data := file(
		t, dir, "in.json",
		`[{"id": "A", "score": "9 pts", "answer": "mail a.b@mail.example"}, {"id": "B", "score": "2 pts", "answer": "mail"}]`,
	)
	book := file(
		t,
		dir,
		"book.json",
		`{"aftermath":1,"mask":true,"variables":[{"name":"score","role":"number","unit":"pts"}],"derived":[{"name":"band","kind":"bands","of":["score"],"edges":[7],"names":["low","high"]}],"frame":[{"name":"High","rules":["mail + [band = high]"]}]}`,
	)
	out := filepath.Join(dir, "out")
	headless(t, codeCommand(), "--data", data, "--text", "answer", "--playbook", book, "--out", out)
	got, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(t, "id,score,answer,High\nA,9 pts,mail •••,1\nB,2 pts,mail,0\n", string(got))
	data = file(t, dir, "in.txt", "call 01632 960123|x\nlate|y\n")
	headless(
		t, cleanCommand(), "--data", data, "--format", "delimited", "--delimiter", "|", "--headers", "0", "--text", "column 1",
		"--playbook", book, "--out", out,
	)
	got, err = os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(
		t,
		`{"id":"1","status":"answered","text":"call •••","words":[{"surface":"call","start":0,"end":4,"sentence":0}]}
{"id":"2","status":"answered","text":"late","words":[{"surface":"late","start":0,"end":4,"sentence":0}]}
`,
		string(got),
	)
}

// The demo must read the same on every machine, be as messy as promised, and leave work to do.
func TestDemoData(t *testing.T) {
	s := demo.Make(demo.Seed, demo.Respondents)
	assert.Equal(t, s, demo.Make(demo.Seed, demo.Respondents))
	var all strings.Builder
	for _, row := range s.Rows {
		require.Len(t, row, len(demo.Columns))
		all.WriteString(row[10] + "\n" + row[11] + "\n")
	}
	for _, mess := range []string{"<p>", "&nbsp;", "&amp;", "https://", "@mail.example", "👍", "’", "…", "bus42", "n/a", "???", "nothing!!", "ooo", "WIFI", " u ", "zu spät", "[re: booking"} {
		assert.Contains(t, all.String(), mess)
	}
}

// running is the built program on an address of its own.
type running struct {
	base string
	cmd  *exec.Cmd
}

// programDir is where the program was built for the tests; empty where none asked for it.
var programDir string

// program is the program, built once for the tests that kill it.
var program = sync.OnceValues(func() (bin string, err error) {
	if programDir, err = os.MkdirTemp("", "aftermath-test-"); err != nil {
		return "", err
	}
	bin = filepath.Join(programDir, "aftermath")
	if out, err := exec.Command("go", "build", "-o", bin, ".").CombinedOutput(); err != nil {
		return "", fmt.Errorf("%w: %s", err, out)
	}
	return bin, nil
})

func build(t *testing.T) string {
	bin, err := program()
	require.NoError(t, err)
	return bin
}

func start(t *testing.T, bin, command, data string) running {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	address := l.Addr().String()
	require.NoError(t, l.Close())
	cmd := exec.Command(bin, command, "--listen", address, "--data", data)
	log, err := os.Create(filepath.Join(t.TempDir(), "log"))
	require.NoError(t, err)
	cmd.Stderr = log
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		_ = cmd.Process.Kill()
		if said, err := os.ReadFile(log.Name()); t.Failed() && err == nil {
			t.Logf("the server's log ends:\n%s", said[max(0, len(said)-2000):])
		}
		_ = log.Close()
	})
	r := running{"http://" + address + "/api/v1", cmd}
	require.Eventually(t, func() bool {
		reply, err := http.Get(r.base + "/studies")
		if err == nil {
			reply.Body.Close()
		}
		return err == nil
	}, time.Minute, 50*time.Millisecond)
	return r
}

// ask sends JSON and reads JSON.
func ask[T any](t testing.TB, method, url, body string) (out T) {
	ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, method, url, strings.NewReader(body))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	reply, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer reply.Body.Close()
	data, err := io.ReadAll(reply.Body)
	require.NoError(t, err)
	require.Less(t, reply.StatusCode, 300, string(data))
	if s, ok := any(&out).(*string); ok {
		*s = string(data)
		return out
	}
	require.NoError(t, json.Unmarshal(data, &out))
	return out
}

type figures struct {
	Revision int
	Undo     struct{ Summary string }
	Answered int
	Coded    int
	Left     int
}

// An edit that was acknowledged outlives the server's sudden death; the demo is found as it was left; and what the
// application exports is what the command line makes of the same data and playbook, to the last cell.
func TestKilledServerLosesNothingAndAgreesWithTheCommandLine(t *testing.T) {
	t.Parallel()
	bin := build(t)
	dir, err := pgtest.Dir()
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(dir) })
	data := filepath.Join(dir, "pg")

	first := start(t, bin, "demo", data)
	q := first.base + "/questions/1"
	was := ask[figures](t, "GET", q, "")
	assert.GreaterOrEqual(t, float64(was.Left), 0.2*float64(was.Answered), "a fifth or more is left to do")
	ask[any](t, "POST", q+"/edits", `{"revision":0,"edit":{"kind":"merge","label":"queue","terms":["wait"]}}`)
	ask[any](t, "POST", q+"/edits", `{"revision":1,"edit":{"kind":"add category","name":"Dogs","rules":["dog / pet"]}}`)
	require.NoError(t, first.cmd.Process.Signal(syscall.SIGKILL))
	_ = first.cmd.Wait()

	second := start(t, bin, "demo", data)
	q = second.base + "/questions/1"
	now := ask[figures](t, "GET", q, "")
	assert.Equal(t, 2, now.Revision)
	assert.Equal(t, "Added the category Dogs", now.Undo.Summary)
	assert.Greater(t, now.Coded, was.Coded)

	work := t.TempDir()
	book := file(t, work, "book.json", ask[string](t, "GET", q+"/playbook", ""))
	headless(t, demoCommand(), "data", "--out", work)
	for _, shape := range []string{"wide", "long"} {
		out := filepath.Join(work, shape+".csv")
		headless(
			t, codeCommand(), "--data", filepath.Join(work, "larkmoor.csv"), "--text", demo.Change, "--id", "respondent", "--playbook",
			book, "--out", out, "--shape", shape,
		)
		want, err := os.ReadFile(out)
		require.NoError(t, err)
		got := ask[string](t, "GET", q+"/coded?shape="+shape, "")
		require.Equal(t, cellsOf(t, string(want)), cellsOf(t, got), shape)
	}

	// An orderly stop ends the private PostgreSQL too.
	require.NoError(t, second.cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, second.cmd.Wait())
	assert.NoFileExists(t, filepath.Join(data, "data", "postmaster.pid"))
}

func cellsOf(t *testing.T, text string) [][]string {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	require.Greater(t, len(rows), 1000, fmt.Sprint(len(rows)))
	return rows
}

// A coding is held against a sample by hand, without a database; what does not fit is said with its line.
func TestAgreeHeadless(t *testing.T) {
	dir := t.TempDir()
	data := file(t, dir, "in.csv", "id,answer\n7,slow queue\n8,cold tea\n9,a queue for tea\n10,boat\n")
	book := file(t, dir, "book.json", `{"aftermath":1,"frame":[{"name":"Waiting","rules":["queue"]},{"name":"Drinks","code":31,"rules":["tea"]}]}`)
	sample := file(t, dir, "sample.csv", "id,category\n7,Waiting\n8,31\n9,Waiting\n10,Drinks\n")
	args := []string{"--data", data, "--text", "answer", "--id", "id", "--playbook", book, "--sample"}
	var got agreement.Result
	require.NoError(t, json.Unmarshal([]byte(headless(t, agreeCommand(), append(args, sample, "--json")...)), &got))
	assert.Equal(t, []int{4, 2}, []int{got.Answers, got.Whole})
	drinks := got.Categories[1]
	assert.Equal(t, []int{1, 1, 1, 1}, []int{drinks.Both, drinks.Only, drinks.Missed, drinks.Neither})
	assert.InDelta(t, 0.5, drinks.Precision, 1e-12)
	assert.Contains(t, headless(t, agreeCommand(), append(args, sample)...), "all categories are the same in 2")
	c := agreeCommand()
	c.SetArgs(append(args, file(t, dir, "bad.csv", "id,category\n7,Waiting\n99,Waiting\n")))
	c.SetOut(io.Discard)
	c.SetErr(io.Discard)
	assert.ErrorContains(t, c.ExecuteContext(t.Context()), `line 3: there is no respondent "99"`)
}

// What a playbook leaves is told in groups, with what it is likely to be, without a database.
func TestReviewHeadless(t *testing.T) {
	dir := t.TempDir()
	var rows strings.Builder
	rows.WriteString("id,answer\n")
	for i := range 8 {
		fmt.Fprintf(&rows, "a%d,filthy toilet floor %d\nb%d,long queue at the gate %d\nc%d,filthy floor\nd%d,lorry parking full\n", i, i, i, i, i, i)
	}
	data := file(t, dir, "in.csv", rows.String())
	book := file(t, dir, "book.json", `{"aftermath":1,"frame":[{"name":"Toilets","rules":["toilet"]},{"name":"Waiting","rules":["queue"]}]}`)
	args := []string{"--data", data, "--text", "answer", "--id", "id", "--playbook", book}
	var got Reviewed
	require.NoError(t, json.Unmarshal([]byte(headless(t, reviewCommand(), append(args, "--json", "--surest", "3")...)), &got))
	assert.Equal(t, []int{32, 16, 16}, []int{got.Coverage.All.Answered, got.Coverage.All.Coded, got.Coverage.All.Left})
	require.NotEmpty(t, got.Groups)
	assert.Equal(t, 8, got.Groups[0].Gained)
	require.Len(t, got.Surest, 3)
	assert.Equal(t, []string{"filthy floor", "Toilets", "c0"}, []string{got.Surest[0].Answer, got.Surest[0].Likely[0].Name, got.Surest[0].ID})
	assert.Equal(t, 16, got.Likely.Given)
	assert.Contains(t, headless(t, reviewCommand(), args...), "32 answers, 16 coded, 16 left")
}
