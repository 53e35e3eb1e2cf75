-- +goose Up
-- Runs that wait: how far they are, when they go on, and the tables of whose records it depends.
ALTER TABLE runs
	ADD COLUMN state jsonb,
	ADD COLUMN wake_at timestamptz,
	ADD COLUMN awaits text[],
	ADD COLUMN part int NOT NULL DEFAULT 0; -- how often it was kept since it was known
CREATE INDEX runs_wake ON runs (wake_at) WHERE status = 'waiting';
CREATE INDEX runs_awaits ON runs (app_id, place) WHERE status = 'waiting' AND awaits IS NOT NULL;
DROP INDEX runs_began;
CREATE INDEX runs_ended ON runs (ended_at);
