-- +goose Up
-- Pictures that mails of workflows show: one of the app above the text, and those of records below it.
ALTER TABLE letters
	ADD COLUMN head text NOT NULL DEFAULT '', -- id of a picture
	ADD COLUMN pictures jsonb; -- as store/records.File
