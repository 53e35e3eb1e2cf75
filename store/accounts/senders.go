package accounts

import (
	"context"
	"fmt"
	"strings"
)

// ConfirmedSender tells whether the apps of a workspace may send mail from an address:
// it was confirmed, or is that of an owner or editor there, who confirmed it before.
func (a *Accounts) ConfirmedSender(ctx context.Context, workspace, address string) (bool, error) {
	var is bool
	if err := a.db.WithContext(ctx).Raw(`SELECT EXISTS (SELECT FROM senders WHERE workspace_id = @w AND address = lower(@a))
		OR EXISTS (SELECT FROM members m JOIN builders b ON b.id = m.builder_id WHERE m.workspace_id = @w
			AND m.role <> 'viewer' AND lower(b.email) = lower(@a) AND b.confirmed_at IS NOT NULL)`,
		map[string]any{"w": workspace, "a": address}).Scan(&is).Error; err != nil {
		return false, fmt.Errorf("look whether a sender is confirmed: %w", err)
	}
	return is, nil
}

// SenderCode gives the code that confirms an address from which the apps of a workspace
// are to send mail; "" when the last one is too young.
func (a *Accounts) SenderCode(ctx context.Context, workspace, address string) (string, error) {
	return a.MakeCode(ctx, Code{Purpose: ToSend, Subject: senderSubject(workspace, address)}, nil)
}

// ConfirmSender takes a code that confirms an address.
func (a *Accounts) ConfirmSender(ctx context.Context, workspace, address, code string) error {
	if err := a.UseCode(ctx, Code{Purpose: ToSend, Subject: senderSubject(workspace, address)}, strings.TrimSpace(code), nil); err != nil {
		return err
	}
	if err := a.db.WithContext(ctx).Exec("INSERT INTO senders (workspace_id, address) VALUES (?, lower(?)) ON CONFLICT DO NOTHING", workspace,
		address).Error; err != nil {
		return fmt.Errorf("keep a sender: %w", err)
	}
	return nil
}

func senderSubject(workspace, address string) string {
	return workspace + " " + strings.ToLower(address)
}

// ReplyTo gives the address to which answers go to mail of a workspace: that of its
// first owner.
func (a *Accounts) ReplyTo(ctx context.Context, workspace string) (string, error) {
	var email string
	if err := a.db.WithContext(ctx).Raw(`SELECT b.email FROM members m JOIN builders b ON b.id = m.builder_id
		WHERE m.workspace_id = ? AND m.role = 'owner' ORDER BY b.id <> m.workspace_id, b.created_at, b.id LIMIT 1`, workspace).
		Scan(&email).Error; err != nil {
		return "", fmt.Errorf("find the owner of a workspace: %w", err)
	}
	return email, nil
}
