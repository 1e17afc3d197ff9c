package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/pg/pgtest"
)

// asRoot skips a test of what only root can do.
func asRoot(t *testing.T, programs ...string) {
	if os.Geteuid() != 0 {
		t.Skip("only root sets up a service")
	}
	for _, p := range programs {
		if _, err := exec.LookPath(p); err != nil {
			t.Skip(p + " is not on this machine")
		}
	}
}

// attempt runs a command with something piped in, and gives what it printed and whether it failed.
func attempt(t *testing.T, c *cobra.Command, piped string, args ...string) (string, error) {
	var out strings.Builder
	c.SetArgs(args)
	c.SetIn(strings.NewReader(piped))
	c.SetOut(&out)
	c.SetErr(io.Discard)
	err := c.ExecuteContext(t.Context())
	return out.String(), err
}

// lowPort is a port below 1024 that nobody uses.
func lowPort(t *testing.T) string {
	for port := 1023; port > 600; port-- {
		if l, err := net.Listen("tcp", "127.0.0.1:"+strconv.Itoa(port)); err == nil {
			require.NoError(t, l.Close())
			return "127.0.0.1:" + strconv.Itoa(port)
		}
	}
	t.Skip("no port below 1024 is free")
	return ""
}

// unit is a unit as systemd reads it: what is started, as whom, in which environment.
type unit map[string]string

func readUnit(t *testing.T, path string) unit {
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	out := unit{}
	for lines := bufio.NewScanner(f); lines.Scan(); {
		if key, value, ok := strings.Cut(lines.Text(), "="); ok {
			out[key] = value
		}
	}
	return out
}

// start starts what the unit starts, by its user, with its capability and nothing else, in its environment.
func (u unit) start(t *testing.T) *exec.Cmd {
	options, err := variableIn(strings.TrimPrefix(u["EnvironmentFile"], "-"), optionsVariable)
	require.NoError(t, err)
	args := []string{"--reuid", u["User"], "--regid", u["User"], "--clear-groups", "--no-new-privs", "--bounding-set", "-all,+net_bind_service",
		"--inh-caps", "+net_bind_service", "--ambient-caps", "+net_bind_service"}
	require.Equal(t, "CAP_NET_BIND_SERVICE", u["AmbientCapabilities"])
	for _, word := range strings.Fields(u["ExecStart"]) {
		if word == "$"+optionsVariable {
			args = append(args, strings.Fields(options)...)
			continue
		}
		args = append(args, word)
	}
	cmd := exec.Command("setpriv", args...)
	cmd.Env = []string{"PATH=/usr/bin:/bin"}
	cmd.Dir = "/"
	log, err := os.Create(filepath.Join(t.TempDir(), "log"))
	require.NoError(t, err)
	cmd.Stdout, cmd.Stderr = log, log
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		_ = cmd.Process.Signal(syscall.SIGTERM)
		_ = cmd.Wait()
		if t.Failed() {
			data, _ := os.ReadFile(log.Name())
			t.Log(string(data))
		}
	})
	return cmd
}

