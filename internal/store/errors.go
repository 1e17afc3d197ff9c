package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Errors that callers branch on.
var (
	ErrTaken    = errors.New("the name is taken")
	ErrNotFound = errors.New("not found")
	ErrConflict = errors.New("another window has changed this in the meantime")
	ErrNotNext  = errors.New("this is not the edit that comes next")
	// ErrUncertain says that nobody knows whether a transaction was carried out: the database went away while it was being
	// ended. Any other error means that it was not.
	ErrUncertain = errors.New("whether it was kept is not known")
)

// Away says whether an error means that the database can't be reached, or went away on the way.
func Away(err error) bool {
	var refused *pgconn.ConnectError
	var said *pgconn.PgError
	var network *net.OpError // not net.Error, which every error of a full disk is too
	switch {
	case errors.Is(err, ErrHung):
		return true
	case err == nil, errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return false
	case errors.As(err, &said): // 08: connection; 57P: it was shut down or is starting
		return strings.HasPrefix(said.Code, "08") || strings.HasPrefix(said.Code, "57P") || said.Code == "53300"
	}
	return errors.As(err, &refused) || errors.Is(err, driver.ErrBadConn) || errors.As(err, &network) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, net.ErrClosed) ||
		strings.Contains(err.Error(), "conn closed")
}

// Full says whether an error means that the disk of the database is full.
func Full(err error) bool {
	var said *pgconn.PgError
	return errors.Is(err, ErrFull) || errors.As(err, &said) && said.Code == "53100"
}

// ReadOnly says whether an error means that the database takes no writes.
func ReadOnly(err error) bool {
	var said *pgconn.PgError
	return errors.As(err, &said) && said.Code == "25006"
}

// Unstorable says whether an error means that a text holds what no database stores: a null character.
func Unstorable(err error) bool {
	var said *pgconn.PgError
	return errors.As(err, &said) && (said.Code == "22021" || said.Code == "22P05")
}

// NotThere says whether an error means that what something belongs to is not there.
func NotThere(err error) bool {
	var said *pgconn.PgError
	return errors.Is(err, ErrNotFound) || errors.As(err, &said) && said.Code == "23503"
}
