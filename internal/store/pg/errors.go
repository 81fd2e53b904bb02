package pg

import (
	"database/sql"
	"database/sql/driver"
	"errors"
	"io"
	"net"

	"github.com/jackc/pgx/v5/pgconn"

	"gobbet/core/fault"
)

// Found gives the error of a query for one row: ErrNotFound where it had none.
func Found(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return fault.ErrNotFound
	}
	return err
}

// Changed gives ErrStale for a change that met another version than it was made on.
func Changed(result sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, fault.ErrStale)
	}
	return nil
}

// IsTwice reports whether an error is that something is there already.
func IsTwice(err error) bool { return hasCode(err, "23505") }

// NotText reports whether the database refused a text because no text has such
// characters: a NUL, or bytes that are no UTF-8.
func NotText(err error) bool {
	// Character not in repertoire; untranslatable character.
	return hasCode(err, "22021") || hasCode(err, "22P05")
}

// OutOfRange reports whether the database refused a number that its column cannot hold.
func OutOfRange(err error) bool {
	// Numeric value out of range; datetime field overflow.
	return hasCode(err, "22003") || hasCode(err, "22008")
}

// hasCode reports whether an error is an answer of the database with a code of SQLSTATE.
func hasCode(err error, code string) bool {
	var answer *pgconn.PgError
	return errors.As(err, &answer) && answer.Code == code
}

// IsDeadlock reports whether the database ended one of two transactions that
// waited for each other.
func IsDeadlock(err error) bool { return hasCode(err, "40P01") }

// LockTimedOut reports whether a statement waited for a lock as long as it may.
func LockTimedOut(err error) bool { return hasCode(err, "55P03") }

// Unreachable reports whether an error is the database's being away, rather
// than its answer.
func Unreachable(err error) bool {
	var answer *pgconn.PgError
	if errors.As(err, &answer) {
		// 57P: being shut down or starting up; 08: connection lost; 53: out of resources.
		return answer.Code[:3] == "57P" || answer.Code[:2] == "08" || answer.Code[:2] == "53"
	}
	var connect *pgconn.ConnectError
	return errors.As(err, &connect) || errors.Is(err, sql.ErrConnDone) || pgconn.SafeToRetry(err) || lost(err)
}

// lost reports whether a connection broke under a question.
func lost(err error) bool {
	var network net.Error
	return errors.Is(err, driver.ErrBadConn) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) || errors.As(err, &network)
}
