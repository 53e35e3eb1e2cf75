-- +goose Up
-- Runs of workflows, in the draft of an app or live: what set them off, how far they are, and
-- what each step did.
CREATE TABLE runs (
	id uuid PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	place text NOT NULL,
	workflow text NOT NULL,
	name text NOT NULL, -- of the workflow when it ran
	status text NOT NULL,
	began_at timestamptz NOT NULL DEFAULT now(),
	ended_at timestamptz,
	made_by text NOT NULL,
	record_id uuid,
	label text, -- of the record
	depth int NOT NULL DEFAULT 0, -- how many workflows set it off, one after the other
	person jsonb NOT NULL, -- who set it off, as they are looked up again
	input jsonb NOT NULL,
	trace jsonb NOT NULL,
	step text, -- at which it ended, where it did not come to its end
	error text
);
CREATE INDEX runs_of ON runs (app_id, place, began_at DESC, id DESC);
CREATE INDEX runs_record ON runs (record_id);
CREATE INDEX runs_began ON runs (began_at);

-- Mails that workflows send, and what became of each.
CREATE TABLE letters (
	id uuid PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	place text NOT NULL,
	run_id uuid REFERENCES runs ON DELETE SET NULL,
	step text NOT NULL,
	recipient text NOT NULL,
	reply_to text NOT NULL DEFAULT '',
	subject text NOT NULL,
	plain text NOT NULL,
	html text NOT NULL,
	status text NOT NULL DEFAULT 'waiting',
	error text,
	made_at timestamptz NOT NULL DEFAULT now(),
	sent_at timestamptz
);
CREATE INDEX letters_of ON letters (app_id, place, made_at DESC, id DESC);
CREATE INDEX letters_run ON letters (run_id);

-- When the clock starts workflows of live apps next. Seen is up to when it was looked.
CREATE TABLE flow_clocks (
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	workflow text NOT NULL,
	seen_at timestamptz NOT NULL,
	next_at timestamptz NOT NULL,
	PRIMARY KEY (app_id, workflow)
);
CREATE INDEX flow_clocks_next ON flow_clocks (next_at);
