package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/pg/pgtest"
)

// crowd is many windows at work on one server.
type crowd struct {
	t      *testing.T
	base   string
	failed atomic.Int64
	named  atomic.Int64
	mu     sync.Mutex
	took   []time.Duration // of what was read
}

// call sends a request and gives its status; a conflict is no failure.
func (c *crowd) call(method, path, body string, to any) int {
	r, err := http.NewRequestWithContext(c.t.Context(), method, c.base+path, strings.NewReader(body))
	if err != nil {
		return 0
	}
	r.Header.Set("Content-Type", "application/json")
	reply, err := http.DefaultClient.Do(r)
	if err != nil {
		c.failed.Add(1)
		c.t.Errorf("%s %s: %v", method, path, err)
		return 0
	}
	defer reply.Body.Close()
	data, err := io.ReadAll(reply.Body)
	if err != nil || reply.StatusCode >= 300 && reply.StatusCode != http.StatusConflict {
		c.failed.Add(1)
		c.t.Errorf("%s %s: %d %v %s", method, path, reply.StatusCode, err, data[:min(len(data), 300)])
	}
	if to != nil && reply.StatusCode < 300 {
		if err := json.Unmarshal(data, to); err != nil {
			c.t.Errorf("%s: %v", path, err)
		}
	}
	return reply.StatusCode
}

// load brings in a study and gives its question.
func (c *crowd) load(name string, rows int) int64 {
	var text bytes.Buffer
	text.WriteString("id,answer\n")
	for i := range rows {
		fmt.Fprintf(&text, "%d,%s again and the queue at pier %d was long\n", i, faultWords[i%len(faultWords)], i%97)
	}
	var upload struct{ ID string }
	c.call("POST", "/uploads?name=x.csv", text.String(), &upload)
	var study struct{ Questions []struct{ ID int64 } }
	c.call("POST", "/studies", fmt.Sprintf(
		`{"upload":%q,"name":%q,"columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`, upload.ID, name), &study)
	require.NotEmpty(c.t, study.Questions)
	return study.Questions[0].ID
}

// reads are what windows ask for.
var reads = []string{"", "/terms?limit=50", "/answers?limit=50", "/frame", "/groups", `/answers?focus=[{"kind":"words","text":"late"}]`, "/revisions"}

// work reads and edits until the time is up, and gives how many of its edits were acknowledged.
func (c *crowd) work(question int64, name string, until time.Time) (edits int) {
	for i := 0; time.Now().Before(until) && c.failed.Load() == 0; i++ {
		path := fmt.Sprint("/questions/", question)
		begun := time.Now()
		c.call("GET", path+strings.ReplaceAll(reads[i%len(reads)], `"`, "%22"), "", nil)
		c.mu.Lock()
		c.took = append(c.took, time.Since(begun))
		c.mu.Unlock()
		if i%3 > 0 {
			continue
		}
		var now struct{ Revision int }
		c.call("GET", path, "", &now)
		edit := fmt.Sprintf(`{"revision":%d,"edit":{"kind":"hide","terms":["%s%d"]}}`, now.Revision, name, i)
		if i%2 == 0 && edits < 8 { // frames stay of a size that frames have
			edit = fmt.Sprintf(`{"revision":%d,"edit":{"kind":"add category","name":"%s %d","rules":["%s"]}}`, now.Revision, name, c.named.Add(1), faultWords[i%len(faultWords)])
		}
		if c.call("POST", path+"/edits", edit, nil) == http.StatusOK {
			edits++
		}
	}
	return edits
}

// median is the middle of how long what was read since the last time took.
func (c *crowd) median() time.Duration {
	c.mu.Lock()
	defer c.mu.Unlock()
	took := slices.Sorted(slices.Values(c.took))
	c.took = nil
	if len(took) == 0 {
		return 0
	}
	return took[len(took)/2]
}

// resident is the memory of a process, in MiB.
func resident(t *testing.T, pid int) int {
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	require.NoError(t, err)
	for line := range strings.SplitSeq(string(status), "\n") {
		if size, found := strings.CutPrefix(line, "VmRSS:"); found {
			kib, err := strconv.Atoi(strings.Fields(size)[0])
			require.NoError(t, err)
			return kib >> 10
		}
	}
	return 0
}

