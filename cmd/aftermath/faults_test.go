package main

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/pg/pgtest"
)

// plainStudy is a study as a plain list: what each one wrote, in which categories it is, and how it became so.
type plainStudy struct {
	answers    []string
	categories []plainCategory
	by         map[[2]string]bool // by hand: category and respondent
}

type plainCategory struct{ name, word string }

func (p plainStudy) with(change func(*plainStudy)) plainStudy {
	next := plainStudy{slices.Clone(p.answers), slices.Clone(p.categories), map[[2]string]bool{}}
	for k, v := range p.by {
		next.by[k] = v
	}
	change(&next)
	return next
}

// coded is what the coded data must say, to the last cell.
func (p plainStudy) coded() [][]string {
	rows := [][]string{{"id", "answer"}}
	for _, c := range p.categories {
		rows[0] = append(rows[0], c.name)
	}
	for i, answer := range p.answers {
		row := []string{strconv.Itoa(i), answer}
		for _, c := range p.categories {
			in := slices.Contains(strings.Fields(answer), c.word)
			if by, decided := p.by[[2]string{c.name, row[0]}]; decided {
				in = by
			}
			row = append(row, map[bool]string{true: "1", false: "0"}[in])
		}
		rows = append(rows, row)
	}
	return rows
}

// faulty is a server that dies again and again, with a plain model of what it has acknowledged.
type faulty struct {
	t         *testing.T
	random    *rand.Rand
	bin, data string
	server    running
	now       plainStudy
	undo      []plainStudy
	redo      []plainStudy
	studies   int
	n         int // names that were given
	done      int // what was acknowledged
	unknown   int // what nobody knows of whether it was done, until one looks
}

// outcome is what is known of a request.
type outcome int

const (
	refused outcome = iota
	acknowledged
	uncertain
)

// send sends a request. One that is not answered may have been carried out all the same.
func (f *faulty) send(method, path string, body []byte) ([]byte, outcome) {
	r, err := http.NewRequestWithContext(f.t.Context(), method, f.server.base+path, bytes.NewReader(body))
	require.NoError(f.t, err)
	r.Header.Set("Content-Type", "application/json")
	client := http.Client{Timeout: 30 * time.Second}
	reply, err := client.Do(r)
	if err != nil {
		return nil, uncertain
	}
	defer reply.Body.Close()
	data, err := io.ReadAll(reply.Body)
	switch {
	case err != nil || reply.StatusCode >= 500 || reply.StatusCode == 499:
		return nil, uncertain
	case reply.StatusCode == 409:
		return data, refused
	}
	require.Less(f.t, reply.StatusCode, 300, "%s %s: %s", method, path, data)
	return data, acknowledged
}

// get asks for something until it is there.
func (f *faulty) get(path string) []byte {
	for begun := time.Now(); time.Since(begun) < time.Minute; time.Sleep(20 * time.Millisecond) {
		data, said := f.send("GET", path, nil)
		if said == acknowledged {
			return data
		}
		f.alive()
	}
	f.t.Fatalf("%s is not answered", path)
	return nil
}

