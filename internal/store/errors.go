package store

import (
	"context"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Away reports whether an error means that the database did not answer: what was
// asked may be asked again.
func Away(err error) bool {
	if err == nil || errors.Is(err, context.Canceled) {
		return false
	}
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		// PostgreSQL, appendix A: connection exceptions, insufficient resources,
		// operator intervention, and what asks for being tried again
		return strings.HasPrefix(pg.Code, "08") || strings.HasPrefix(pg.Code, "53") || strings.HasPrefix(pg.Code, "57") || pg.Code == "40001" || pg.Code == "40P01"
	}
	var connect *pgconn.ConnectError
	var network *net.OpError
	return errors.As(err, &connect) || errors.As(err, &network) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, net.ErrClosed) || pgconn.Timeout(err) || pgconn.SafeToRetry(err) || strings.Contains(err.Error(), "conn closed") || strings.Contains(err.Error(), "closed pool")
}

// Unstorable reports whether the database refused a text for a character it
// cannot hold.
func Unstorable(err error) bool {
	var pg *pgconn.PgError
	// character_not_in_repertoire, untranslatable_character
	return errors.As(err, &pg) && (pg.Code == "22021" || pg.Code == "22P05")
}
