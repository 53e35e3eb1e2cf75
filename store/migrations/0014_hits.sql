-- +goose Up
-- A window begins with its first use, and not when the clock says so.
DROP TABLE hits;
CREATE TABLE hits (
	key text PRIMARY KEY,
	window_start timestamptz NOT NULL,
	count integer NOT NULL
);
CREATE INDEX hits_start ON hits (window_start);
