package store

import (
	"context"
	"errors"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Troubles of the database with which whoever asked has nothing to do, or only by
// asking for much. Nothing of what was asked for was done.
var (
	// ErrBusy tells that there was no turn or no connection in time.
	ErrBusy = errors.New("too much is being done at once")
	// ErrLong tells that something took longer than it may.
	ErrLong = errors.New("this takes too long")
	// ErrHeld tells that somebody else held for too long what was to be changed.
	ErrHeld = errors.New("somebody else is changing this")
	// ErrAway tells that the database does not answer.
	ErrAway = errors.New("the database does not answer")
	// ErrFull tells that the database has no room left.
	ErrFull = errors.New("the database has no room left")
	// ErrRenamed tells that a table or column is not there under its name: it got another
	// one since that was looked up, or it is a mistake of ours.
	ErrRenamed = errors.New("a table or column of this name is not there")
)

// troubles are the errors by the codes of PostgreSQL, appendix A of its manual, or
// the classes that the first two letters name.
func troubleOf(code string) error {
	switch code {
	case "57014", "25P03": // query_canceled, idle_in_transaction_session_timeout
		return ErrLong
	case "55P03", "40P01", "40001": // lock_not_available, deadlock_detected, serialization_failure
		return ErrHeld
	case "42P01", "42703": // undefined_table, undefined_column
		return ErrRenamed
	case "53100": // disk_full
		return ErrFull
	case "25006": // read_only_sql_transaction: this is a replica, or about to be one
		return ErrAway
	case "57P01", "57P02", "57P03", "53300": // shutdowns, cannot_connect_now, too_many_connections
		return ErrAway
	case "58030": // io_error: a full disk shows as this, too
		return ErrFull
	}
	if strings.HasPrefix(code, "08") { // connection exceptions
		return ErrAway
	}
	return nil
}

// Troubles gives all of them.
func Troubles() []error { return []error{ErrBusy, ErrLong, ErrHeld, ErrAway, ErrFull, ErrRenamed} }

// Trouble gives which of the troubles an error is of, or nil for another error.
func Trouble(err error) error {
	if err == nil {
		return nil
	}
	for _, known := range Troubles() {
		if errors.Is(err, known) {
			return known
		}
	}
	var told *pgconn.PgError
	if errors.As(err, &told) {
		return troubleOf(told.Code)
	}
	var connecting *pgconn.ConnectError
	var network net.Error
	switch {
	case errors.Is(err, context.Canceled):
		return nil // nobody waits for the answer any more
	case errors.As(err, &connecting):
		return ErrAway
	case errors.Is(err, context.DeadlineExceeded):
		return ErrLong
	case errors.As(err, &network), pgconn.SafeToRetry(err), lost(err):
		return ErrAway
	}
	return nil
}

// lost tells whether a connection ended in the middle.
func lost(err error) bool {
	text := err.Error()
	for _, said := range []string{"unexpected EOF", "conn closed", "driver: bad connection", "connection reset", "broken pipe"} {
		if strings.Contains(text, said) {
			return true
		}
	}
	return false
}
