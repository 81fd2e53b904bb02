package store

import (
	"database/sql/driver"
	"errors"
	"io"
	"net"
)

// lost reports whether a connection broke under a question.
func lost(err error) bool {
	var network net.Error
	return errors.Is(err, driver.ErrBadConn) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) || errors.As(err, &network)
}
