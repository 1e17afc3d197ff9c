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
	"aftermath/internal/store"
)

// onAccounts works on the accounts of what is kept, also while a server runs on it.
func (o *database) onAccounts(ctx context.Context, work func(a *accounts.Accounts) error) error {
	return o.open(ctx, func(s *store.Store) error { return work(accounts.New(s)) })
}

func userCommand() *cobra.Command {
	c := &cobra.Command{Use: "user", Short: "Add accounts, list them, close them, and give them rights and passwords; a server may run meanwhile"}
	yes, no := true, false
	c.AddCommand(
		userAddCommand(), userListCommand(),
		userChangeCommand("close", "Close an account: it is signed out, and comes in no more", false, func(string, bool) accounts.Change {
			return accounts.Change{Closed: &yes}
		}),
		userChangeCommand("open", "Open a closed account again", false, func(string, bool) accounts.Change { return accounts.Change{Closed: &no} }),
		userChangeCommand("admin", "Make somebody an administrator, or with --no no more", true, func(_ string, on bool) accounts.Change {
			return accounts.Change{Admin: &on}
		}),
		userChangeCommand("begins", "Let somebody begin studies of their own, or with --no no more", true, func(_ string, on bool) accounts.Change {
			return accounts.Change{Begins: &on}
		}),
		userChangeCommand(passwordChange, "Give an account another password; it is signed out everywhere, and its tokens end", false,
			func(password string, _ bool) accounts.Change { return accounts.Change{Password: &password} }),
	)
	return c
}

func userAddCommand() *cobra.Command {
	var at database
	var email string
	var admin, begins, without bool
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
				u, err := a.Add(c.Context(), args[0], email, password, admin, begins)
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
	c.Flags().BoolVar(&begins, "begins", false, "may begin studies of their own, though none is shared with them")
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
					if u.Begins {
						state += ", begins studies"
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

// passwordChange is the change that asks for a password.
const passwordChange = "password"

func userChangeCommand(what, short string, mayBeTaken bool, change func(password string, on bool) accounts.Change) *cobra.Command {
	var at database
	var taken bool
	c := &cobra.Command{
		Use: what + " NAME", Short: short, Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			password := ""
			if what == passwordChange {
				var err error
				if password, err = readPassword(c.InOrStdin(), c.ErrOrStderr()); err != nil {
					return err
				}
			}
			return at.onAccounts(c.Context(), func(a *accounts.Accounts) error {
				u, err := a.Called(c.Context(), args[0])
				if errors.Is(err, store.ErrNotFound) {
					return fmt.Errorf("there is no account %q", args[0])
				}
				if err == nil {
					_, err = a.Change(c.Context(), u, change(password, !taken))
				}
				if errors.Is(err, store.ErrLastAdmin) {
					return fmt.Errorf("%q is the last administrator whose account is open; nothing was changed; make somebody else one first "+
						"(aftermath user admin NAME)", u.Name)
				}
				if err == nil {
					a.Log(c.Context(), store.LogEntry{Who: "the command line", Action: c.Short, Detail: u.Name})
				}
				return err
			})
		},
	}
	at.flags(c)
	if mayBeTaken {
		c.Flags().BoolVar(&taken, "no", false, "take the right away")
	}
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
				of, err := a.Open(c.Context(), user)
				if err != nil {
					return fmt.Errorf("there is no open account %q: %w", user, err)
				}
				token, kept, err := a.NewToken(c.Context(), of, name, scope, time.Duration(days)*24*time.Hour)
				if err != nil {
					return err
				}
				a.Log(c.Context(), store.LogEntry{Who: "the command line", Action: "Make a token", Detail: of.Name() + ": " + kept.Name})
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
