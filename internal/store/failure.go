package store

import (
	"context"
	"database/sql"
	sqldriver "database/sql/driver"
	"errors"
	"net"
	"os"
	"syscall"

	"compactparcel/internal/blob"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/gorm"
)

// ErrNotFound is a record that is not there. Nothing else means that.
var ErrNotFound = gorm.ErrRecordNotFound

// ErrBusy tells that somebody else holds what is wanted, for longer than one waits.
var ErrBusy = errors.New("somebody else is writing to it")

// ErrMissing is content that a record names and that is not in the database.
var ErrMissing = errors.New("the content is missing from the database")

// ErrDamaged is content whose bytes are no longer those of its digest.
var ErrDamaged = errors.New("the content is damaged in the database")

// IsDuplicate tells whether an insert failed since the record is there already.
func IsDuplicate(err error) bool {
	return errors.Is(err, gorm.ErrDuplicatedKey) || isNumber(err, 1062, 1586)
}

// IsBusy tells whether a lock was not to be had in time.
func IsBusy(err error) bool { return errors.Is(err, ErrBusy) || isNumber(err, 1205, 1213) }

// IsTooLarge tells whether a value does not fit where it is kept.
func IsTooLarge(err error) bool {
	return isNumber(err, 1406, 1264, 1153, 1301, 1366, 3140) || errors.Is(err, driver.ErrPktTooLarge)
}

// IsFull tells whether a disk is full.
func IsFull(err error) bool {
	return errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) || isNumber(err, 1021, 1114, 3, 1026)
}

// IsDamaged tells whether content is missing or not what its digest says.
func IsDamaged(err error) bool {
	return errors.Is(err, ErrDamaged) || errors.Is(err, blob.ErrDamaged) || isMissing(err)
}

// isMissing tells whether content is not where it was looked for.
func isMissing(err error) bool { return errors.Is(err, ErrMissing) || errors.Is(err, blob.ErrMissing) }

// IsGone tells whether the database was not to be reached, or did not answer in time.
func IsGone(err error) bool {
	var network *net.OpError
	return errors.Is(err, driver.ErrInvalidConn) || errors.Is(err, sqldriver.ErrBadConn) ||
		errors.Is(err, sql.ErrConnDone) || errors.Is(err, sql.ErrTxDone) || errors.Is(err, ErrStalled) ||
		errors.Is(err, context.DeadlineExceeded) || errors.Is(err, context.Canceled) ||
		errors.Is(err, os.ErrDeadlineExceeded) ||
		errors.As(err, &network) ||
		isNumber(err, 1053, 1040, 1152, 1927, 1290, 1836)
}

func isNumber(err error, numbers ...uint16) bool {
	var my *driver.MySQLError
	if !errors.As(err, &my) {
		return false
	}
	for _, n := range numbers {
		if my.Number == n {
			return true
		}
	}
	return false
}