// edit does something that changes the study, and gives whether it was acknowledged.
func (f *faulty) edit() bool {
	var question struct {
		Revision int
		Study    struct{ Revision int }
		Undo     struct{ Edit int64 }
		Redo     struct{ Edit int64 }
	}
	data, said := f.send("GET", "/questions/1", nil)
	if said != acknowledged {
		return false
	}
	require.NoError(f.t, json.Unmarshal(data, &question))
	before, undo, redo := f.now, f.undo, f.redo
	next := before
	nextUndo, nextRedo := append(slices.Clone(undo), before), []plainStudy(nil)
	post := func(path string, body any) {
		data, err := json.Marshal(body)
		require.NoError(f.t, err)
		_, said = f.send("POST", path, data)
	}
	on := func(edit map[string]any) {
		post("/questions/1/edits", map[string]any{"revision": question.Revision, "edit": edit})
	}
	switch kind := f.random.IntN(10); {
	case kind < 3 && len(before.categories) < 12:
		f.n++
		c := plainCategory{fmt.Sprint("Category ", f.n), faultWords[f.random.IntN(len(faultWords))]}
		next = before.with(func(p *plainStudy) { p.categories = append(p.categories, c) })
		on(map[string]any{"kind": "add category", "name": c.name, "rules": []string{c.word}})
	case kind < 6 && len(before.categories) > 0:
		c := before.categories[f.random.IntN(len(before.categories))]
		key, known := f.key(c.name)
		if !known {
			return false
		}
		who, to := f.random.IntN(firstRows), f.random.IntN(2) == 0
		next = before.with(func(p *plainStudy) { p.by[[2]string{c.name, strconv.Itoa(who)}] = to })
		on(map[string]any{"kind": "decide", "category": key, "answers": []int{who}, "to": map[bool]string{true: "on", false: "off"}[to]})
	case kind == 6 && len(before.answers) < 4*firstRows:
		var rows bytes.Buffer
		rows.WriteString("id,answer\n")
		next = before.with(func(p *plainStudy) {
			for i := range 50 {
				answer := f.answer()
				fmt.Fprintf(&rows, "%d,%s\n", len(before.answers)+i, answer)
				p.answers = append(p.answers, answer)
			}
		})
		file, held := f.upload(rows.Bytes())
		if !held {
			return false
		}
		post("/studies/1/rows", map[string]any{"upload": file, "revision": question.Study.Revision,
			"further": map[string]any{"columns": []any{map[string]any{"column": "id", "to": "id"}, map[string]any{"column": "answer", "to": "answer"}}}})
	case kind < 9 && len(undo) > 0:
		next, nextUndo, nextRedo = undo[len(undo)-1], undo[:len(undo)-1], append(slices.Clone(redo), before)
		_, said = f.send("POST", fmt.Sprintf("/questions/1/undo?confirmed=true&edit=%d", question.Undo.Edit), nil)
	case len(redo) > 0:
		next, nextUndo, nextRedo = redo[len(redo)-1], append(slices.Clone(undo), before), redo[:len(redo)-1]
		_, said = f.send("POST", fmt.Sprintf("/questions/1/redo?edit=%d", question.Redo.Edit), nil)
	default:
		return true
	}
	if said == uncertain && f.happened(next, before, question.Revision) {
		said = acknowledged
	}
	if said == acknowledged {
		f.done++
		f.now, f.undo, f.redo = next, nextUndo, nextRedo
	}
	return said == acknowledged
}

// happened looks whether what was not answered was carried out: wholly, or not at all. The server may have to be started for it.
func (f *faulty) happened(after, before plainStudy, revision int) bool {
	f.unknown++
	f.alive()
	got := f.coded(1)
	if !assert.ObjectsAreEqual(after.coded(), before.coded()) {
		if assert.ObjectsAreEqual(after.coded(), got) {
			return true
		}
		require.Equal(f.t, before.coded(), got, "it was done by halves")
		return false
	}
	var question struct{ Revision int } // it changes nothing that can be seen: the revision tells
	require.NoError(f.t, json.Unmarshal(f.get("/questions/1"), &question))
	return question.Revision > revision
}

// key is the key of a category.
func (f *faulty) key(name string) (key string, known bool) {
	data, said := f.send("GET", "/questions/1/frame", nil)
	if said != acknowledged {
		return "", false
	}
	var frame struct {
		Categories []struct {
			ID   string
			Path []string
		}
	}
	require.NoError(f.t, json.Unmarshal(data, &frame))
	for _, c := range frame.Categories {
		if c.Path[0] == name {
			return c.ID, true
		}
	}
	f.t.Fatalf("the category %q is not there", name)
	return "", false
}

func (f *faulty) upload(data []byte) (id string, held bool) {
	reply, said := f.send("POST", "/uploads?name=x.csv", data)
	if said != acknowledged {
		return "", false
	}
	var upload struct{ ID string }
	require.NoError(f.t, json.Unmarshal(reply, &upload))
	return upload.ID, true
}

var faultWords = []string{"late", "queue", "tea", "crew", "cabin"}

const firstRows = 60

func (f *faulty) answer() string {
	var said []string
	for range 1 + f.random.IntN(4) {
		said = append(said, faultWords[f.random.IntN(len(faultWords))])
	}
	return strings.Join(said, " ")
}

func (f *faulty) coded(question int64) [][]string {
	rows, err := csv.NewReader(bytes.NewReader(f.get(fmt.Sprintf("/questions/%d/coded?shape=wide", question)))).ReadAll()
	require.NoError(f.t, err)
	return rows
}

type listedStudy struct {
	ID          int64
	Name        string
	Respondents int
	Questions   []struct{ ID int64 }
}

func (f *faulty) list() (all []listedStudy) {
	require.NoError(f.t, json.Unmarshal(f.get("/studies"), &all))
	return all
}

