-- +goose Up
-- What was asked for with a key, and the answer: asked for again, it is not done again.
CREATE TABLE once (
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	key text NOT NULL,
	digest bytea NOT NULL, -- of what was asked, and by whom
	answer jsonb,
	at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (app_id, key)
);
CREATE INDEX once_at ON once (at);
