-- +goose Up
-- Of which level the tables are that the system keeps in each environment of an app,
-- and in which database they lie.
ALTER TABLE apps ADD COLUMN database text NOT NULL DEFAULT 'main', ADD COLUMN draft_level integer NOT NULL DEFAULT 1, ADD COLUMN live_level integer NOT NULL DEFAULT 1;
