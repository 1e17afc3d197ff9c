package main

import (
	"bufio"
	"cmp"
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"aftermath/internal/accounts"
	"aftermath/internal/store"
)

//go:embed service/aftermath.service
var unitText string

// optionsVariable names the variable of the environment with the options that the unit starts the server with.
const optionsVariable = "AFTERMATH_OPTIONS"

// setup is a service that is set up.
type setup struct {
	user, folder, listen, url, cert, key, proxy, admin, root string
	program                                                  string // that the unit starts; this one if empty
	backups                                                  bool
	onlyFiles                                                bool // for a package: the user and the folder are made where it is installed
	ask                                                      func(what, otherwise string) (string, error)
}

func initCommand() *cobra.Command {
	var s setup
	var service, quiet bool
	c := &cobra.Command{
		Use: "init --service", Short: "Set up the server as a service of this machine: its user, folder, unit, options and first administrator",
		Long: `Set up the server as a service of this machine. What is not given by a flag is asked for; with --yes, or where nobody can be asked,
the defaults hold. Run again, it changes the options and leaves data and accounts as they are.`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if !service {
				return errors.New("give --service: nothing else can be set up")
			}
			s.ask = asking(c.InOrStdin(), c.ErrOrStderr(), quiet)
			return s.run(c)
		},
	}
	f := c.Flags()
	f.BoolVar(&service, "service", false, "as a service of systemd")
	f.StringVar(&s.user, "user", "", "user that it runs as; made where there is none (default: aftermath)")
	f.StringVar(&s.folder, "folder", "", "folder of its data and back-ups (default: /var/lib/aftermath)")
	f.StringVar(&s.listen, "listen", "", "address that it serves on (default: 127.0.0.1:8420; with a certificate :443)")
	f.StringVar(&s.url, "url", "", "address that people reach it by, as https://research.example")
	f.StringVar(&s.cert, "tls-cert", "", "file of the TLS certificate")
	f.StringVar(&s.key, "tls-key", "", "file of its key; the user must be able to read it")
	f.StringVar(&s.proxy, "trusted-proxy", "", "address of a proxy before the server, which speaks TLS with browsers")
	f.StringVar(&s.admin, "admin", "", "name of the first administrator; the password is asked for, or read from the first line of what is piped in")
	f.BoolVar(&s.backups, "backups", true, "make back-ups every day, in the folder")
	f.BoolVar(&quiet, "yes", false, "ask nothing: what no flag says has its default")
	f.StringVar(&s.program, "program", "", "program that the unit starts (default: this one)")
	f.BoolVar(&s.onlyFiles, "only-files", false, "write the unit and /etc/aftermath alone, as for a package")
	f.StringVar(&s.root, "root", "/", "folder to write /etc and the folder of the data below, as for an image of a machine")
	return c
}

// asking gives a way to ask for what no flag says, where somebody sits.
func asking(from io.Reader, to io.Writer, quiet bool) func(what, otherwise string) (string, error) {
	f, is := from.(*os.File)
	if quiet || !is || !term.IsTerminal(int(f.Fd())) {
		return func(_, otherwise string) (string, error) { return otherwise, nil }
	}
	lines := bufio.NewReader(from)
	return func(what, otherwise string) (string, error) {
		fmt.Fprintf(to, "%s [%s]: ", what, otherwise)
		line, err := lines.ReadString('\n')
		if errors.Is(err, io.EOF) {
			err = nil
		}
		return cmp.Or(strings.TrimSpace(line), otherwise), err
	}
}

// complete asks for what no flag has said.
func (s *setup) complete() (err error) {
	for _, of := range []struct {
		to              *string
		what, otherwise string
	}{
		{&s.user, "User that the server runs as", "aftermath"},
		{&s.folder, "Folder of its data", "/var/lib/aftermath"},
		{&s.cert, "File of a TLS certificate; none for this machine alone, or a proxy", ""},
	} {
		if *of.to == "" {
			if *of.to, err = s.ask(of.what, of.otherwise); err != nil {
				return err
			}
		}
	}
	if s.cert != "" && s.key == "" {
		if s.key, err = s.ask("File of its key", ""); err != nil {
			return err
		}
	}
	if s.listen == "" {
		otherwise := "127.0.0.1:8420"
		if s.cert != "" {
			otherwise = ":443"
		}
		if s.listen, err = s.ask("Address to serve on", otherwise); err != nil {
			return err
		}
	}
	if s.admin == "" {
		s.admin, err = s.ask("Name of the first administrator; none to add one later", "")
	}
	return err
}

