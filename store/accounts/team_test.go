package accounts_test

import (
	"context"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/store"
	"pinegate/store/accounts"
)

// roles gives what the members of a workspace are, by their names.
func (h *house) roles(workspace string) map[string]store.MemberRole {
	h.t.Helper()
	members, err := h.Members(h.t.Context(), workspace)
	require.NoError(h.t, err)
	out := map[string]store.MemberRole{}
	for _, m := range members {
		out[m.Name] = m.Role
	}
	return out
}

func (h *house) join(b store.Builder, workspace string, role store.MemberRole) {
	h.t.Helper()
	token, err := h.InviteBuilder(h.t.Context(), workspace, b.Email, role)
	require.NoError(h.t, err)
	_, err = h.Join(h.t.Context(), b, token)
	require.NoError(h.t, err)
}

func TestWorkspacesBelongToTheirMembers(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	w, err := h.AddWorkspace(ctx, h.ann.ID, "  Regatta  ")
	require.NoError(t, err)
	all, err := h.Workspaces(ctx, h.ann.ID)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, h.ann.ID, all[0].ID, "their own comes first")
	assert.Equal(t, "Regatta", all[1].Name)
	_, err = h.WorkspaceOf(ctx, h.ben.ID, w.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	h.join(h.ben, w.ID, store.Viewer)
	theirs, err := h.WorkspaceOf(ctx, h.ben.ID, w.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Viewer, theirs.Role)
	require.NoError(t, h.RenameWorkspace(ctx, w.ID, "Cup"))
	theirs, err = h.WorkspaceOf(ctx, h.ben.ID, w.ID)
	require.NoError(t, err)
	assert.Equal(t, "Cup", theirs.Name)
	for _, name := range []string{"", " ", strings.Repeat("n", 81), "a\nb"} {
		_, err := h.AddWorkspace(ctx, h.ann.ID, name)
		assert.Equal(t, "workspace-name", code(t, err), name)
		assert.Equal(t, "workspace-name", code(t, h.RenameWorkspace(ctx, w.ID, name)), name)
	}
}

func TestTheLastOwnerStays(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	w := h.ann.ID
	h.join(h.ben, w, store.Editor)
	assert.Equal(t, map[string]store.MemberRole{"Ann": store.Owner, "Ben": store.Editor}, h.roles(w))
	for _, role := range []store.MemberRole{store.Editor, store.Viewer, ""} {
		assert.Equal(t, "workspace-owner", code(t, h.SetMember(ctx, w, h.ann.ID, role)))
	}
	require.NoError(t, h.SetMember(ctx, w, h.ben.ID, store.Owner))
	require.NoError(t, h.SetMember(ctx, w, h.ann.ID, store.Viewer), "now there is another")
	assert.Equal(t, "workspace-owner", code(t, h.SetMember(ctx, w, h.ben.ID, "")))
	require.NoError(t, h.SetMember(ctx, w, h.ann.ID, ""))
	assert.Equal(t, map[string]store.MemberRole{"Ben": store.Owner}, h.roles(w))
	require.ErrorIs(t, h.SetMember(ctx, w, h.ann.ID, store.Viewer), store.ErrNotFound, "she is no member any more")
	require.ErrorIs(t, h.SetMember(ctx, w, "x", store.Viewer), store.ErrNotFound)
	assert.Equal(t, "member-role", code(t, h.SetMember(ctx, w, h.ben.ID, "emperor")))
}

// TestTwoOwnersWhoLeaveAtOnceLeaveOne lets each owner take the other's role away.
func TestTwoOwnersWhoLeaveAtOnceLeaveOne(t *testing.T) {
	h := newHouse(t)
	w := h.ann.ID
	h.join(h.ben, w, store.Owner)
	var wait sync.WaitGroup
	results := make(chan error, 2)
	for _, b := range []store.Builder{h.ann, h.ben} {
		wait.Go(func() { results <- h.SetMember(context.Background(), w, b.ID, "") })
	}
	wait.Wait()
	close(results)
	left := 0
	for err := range results {
		if err == nil {
			left++
			continue
		}
		assert.Equal(t, "workspace-owner", code(t, err))
	}
	assert.Equal(t, 1, left)
	assert.Len(t, h.roles(w), 1)
}

func TestAnInvitationIsForItsAddress(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	_, err := h.InviteBuilder(ctx, h.ann.ID, "mo@yard.example", "emperor")
	assert.Equal(t, "member-role", code(t, err))
	token, err := h.InviteBuilder(ctx, h.ann.ID, "Mo@yard.example", store.Editor)
	require.NoError(t, err)
	j, err := h.LookAtJoining(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, accounts.Joined{Workspace: accounts.Workspace{ID: h.ann.ID, Name: j.Workspace.Name, Role: store.Editor},
		Email: "mo@yard.example"}, j)
	_, err = h.Join(ctx, h.ben, token)
	assert.Equal(t, "invitation-other", code(t, err), "Ben found the mail of another")
	assert.Len(t, h.roles(h.ann.ID), 1)

	_, err = h.JoinNew(ctx, token, " ", password)
	assert.Equal(t, "account-name", code(t, err))
	_, err = h.JoinNew(ctx, token, "Mo", "short")
	assert.Equal(t, "password-short", code(t, err))
	_, err = h.JoinNew(ctx, token, "Mo", password)
	require.NoError(t, err)
	assert.Equal(t, store.Editor, h.roles(h.ann.ID)["Mo"])
	_, err = h.JoinNew(ctx, token, "Mo", password)
	require.ErrorIs(t, err, accounts.ErrRefused, "once")
	_, _, err = h.SignInBuilder(ctx, "mo@yard.example", password, "")
	require.NoError(t, err, "the invitation confirmed the address")

	token, err = h.InviteBuilder(ctx, h.ann.ID, h.ben.Email, store.Viewer)
	require.NoError(t, err)
	_, err = h.JoinNew(ctx, token, "Ben", password)
	assert.Equal(t, "invitation-account", code(t, err), "who has an account signs in with it")
	_, err = h.Join(ctx, h.ben, token)
	require.NoError(t, err)
	h.join(h.ben, h.ann.ID, store.Owner)
	assert.Equal(t, store.Viewer, h.roles(h.ann.ID)["Ben"], "an invitation does not raise who is there")
}

func TestWhatATeamDoesIsWrittenDown(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	require.NoError(t, h.NoteTeam(ctx, h.ann.ID, "", "Ann", "First"))
	require.NoError(t, h.NoteTeam(ctx, h.ann.ID, "", "Ben", "Second"))
	require.NoError(t, h.NoteTeam(ctx, h.ben.ID, "", "Ben", "Elsewhere"))
	log, err := h.TeamLog(ctx, h.ann.ID, 10)
	require.NoError(t, err)
	require.Len(t, log, 2)
	assert.Equal(t, []string{"Second", "First"}, []string{log[0].What, log[1].What})
	log, err = h.TeamLog(ctx, h.ann.ID, 1)
	require.NoError(t, err)
	assert.Len(t, log, 1)
}
