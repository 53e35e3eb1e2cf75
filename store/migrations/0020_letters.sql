-- +goose Up
-- Mails of workflows: the workflow of each, what is attached, and whether it can be unsubscribed from.
ALTER TABLE letters
	ADD COLUMN workflow text NOT NULL DEFAULT '',
	ADD COLUMN files jsonb, -- as store/records.File
	ADD COLUMN way_out boolean NOT NULL DEFAULT false;
-- Who unsubscribed from the mails of a workflow.
CREATE TABLE unsubscribed (
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	place text NOT NULL,
	workflow text NOT NULL,
	address text NOT NULL, -- in small letters
	at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (app_id, place, workflow, address)
);
-- The mailbox that stands in for a mail server keeps what was attached: the names.
ALTER TABLE mails ADD COLUMN files text NOT NULL DEFAULT '';