// load brings in a study of its own; one that comes is there whole.
func (f *faulty) load() bool {
	var rows bytes.Buffer
	rows.WriteString("id,answer\n")
	const many = 4000
	for i := range many {
		fmt.Fprintf(&rows, "%d,the boat was late and the queue was long\n", i)
	}
	file, held := f.upload(rows.Bytes())
	if !held {
		return false
	}
	f.n++
	name := fmt.Sprint("Study ", f.n)
	body := fmt.Sprintf(`{"upload":%q,"name":%q,"columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`, file, name)
	_, said := f.send("POST", "/studies", []byte(body))
	if said == uncertain {
		f.unknown++
		f.alive()
	}
	for _, s := range f.list() {
		if s.Name == name {
			require.Equal(f.t, many, s.Respondents)
			f.studies++
			return true
		}
	}
	require.NotEqual(f.t, acknowledged, said, "an acknowledged study is lost")
	return false
}

// backUp makes a back-up and restores it: what is restored is the study as it is now.
func (f *faulty) backUp() bool {
	data, said := f.send("GET", "/studies/1/backup", nil)
	if said != acknowledged {
		return false
	}
	before := f.list()
	_, said = f.send("POST", "/restore", data)
	if said == uncertain {
		f.unknown++
		f.alive()
	}
	after := f.list()
	if len(after) == len(before) {
		require.NotEqual(f.t, acknowledged, said, "an acknowledged study is lost")
		return false
	}
	for _, s := range after {
		if !slices.ContainsFunc(before, func(b listedStudy) bool { return b.ID == s.ID }) {
			require.Equal(f.t, f.now.coded(), f.coded(s.Questions[0].ID), "what was restored")
			f.get("/studies")
			_, said = f.send("DELETE", fmt.Sprintf("/studies/%d", s.ID), nil)
			if said != acknowledged {
				f.alive()
				if len(f.list()) > len(before) {
					f.studies++
				}
			}
		}
	}
	return said == acknowledged
}

// alive starts the server if it does not run.
func (f *faulty) alive() {
	if f.server.cmd != nil {
		if f.server.cmd.ProcessState == nil && syscall.Kill(f.server.cmd.Process.Pid, 0) == nil && !f.killed() {
			return
		}
		_ = f.server.cmd.Wait()
	}
	f.server = start(f.t, f.bin, "serve", f.data)
}

// killed says whether the server's process has ended and nobody has asked for how.
func (f *faulty) killed() bool {
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", f.server.cmd.Process.Pid))
	return err != nil || strings.Contains(string(stat), ") Z ")
}

// kill kills the server (0), one of those that PostgreSQL works with (1), PostgreSQL (2), or the server and PostgreSQL (3).
func (f *faulty) kill(what, which int) {
	pid, err := os.ReadFile(filepath.Join(f.data, "data", "postmaster.pid"))
	if what == 0 || what == 3 || err != nil {
		_ = f.server.cmd.Process.Kill()
	}
	if what == 0 || err != nil {
		return
	}
	var postmaster int
	if _, err := fmt.Sscan(string(pid), &postmaster); err != nil {
		return
	}
	target := postmaster
	if what == 1 {
		var workers []int
		all, _ := filepath.Glob("/proc/[0-9]*")
		for _, p := range all {
			n, _ := strconv.Atoi(filepath.Base(p))
			if where, err := os.Readlink(filepath.Join(p, "cwd")); err == nil && where == filepath.Join(f.data, "data") && n != postmaster {
				workers = append(workers, n)
			}
		}
		if len(workers) > 0 {
			target = workers[which%len(workers)]
		}
	}
	_ = syscall.Kill(target, syscall.SIGKILL)
}

// Whatever is killed, whenever: what was acknowledged is there, and nothing is there by halves. FAULTS says how many times; make faults
// asks for many more than make test.
func TestNothingIsLostWhateverIsKilled(t *testing.T) {
	t.Parallel()
	rounds, seed := 4, uint64(time.Now().UnixNano())
	if asked := os.Getenv("FAULTS"); asked != "" {
		var err error
		rounds, err = strconv.Atoi(asked)
		require.NoError(t, err)
	}
	t.Logf("seed %d", seed)
	dir, err := pgtest.Dir()
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(dir) })
	f := &faulty{t: t, random: rand.New(rand.NewPCG(seed, 1)), bin: build(t), data: filepath.Join(dir, "pg")}
	f.alive()
	var rows bytes.Buffer
	rows.WriteString("id,answer\n")
	f.now = plainStudy{by: map[[2]string]bool{}}
	for i := range firstRows {
		f.now.answers = append(f.now.answers, f.answer())
		fmt.Fprintf(&rows, "%d,%s\n", i, f.now.answers[i])
	}
	file, held := f.upload(rows.Bytes())
	require.True(t, held)
	_, said := f.send("POST", "/studies",
		[]byte(`{"upload":"`+file+`","name":"First","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`))
	require.Equal(t, acknowledged, said)
	f.studies = 1
	killed := map[int]int{}
	for round := range rounds {
		what := round % 4
		after := time.Duration(f.random.IntN(400)) * time.Millisecond
		which := f.random.IntN(1000)
		dead := make(chan struct{})
		go func() {
			time.Sleep(after)
			f.kill(what, which)
			close(dead)
		}()
		for over := false; !over; {
			select {
			case <-dead:
				over = true
			default:
			}
			switch f.random.IntN(12) {
			case 0:
				f.load()
			case 1:
				f.backUp()
			default:
				f.edit()
			}
		}
		killed[what]++
		f.alive()
		require.Equal(t, f.now.coded(), f.coded(1), "round %d", round)
		require.Len(t, f.list(), f.studies, "round %d", round)
	}
	t.Logf("killed: %d times the server, %d one of PostgreSQL's processes, %d PostgreSQL, %d both; "+
		"%d edits acknowledged, %d requests of unknown outcome: 0 lost, 0 half", killed[0], killed[1], killed[2], killed[3], f.done, f.unknown)
	require.NoError(t, f.server.cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, f.server.cmd.Wait())
}

