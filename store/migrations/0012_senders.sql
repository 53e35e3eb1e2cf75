-- +goose Up
-- Addresses from which the apps of a workspace send mail: each was confirmed by a code.
CREATE TABLE senders (
	workspace_id uuid NOT NULL REFERENCES workspaces ON DELETE CASCADE,
	address text NOT NULL,
	confirmed_at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (workspace_id, address)
);

-- Where answers go to, if not to the sender.
ALTER TABLE mails ADD COLUMN reply_to text NOT NULL DEFAULT '';