// The path of an administrator, line by line: a service is set up, runs as its user on a port below 1024, and all that root does beside it
// finds it, speaks to what runs, and leaves every file whose it is.
func TestAnAdministratorsPath(t *testing.T) {
	asRoot(t, "setpriv")
	bin := build(t)
	top, err := pgtest.Dir()
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(top) })
	listen := lowPort(t)
	folder := "/srv/aftermath"
	set := func(args ...string) (string, error) {
		args = append([]string{"--service", "--yes", "--root", top, "--program", bin, "--user", "daemon", "--folder", folder, "--listen", listen}, args...)
		return attempt(t, initCommand(), "correct horse battery\n", args...)
	}
	_, err = set("--url", "not an address with blanks")
	require.ErrorContains(t, err, "can't stand in a unit")
	_, err = set("--tls-cert", "/x")
	require.ErrorContains(t, err, "go together")
	said, err := set("--admin", "Ada Lark")
	require.NoError(t, err)
	for _, line := range []string{"wrote /etc/systemd/system/aftermath.service", "wrote /etc/aftermath/aftermath.env", `added the administrator "Ada Lark"`,
		"systemctl enable --now aftermath", "aftermath doctor"} {
		assert.Contains(t, said, line)
	}
	// What was set up below another root is run from there.
	etc := filepath.Join(top, "etc/aftermath")
	unitFile := filepath.Join(top, "etc/systemd/system/aftermath.service")
	for _, path := range []string{unitFile, filepath.Join(etc, "service.json"), filepath.Join(etc, "aftermath.env")} {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		moved := strings.NewReplacer("/etc/aftermath/", etc+"/", folder, top+folder).Replace(string(text))
		require.NoError(t, os.WriteFile(path, []byte(moved), 0o644))
	}
	if _, err := exec.LookPath("systemd-analyze"); err == nil {
		out, err := exec.CommandContext(t.Context(), "systemd-analyze", "verify", "--man=no", unitFile).CombinedOutput()
		assert.NoError(t, err, string(out))
		assert.NotContains(t, string(out), "aftermath.service:", "nothing is said of it")
	}
	t.Setenv("AFTERMATH_SERVICE", filepath.Join(etc, "service.json"))

	doctor := func() (string, error) { return attempt(t, doctorCommand(), "") }
	said, err = doctor()
	require.Error(t, err, "the service does not run")
	assert.Contains(t, said, "nobody answers at "+listen)
	u := readUnit(t, unitFile)
	server := u.start(t)
	base := "http://" + listen
	ready := func() {
		require.Eventually(t, func() bool {
			reply, err := http.Get(base + "/readyz")
			if err != nil {
				return false
			}
			reply.Body.Close()
			return reply.StatusCode == 200
		}, 2*time.Minute, 100*time.Millisecond)
	}
	ready()
	said, err = doctor()
	// The first back-up is only being made, or is made already.
	said = strings.ReplaceAll(said, "BAD  back-ups", "")
	assert.NotContains(t, said, "BAD", "%v", err)
	assert.Contains(t, said, "Aftermath answers at "+listen)
	assert.Contains(t, said, top+folder+"/postgres")

	// Everything else that root does finds the service, and leaves its files alone.
	said, err = attempt(t, userCommand(), "", "list")
	require.NoError(t, err)
	assert.Contains(t, said, "Ada Lark\topen, admin")
	_, err = attempt(t, userCommand(), "another dozen letters\n", "add", "Ben Moor", "--begins")
	require.NoError(t, err)
	for _, args := range [][]string{{"close", "Ada Lark"}, {"admin", "Ada Lark", "--no"}} {
		_, err = attempt(t, userCommand(), "", args...)
		require.ErrorContains(t, err, "is the last administrator")
	}
	_, err = attempt(t, userCommand(), "", "admin", "Ben Moor")
	require.NoError(t, err)
	_, err = attempt(t, userCommand(), "", "admin", "Ada Lark", "--no")
	require.NoError(t, err)
	out := filepath.Join(t.TempDir(), "all"+backupEnding)
	_, err = attempt(t, backupCommand(), "", "--out", out)
	require.ErrorContains(t, err, "there are no studies in "+top+folder)
	require.NoFileExists(t, out)
	token, err := attempt(t, tokenCommand(), "", "--user", "Ben Moor", "--name", "setting up", "--scope", "write")
	require.NoError(t, err)
	asked := func(method, path string) *http.Response {
		r, err := http.NewRequestWithContext(t.Context(), method, base+"/api/v1"+path, nil)
		require.NoError(t, err)
		r.Header.Set("Authorization", "Bearer "+strings.TrimSpace(token))
		reply, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		reply.Body.Close()
		return reply
	}
	require.Equal(t, 200, asked("POST", "/studies/demo").StatusCode)
	said, err = attempt(t, backupCommand(), "", "--out", out)
	require.NoError(t, err)
	assert.Contains(t, said, "backed up 1 study of "+top+folder)
	people := filepath.Join(t.TempDir(), "people"+backupEnding)
	_, err = attempt(t, backupCommand(), "", "--accounts", "--out", people)
	require.NoError(t, err)
	_, err = attempt(t, restoreCommand(), "", people)
	require.ErrorContains(t, err, "there are accounts here already")
	_, err = attempt(t, userCommand(), "", "close", "Ben Moor")
	require.ErrorContains(t, err, "is the last administrator")

	owned := func() {
		found, err := exec.CommandContext(t.Context(), "find", top+folder, "!", "-user", "daemon", "-printf", "%p is %u's\n").CombinedOutput()
		require.NoError(t, err)
		require.Empty(t, string(found), "every file is the service's")
	}
	owned()
	// Also while it does not run; and it starts again, set up anew, with what is there.
	require.NoError(t, server.Process.Signal(syscall.SIGTERM))
	require.NoError(t, server.Wait())
	log, err := os.ReadFile(server.Stderr.(*os.File).Name())
	require.NoError(t, err)
	for line := range bytes.Lines(log) {
		assert.True(t, json.Valid(line), string(line))
	}
	said, err = attempt(t, userCommand(), "", "list")
	require.NoError(t, err)
	assert.Contains(t, said, "Ben Moor\topen, admin")
	_, err = doctor()
	require.Error(t, err)
	owned()
	u.start(t)
	ready()
	assert.Equal(t, 200, asked("GET", "/studies").StatusCode)

	// A fresh machine gets its accounts back where it has none, with what is shared of the studies that came first.
	fresh := filepath.Join(top, "fresh")
	_, err = attempt(t, restoreCommand(), "", "--data", fresh, out)
	require.NoError(t, err)
	said, err = attempt(t, restoreCommand(), "", "--data", fresh, people)
	require.NoError(t, err)
	assert.Contains(t, said, "restored 2 accounts")
	assert.NotContains(t, said, "not shared")
	said, err = attempt(t, userCommand(), "", "list", "--data", fresh)
	require.NoError(t, err)
	assert.Equal(t, "Ada Lark\topen, begins studies\t\nBen Moor\topen, admin, begins studies\t\n", said)
}

