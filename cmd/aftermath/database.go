package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"os"
	"os/user"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/internal/pg"
	"aftermath/internal/store"
)

// database is where studies are kept: in a PostgreSQL of somebody's, or in a private one in a folder.
type database struct{ url, data string }

// databaseVariable names the variable of the environment that says which PostgreSQL is used, where no flag does: it may hold a password.
const databaseVariable = "AFTERMATH_DATABASE"

func (o *database) flags(c *cobra.Command) {
	c.Flags().StringVar(&o.url, "database", "", "URL of a PostgreSQL server to use instead of a private one (or in "+databaseVariable+")")
	c.Flags().StringVar(
		&o.data, "data", "", "folder of the private PostgreSQL (default: that of the service, where one is set up; else in the user's data directory; for root /var/lib/aftermath)",
	)
}

// installed is what the service of this machine is, as init has set it up. Commands that an administrator runs find it by this.
type installed struct {
	User        string `json:"user"`
	Data        string `json:"data"`        // folder of its private PostgreSQL
	Listen      string `json:"listen"`      // address that it serves on
	Environment string `json:"environment"` // file of its environment
}

// installedFile says where the service is; for tests the environment may say another place.
func installedFile() string {
	return cmp.Or(os.Getenv("AFTERMATH_SERVICE"), "/etc/aftermath/service.json")
}

// theService is the service of this machine, for root and for who runs it; false where there is none, or it is somebody else's.
func theService() (installed, bool, error) {
	data, err := os.ReadFile(installedFile())
	if errors.Is(err, os.ErrNotExist) {
		return installed{}, false, nil
	}
	if err != nil {
		return installed{}, false, err
	}
	var s installed
	if err := json.Unmarshal(data, &s); err != nil {
		return s, false, fmt.Errorf("%s can't be read: %w", installedFile(), err)
	}
	me, err := user.Current()
	return s, err == nil && (os.Geteuid() == 0 || me.Username == s.User), nil
}

// resolve finds out which database is meant: as flags say, else as the environment does, else that of the service.
func (o *database) resolve() error {
	if o.url == "" && o.data == "" {
		o.url = os.Getenv(databaseVariable)
	}
	if o.url != "" {
		return nil
	}
	if o.data == "" {
		s, ours, err := theService()
		if err != nil {
			return err
		}
		if ours {
			if o.url, err = variableIn(s.Environment, databaseVariable); o.url != "" || err != nil {
				return err
			}
			o.data = s.Data
			return nil
		}
	}
	dir, err := dataFolder(o.data)
	o.data = dir
	return err
}

// variableIn is what a file of the environment, as systemd reads it, sets a variable to; empty where it does not.
func variableIn(path, name string) (string, error) {
	f, err := os.Open(path)
	if path == "" || errors.Is(err, os.ErrNotExist) {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	defer f.Close()
	value := ""
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		if of, set, ok := strings.Cut(strings.TrimSpace(lines.Text()), "="); ok && of == name {
			value = strings.Trim(set, `"'`)
		}
	}
	return value, lines.Err()
}

// where says which database it is, for people: without its password.
func (o *database) where() string {
	if o.url == "" {
		return o.data
	}
	if u, err := url.Parse(o.url); err == nil {
		return u.Redacted()
	}
	return "the database that was given"
}

// open works on the store of what is kept, also while a server runs on it.
func (o *database) open(ctx context.Context, work func(s *store.Store) error) (err error) {
	if err := o.resolve(); err != nil {
		return err
	}
	at := o.url
	if at == "" {
		private, err := pg.Join(ctx, o.data)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, private.Stop(context.WithoutCancel(ctx))) }()
		at = private.URL
	}
	s, err := store.OpenWithin(ctx, at, toolConnections)
	if err != nil {
		return err
	}
	defer s.Close()
	return work(s)
}

// toolConnections is how many connections a command takes at most beside the server.
const toolConnections = 4
