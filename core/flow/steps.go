package flow

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// doers say what a step of each kind does: by itself, or outside. They stand beside the rows of
// kinds in core/blueprint; a test finds a kind without one.
var doers = map[string]func(m *Machine, s *step, w *world) (Effect, error){
	"add": doAdd, "change": doChange, "delete": doDelete, "find": doFind, "let": doLet, "mail": doMail,
	"message": doMessage, "open": doOpen, "branch": doBranch, "each": doEach, "repeat": doRepeat,
	"wait": doWait, "call": doCall, "routine": doRoutine, "document": doDocument, "keep": doKeep, "person": doPerson,
	"stop": doStop,
}

func decimalOf(n int) decimal.Decimal { return decimal.NewFromInt(int64(n)) }

// row computes the values that a step sets, about a record of a list where it is given one.
func (p *Program) row(s *step, w *world, item *expr.Value) Row {
	out := Row{Values: map[string]expr.Value{}}
	for _, g := range s.values {
		if item != nil {
			out.Values[g.field] = expr.EvalIn(g.value, p.Catalog, w, *item)
		} else {
			out.Values[g.field] = p.eval(g.value, w)
		}
	}
	return out
}

func doAdd(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.AddStep)
	out := &Add{Table: x.Table}
	if x.For == "" {
		out.Rows = []Row{m.program.row(s, w, nil)}
		return out, nil
	}
	for _, item := range m.program.eval(s.exprs["for"], w).Items {
		out.Rows = append(out.Rows, m.program.row(s, w, &item))
	}
	return out, m.spend(len(out.Rows))
}

// spend counts rounds of loops, of which a run can take so many.
func (m *Machine) spend(rounds int) error {
	if m.state.Rounds+rounds > blueprint.MostRounds {
		return words.New("flow-rounds", "n", blueprint.MostRounds)
	}
	return nil
}

// which gives the records that a step is about: one, or those that are to be found first.
func (m *Machine) which(s *step, x *blueprint.Which, w *world) (record string, all *Find) {
	if !x.All {
		return m.program.eval(s.exprs["record"], w).Text, nil
	}
	return "", &Find{Table: x.Table, Where: expr.Ground(s.exprs["where"], m.program.Catalog, w), Most: blueprint.MostRounds + 1}
}

// tableOf gives the table of the record that a step is about.
func (m *Machine) tableOf(s *step, x *blueprint.Which) string {
	if x.All {
		return x.Table
	}
	return s.exprs["record"].Type().Table
}

func doChange(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.ChangeStep)
	record, all := m.which(s, &x.Which, w)
	table := m.tableOf(s, &x.Which)
	if all == nil {
		if record == "" { // nothing to change
			m.done(s, nil)
			return nil, nil
		}
		w.hold(table, record)
		row := m.program.row(s, w, nil)
		row.ID = record
		return &Change{Table: table, Rows: []Row{row}}, nil
	}
	m.then = func(o Outcome) Effect {
		out := &Change{Table: table}
		w.hold(table, o.Records...)
		for _, id := range o.Records {
			item := expr.RecordOf(id)
			row := m.program.row(s, w, &item)
			row.ID = id
			out.Rows = append(out.Rows, row)
		}
		return orNil(out, len(out.Rows))
	}
	return all, nil
}

func doDelete(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.DeleteStep)
	record, all := m.which(s, &x.Which, w)
	table := m.tableOf(s, &x.Which)
	if all == nil {
		if record == "" {
			m.done(s, nil)
			return nil, nil
		}
		return &Delete{Table: table, Records: []string{record}}, nil
	}
	m.then = func(o Outcome) Effect { return orNil(&Delete{Table: table, Records: o.Records}, len(o.Records)) }
	return all, nil
}

// orNil gives the effect where it is about anything.
func orNil(e Effect, n int) Effect {
	if n == 0 {
		return nil
	}
	return e
}

func doFind(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.FindStep)
	out := &Find{Table: x.Table, Sort: x.Sort, Falling: x.Falling, Count: x.What == blueprint.NumberFound}
	if where := s.exprs["where"]; where != nil {
		out.Where = expr.Ground(where, m.program.Catalog, w)
	}
	if of := s.exprs["of"]; of != nil {
		out.Total, out.Of = x.What.Total(), expr.Ground(of, m.program.Catalog, w)
	}
	switch {
	case x.What == blueprint.FirstFound:
		out.Most = 1
	case x.Most > 0:
		out.Most = x.Most
	default:
		out.Most = blueprint.MostFound
	}
	return out, nil
}

func doLet(m *Machine, s *step, w *world) (Effect, error) {
	m.done(s, &Value{m.program.eval(s.exprs["value"], w)})
	return nil, nil
}