// Ten windows on one study, and a window on each of ten others, read and edit at once: no error, and as many edits as were acknowledged.
// LOAD says for how many seconds, then beside a file of a million rows that is brought in; make faults asks for five minutes.
func TestManyAtOnce(t *testing.T) {
	t.Parallel()
	seconds, rows := 2, 300
	if asked := os.Getenv("LOAD"); asked != "" {
		var err error
		seconds, err = strconv.Atoi(asked)
		require.NoError(t, err)
		rows = 20_000
	}
	top, err := pgtest.Dir()
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(top) })
	server := start(t, build(t), "serve", top+"/pg")
	c := &crowd{t: t, base: server.base}
	questions := []int64{c.load("Shared", rows)}
	for i := range 10 {
		questions = append(questions, c.load(fmt.Sprint("Own ", i), rows))
	}
	run := func(length time.Duration) (edits map[int64]int) {
		edits = map[int64]int{}
		var mu sync.Mutex
		var all sync.WaitGroup
		until := time.Now().Add(length)
		for i := range 20 {
			question, name := questions[0], fmt.Sprint("window", i)
			if i >= 10 {
				question = questions[i-9]
			}
			all.Go(func() {
				n := c.work(question, name, until)
				mu.Lock()
				defer mu.Unlock()
				edits[question] += n
			})
		}
		all.Wait()
		return edits
	}
	made := run(time.Second)
	before := resident(t, server.cmd.Process.Pid)
	c.median()
	check := func(more map[int64]int) {
		for _, q := range questions {
			made[q] += more[q]
			var now struct{ Revision int }
			c.call("GET", fmt.Sprint("/questions/", q), "", &now)
			assert.Equal(t, made[q], now.Revision, "question %d", q)
		}
	}
	check(map[int64]int{})
	check(run(time.Duration(seconds) * time.Second))
	alone := c.median()
	if os.Getenv("LOAD") != "" {
		done := make(chan struct{})
		go func() {
			defer close(done)
			c.load("A million", 1_000_000)
		}()
		more := run(30 * time.Second)
		beside := c.median()
		<-done
		check(more)
		t.Logf("what is read takes %v, and %v while a million rows are brought in", alone.Round(time.Millisecond), beside.Round(time.Millisecond))
	}
	after := resident(t, server.cmd.Process.Pid)
	sum := 0
	for _, n := range made {
		sum += n
	}
	t.Logf("%d edits acknowledged, 0 lost or doubled; what is read takes %v; memory %d MiB, then %d MiB", sum, alone.Round(time.Millisecond), before, after)
	assert.Zero(t, c.failed.Load())
}

// Many clients ask at once, signed in, for what the database is asked for each time: none is turned away. With LOAD they are 500, and 95 of
// 100 requests are answered within two seconds.
func TestManyClientsWaitInLine(t *testing.T) {
	t.Parallel()
	clients, each := 150, 2
	if os.Getenv("LOAD") != "" {
		clients, each = 500, 10
	}
	top, err := pgtest.Dir()
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(top) })
	server := start(t, build(t), "serve", top+"/pg")
	t.Cleanup(func() { _ = server.cmd.Process.Signal(syscall.SIGTERM); _ = server.cmd.Wait() })
	c := &crowd{t: t, base: server.base}
	c.load("Ferries", 2000)
	add := userCommand()
	_, err = attempt(t, add, "correct horse battery\n", "add", "Ada", "--admin", "--data", top+"/pg")
	require.NoError(t, err)
	token, err := attempt(t, tokenCommand(), "", "--data", top+"/pg", "--user", "Ada", "--name", "load", "--scope", "write")
	require.NoError(t, err)
	time.Sleep(time.Second) // until the server has seen that there is an account
	http.DefaultTransport.(*http.Transport).MaxIdleConnsPerHost = clients
	paths := []string{"/studies", "/questions/1/revisions", "/questions/1/charts", "/people", "/questions/1/samples"}
	var mu sync.Mutex
	var took []time.Duration
	statuses := map[int]int{}
	var all sync.WaitGroup
	for i := range clients {
		all.Go(func() {
			for j := range each {
				begun := time.Now()
				r, err := http.NewRequestWithContext(t.Context(), "GET", server.base+paths[(i+j)%len(paths)], nil)
				if !assert.NoError(t, err) {
					return
				}
				r.Header.Set("Authorization", "Bearer "+strings.TrimSpace(token))
				reply, err := http.DefaultClient.Do(r)
				if !assert.NoError(t, err) {
					return
				}
				_, _ = io.Copy(io.Discard, reply.Body)
				reply.Body.Close()
				mu.Lock()
				took, statuses[reply.StatusCode] = append(took, time.Since(begun)), statuses[reply.StatusCode]+1
				mu.Unlock()
			}
		})
	}
	all.Wait()
	assert.Equal(t, map[int]int{200: clients * each}, statuses)
	slices.Sort(took)
	most := took[len(took)*95/100]
	t.Logf("%d clients, %d requests: 95 of 100 within %v, the middle %v, all answered", clients, len(took), most.Round(time.Millisecond), took[len(took)/2].Round(time.Millisecond))
	if os.Getenv("LOAD") != "" {
		assert.Less(t, most, 2*time.Second)
	}
}