// options are those that the server is started with.
func (s *setup) options() (string, error) {
	words := []string{"--listen", s.listen, "--log", "json"}
	for _, of := range [][2]string{{"--url", s.url}, {"--tls-cert", s.cert}, {"--tls-key", s.key}, {"--trusted-proxy", s.proxy}} {
		if of[1] != "" {
			words = append(words, of[:]...)
		}
	}
	if s.backups {
		words = append(words, "--backup-dir", filepath.Join(s.folder, "backups"))
	}
	for _, w := range append(words, s.user, s.folder) {
		if w == "" || strings.ContainsAny(w, " \t\n\"'$\\%") {
			return "", fmt.Errorf("%q can't stand in a unit: it has blanks or signs that mean something there", w)
		}
	}
	o := serveOptions{}
	check := &cobra.Command{}
	o.flags(check)
	if err := check.ParseFlags(words); err != nil {
		return "", err
	}
	o.backups.dir = "" // it is made with the folder
	return strings.Join(words, " "), o.check()
}

func (s *setup) run(c *cobra.Command) error {
	if os.Geteuid() != 0 && !s.onlyFiles {
		return errors.New("a service is set up by root; run: sudo aftermath init --service")
	}
	if err := s.complete(); err != nil {
		return err
	}
	options, err := s.options()
	if err != nil {
		return err
	}
	is := installed{User: s.user, Data: filepath.Join(s.folder, "postgres"), Listen: s.listen, Environment: "/etc/aftermath/aftermath.env"}
	if s.onlyFiles {
		return s.write(is, options, os.Getegid(), func(string, ...any) {})
	}
	password := ""
	if s.admin != "" {
		if password, err = readPassword(c.InOrStdin(), c.ErrOrStderr()); err != nil {
			return err
		}
	}
	say := func(what string, args ...any) { fmt.Fprintf(c.OutOrStdout(), what+"\n", args...) }
	owner, err := s.owner(c.Context(), say)
	if err != nil {
		return err
	}
	uid, _ := strconv.Atoi(owner.Uid)
	gid, _ := strconv.Atoi(owner.Gid)
	for _, dir := range []string{s.folder, is.Data, filepath.Join(s.folder, "backups")} {
		if err := makeFor(filepath.Join(s.root, dir), uid, gid); err != nil {
			return err
		}
	}
	say("%s is %s's, who alone can read it", s.folder, s.user)
	if err := s.write(is, options, gid, say); err != nil {
		return err
	}
	if s.admin != "" {
		at := database{data: filepath.Join(s.root, is.Data)}
		if at.url, err = variableIn(filepath.Join(s.root, is.Environment), databaseVariable); err != nil {
			return err
		}
		if err := s.addAdmin(c.Context(), at, password, say); err != nil {
			return err
		}
	}
	say("start it, now and whenever the machine starts:  systemctl daemon-reload && systemctl enable --now aftermath")
	say("then look whether all is well:  aftermath doctor")
	return nil
}

// owner is the user that the service runs as; it is made where there is none.
func (s *setup) owner(ctx context.Context, say func(string, ...any)) (*user.User, error) {
	if of, err := user.Lookup(s.user); err == nil {
		return of, nil
	}
	made := exec.CommandContext(ctx, "useradd", "--system", "--user-group", "--no-create-home", "--home-dir", s.folder, "--shell", "/usr/sbin/nologin", s.user)
	if out, err := made.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("the user %s can't be made: %w %s", s.user, err, out)
	}
	say("made the user %s", s.user)
	return user.Lookup(s.user)
}

