package demo

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"pinegate/app/publish"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/records"
)

// Account is the demo founder's. Its password is no secret.
type Account struct{ Name, Email, Password string }

// Founder gives the demo founder.
func Founder() Account {
	return Account{Name: "Marta Alder", Email: "marta@aldercove.example", Password: "kettle-and-keel"}
}

// Slug is the address of the demo app.
const Slug = "alder-cove"

// Load makes the demo account with the boatyard, published, unless it is there.
// With fresh it throws away what the account had.
func Load(ctx context.Context, s *store.Store, a *apps.Apps, acc *accounts.Accounts, kept *files.Store, fresh bool) (Account, error) {
	account := Founder()
	if fresh {
		if err := clear(ctx, s, a, account); err != nil {
			return account, err
		}
	}
	var b store.Builder
	err := s.DB.WithContext(ctx).Where("email = ?", account.Email).Take(&b).Error
	known := err == nil
	switch {
	case known && b.Password != "":
		return account, nil
	case err != nil && !errors.Is(err, gorm.ErrRecordNotFound):
		return account, fmt.Errorf("look for the demo: %w", err)
	}
	if b, err = acc.AddBuilder(ctx, account.Email, account.Name, account.Password); err != nil || known {
		return account, err
	}
	return account, build(ctx, s, a, kept, b)
}

// Shut keeps everybody out of the demo account, as its password is no secret, until
// the demo is loaded again. Its app and the people of that stay.
func Shut(ctx context.Context, acc *accounts.Accounts) error {
	account := Founder()
	return acc.Shut(ctx, account.Email, account.Password)
}

func build(ctx context.Context, s *store.Store, a *apps.Apps, kept *files.Store, b store.Builder) error {
	app, err := a.Create(ctx, b.ID, b.Name, Blueprint())
	if err != nil {
		return fmt.Errorf("make the demo: %w", err)
	}
	if err := s.DB.WithContext(ctx).Model(&app).Update("slug", Slug).Error; err != nil {
		return fmt.Errorf("set the demo's address: %w", err)
	}
	seat := apps.FounderSeat(app, apps.Draft, Blueprint(), b.Name)
	err = s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		made, err := Generate(time.Now().UTC())
		if err != nil {
			return err
		}
		for _, m := range made {
			if err := records.On(tx).AddMany(ctx, seat, seat.Blueprint.Table(m.Table), m.Records); err != nil {
				return err
			}
		}
		return addPhotos(ctx, records.On(tx), seat, kept)
	})
	if err != nil {
		return fmt.Errorf("fill the demo: %w", err)
	}
	if err := addScene(ctx, a, kept, app, b.Name); err != nil {
		return fmt.Errorf("draw for the demo: %w", err)
	}
	if app, err = a.Find(ctx, app.ID); err != nil {
		return err
	}
	_, err = publish.Do(ctx, a, app.ID, b.Name, publish.Publication{Revision: app.Revision, BringRecords: true})
	return err
}

// clear removes the demo account with its apps.
func clear(ctx context.Context, s *store.Store, a *apps.Apps, account Account) error {
	var b store.Builder
	err := s.DB.WithContext(ctx).Where("email = ?", account.Email).Take(&b).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("find the demo: %w", err)
	}
	list, err := a.Of(ctx, b.ID)
	if err != nil {
		return err
	}
	for _, app := range list {
		if app.WorkspaceID != b.ID {
			continue
		}
		if err := a.Remove(ctx, app); err != nil {
			return err
		}
	}
	if err := s.DB.WithContext(ctx).Exec("DELETE FROM workspaces WHERE id = ?", b.ID).Error; err != nil {
		return fmt.Errorf("remove the demo's workspace: %w", err)
	}
	if err := s.DB.WithContext(ctx).Delete(&b).Error; err != nil {
		return fmt.Errorf("remove the demo account: %w", err)
	}
	return nil
}
