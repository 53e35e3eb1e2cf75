package builder

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
)

// WorkspaceOut is one of a builder's workspaces.
type WorkspaceOut struct {
	ID   string           `json:"id"`
	Name string           `json:"name"`
	Role store.MemberRole `json:"role"`
}

// TeamOut is a workspace with its members, who is invited, and what was done.
type TeamOut struct {
	WorkspaceOut
	Members []accounts.Member `json:"members"`
	Invited []InvitedOut      `json:"invited"`
	Log     []LogLine         `json:"log"`
	Usage   apps.Usage        `json:"usage"`
}

// InvitedOut is somebody who was invited and has not come yet.
type InvitedOut struct {
	ID    string    `json:"id"`
	Email string    `json:"email"`
	Until time.Time `json:"until"`
}

// LogLine is a line of a log.
type LogLine struct {
	ID   int64     `json:"id"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	What string    `json:"what"`
}

// WithName names something.
type WithName struct {
	Name string `json:"name" maxLength:"100"`
}

// MemberInvited is somebody who is invited to a workspace.
type MemberInvited struct {
	Email string           `json:"email" maxLength:"254"`
	Role  store.MemberRole `json:"role" enum:"owner,editor,viewer"`
}

// MemberChange makes a member something else.
type MemberChange struct {
	Role store.MemberRole `json:"role" enum:"owner,editor,viewer"`
}

// Token is that of an invitation.
type Token struct {
	Token string `json:"token" maxLength:"100"`
}

// JoiningOut says to what somebody is invited.
type JoiningOut struct {
	Workspace string           `json:"workspace"`
	Email     string           `json:"email"`
	Role      store.MemberRole `json:"role"`
}

// JoiningNew is somebody who was invited and has no account.
type JoiningNew struct {
	Token
	Name     string `json:"name" maxLength:"100"`
	Password string `json:"password" maxLength:"400"`
}

// OwnWorkspace is the path of a workspace; it is only there for its members.
type OwnWorkspace struct {
	Workspace string `path:"workspace"`
}

func (o OwnWorkspace) workspace() string { return o.Workspace }

type ofWorkspace interface{ workspace() string }

// team is a request of a member about a workspace.
type team struct {
	accounts.Workspace
	builder store.Builder
}

// teamRoute adds a route about a workspace of the signed-in builder.
func teamRoute[I ofWorkspace, O any](h *Handlers, api huma.API, needs store.MemberRole, method, path, summary string,
	do func(context.Context, team, I) (*O, error)) {
	register(api, method, "/workspaces/{workspace}"+path, summary, func(ctx context.Context, in *I) (*O, error) {
		who, err := h.builder(ctx)
		if err != nil {
			return nil, err
		}
		w, err := h.Accounts.WorkspaceOf(ctx, who.ID, (*in).workspace())
		if err != nil {
			return nil, err
		}
		if !w.Role.May(needs) {
			return nil, errLevel(needs)
		}
		return do(ctx, team{w, who}, *in)
	})
}

// errLevel tells a member that their role does not reach.
func errLevel(needs store.MemberRole) error {
	code := "answer-member-edit"
	if needs == store.Owner {
		code = "answer-member-owner"
	}
	return huma.Error403Forbidden(words.Say(code, nil))
}

const logShown = 100

func (h *Handlers) registerTeam(api huma.API) {
	register(api, http.MethodGet, "/workspaces", "One's workspaces", h.workspaces)
	register(api, http.MethodPost, "/workspaces", "Make a workspace",
		func(ctx context.Context, in *struct{ Body WithName }) (*output[WorkspaceOut], error) {
			who, err := h.builder(ctx)
			if err != nil {
				return nil, err
			}
			w, err := h.Accounts.AddWorkspace(ctx, who.ID, in.Body.Name)
			if err != nil {
				return nil, err
			}
			return out(WorkspaceOut(w)), h.Accounts.NoteTeam(ctx, w.ID, "", who.Name,
				words.Say("team-created", words.Args{"workspace": w.Name}))
		})
	teamRoute(h, api, store.Viewer, http.MethodGet, "", "A workspace", h.team)
	teamRoute(h, api, store.Owner, http.MethodPatch, "", "Rename a workspace", func(ctx context.Context, t team, in struct {
		OwnWorkspace
		Body WithName
	}) (*struct{}, error) {
		if err := h.Accounts.RenameWorkspace(ctx, t.ID, in.Body.Name); err != nil {
			return nil, err
		}
		return nil, h.note(ctx, t, words.Say("team-renamed", words.Args{"name": in.Body.Name}))
	})
	teamRoute(h, api, store.Owner, http.MethodPost, "/invitations", "Invite somebody to a workspace",
		func(ctx context.Context, t team, in struct {
			OwnWorkspace
			Body MemberInvited
		}) (*struct{}, error) {
			if err := h.Gate.InviteBuilder(ctx, t.Workspace, in.Body.Email, in.Body.Role, t.builder); err != nil {
				return nil, err
			}
			return nil, h.note(ctx, t, words.Say("team-invited", words.Args{"email": in.Body.Email, "role": string(in.Body.Role)}))
		})
	teamRoute(h, api, store.Owner, http.MethodDelete, "/invitations/{invitation}", "Take an invitation back",
		func(ctx context.Context, t team, in struct {
			OwnWorkspace
			Invitation string `path:"invitation"`
		}) (*struct{}, error) {
			if err := h.Accounts.DropLink(ctx, "", t.ID, in.Invitation); err != nil {
				return nil, err
			}
			return nil, h.note(ctx, t, words.Say("team-uninvited", nil))
		})
	teamRoute(h, api, store.Owner, http.MethodPatch, "/members/{member}", "Make a member something else",
		func(ctx context.Context, t team, in struct {
			OwnWorkspace
			Member string `path:"member"`
			Body   MemberChange
		}) (*struct{}, error) {
			return nil, h.setMember(ctx, t, in.Member, in.Body.Role)
		})
	teamRoute(h, api, store.Viewer, http.MethodDelete, "/members/{member}", "Take a member out of a workspace, or leave it",
		func(ctx context.Context, t team, in struct {
			OwnWorkspace
			Member string `path:"member"`
		}) (*struct{}, error) {
			if in.Member != t.builder.ID && !t.Role.May(store.Owner) {
				return nil, errLevel(store.Owner)
			}
			return nil, h.setMember(ctx, t, in.Member, "")
		})
	h.registerJoining(api)
}

func (h *Handlers) note(ctx context.Context, t team, what string) error {
	return h.Accounts.NoteTeam(ctx, t.ID, "", t.builder.Name, what)
}

func (h *Handlers) setMember(ctx context.Context, t team, member string, role store.MemberRole) error {
	members, err := h.Accounts.Members(ctx, t.ID)
	if err != nil {
		return err
	}
	if err := h.Accounts.SetMember(ctx, t.ID, member, role); err != nil {
		return err
	}
	for _, m := range members {
		if m.ID != member {
			continue
		}
		if member == t.builder.ID && role == "" {
			return h.note(ctx, t, words.Say("team-left", nil))
		}
		if role == "" {
			return h.note(ctx, t, words.Say("team-removed", words.Args{"member": m.Name}))
		}
		return h.note(ctx, t, words.Say("team-role", words.Args{"member": m.Name, "role": string(role)}))
	}
	return nil
}

func (h *Handlers) workspaces(ctx context.Context, _ *struct{}) (*output[[]WorkspaceOut], error) {
	who, err := h.builder(ctx)
	if err != nil {
		return nil, err
	}
	list, err := h.Accounts.Workspaces(ctx, who.ID)
	all := []WorkspaceOut{}
	for _, w := range list {
		all = append(all, WorkspaceOut(w))
	}
	return out(all), err
}

func (h *Handlers) team(ctx context.Context, t team, _ OwnWorkspace) (*output[TeamOut], error) {
	o := TeamOut{WorkspaceOut: WorkspaceOut(t.Workspace), Invited: []InvitedOut{}, Log: []LogLine{}}
	var err error
	if o.Members, err = h.Accounts.Members(ctx, t.ID); err != nil {
		return nil, err
	}
	if o.Usage, err = h.Apps.Usage(ctx, t.ID); err != nil {
		return nil, err
	}
	invited, err := h.Accounts.Links(ctx, "", t.ID, accounts.ToJoin)
	if err != nil {
		return nil, err
	}
	for _, l := range invited {
		o.Invited = append(o.Invited, InvitedOut{l.ID, l.Subject, l.ExpiresAt})
	}
	log, err := h.Accounts.TeamLog(ctx, t.ID, logShown)
	if err != nil {
		return nil, err
	}
	for _, e := range log {
		o.Log = append(o.Log, LogLine{e.ID, e.At, e.By, e.What})
	}
	deeds := make([]deed, len(log))
	for i, e := range log {
		deeds[i] = deed{&o.Log[i].By, e.ByID}
	}
	return out(o), h.today(ctx, deeds)
}

func (h *Handlers) registerJoining(api huma.API) {
	openTo(h, api, http.MethodPost, "/join/look", "Look at an invitation to a workspace",
		func(ctx context.Context, in *struct{ Body Token }) (*output[JoiningOut], error) {
			j, err := h.Accounts.LookAtJoining(ctx, in.Body.Token)
			if err != nil {
				return nil, err
			}
			return out(JoiningOut{j.Workspace.Name, j.Email, j.Workspace.Role}), nil
		})
	joined := func(ctx context.Context, name string, j accounts.Joined, err error) (*struct{}, error) {
		if err != nil {
			return nil, err
		}
		return nil, h.Accounts.NoteTeam(ctx, j.Workspace.ID, "", name, words.Say("team-joined", nil))
	}
	register(api, http.MethodPost, "/join", "Join a workspace", func(ctx context.Context, in *struct{ Body Token }) (*struct{}, error) {
		who, err := h.builder(ctx)
		if err != nil {
			return nil, err
		}
		j, err := h.Accounts.Join(ctx, who, in.Body.Token)
		return joined(ctx, who.Name, j, err)
	})
	openTo(h, api, http.MethodPost, "/join/new", "Join a workspace with a new account",
		func(ctx context.Context, in *struct{ Body JoiningNew }) (*struct{}, error) {
			j, err := h.Accounts.JoinNew(ctx, in.Body.Token.Token, in.Body.Name, in.Body.Password)
			return joined(ctx, in.Body.Name, j, err)
		})
}
