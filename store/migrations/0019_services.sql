-- +goose Up
-- Secrets of apps, such as what a service is shown to prove who calls, sealed with the key of the
-- server. Of says what each is for.
CREATE TABLE secrets (
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	of text NOT NULL,
	sealed bytea NOT NULL,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (app_id, of)
);

-- Addresses to which calls come in that start workflows, by the digests of the secrets in them.
CREATE TABLE hooks (
	digest bytea PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	place text NOT NULL,
	workflow text NOT NULL,
	UNIQUE (app_id, place, workflow)
);

-- Calls that came in, so that none counts twice.
CREATE TABLE heard (
	id uuid PRIMARY KEY,
	until timestamptz NOT NULL
);
CREATE INDEX heard_until ON heard (until);

-- Rehearsals that are kept as expectations: what sets a workflow off, and what has to come of it.
CREATE TABLE flow_wants (
	id uuid PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	workflow text NOT NULL,
	name text NOT NULL,
	asked jsonb NOT NULL,
	wants jsonb NOT NULL,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX flow_wants_of ON flow_wants (app_id, made_at);

-- What builders marked in workflows for their rehearsals: breakpoints, and what they watch.
CREATE TABLE flow_marks (
	app_id uuid NOT NULL REFERENCES apps ON DELETE CASCADE,
	builder_id uuid NOT NULL REFERENCES builders ON DELETE CASCADE,
	workflow text NOT NULL,
	marks jsonb NOT NULL,
	PRIMARY KEY (app_id, builder_id, workflow)
);
