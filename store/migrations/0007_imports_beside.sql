-- +goose Up
-- Which run carries an import out, and when it last said so.
ALTER TABLE imports ADD COLUMN claim uuid, ADD COLUMN alive_at timestamptz;
