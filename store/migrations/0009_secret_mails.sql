-- +goose Up
-- Whether a mail holds what its recipient alone may know. Of those that are there it is
-- not known.
ALTER TABLE mails ADD COLUMN secret boolean NOT NULL DEFAULT true;
