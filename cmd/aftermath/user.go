package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"aftermath/internal/accounts"
	"aftermath/internal/pg"
	"aftermath/internal/store"
)

// onAccounts works on the accounts of what is kept, also while a server runs on it.
func (o *database) onAccounts(ctx context.Context, work func(a *accounts.Accounts) error) error {
	return o.open(ctx, func(s *store.Store) error { return work(accounts.New(s)) })
}

func userCommand() *cobra.Command {
	c := &cobra.Command{Use: "user", Short: "Add accounts, list them, close them, and give them passwords; a server may run meanwhile"}
	c.AddCommand(userAddCommand(), userListCommand(), userChangeCommand("close", "Close an account: it is signed out, and comes in no more"),
		userChangeCommand("open", "Open a closed account again"), userChangeCommand("password", "Give an account another password; it is signed out everywhere"))
	return c
}

func userAddCommand() *cobra.Command {
	var at database
	var email string
	var admin, without bool
	c := &cobra.Command{
		Use: "add NAME", Short: "Add an account; its password is asked for, or read from the first line of what is piped in", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			password := ""
			if !without {
				var err error
				if password, err = readPassword(c.InOrStdin(), c.ErrOrStderr()); err != nil {
					return err
				}
			}
			return at.onAccounts(c.Context(), func(a *accounts.Accounts) error {
				on, err := a.On(c.Context())
				if err != nil {
					return err
				}
				if !on && !admin {
					return errors.New("the first account must be an admin's, who can add others and share studies: give --admin")
				}
				u, err := a.Add(c.Context(), args[0], email, password, admin)
				if err != nil {
					return err
				}
				a.Log(c.Context(), store.LogEntry{Who: "the command line", Action: "Add an account", Detail: u.Name})
				fmt.Fprintf(c.OutOrStdout(), "added %q\n", u.Name)
				return nil
			})
		},
	}
	at.flags(c)
	c.Flags().StringVar(&email, "email", "", "address by which another provider (OpenID Connect) vouches for them")
	c.Flags().BoolVar(&admin, "admin", false, "may add and close accounts, read the log, and sees every study")
	c.Flags().BoolVar(&without, "no-password", false, "they sign in by another provider only")
	return c
}

func userListCommand() *cobra.Command {
	var at database
	c := &cobra.Command{
		Use: "list", Short: "List all accounts", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return at.onAccounts(c.Context(), func(a *accounts.Accounts) error {
				all, err := a.Users(c.Context())
				for _, u := range all {
					state := "open"
					if u.Disabled != nil {
						state = "closed"
					}
					if u.Admin {
						state += ", admin"
					}
					fmt.Fprintf(c.OutOrStdout(), "%s\t%s\t%s\n", u.Name, state, u.Email)
				}
				return err
			})
		},
	}
	at.flags(c)
	return c
}

func userChangeCommand(what, short string) *cobra.Command {
	var at database
	c := &cobra.Command{
		Use: what + " NAME", Short: short, Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return at.onAccounts(c.Context(), func(a *accounts.Accounts) error {
				u, err := a.Called(c.Context(), args[0])
				if errors.Is(err, store.ErrNotFound) {
					return fmt.Errorf("there is no account %q", args[0])
				}
				if err != nil {
					return err
				}
				if what != "password" {
					err = a.Close(c.Context(), u, what == "close")
				} else {
					var password string
					if password, err = readPassword(c.InOrStdin(), c.ErrOrStderr()); err == nil {
						err = a.SetPassword(c.Context(), u, password)
					}
				}
				if err == nil {
					a.Log(c.Context(), store.LogEntry{Who: "the command line", Action: c.Short, Detail: u.Name})
				}
				return err
			})
		},
	}
	at.flags(c)
	return c
}

// readPassword asks for a password where somebody sits, and reads a line where something is piped in.
func readPassword(from io.Reader, ask io.Writer) (string, error) {
	if f, is := from.(*os.File); is && term.IsTerminal(int(f.Fd())) {
		fmt.Fprintf(ask, "Password, at least %d characters: ", accounts.ShortestPassword)
		data, err := term.ReadPassword(int(f.Fd()))
		fmt.Fprintln(ask)
		return string(data), err
	}
	line, err := bufio.NewReader(io.LimitReader(from, 1<<16)).ReadString('\n')
	if errors.Is(err, io.EOF) {
		err = nil
	}
	return strings.TrimRight(line, "\r\n"), err
}

func tokenCommand() *cobra.Command {
	var at database
	var user, name, scope string
	var days int
	c := &cobra.Command{
		Use: "token", Short: "Make a token, by which a program does something in a user's name; it is printed once", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return at.onAccounts(c.Context(), func(a *accounts.Accounts) error {
				u, err := a.Called(c.Context(), user)
				if err != nil {
					return fmt.Errorf("account %q: %w", user, err)
				}
				token, kept, err := a.NewToken(c.Context(), u, name, scope, time.Duration(days)*24*time.Hour)
				if err != nil {
					return err
				}
				a.Log(c.Context(), store.LogEntry{Who: "the command line", Action: "Make a token", Detail: u.Name + ": " + kept.Name})
				fmt.Fprintln(c.OutOrStdout(), token)
				return nil
			})
		},
	}
	at.flags(c)
	c.Flags().StringVar(&user, "user", "", "name of the account")
	c.Flags().StringVar(&name, "name", "", "what it is for")
	c.Flags().StringVar(&scope, "scope", accounts.ScopeRead, "read or write")
	c.Flags().IntVar(&days, "days", 90, "how long it lasts, up to 366")
	_ = c.MarkFlagRequired("user")
	_ = c.MarkFlagRequired("name")
	return c
}

// open works on the store of what is kept, also while a server runs on it.
func (o *database) open(ctx context.Context, work func(s *store.Store) error) (err error) {
	if o.url == "" {
		dir, err := dataFolder(o.data)
		if err != nil {
			return err
		}
		private, err := pg.Join(ctx, dir)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, private.Stop(context.WithoutCancel(ctx))) }()
		o.url = private.URL
	}
	s, err := store.Open(ctx, o.url)
	if err != nil {
		return err
	}
	defer s.Close()
	return work(s)
}
