package accounts

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"pinegate/core/words"
	"pinegate/store"
)

// Workspace is one of a builder's workspaces, with what the builder is there.
type Workspace struct {
	ID   string
	Name string
	Role store.MemberRole
}

// Workspaces lists the workspaces of a builder, their own first.
func (a *Accounts) Workspaces(ctx context.Context, builder string) ([]Workspace, error) {
	out := []Workspace{}
	err := a.db.WithContext(ctx).Raw("SELECT w.id, w.name, m.role FROM members m JOIN workspaces w ON w.id = m.workspace_id WHERE m.builder_id = ? ORDER BY w.id <> m.builder_id, w.name, w.id", builder).Scan(&out).Error
	if err != nil {
		return nil, fmt.Errorf("list workspaces: %w", err)
	}
	return out, nil
}

// WorkspaceOf gives a workspace of a builder; [store.ErrNotFound] where it is
// not theirs.
func (a *Accounts) WorkspaceOf(ctx context.Context, builder, id string) (Workspace, error) {
	all, err := a.Workspaces(ctx, builder)
	if err != nil {
		return Workspace{}, err
	}
	if i := slices.IndexFunc(all, func(w Workspace) bool { return w.ID == id }); i >= 0 {
		return all[i], nil
	}
	return Workspace{}, store.ErrNotFound
}

// mostWorkspaces is how many a builder can be an owner of by making them.
const mostWorkspaces = 10

// AddWorkspace makes a workspace of which the builder is the owner.
func (a *Accounts) AddWorkspace(ctx context.Context, builder, name string) (Workspace, error) {
	w := Workspace{uuid.NewString(), strings.TrimSpace(name), store.Owner}
	if err := goodName(w.Name); err != nil {
		return w, err
	}
	all, err := a.Workspaces(ctx, builder)
	if err != nil {
		return w, err
	}
	if own := slices.DeleteFunc(all, func(x Workspace) bool { return x.Role != store.Owner }); len(own) >= mostWorkspaces {
		return w, words.New("quota-workspaces", "most", mostWorkspaces)
	}
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("INSERT INTO workspaces (id, name) VALUES (?, ?)", w.ID, w.Name).Error; err != nil {
			return fmt.Errorf("make a workspace: %w", err)
		}
		return tx.Exec("INSERT INTO members (workspace_id, builder_id, role) VALUES (?, ?, 'owner')", w.ID, builder).Error
	})
	return w, err
}

func goodName(name string) error {
	if name == "" || len(name) > 80 || strings.ContainsAny(name, "\r\n\x00") {
		return words.New("workspace-name")
	}
	return nil
}

// RenameWorkspace gives a workspace another name.
func (a *Accounts) RenameWorkspace(ctx context.Context, id, name string) error {
	name = strings.TrimSpace(name)
	if err := goodName(name); err != nil {
		return err
	}
	if err := a.db.WithContext(ctx).Exec("UPDATE workspaces SET name = ? WHERE id = ?", name, id).Error; err != nil {
		return fmt.Errorf("rename a workspace: %w", err)
	}
	return nil
}

// Member is one of a team.
type Member struct {
	ID    string           `json:"id"`
	Name  string           `json:"name"`
	Email string           `json:"email"`
	Role  store.MemberRole `json:"role"`
	Since time.Time        `json:"since"`
}

// Members lists who builds the apps of a workspace.
func (a *Accounts) Members(ctx context.Context, workspace string) ([]Member, error) {
	out := []Member{}
	err := a.db.WithContext(ctx).Raw("SELECT b.id, b.name, b.email, m.role, m.since FROM members m JOIN builders b ON b.id = m.builder_id WHERE m.workspace_id = ? ORDER BY m.since, b.id", workspace).Scan(&out).Error
	if err != nil {
		return nil, fmt.Errorf("list members: %w", err)
	}
	return out, nil
}

// SetMember makes a member something else, or with "" no member any more. The
// last owner stays one.
func (a *Accounts) SetMember(ctx context.Context, workspace, builder string, role store.MemberRole) error {
	if _, err := uuid.Parse(builder); err != nil {
		return store.ErrNotFound
	}
	if role != "" && !slices.Contains(store.MemberRoles(), role) {
		return words.New("member-role")
	}
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var all []struct{ BuilderID, Role string }
		if err := tx.Table("members").Clauses(clause.Locking{Strength: "UPDATE"}).Where("workspace_id = ?",
			workspace).Find(&all).Error; err != nil {
			return fmt.Errorf("lock members: %w", err)
		}
		there, others := false, false
		for _, m := range all {
			there = there || m.BuilderID == builder
			others = others || m.BuilderID != builder && m.Role == string(store.Owner)
		}
		switch {
		case !there:
			return store.ErrNotFound
		case role != store.Owner && !others:
			return words.New("workspace-owner")
		case role == "":
			return tx.Exec("DELETE FROM members WHERE workspace_id = ? AND builder_id = ?", workspace, builder).Error
		}
		return tx.Exec("UPDATE members SET role = ? WHERE workspace_id = ? AND builder_id = ?", role, workspace, builder).Error
	})
}

// invitationLife is how long somebody can take to join.
const InvitationLife = 14 * 24 * time.Hour

type joining struct {
	Role store.MemberRole `json:"role"`
}

