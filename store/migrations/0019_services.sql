-- +goose Up
-- Secrets of apps, such as what a service is shown to prove who calls, sealed with the key of the
-- server. Of says what each is for.
CREATE TABLE secrets (
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	of text NOT NULL,
	sealed bytea NOT NULL,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (app_id, of)
);
