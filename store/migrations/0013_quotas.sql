-- +goose Up
-- How many bytes the files of an app take: counted when they come, and anew each hour.
ALTER TABLE apps ADD COLUMN file_bytes bigint NOT NULL DEFAULT 0;
ALTER TABLE pictures ADD COLUMN size bigint NOT NULL DEFAULT 0;