// The package is installed without a machine of its own: its user and folder are made, an upgrade keeps data and options, and removing it
// keeps data. Its manual page names every command.
func TestThePackage(t *testing.T) {
	asRoot(t, "dpkg-deb", "useradd")
	bin := build(t)
	manual, err := os.ReadFile("../../scripts/debian/aftermath.1")
	require.NoError(t, err)
	root := &cobra.Command{}
	addCommands(root)
	for _, c := range root.Commands() {
		assert.Contains(t, string(manual), c.Name())
	}
	top := t.TempDir()
	require.NoError(t, os.Chmod(top, 0o755))
	make := func(version string) string {
		cmd := exec.CommandContext(t.Context(), "../../scripts/package", bin, top)
		cmd.Env = append(os.Environ(), "VERSION="+version, "COMPRESSION=-Znone")
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
		all, _ := filepath.Glob(filepath.Join(top, "aftermath_"+version+"_*.deb"))
		require.Len(t, all, 1)
		return all[0]
	}
	machine := filepath.Join(top, "machine")
	for _, dir := range []string{"var/lib/dpkg/info", "var/lib/dpkg/updates", "etc"} {
		require.NoError(t, os.MkdirAll(filepath.Join(machine, dir), 0o755))
	}
	for name, text := range map[string]string{"var/lib/dpkg/status": "", "etc/passwd": "root:x:0:0::/root:/bin/sh\n", "etc/group": "root:x:0:\n", "etc/shadow": "",
		"etc/gshadow": "", "etc/login.defs": "SYS_UID_MAX 999\n"} {
		file(t, machine, name, text)
	}
	dpkg := func(args ...string) {
		args = append([]string{"--root=" + machine, "--force-script-chrootless", "--force-depends", "--force-confold"}, args...)
		out, err := exec.CommandContext(t.Context(), "dpkg", args...).CombinedOutput()
		require.NoError(t, err, string(out))
	}
	dpkg("-i", make("0.1"))
	passwd, err := os.ReadFile(filepath.Join(machine, "etc/passwd"))
	require.NoError(t, err)
	assert.Contains(t, string(passwd), "aftermath:x:")
	info, err := os.Stat(filepath.Join(machine, "var/lib/aftermath/postgres"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o700), info.Mode().Perm())
	of := info.Sys().(*syscall.Stat_t)
	assert.Contains(t, string(passwd), fmt.Sprintf("aftermath:x:%d:%d:", of.Uid, of.Gid))
	assert.Contains(t, readUnit(t, filepath.Join(machine, "lib/systemd/system/aftermath.service"))["ExecStart"], "/usr/bin/aftermath serve")

	const options = "AFTERMATH_OPTIONS=--listen :443\n"
	file(t, machine, "etc/aftermath/aftermath.env", options)
	file(t, machine, "var/lib/aftermath/postgres/a-study", "kept")
	dpkg("-i", make("0.2"))
	kept, err := os.ReadFile(filepath.Join(machine, "etc/aftermath/aftermath.env"))
	require.NoError(t, err)
	assert.Equal(t, options, string(kept))
	dpkg("-r", "aftermath")
	assert.NoFileExists(t, filepath.Join(machine, "usr/bin/aftermath"))
	assert.FileExists(t, filepath.Join(machine, "etc/aftermath/aftermath.env"))
	dpkg("-P", "aftermath")
	assert.NoDirExists(t, filepath.Join(machine, "etc/aftermath"))
	assert.FileExists(t, filepath.Join(machine, "var/lib/aftermath/postgres/a-study"), "data are an administrator's to delete")
}
