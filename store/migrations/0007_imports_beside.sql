-- +goose Up
-- Which run carries an import out, when it last said so, and how many runs there were.
ALTER TABLE imports ADD COLUMN claim uuid, ADD COLUMN alive_at timestamptz, ADD COLUMN runs integer NOT NULL DEFAULT 0;
