package gate

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"pinegate/app/act"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/accounts"
)

// Self is somebody who is signed in and changes their own access.
type Self struct {
	Visit   // with their own seat
	Session accounts.Session
}

// proves checks the password of somebody who has one, before what matters.
func (g *Gate) proves(ctx context.Context, s Self, password string) error {
	account, err := g.accounts.Of(ctx, s.App.ID, s.Session.Email)
	if err != nil || account.Password == nil {
		return err
	}
	if err := g.limitTrying(ctx, s.of(s.Session.Email)); err != nil {
		return err
	}
	right, err := g.accounts.RightPassword(ctx, s.App.ID, s.Session.Email, password)
	if err == nil && !right {
		err = words.New("gate-current-password")
	}
	return err
}

// ChangePassword sets another password, or a first one.
func (g *Gate) ChangePassword(ctx context.Context, s Self, old, next string) error {
	if err := open(s.blueprint(), blueprint.PasswordWay); err != nil {
		return err
	}
	if err := g.proves(ctx, s, old); err != nil {
		return err
	}
	hash, err := g.accounts.HashOf(ctx, next, s.Session.Email, s.blueprint().Name)
	if err != nil {
		return err
	}
	return g.keepPassword(ctx, s.Visit, s.Session.Email, s.Seat.Viewer.Name, hash, s.Session.ID)
}

// moveSubject is what a code for a new address proves.
func moveSubject(s Self, to string) string { return s.Session.Email + " to " + to }

// AskMove has a code sent to an address by which somebody wants to be known.
func (g *Gate) AskMove(ctx context.Context, s Self, entered, password string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := g.proves(ctx, s, password); err != nil {
		return err
	}
	if err := g.limitAsking(ctx, s.of(s.Session.Email)); err != nil {
		return err
	}
	if err := g.allowNew(ctx, s.App); err != nil {
		return err
	}
	return g.ask(ctx, s.Visit, mailJob{Purpose: accounts.ToMove, Email: email, Subject: moveSubject(s, email),
		Data: json.RawMessage("null")})
}

// Move makes another address, which a code confirms, that by which somebody is
// known, in all records that are theirs. The old one is told.
func (g *Gate) Move(ctx context.Context, s Self, entered, code string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := g.limitTrying(ctx, s.of(s.Session.Email)); err != nil {
		return err
	}
	proof, err := g.accounts.TryCode(ctx, accounts.Code{App: s.App.ID, Purpose: accounts.ToMove, Subject: moveSubject(s, email)},
		strings.TrimSpace(code), nil)
	if err != nil {
		return err
	}
	was := s.Session.Email
	system, err := seats.Empty(ctx, g.apps, s.App)
	if err != nil {
		return err
	}
	system.Viewer, system.By = access.Viewer{Founder: true}, s.Seat.Viewer.Name
	ctx = store.DoneBy(ctx, s.Seat.PersonID())
	return g.acts.Do(ctx, func(u *act.Unit) error {
		acc := g.accounts.In(u.Tx)
		if err := acc.Spend(ctx, proof); err != nil {
			return err
		}
		if _, err := u.Road.Readdress(ctx, system, s.Seat.Viewer, email); err != nil {
			return err
		}
		if err := acc.Move(ctx, s.App.ID, was, email, s.Session.ID); err != nil {
			return err
		}
		if err := acc.Note(ctx, s.App.ID, was, s.Host, words.Say("note-moved", words.Args{"email": email})); err != nil {
			return err
		}
		what := words.Say("account-email-changed", words.Args{"app": blueprint.Plain(s.Seat.Blueprint.Name)})
		return tell(ctx, u, s.App, blueprint.ChangedMail, was, map[string]string{"name": s.Seat.Viewer.Name, "what": what})
	})
}

// ClosingOf says what closing their account would do to somebody's records.
func ClosingOf(b *blueprint.Blueprint, v access.Viewer) blueprint.Closing {
	out := blueprint.NoClosing
	for _, m := range v.Memberships {
		switch c := b.Role(m.Role).Profile.Closing; {
		case c == blueprint.NoClosing:
			return c
		case out != blueprint.ClosingKeeps:
			out = c
		}
	}
	return out
}

// Close closes somebody's account.
func (g *Gate) Close(ctx context.Context, s Self, password string) error {
	how := ClosingOf(s.blueprint(), s.Seat.Viewer)
	if how == blueprint.NoClosing {
		return words.New("gate-no-closing")
	}
	if err := g.proves(ctx, s, password); err != nil {
		return err
	}
	system, err := seats.Empty(ctx, g.apps, s.App)
	if err != nil {
		return err
	}
	system.Viewer, system.By = access.Viewer{Founder: true}, s.Seat.Viewer.Name
	ctx = store.DoneBy(ctx, s.Seat.PersonID())
	return g.acts.Do(ctx, func(u *act.Unit) error {
		if how == blueprint.ClosingBinned {
			if _, err := u.Road.Leave(ctx, system, s.Seat.Viewer); err != nil {
				return fmt.Errorf("close an account: %w", err)
			}
		}
		acc := g.accounts.In(u.Tx)
		if err := acc.Close(ctx, s.App.ID, s.Session.Email); err != nil {
			return err
		}
		return acc.Note(ctx, s.App.ID, s.Session.Email, s.Host, words.Say("note-closed", nil))
	})
}
