-- +goose Up
-- Browsers from which somebody was let in: what is right works from there, however often
-- strangers were wrong. App is null for builders.
CREATE TABLE devices (
	app_id uuid REFERENCES apps ON DELETE CASCADE,
	who text NOT NULL,
	hash bytea NOT NULL,
	seen_at timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX devices_key ON devices (hash, who, app_id) NULLS NOT DISTINCT;
CREATE INDEX devices_app ON devices (app_id);
CREATE INDEX devices_seen ON devices (seen_at);