// InviteBuilder gives the token with which the owner of an address joins a
// workspace.
func (a *Accounts) InviteBuilder(ctx context.Context, workspace, email string, role store.MemberRole) (string, error) {
	if !slices.Contains(store.MemberRoles(), role) {
		return "", words.New("member-role")
	}
	raw, err := json.Marshal(joining{role})
	if err != nil {
		return "", fmt.Errorf("write an invitation: %w", err)
	}
	return a.MakeLink(ctx, Link{Workspace: &workspace, Purpose: ToJoin, Subject: strings.ToLower(email), Data: raw}, InvitationLife)
}

// Joined says which workspace somebody was invited to, as what.
type Joined struct {
	Workspace Workspace
	Email     string
}

// LookAtJoining gives what an invitation to a workspace is to.
func (a *Accounts) LookAtJoining(ctx context.Context, token string) (Joined, error) {
	l, err := a.LookAtLink(ctx, "", ToJoin, token)
	if err != nil {
		return Joined{}, err
	}
	return a.joined(ctx, l)
}

func (a *Accounts) joined(ctx context.Context, l Link) (Joined, error) {
	out := Joined{Email: l.Subject}
	var data joining
	if err := json.Unmarshal(l.Data, &data); err != nil || l.Workspace == nil {
		return out, errors.Join(errors.New("read an invitation"), err)
	}
	if err := a.db.WithContext(ctx).Raw("SELECT id, name FROM workspaces WHERE id = ?",
		*l.Workspace).Scan(&out.Workspace).Error; err != nil {
		return out, fmt.Errorf("find a workspace: %w", err)
	}
	out.Workspace.Role = data.Role
	return out, nil
}

// Join makes a builder a member by an invitation that was sent to their address.
func (a *Accounts) Join(ctx context.Context, b store.Builder, token string) (Joined, error) {
	l, err := a.LookAtLink(ctx, "", ToJoin, token)
	if err != nil {
		return Joined{}, err
	}
	if !strings.EqualFold(l.Subject, b.Email) {
		return Joined{}, words.New("invitation-other")
	}
	var j Joined
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		j, err = a.In(tx).join(ctx, b, token)
		return err
	})
	return j, err
}

// join uses an invitation up and makes a builder a member by it, in one transaction.
func (a *Accounts) join(ctx context.Context, b store.Builder, token string) (Joined, error) {
	l, err := a.UseLink(ctx, "", ToJoin, token)
	if err != nil {
		return Joined{}, err
	}
	j, err := a.joined(ctx, l)
	if err != nil {
		return j, err
	}
	err = a.db.WithContext(ctx).Exec("INSERT INTO members (workspace_id, builder_id, role) VALUES (?, ?, ?) ON CONFLICT (workspace_id, builder_id) DO NOTHING", j.Workspace.ID, b.ID, j.Workspace.Role).Error
	if err != nil {
		return j, fmt.Errorf("join a workspace: %w", err)
	}
	return j, nil
}

// JoinNew makes the account of somebody who was invited and has none, and makes
// them a member. That the invitation reached them confirms their address.
func (a *Accounts) JoinNew(ctx context.Context, token, name, password string) (Joined, error) {
	l, err := a.LookAtLink(ctx, "", ToJoin, token)
	if err != nil {
		return Joined{}, err
	}
	if _, there, err := a.builderWith(ctx, l.Subject); err != nil || there {
		if err == nil {
			err = words.New("invitation-account")
		}
		return Joined{}, err
	}
	if name = strings.TrimSpace(name); name == "" || len(name) > 80 {
		return Joined{}, words.New("account-name")
	}
	if err := GoodPassword(password, l.Subject, name); err != nil {
		return Joined{}, err
	}
	b, err := a.AddBuilder(ctx, l.Subject, name, password)
	if err != nil {
		return Joined{}, err
	}
	return a.Join(ctx, b, token)
}

// TeamEvent is a line in the log of a workspace.
type TeamEvent struct {
	ID          int64
	WorkspaceID string
	AppID       *string
	At          time.Time `gorm:"autoCreateTime"`
	By          string
	ByID        *string
	What        string
}

// TableName is where these are kept.
func (TeamEvent) TableName() string { return "team_log" }

// NoteTeam writes down who did what in a workspace.
func (a *Accounts) NoteTeam(ctx context.Context, workspace, app, by, what string) error {
	e := TeamEvent{WorkspaceID: workspace, By: by, ByID: store.WorkOf(ctx).Doer(), What: what}
	if app != "" {
		e.AppID = &app
	}
	if err := a.db.WithContext(ctx).Create(&e).Error; err != nil {
		return fmt.Errorf("note what was done in a workspace: %w", err)
	}
	return nil
}

// TeamLog lists what was done in a workspace, the newest first.
func (a *Accounts) TeamLog(ctx context.Context, workspace string, limit int) ([]TeamEvent, error) {
	out := []TeamEvent{}
	if err := a.db.WithContext(ctx).Where("workspace_id = ?", workspace).Order("id DESC").Limit(limit).Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list what was done in a workspace: %w", err)
	}
	return out, nil
}

// lookedFor is how long it is before it is written down again that somebody looks at the
// same of a live app.
const lookedFor = 10 * time.Minute

// NoteLook writes down that a builder looks at something of a live app: what, in words,
// and once in a while only. At tells it apart from all else, as names do not.
func (a *Accounts) NoteLook(ctx context.Context, s Session, app store.App, builder, at, what string) error {
	first, err := a.Allow(ctx, "look "+s.ID+" "+app.ID+" "+at, 1, lookedFor)
	if err != nil || !first {
		return err
	}
	return a.NoteTeam(ctx, app.WorkspaceID, app.ID, builder, what)
}
