package act

import (
	"context"
	"maps"
	"reflect"
	"slices"
	"strings"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/flow"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// FlowQueue is the queue of jobs that run workflows.
const FlowQueue = "flows"

// MostDeep is how many workflows can set each other off, one after the other.
const MostDeep = 8

// Person is who set a workflow off, as it is kept with a job: who they are is looked up again when
// it runs.
type Person struct {
	Founder bool                `json:"founder,omitempty"` // a builder, at the records of the draft
	In      []access.Membership `json:"in,omitempty"`
	Email   string              `json:"email,omitempty"`
	Name    string              `json:"name,omitempty"`
	By      string              `json:"by"`
	ID      string              `json:"id,omitempty"` // under which histories keep what they do
}

// Started is a job: a record was written, which starts a workflow.
type Started struct {
	ID       string         `json:"id"`     // of the run
	Schema   string         `json:"schema"` // of the environment
	Workflow string         `json:"workflow"`
	Record   string         `json:"record"`
	Before   map[string]any `json:"before,omitempty"` // what was written over, by the ids of fields
	Answers  flow.Values    `json:"answers,omitempty"`
	Person   Person         `json:"person"`
	Depth    int            `json:"depth,omitempty"`
}

// Kind names the job.
func (Started) Kind() string { return "flow_started" }

// InsertOpts says how often it is tried. What a run did is done whole or not at all, so that
// trying again does no harm.
func (Started) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 5, Queue: FlowQueue}
}

// Woken is a job: a run that waits is looked at, and goes on if it is time.
type Woken struct {
	Run string `json:"run"`
}

// Kind names the job.
func (Woken) Kind() string { return "flow_woken" }

// InsertOpts says how often it is tried.
func (Woken) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: 5, Queue: FlowQueue} }

// Within does what a workflow does that was set off by so many others, one after the other: what its
// writes start is set off by one more, and by the same person, whatever rights its steps have.
func (u *Unit) Within(depth int, person Person, do func() error) error {
	depthWas, personWas := u.starts.depth, u.starts.person
	u.starts.depth, u.starts.person = depth+1, &person
	defer func() { u.starts.depth, u.starts.person = depthWas, personWas }()
	return do()
}

// starts gathers what writes start.
type starts struct {
	jobs   []Started
	depth  int
	person *Person // who set it off, where that is not whoever writes
	// waited are the tables of records that were written, by schemas, where a workflow waits for records.
	waited map[string]map[string]bool
}

// note looks which workflows a write starts.
func (s *starts) note(seat *records.Seat, w *records.Write) {
	if seat.Blueprint.FlowsWait() {
		if s.waited == nil {
			s.waited = map[string]map[string]bool{}
		}
		if s.waited[seat.Schema] == nil {
			s.waited[seat.Schema] = map[string]bool{}
		}
		s.waited[seat.Schema][w.Table] = true
	}
	for i := range seat.Blueprint.Workflows {
		f := &seat.Blueprint.Workflows[i]
		if f.Off || !startedBy(f.Starts.Trigger, w) {
			continue
		}
		s.jobs = append(s.jobs, Started{ID: uuid.NewString(), Schema: seat.Schema, Workflow: f.ID, Record: w.Record, Before: w.Before,
			Person: s.who(seat), Depth: s.depth})
	}
}

func (s *starts) who(seat *records.Seat) Person {
	if s.person != nil {
		return *s.person
	}
	return PersonOf(seat)
}

// Came starts what workflows start as a person comes into an app in a way, of those roles that they
// have. It is the person who sets them off.
func (u *Unit) Came(seat *records.Seat, how blueprint.Coming, p Person) {
	for i := range seat.Blueprint.Workflows {
		f := &seat.Blueprint.Workflows[i]
		t, is := f.Starts.Trigger.(*blueprint.PersonTrigger)
		if !is || f.Off || t.On != how {
			continue
		}
		for _, m := range p.In {
			if m.Role == t.Role && m.Record != "" {
				u.starts.jobs = append(u.starts.jobs, Started{ID: uuid.NewString(), Schema: seat.Schema, Workflow: f.ID, Record: m.Record,
					Person: p, Depth: u.starts.depth})
			}
		}
	}
}

// PersonOf tells who sits in a seat.
func PersonOf(s *records.Seat) Person {
	return Person{Founder: s.Viewer.Founder, In: s.Viewer.Memberships, Email: s.Viewer.Email, Name: s.Viewer.Name, By: s.By,
		ID: s.PersonID()}
}

// startedBy tells whether a write is what a trigger waits for.
func startedBy(t blueprint.Trigger, w *records.Write) bool {
	switch t := t.(type) {
	case *blueprint.AddedTrigger:
		return t.Table == w.Table && w.Before == nil
	case *blueprint.DeletedTrigger:
		return t.Table == w.Table && w.After == nil
	case *blueprint.ChangedTrigger:
		if t.Table != w.Table || w.Before == nil || w.After == nil {
			return false
		}
		for field, after := range w.After {
			if (len(t.Fields) == 0 || slices.Contains(t.Fields, field)) && !reflect.DeepEqual(w.Before[field], after) {
				return true
			}
		}
	}
	return false
}

// Started takes out what the unit would start.
func (u *Unit) Started() []Started {
	out := u.starts.jobs
	u.starts.jobs = nil
	return out
}

// start puts what the unit starts in the queue.
func (u *Unit) start(ctx context.Context) error {
	if u.Quiet {
		return nil
	}
	var jobs []river.JobArgs
	for _, j := range u.starts.jobs {
		jobs = append(jobs, j)
	}
	woken, err := u.wakes(ctx)
	if err != nil {
		return err
	}
	return u.Enqueue(ctx, append(jobs, woken...)...)
}

// wakes finds the runs that wait for records of tables to which the unit wrote.
func (u *Unit) wakes(ctx context.Context) ([]river.JobArgs, error) {
	var out []river.JobArgs
	for schema, tables := range u.starts.waited {
		app, place, ok := EnvironmentOf(schema)
		if !ok {
			continue
		}
		ids, err := runs.In(u.Tx).Awaiting(ctx, app, place, slices.Sorted(maps.Keys(tables)))
		if err != nil {
			return nil, err
		}
		for _, id := range ids {
			out = append(out, Woken{Run: id})
		}
	}
	return out, nil
}

// EnvironmentOf tells of which environment of which app a schema is.
func EnvironmentOf(schema string) (app, place string, ok bool) {
	rest, is := strings.CutPrefix(schema, "app_")
	hex, place, more := strings.Cut(rest, "_")
	if !is || !more || len(hex) != 32 {
		return "", "", false
	}
	return hex[:8] + "-" + hex[8:12] + "-" + hex[12:16] + "-" + hex[16:20] + "-" + hex[20:], place, true
}