func doMail(m *Machine, s *step, w *world) (Effect, error) {
	out := &Mail{Subject: oneLine(m.program.text(s.texts["subject"], w).Plain()), Body: m.program.text(s.texts["body"], w)}
	to := m.program.eval(s.exprs["to"], w)
	items := to.Items
	if items == nil {
		items = []expr.Value{to}
	}
	seen := map[string]bool{}
	for _, x := range items {
		address := strings.TrimSpace(x.Text)
		if key := strings.ToLower(address); address != "" && !seen[key] { // each once
			seen[key] = true
			out.To = append(out.To, address)
		}
	}
	if list := s.exprs["each"]; list != nil {
		items, line := m.program.eval(list, w).Items, s.texts["line"]
		if err := m.spend(len(items)); err != nil {
			return nil, err
		}
		for _, x := range items {
			out.Lines = append(out.Lines, Text{line, line.ShownIn(m.program.Catalog, w, x)})
		}
	}
	out.Leave = s.Step.(*blueprint.MailStep).Leave || s.exprs["to"].Type().Many
	out.Head = s.Step.(*blueprint.MailStep).Head
	out.Files, out.Pictures = m.files(s, "attach", w), m.files(s, "pictures", w)
	if reply := s.exprs["replyTo"]; reply != nil {
		out.ReplyTo = strings.TrimSpace(m.program.eval(reply, w).Text)
	}
	return out, nil
}

// files gives the ids of the files that a setting names, each once.
func (m *Machine) files(s *step, setting string, w *world) []string {
	var out []string
	if named := s.exprs[setting]; named != nil {
		for _, x := range m.program.eval(named, w).Items {
			if !slices.Contains(out, x.Text) {
				out = append(out, x.Text)
			}
		}
	}
	return out
}

// oneLine makes a text fit into one line.
func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

func doMessage(m *Machine, s *step, w *world) (Effect, error) {
	return &Show{Text: m.program.text(s.texts["text"], w).Plain(), Tone: string(s.Step.(*blueprint.MessageStep).Tone)}, nil
}

func doOpen(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.OpenStep)
	out := &Open{Page: x.Page}
	if x.Record != "" {
		if out.Record = m.program.eval(s.exprs["record"], w).Text; out.Record == "" { // there is none to show
			m.done(s, nil)
			return nil, nil
		}
	}
	return out, nil
}

func doBranch(m *Machine, s *step, _ *world) (Effect, error) {
	m.tell(s, Event{What: DidStep})
	m.into(s, Frame{})
	return nil, nil
}

func doEach(m *Machine, s *step, w *world) (Effect, error) {
	list := m.program.eval(s.exprs["list"], w)
	m.tell(s, Event{What: DidStep})
	if len(list.Items) == 0 {
		m.pass(s)
		return nil, nil
	}
	if err := m.spend(len(list.Items)); err != nil {
		return nil, err
	}
	m.inRounds(s, list.Items)
	return nil, nil
}

// inRounds begins the first of some rounds.
func (m *Machine) inRounds(s *step, items []expr.Value) {
	f := m.into(s, Frame{})
	for _, x := range items {
		f.Items = append(f.Items, Value{x})
	}
	m.round(s, f)
}

func doRepeat(m *Machine, s *step, w *world) (Effect, error) {
	m.tell(s, Event{What: DidStep})
	if m.enough(s, w) {
		m.pass(s)
		return nil, nil
	}
	var numbers []expr.Value
	for i := range s.Step.(*blueprint.RepeatStep).Most {
		numbers = append(numbers, expr.NumberOf(decimalOf(i+1)))
	}
	if err := m.spend(len(numbers)); err != nil {
		return nil, err
	}
	m.inRounds(s, numbers)
	return nil, nil
}

func doKeep(m *Machine, s *step, w *world) (Effect, error) {
	return &Keep{Kept: s.Step.(*blueprint.KeepStep).Kept, Value: m.program.eval(s.exprs["value"], w)}, nil
}

func doDocument(m *Machine, s *step, w *world) (Effect, error) {
	out := &Document{Title: oneLine(m.program.text(s.texts["title"], w).Plain()), Table: s.exprs["record"].Type().Table,
		Field: s.Step.(*blueprint.DocumentStep).Field, Record: m.program.eval(s.exprs["record"], w).Text}
	if files := m.program.eval(s.exprs["template"], w).Items; len(files) > 0 {
		out.Template = files[0].Text
	}
	if out.Record == "" { // there is none that it could be about
		m.done(s, nil)
		return nil, nil
	}
	return out, nil
}

func doPerson(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.PersonStep)
	email := strings.TrimSpace(m.program.eval(s.exprs["email"], w).Text)
	if email == "" { // there is nobody
		m.done(s, nil)
		return nil, nil
	}
	return &Person{Do: x.Do, Email: email, Role: x.Role}, nil
}

func doStop(m *Machine, s *step, w *world) (Effect, error) {
	return &Stop{Text: m.program.text(s.texts["text"], w).Plain()}, nil
}
