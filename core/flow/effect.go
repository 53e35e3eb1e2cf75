package flow

import (
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/report"
)

// Effect is something outside of the machine that a step wants done.
type Effect interface{ effect() }

// Row is what is written of one record, by the ids of fields.
type Row struct {
	ID     string // of the record that is changed
	Values map[string]expr.Value
}

// Text is a text with the values of its placeholders, as people read them.
type Text struct {
	Template expr.Template
	Values   []string
}

// Plain gives the text.
func (t Text) Plain() string { return t.Template.Text(t.Values) }

// Whole gives the text of a mail with its lines, each value written in a way.
func (m *Mail) Whole(write func(string) string) string {
	out := m.Body.As(write)
	for i, line := range m.Lines {
		if i == 0 {
			out += "\n"
		}
		out += "\n- " + oneLine(line.As(write))
	}
	return out
}

// As gives the text with each value written in another way.
func (t Text) As(write func(string) string) string {
	values := make([]string, len(t.Values))
	for i, v := range t.Values {
		values[i] = write(v)
	}
	return t.Template.Text(values)
}

// The effects. Each is answered by an [Outcome].
type (
	// Add adds records; the outcome has their ids, in the same order.
	Add struct {
		Table string
		Rows  []Row
	}
	// Change changes records.
	Change struct {
		Table string
		Rows  []Row
	}
	// Delete moves records to the bin.
	Delete struct {
		Table   string
		Records []string
	}
	// Find finds records; the outcome has their ids, with Count how many there are, or with Total what the numbers Of them come
	// to. Where is over a record in hand; nil for all.
	Find struct {
		Table   string
		Where   *expr.Checked
		Sort    string
		Falling bool
		Most    int
		Count   bool
		Total   report.Total
		Of      *expr.Checked
	}
	// Mail is put among what goes out once the part is done.
	Mail struct {
		To      []string
		Subject string
		Body    Text // Markdown, as are the lines below it
		Lines   []Text
		ReplyTo string
		Files   []string // ids
		// Head is the id of a picture of the app above the text, Pictures are those of files of records below it.
		Head     string
		Pictures []string
		// Leave tells that people can unsubscribe from it.
		Leave bool
	}
	// Show shows a message to whoever set the run off.
	Show struct{ Text, Tone string }
	// Open opens a page for whoever set the run off.
	Open struct{ Page, Record string }
	// Keep keeps a value for whoever set the run off, as one of the kept values.
	Keep struct {
		Kept  string // id
		Value expr.Value
	}
	// Person signs somebody out, invites or approves them.
	Person struct {
		Do          blueprint.Admitting
		Email, Role string
	}
	// Document makes a document of a Word file, with the values of a record, in a field of which it is kept.
	Document struct {
		Title    string
		Template string // id of the file
		Table    string // id, as is the next
		Field    string
		Record   string
	}
	// Wait ends the part of the run; the next one is to be begun at a time, or when something that
	// the wait is for was changed. It is not answered: the run goes on from its state.
	Wait struct{ Until time.Time }
	// Call ends the part of the run as well: the service is asked, and the run goes on from its
	// state with what that answers.
	Call struct{ Request }
	// Stop ends the run and takes back what its part did.
	Stop struct{ Text string }
	// Done ends the run.
	Done struct{}
)

func (*Add) effect()      {}
func (*Change) effect()   {}
func (*Delete) effect()   {}
func (*Find) effect()     {}
func (*Mail) effect()     {}
func (*Show) effect()     {}
func (*Open) effect()     {}
func (*Keep) effect()     {}
func (*Person) effect()   {}
func (*Document) effect() {}
func (*Wait) effect()     {}
func (*Call) effect()     {}
func (*Stop) effect()     {}
func (*Done) effect()     {}

// Outcome is what became of an effect.
type Outcome struct {
	Records []string
	Count   int
	Number  expr.Value
}
