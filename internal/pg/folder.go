package pg

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"aftermath/internal/folder"
)

// ErrInUse says that another program of ours runs on the folder.
var ErrInUse = errors.New("this folder is in use")

// hold takes the folder for this process.
func (s *Server) hold() (err error) {
	if s.lock, err = folder.Hold(s.dir); errors.Is(err, folder.ErrHeld) {
		return fmt.Errorf(
			"%w: the data in %s belongs to an Aftermath that runs already (%w); stop that one first, or give another --data folder",
			ErrInUse, s.dir, err,
		)
	}
	return err
}

// findBin finds the server's programs: those of the version that made the data, where there is data, else the newest.
func (s *Server) findBin() (string, error) {
	var found []string
	if path, err := exec.LookPath("postgres"); err == nil {
		if real, err := filepath.EvalSymlinks(path); err == nil {
			if _, err := os.Stat(filepath.Join(filepath.Dir(real), "initdb")); err == nil {
				found = append(found, filepath.Dir(real))
			}
		}
	}
	installed, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	number := func(bin string) int {
		n, _ := strconv.Atoi(filepath.Base(filepath.Dir(bin)))
		return n
	}
	for i := range installed {
		installed[i] = filepath.Dir(installed[i])
	}
	slices.SortFunc(installed, func(a, b string) int { return number(b) - number(a) })
	if found = append(found, installed...); len(found) == 0 {
		return "", ErrNotInstalled
	}
	made, err := os.ReadFile(filepath.Join(s.data(), "PG_VERSION"))
	if err != nil { // no data yet
		return found[0], nil
	}
	version := strings.TrimSpace(string(made))
	for _, bin := range found {
		if versionOf(bin) == version {
			return bin, nil
		}
	}
	return "", fmt.Errorf(
		"the data in %s was made by PostgreSQL %s, and only version %s is installed, which can't read it; nothing was changed. "+
			"Install the old one beside it (apt-get install postgresql-%s), or start with another --data folder and restore a back-up there",
		s.dir, version, versionOf(found[0]), version,
	)
}

// versionOf is the major version of the server's programs in a folder, by the server's own word.
func versionOf(bin string) string {
	said, err := exec.Command(filepath.Join(bin, "postgres"), "--version").Output() // postgres (PostgreSQL) 15.14 (Debian …)
	if err != nil {
		return "unknown"
	}
	for _, word := range strings.Fields(string(said)) {
		if major, _, _ := strings.Cut(word, "."); major != "" && strings.Trim(major, "0123456789") == "" {
			return major
		}
	}
	return "unknown"
}

// Installed says which version of PostgreSQL would run on a folder.
func Installed(dir string) (string, error) {
	s := &Server{dir: dir}
	bin, err := s.findBin()
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("version %s in %s", versionOf(bin), bin), nil
}
