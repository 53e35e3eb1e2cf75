-- +goose Up
-- Names can be changed, and may be somebody else's tomorrow. From here on what was done
-- is kept with the id of whoever did it, too.
ALTER TABLE activities ADD COLUMN made_by_id text;
ALTER TABLE versions ADD COLUMN made_by_id text;
ALTER TABLE imports ADD COLUMN made_by_id text;
ALTER TABLE team_log ADD COLUMN by_id text;