// makeFor makes a folder that is somebody's alone. One that is there keeps whose it is, unless it is root's.
func makeFor(dir string, uid, gid int) error {
	if err := os.MkdirAll(filepath.Dir(dir), 0o755); err != nil {
		return err
	}
	if err := os.Mkdir(dir, 0o700); errors.Is(err, os.ErrExist) {
		entries, err := os.ReadDir(dir)
		if err != nil || len(entries) > 0 {
			return err
		}
	} else if err != nil {
		return err
	}
	return os.Chown(dir, uid, gid)
}

// write writes the unit, the options and where the service is. Options that are there stay beside the new ones, as comments.
func (s *setup) write(is installed, options string, gid int, say func(string, ...any)) error {
	program := s.program
	if program == "" {
		var err error
		if program, err = os.Executable(); err != nil {
			return err
		}
	}
	unit := strings.NewReplacer(
		"{{USER}}", s.user, "{{ENVIRONMENT}}", is.Environment, "{{PROGRAM}}", program, "{{DATA}}", is.Data, "{{FOLDER}}", s.folder,
	).Replace(unitText)
	described, err := json.MarshalIndent(is, "", "  ")
	if err != nil {
		return err
	}
	environment, err := s.environment(filepath.Join(s.root, is.Environment), options)
	if err != nil {
		return err
	}
	unitFile := "/etc/systemd/system/aftermath.service"
	if packaged, err := os.Stat(filepath.Join(s.root, "/lib/systemd/system/aftermath.service")); err == nil && !packaged.IsDir() && s.user == "aftermath" &&
		s.folder == "/var/lib/aftermath" {
		unitFile = "" // the package's says the same
	}
	for _, f := range []struct {
		path, text string
		mode       os.FileMode
	}{
		{unitFile, unit, 0o644},
		{is.Environment, environment, 0o640}, // it may hold the secret of a provider of sign-ins
		{"/etc/aftermath/service.json", string(described) + "\n", 0o644},
	} {
		if f.path == "" {
			continue
		}
		path := filepath.Join(s.root, f.path)
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			return err
		}
		if err := writeFor(f.mode, path, func(w io.Writer) error { _, err := io.WriteString(w, f.text); return err }); err != nil {
			return err
		}
		if f.mode == 0o640 {
			if err := os.Chown(path, os.Geteuid(), gid); err != nil {
				return err
			}
		}
		say("wrote %s", f.path)
	}
	return nil
}

// environment is the file of the service's environment with new options: what else stands in it stays.
func (s *setup) environment(path, options string) (string, error) {
	before, err := os.ReadFile(path)
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return "", err
	}
	var lines []string
	if len(before) == 0 {
		lines = []string{
			"# Options of the service; aftermath serve --help lists them all. Then: systemctl restart aftermath",
			"# Secret of an OpenID Connect provider, if there is one: AFTERMATH_OIDC_SECRET=...",
			"# A PostgreSQL of your own in the place of the private one: AFTERMATH_DATABASE=postgres://...",
		}
	} else {
		for _, line := range strings.Split(strings.TrimRight(string(before), "\n"), "\n") {
			if strings.HasPrefix(line, optionsVariable+"=") {
				line = "# before: " + line
			}
			lines = append(lines, line)
		}
	}
	return strings.Join(append(lines, optionsVariable+"="+options), "\n") + "\n", nil
}

// addAdmin adds the first administrator, where there is no account yet.
func (s *setup) addAdmin(ctx context.Context, at database, password string, say func(string, ...any)) error {
	return at.open(ctx, func(st *store.Store) error {
		n, _, err := st.CountUsers(ctx)
		if err != nil {
			return err
		}
		if n > 0 {
			say("there are accounts already; none was added")
			return nil
		}
		a := accounts.New(st)
		u, err := a.Add(ctx, s.admin, "", password, true, true)
		if err != nil {
			return err
		}
		a.Log(ctx, store.LogEntry{Who: "the command line", Action: "Add an account", Detail: u.Name})
		say("added the administrator %q", u.Name)
		return nil
	})
}
