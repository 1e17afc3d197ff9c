package api

import (
	"context"
	"fmt"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The clients that the documentation shows give the figures of the route, and say what the server refuses, where their languages are
// installed.
func TestExampleClients(t *testing.T) {
	python, _ := exec.LookPath("python3")
	r, _ := exec.LookPath("Rscript")
	if r != "" && exec.CommandContext(t.Context(), r, "-e", "loadNamespace('curl'); loadNamespace('jsonlite')").Run() != nil {
		r = ""
	}
	clients := [][]string{{python, "../../docs/examples/chart.py"}, {r, "../../docs/examples/chart.R"}}
	clients = slices.DeleteFunc(clients, func(c []string) bool { return c[0] == "" })
	if len(clients) == 0 {
		t.Skip("neither Python nor R with curl and jsonlite is installed")
	}
	s := serve(t, Options{})
	base, json := s.URL+prefix, []string{"Content-Type", "application/json"}
	rows := "id;route;answer\n"
	for i := range 12 {
		rows += fmt.Sprintf("%d;%s;%s\n", i, []string{"North", "South", "South"}[i%3], []string{"late boat", "cold tea"}[i%2])
	}
	_, _, _ = ask(t, "POST", base+"/uploads?name=x.csv", rows, "Content-Type", "text/csv")
	status, body, _ := ask(t, "POST", base+"/studies", `{"upload":"LAST","name":"x","columns":[{"name":"id","role":"identifier"},
		{"name":"route","role":"segment"},{"name":"answer","role":"open-ended"}]}`, json...)
	require.Equal(t, 200, status, body)
	status, body, _ = ask(t, "POST", base+"/questions/1/edits",
		`{"revision":0,"edit":{"kind":"add category","name":"Late","rules":["late"]}}`, json...)
	require.Equal(t, 200, status, body)
	for _, client := range clients {
		run := func(args ...string) (string, error) {
			ctx, stop := context.WithTimeout(t.Context(), time.Minute)
			defer stop()
			out, err := exec.CommandContext(ctx, client[0], append([]string{client[1], s.URL}, args...)...).CombinedOutput()
			return string(out), err
		}
		out, err := run("1", "route")
		require.NoError(t, err, out)
		lines := strings.Split(strings.TrimSpace(out), "\n")
		assert.Equal(t, "category\tAll\tNorth\tSouth", lines[0])
		assert.Equal(t, "Late\t100.0\t100.0\t100.0", lines[1], "of the coded")
		out, err = run("1", "rout")
		assert.Error(t, err)
		assert.Contains(t, out, `"rout"`)
	}
}
