package act

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/apps"
)

// Within does something to the draft of an app in one transaction, with the
// connection on which that is, for what only the driver can do. Nobody else
// changes the app meanwhile.
func (a *Acts) Within(ctx context.Context, id string, do func(conn *pgx.Conn, u *Unit, app *store.App) error) error {
	return a.apps.Connection(ctx, func(db *gorm.DB) error {
		held, ok := db.Statement.ConnPool.(*sql.Conn)
		if !ok {
			return errors.New("hold a connection: it is of another kind")
		}
		var conn *pgx.Conn
		err := held.Raw(func(driver any) error {
			c, ok := driver.(*stdlib.Conn)
			if !ok {
				return errors.New("hold a connection: it is of another driver")
			}
			conn = c.Conn()
			return nil
		})
		if err != nil {
			return err
		}
		return db.Transaction(func(tx *gorm.DB) error {
			app, err := apps.Locked(tx, id)
			if err != nil {
				return err
			}
			return a.in(ctx, tx, func(u *Unit) error {
				u.Quiet = true // an import starts no workflows
				return do(conn, u, &app)
			})
		})
	})
}

// Prepare makes changes to the draft inside a transaction, under one line in
// the list of changes that also undoes what the import with the id adds.
func (a *Acts) Prepare(ctx context.Context, u *Unit, app *store.App, by, importID, what string,
	changes []blueprint.Change) (*blueprint.Blueprint, error) {
	before, err := a.apps.Revision(u.Tx, app.ID, app.Revision)
	if err != nil {
		return nil, err
	}
	activity := store.Activity{AppID: app.ID, MadeBy: by, Sentences: []string{what}, ImportID: &importID}
	after := before
	for _, c := range changes {
		next, err := blueprint.Apply(after, c)
		if err != nil {
			return nil, err
		}
		activity.Sentences = append(activity.Sentences, sentence.OfChange(after, next, c))
		after = next
	}
	if len(changes) > 0 {
		was := app.Revision
		if err := apps.Follow(ctx, u.Tx, app, before, after); err != nil {
			return nil, err
		}
		now := app.Revision
		activity.BeforeRevision, activity.AfterRevision = &was, &now
	}
	if err := apps.Note(u.Tx, &activity); err != nil {
		return nil, fmt.Errorf("note import: %w", err)
	}
	return after, nil
}
