package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
)

// Statement is a statement that only writes.
type Statement struct {
	SQL  string
	Args []any
}

// Together sends statements at once, in their order: the database works on one while the next is on
// its way. None of them counts unless all do where that is in a transaction, as it has to be.
func Together(ctx context.Context, db *gorm.DB, list []Statement) error {
	return TogetherWith(ctx, db, list, nil, nil)
}

// TogetherWith is [Together] with a statement at the end that reads, whose rows are given to read; nil
// for none.
func TogetherWith(ctx context.Context, db *gorm.DB, list []Statement, last *Statement, read func(pgx.Rows) error) error {
	t, is := db.Statement.ConnPool.(*transaction)
	if !is {
		return errors.New("send statements together: this is no transaction")
	}
	return t.conn.Raw(func(driver any) error {
		c, is := driver.(*stdlib.Conn)
		if !is {
			return fmt.Errorf("send statements together: the connection is %T", driver)
		}
		batch := &pgx.Batch{}
		for _, s := range list {
			batch.Queue(s.SQL, s.Args...)
		}
		if last != nil {
			batch.Queue(last.SQL, last.Args...).Query(read)
		}
		return c.Conn().SendBatch(ctx, batch).Close()
	})
}