// A disk that is full is called so, and never that the database can't be reached: what comes in is refused before it is taken, edits are
// refused, all that is there is read, and when there is room again all goes on with every edit that was acknowledged. The disk is a small
// file system in memory, where root may mount one.
func TestAFullDisk(t *testing.T) {
	if os.Getenv("FAULTS") == "" {
		t.Skip("make faults asks for it: it waits for PostgreSQL to start again")
	}
	asRoot(t)
	top, err := pgtest.Dir()
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(top) })
	disk := filepath.Join(top, "disk")
	require.NoError(t, os.Mkdir(disk, 0o755))
	if err := syscall.Mount("tmpfs", disk, "tmpfs", 0, "size=1200m,mode=755"); err != nil {
		t.Skipf("no file system can be mounted here: %v", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(disk, syscall.MNT_DETACH) })
	server := start(t, build(t), "serve", filepath.Join(disk, "pg"))
	t.Cleanup(func() { _ = server.cmd.Process.Signal(syscall.SIGTERM); _ = server.cmd.Wait() })
	c := &crowd{t: t, base: server.base}
	question := c.load("Ferries", 200)
	path := fmt.Sprint(server.base, "/questions/", question)
	revision := 0
	call := func(method, address, body string) (int, string) {
		r, err := http.NewRequestWithContext(t.Context(), method, address, strings.NewReader(body))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		reply, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer reply.Body.Close()
		data, err := io.ReadAll(reply.Body)
		require.NoError(t, err)
		return reply.StatusCode, string(data)
	}
	edit := func() int {
		var terms []string
		for i := range 400 {
			terms = append(terms, fmt.Sprintf("%q", fmt.Sprintf("word%dof%d%s", i, revision, strings.Repeat("x", 40))))
		}
		status, body := call("POST", path+"/edits", fmt.Sprintf(`{"revision":%d,"edit":{"kind":"hide","terms":[%s]}}`, revision, strings.Join(terms, ",")))
		if status == 200 {
			revision++
			return status
		}
		require.Equal(t, 507, status, body)
		require.Contains(t, body, "full")
		require.Contains(t, body, "othing was changed")
		return status
	}
	require.Equal(t, 200, edit())
	filler, err := os.Create(filepath.Join(disk, "filler"))
	require.NoError(t, err)
	for block := make([]byte, 1<<20); err == nil; {
		_, err = filler.Write(block)
	}
	require.ErrorIs(t, err, syscall.ENOSPC)
	status, body := call("POST", server.base+"/uploads?name=x.csv", "id,answer\n1,late\n")
	require.Equal(t, 507, status, body)
	refused := 0
	for begun := time.Now(); time.Since(begun) < 40*time.Second && refused < 20; {
		if edit() != 200 {
			refused++
			time.Sleep(200 * time.Millisecond)
		}
		status, body := call("GET", path+"/terms?limit=5", "")
		require.Equal(t, 200, status, body)
	}
	require.Equal(t, 20, refused, "the log of PostgreSQL fills the disk at last")
	require.NoError(t, errors.Join(filler.Truncate(0), filler.Close()))
	require.Eventually(t, func() bool {
		status, _ := call("GET", strings.TrimSuffix(server.base, "/api/v1")+"/readyz", "")
		return status == 200
	}, 2*time.Minute, 200*time.Millisecond)
	var now struct{ Revision int }
	status, body = call("GET", path, "")
	require.Equal(t, 200, status, body)
	require.NoError(t, json.Unmarshal([]byte(body), &now))
	require.Equal(t, revision, now.Revision, "every edit that was acknowledged, and no other")
	require.Equal(t, 200, edit())
	t.Logf("%d edits acknowledged, %d refused", revision, refused)
}
