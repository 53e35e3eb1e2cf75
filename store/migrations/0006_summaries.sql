-- +goose Up

-- What the workshop tells of an app, counted once for a revision and a version.
ALTER TABLE apps ADD COLUMN summary jsonb;
