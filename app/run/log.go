package run

import (
	"encoding/json"
	"fmt"
	"time"

	"pinegate/core/flow"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// Entry is what a step did, as it is kept with a run.
type Entry struct {
	Step   string           `json:"step"`
	Rounds []int            `json:"rounds,omitempty"` // in which of the loops around it, counted from 0
	What   flow.What        `json:"what"`
	Looked []flow.Look      `json:"looked,omitempty"` // what its condition looked at
	Made   *flow.Value      `json:"made,omitempty"`
	Writes []*records.Write `json:"writes,omitempty"`
	Mail   *Mail            `json:"mail,omitempty"`
	Text   string           `json:"text,omitempty"`  // the message, the name of the page that is opened, or what is done
	Does   bool             `json:"does,omitempty"`  // the text says what is done, beside records and mails
	Found  *int             `json:"found,omitempty"` // how many records
	Until  *time.Time       `json:"until,omitempty"` // to when it waits
	Call   *Called          `json:"call,omitempty"`
	// Watched are the values of what was watched, after it.
	Watched []string `json:"watched,omitempty"`
	Micros  int64    `json:"micros"` // how long it took
}

// Mail is a mail as it goes out.
type Mail struct {
	To      []string `json:"to"`
	Subject string   `json:"subject"`
	Plain   string   `json:"plain"`
	Files   []string `json:"files,omitempty"` // names
	Shown   []string `json:"shown,omitempty"` // names of pictures below the text
	Left    []string `json:"left,omitempty"`  // who has unsubscribed
}

// Called is what a service was asked, and what it answered. It holds no secret.
type Called struct {
	Service string `json:"service"`
	Name    string `json:"name"`
	Asked   string `json:"asked"` // the method, the path and the query
	Body    string `json:"body,omitempty"`
	Answer  string `json:"answer,omitempty"`
	Sample  bool   `json:"sample,omitempty"` // a sample answered, and nothing went out
	Problem string `json:"problem,omitempty"`
}

// log gathers what steps do.
type log struct {
	entries []Entry
	began   time.Time
	open    bool // the last entry is of a step that is being done
	before  int  // how many are of earlier parts
}

// begin begins a part of a run after what earlier parts did.
func (l *log) begin(run *runs.Run, from place) error {
	l.began = time.Now()
	if from.Entries == 0 {
		return nil
	}
	if err := json.Unmarshal(run.Trace, &l.entries); err != nil {
		return fmt.Errorf("read what a run did: %w", err)
	}
	if len(l.entries) < from.Entries {
		return fmt.Errorf("read what a run did: there are %d entries of %d", len(l.entries), from.Entries)
	}
	l.entries, l.before = l.entries[:from.Entries], from.Entries
	if from.State.Since != nil || from.State.Asked != nil { // it is at the step that waits
		l.now().What, l.open = flow.Asked, true
	}
	return nil
}

// note notes what a machine tells.
func (l *log) note(e flow.Event) {
	if !l.open || e.What != flow.Asked && e.What != flow.DidStep {
		l.entries = append(l.entries, Entry{Step: e.Step, Rounds: e.Rounds})
	}
	x := l.now()
	x.What, x.Looked, x.Made = e.What, e.Looked, e.Made
	if e.Effect != nil {
		l.open = true
		return
	}
	now := time.Now()
	x.Micros = now.Sub(l.began).Microseconds()
	l.began, l.open = now, false
}

// now gives the entry of the step that is being done.
func (l *log) now() *Entry { return &l.entries[len(l.entries)-1] }

// did says what the step that is being done does beside records and mails.
func (l *log) did(text string) { l.now().Text, l.now().Does = text, true }

// last gives the id of the step at which the run is, or "".
func (l *log) last() string {
	if len(l.entries) == 0 {
		return ""
	}
	return l.now().Step
}
