-- +goose Up
-- Values that are kept for people who are signed in to an app, live or in its draft, each
-- with the moment until which it counts.
CREATE TABLE kept_values (
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	place text NOT NULL,
	who text NOT NULL,
	kept jsonb NOT NULL,
	changed_at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (app_id, place, who)
);
CREATE INDEX kept_values_changed ON kept_values (changed_at);
