package demo

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
)

type block = blueprint.Block

func page(id, path, name string, roles []string, blocks ...block) blueprint.Page {
	p := blueprint.Page{ID: id, Path: path, Name: name, Audience: blueprint.SomeRole, Roles: roles, Blocks: blocks}
	if roles == nil {
		p.Audience = blueprint.Everyone
	}
	n, groups := 0, 0
	for x := range p.Blocks.Apart {
		if _, is := x.(*blueprint.GroupBlock); is {
			groups++
			x.Self().ID = fmt.Sprintf("%s_g%d", id, groups)
			continue
		}
		x.Self().ID = id + "_" + string(rune('a'+n))
		n++
		switch h := x.(type) {
		case *blueprint.RecordsBlock:
			number(h.Blocks, h.ID+"_r%d")
		case blueprint.Reporter:
			for i := range h.Report().Measures {
				h.Report().Measures[i].ID = fmt.Sprintf("%s_m%d", h.Self().ID, i+1)
			}
		case *blueprint.FormBlock:
			n := 0
			for x := range h.Blocks.All {
				n++
				x.Self().ID = fmt.Sprintf("%s_q%d", h.ID, n)
			}
			namedByKeys(h)
		}
	}
	return p
}

// number gives blocks their ids.
func number(blocks blueprint.Blocks, format string) {
	for i, x := range blocks {
		x.Self().ID = fmt.Sprintf(format, i+1)
	}
}

// group makes a block that holds blocks.
func group(look blueprint.GroupLook, title string, inside ...block) *blueprint.GroupBlock {
	return &blueprint.GroupBlock{BlockHead: kind("group"), Look: look, Title: title, Blocks: inside}
}

// wide gives a block a width.
func wide(x block, w blueprint.Width) block {
	x.Self().Width = w
	return x
}

// toned gives a block a tone.
func toned(x block, t blueprint.Tone) block {
	x.Self().Tone = t
	return x
}

// as shows a list in ways, with further settings.
func as(x block, set func(*blueprint.RecordsBlock), ways ...blueprint.ListWay) block {
	l := x.(*blueprint.RecordsBlock)
	l.Ways = ways
	set(l)
	return x
}

// about makes a page about one record of a table.
func about(table string, p blueprint.Page) blueprint.Page {
	p.Record = table
	return p
}

func kind(name string) blueprint.BlockHead { return blueprint.BlockHead{Kind: name} }

func heading(text string) block {
	return &blueprint.HeadingBlock{BlockHead: kind("heading"), Text: text}
}
func words(text string) block { return &blueprint.TextBlock{BlockHead: kind("text"), Text: text} }
func button(text, to string) block {
	return &blueprint.ButtonBlock{BlockHead: kind("button"), Text: text, Page: to}
}

func details(table string, keys ...string) block {
	return &blueprint.DetailsBlock{BlockHead: kind("details"), Fields: ids(table, keys)}
}

// editing lets fields of details be changed where they stand.
func editing(x block, keys ...string) block {
	d := x.(*blueprint.DetailsBlock)
	table, _, _ := strings.Cut(d.Fields[0], "_")
	d.Edit = ids(table, keys)
	return x
}

// editable lets fields be changed in the list itself.
func editable(x block, keys ...string) block {
	l := x.(*blueprint.RecordsBlock)
	l.Edit = ids(l.Table, keys)
	return x
}

func ids(table string, keys []string) []string {
	var out []string
	for _, k := range keys {
		out = append(out, fieldID(table, k))
	}
	return out
}

// rows makes a list; sort is a key, with a minus for falling.
func rows(table, filter, sort, open, empty string, keys ...string) block {
	l := &blueprint.RecordsBlock{BlockHead: kind("records"), Table: table, Filter: filter, Open: open, Empty: empty,
		Columns: ids(table, keys)}
	if sort != "" && sort[0] == '-' {
		l.Falling, sort = true, sort[1:]
	}
	if sort != "" {
		l.Sort = fieldID(table, sort)
	}
	return l
}

func plain(*blueprint.RecordsBlock) {}

// badge gives a list a title and a badge.
func badge(table, key, title string) func(*blueprint.RecordsBlock) {
	return func(l *blueprint.RecordsBlock) { l.Badge, l.Title = fieldID(table, key), title }
}

// steps makes a line of the choices of a field.
func steps(table, key string, without ...string) block {
	return &blueprint.StepsBlock{BlockHead: kind("steps"), Field: fieldID(table, key), Without: without}
}

// within puts blocks into the rows of a list.
func within(inside ...block) func(*blueprint.RecordsBlock) {
	return func(l *blueprint.RecordsBlock) { l.Blocks = inside }
}

// keep makes a question whose answers are kept.
func keep(text, to string, values ...string) block {
	return &blueprint.KeepBlock{BlockHead: kind("keep"), Text: text, Page: to, Values: values}
}

func kept() []blueprint.Kept {
	return []blueprint.Kept{{ID: "k_length", Key: "boat_length", Name: "Length of your boat in metres", Type: blueprint.Number}}
}

// parts has the buttons of a request, which are there in the row that is pointed at.
func parts() []blueprint.Part {
	hinted := func(id, text, to, hint string) block {
		return &blueprint.ButtonBlock{BlockHead: blueprint.BlockHead{ID: id, Kind: "button", While: "pt_here", Is: "yes"}, Text: text,
			Page: to, Hint: hint}
	}
	return []blueprint.Part{{ID: "pt_req", Name: "Buttons of a request", Record: "req",
		Values: []blueprint.OwnValue{{ID: "pt_here", Name: "Here"}},
		Reacts: []blueprint.Reaction{{ID: "pt_over", On: blueprint.Over, Value: "pt_here", To: "yes"},
			{ID: "pt_left", On: blueprint.Left, Value: "pt_here", After: 250}},
		Blocks: blueprint.Blocks{hinted("pt_answer", "Answer", "p_answer", "Say yes or no to the owner"),
			hinted("pt_look", "Read it", "p_req", "The request as the owner wrote it")}}}
}

// titled gives a list a title.
func titled(x block, title string) block {
	x.(*blueprint.RecordsBlock).Title = title
	return x
}

func offMenu(p blueprint.Page) blueprint.Page {
	p.OffMenu = true
	return p
}

func asks(table string, keys ...string) blueprint.Blocks {
	var out blueprint.Blocks
	for _, k := range keys {
		required := k[0] == '!'
		if required {
			k = k[1:]
		}
		out = append(out, &blueprint.QuestionBlock{BlockHead: kind("question"), Field: fieldID(table, k),
			Asking: blueprint.Asking{Required: required}})
	}
	return out
}

// ofEngines says more of the questions of a request for work: engines are asked about more.
func ofEngines(q *blueprint.QuestionBlock) {
	switch q.Field {
	case "req_title":
		q.Example = "Antifouling before Easter"
	case "req_kind":
		q.Ask = blueprint.AskButtons
	case "req_engine":
		q.When, q.RequiredWhen = `answers.kind = "Engine"`, `answers.kind = "Engine"`
	case "req_run":
		q.When, q.Help = `answers.kind = "Engine"`, "As the hour meter says"
		q.Rules = []prop.Rule{{Holds: "answers.run >= 0", Says: "The hour meter begins at nought."}}
	}
}

// asking says more of questions.
func asking(questions blueprint.Blocks, say func(*blueprint.QuestionBlock)) blueprint.Blocks {
	for _, x := range questions {
		say(x.(*blueprint.QuestionBlock))
	}
	return questions
}

func form(f blueprint.FormBlock) block {
	f.BlockHead = kind("form")
	return &f
}

// inMenu gives pages their icons, and those of the yard and its office the words under which
// they stand.
func inMenu(pages []blueprint.Page) []blueprint.Page {
	icons := map[string]string{"p_home": "home", "p_berths": "anchor", "p_boats": "boat", "p_ask": "wrench", "p_reqs": "list",
		"p_invs": "receipt", "p_me": "person", "p_orders": "board", "p_log": "clock", "p_hauls": "calendar", "p_new": "bell",
		"p_owners": "people", "p_ests": "tag", "p_enqs": "mail", "p_invoices": "receipt", "p_due": "flag", "p_figures": "chart",
		"p_solar": "sun", "p_targets": "flag"}
	groups := map[string]string{"p_orders": "Yard", "p_log": "Yard", "p_hauls": "Yard", "p_new": "Office", "p_owners": "Office",
		"p_ests": "Office", "p_enqs": "Office", "p_invoices": "Office", "p_due": "Office", "p_solar": "Office", "p_targets": "Yard"}
	for i := range pages {
		p := &pages[i]
		if p.InMenu() {
			p.Icon, p.Group = icons[p.ID], groups[p.ID]
		}
	}
	return pages
}

func pages() []blueprint.Page {
	owners, crew, managers, yard, everybody := []string{"r_own"}, []string{"r_crew"}, []string{"r_man"}, []string{"r_crew", "r_man"},
		[]string{"r_own", "r_crew", "r_man"}
	return slices.Concat([]blueprint.Page{
		page("p_home", "welcome", "Welcome", nil,
			toned(group(blueprint.Band, "",
				heading("Alder Cove Boatyard"),
				words("We store, haul out and mend boats of up to 18 metres. The slipway is open from Monday to Saturday, and the kettle is always on.\n\nBoat owners sign in to see their boats, ask for work and follow it."),
				button("Go to my boats", "p_boats"), button("See the work orders", "p_orders")), blueprint.AccentTone),
			heading("Is there a berth for your boat?"),
			keep("Show the berths", "p_berths", "k_length"),
			heading("Notices"),
			as(rows("news", "", "-day", "", "No notices at the moment.", "day", "title", "text"), plain, blueprint.CardsWay),
			button("Ask us something", "p_enquire"), button("What winter storage costs", "p_storage")),
		page("p_berths", "berths", "Berths", nil,
			heading("Our berths"),
			words("Prices are for a year. Say how long your boat is, and you see those that take it."),
			keep("Show what fits", "", "k_length"),
			as(rows("ber", "", "dock", "", "There is no berth for so long a boat. Ring us all the same.", "name", "dock", "longest",
				"fee", "power"),
				func(l *blueprint.RecordsBlock) {
					l.Kept, l.Badge = "longest >= kept.boat_length", fieldID("ber", "dock")
					l.Filters = ids("ber", []string{"dock", "power"})
				}, blueprint.CardsWay, blueprint.TableWay)),
		page("p_boats", "my-boats", "My boats", owners,
			heading("Good to see you, {{ me.name }}"),
			words("These are your boats in our yard. Open one to see its details and its work."),
			as(rows("boat", "owner = me", "name", "p_boat", "You have no boats with us yet. Ring us, and we’ll find a berth.", "name", "photo",
				"registration", "kind", "length", "berth"), func(l *blueprint.RecordsBlock) { l.Picture = fieldID("boat", "photo") },
				blueprint.CardsWay, blueprint.TableWay),
			wide(as(titled(rows("req", `boat.owner = me and status <> "Done" and status <> "Declined"`, "", "p_req", "Nothing is open.", "kind", "by"), "Open requests"),
				within(steps("req", "status", choiceID("rs", "Declined"))), blueprint.CardsWay), blueprint.Half),
			wide(as(rows("inv", `owner = me and status <> "Paid"`, "due", "", "Everything is paid.", "number", "due", "total", "status"),
				badge("inv", "status", "Invoices to pay"), blueprint.LinesWay), blueprint.Half)),
		about("boat", page("p_boat", "boat", "Boat", everybody,
			heading("{{ name }}"),
			words("{{ kind }}, {{ length }} m, berth {{ berth.name }}"),
			details("boat", "photo", "name", "registration", "owner", "kind", "length", "draught", "built", "berth", "insured", "note"),
			button("Ask for work", "p_ask"),
			button("Look over her details", "p_check"),
			button("Give her a berth", "p_place"),
			heading("Requests for this boat"),
			rows("req", "boat = page.record", "", "p_req", "No requests yet.", "title", "kind", "by", "status"),
			heading("Haul-outs and launches"),
			rows("haul", "boat = page.record", "-day", "", "None planned.", "day", "kind", "done"))),
		page("p_ask", "ask-for-work", "Ask for work", owners,
			heading("What can we do for you?"),
			words("We answer within two working days."),
			form(blueprint.FormBlock{Table: "req",
				Blocks:  asking(asks("req", "!title", "!boat", "!kind", "engine", "run", "wish", "photos", "by"), ofEngines),
				Presets: []prop.Given{{Field: "req_owner", Value: "me"}, {Field: "req_status", Value: `"New"`}},
				Submit:  "Send the request", Then: "p_reqs",
				Thanks: "Thank you. We have your request and answer within two working days."})),
		page("p_reqs", "my-requests", "My requests", owners,
			heading("My requests"),
			rows("req", "owner = me", "", "p_req", "You have no requests yet.", "title", "boat", "kind", "by", "status"),
			button("Ask for work", "p_ask")),
		about("req", page("p_req", "request", "Request", everybody,
			heading("{{ title }}"),
			words("For {{ boat }}"),
			steps("req", "status", choiceID("rs", "Declined")),
			details("req", "title", "boat", "owner", "kind", "wish", "photos", "by", "status", "answer"))),
		page("p_invs", "my-invoices", "My invoices", owners,
			heading("My invoices"),
			as(rows("inv", "owner = me", "-day", "", "No invoices.", "number", "boat", "day", "due", "total", "status"),
				badge("inv", "status", ""), blueprint.LinesWay, blueprint.TableWay)),
		page("p_me", "my-details", "My details", owners,
			heading("My details"),
			words("Open the line to change your phone number or your address."),
			rows("own", "this = me", "", "p_owner", "", "name", "email", "phone")),
		about("own", page("p_owner", "owner", "Owner", []string{"r_own", "r_man"},
			heading("{{ name }}"),
			form(blueprint.FormBlock{Table: "own", Changes: true, Blocks: asks("own", "!name", "email", "phone", "address", "news", "note"),
				Submit: "Save", Thanks: "Your details are saved."}),
			welcome())),
		page("p_orders", "orders", "Work orders", yard,
			heading("Work orders"),
			as(rows("ord", "", "status", "p_order", "No work in hand.", "title", "boat", "kind", "status", "crew", "due"),
				func(l *blueprint.RecordsBlock) {
					l.Board, l.OpenAs, l.Export = fieldID("ord", "status"), blueprint.OpenPanel, true
					l.Filters = ids("ord", []string{"kind", "crew", "due"})
					l.Then, l.Tint = fieldID("ord", "due"), fieldID("ord", "status")
					l.Edit, l.Add = ids("ord", []string{"due"}), "p_job"
				}, blueprint.BoardWay, blueprint.TableWay)),
		about("ord", page("p_order", "order", "Work order", yard,
			heading("{{ title }}"),
			words("{{ boat }} of {{ boat.owner.name }}"),
			steps("ord", "status"),
			editing(details("ord", "title", "boat", "kind", "status", "crew", "start", "due", "hours", "price"), "status", "crew", "due"),
			heading("Steps"),
			editable(rows("ostep", "order = page.record", "place", "", "No steps yet.", "text", "done"), "done"),
			heading("Hours"),
			&blueprint.TimerBlock{BlockHead: kind("timer"), Entries: "time", Link: "time_order", By: "time_crew", Hours: "time_hours",
				Since: "time_started", Paused: "time_paused", Ended: "time_stopped", Sort: "time_kind", Day: "time_day"},
			rows("time", "order = page.record", "-day", "", "No hours yet.", "day", "crew", "hours", "note"),
			heading("Parts"),
			rows("part", "order = page.record", "", "", "No parts yet.", "part", "quantity", "price"),
			form(blueprint.FormBlock{Table: "part", Opens: "Add a part", Blocks: asks("part", "!part", "!quantity", "price"),
				Presets: []prop.Given{{Field: "part_order", Value: "page.record"}}, Submit: "Add it", Thanks: "{{ part }} is added."}),
			toned(starter("Mark as done", "w_done"), blueprint.GoodTone), starter("Raise the invoice", "w_invoice"),
			starter("Ask for a decision", "w_wait"), starter("Order the parts again", "w_parts"),
			heading("Notes"),
			rows("onote", "order = page.record", "-day", "", "No notes yet.", "day", "crew", "text"))),
		page("p_log", "log-hours", "Log hours", crew,
			heading("Log hours"),
			form(blueprint.FormBlock{Table: "time", Blocks: asks("time", "!order", "!day", "!hours", "note"),
				Presets: []prop.Given{{Field: "time_crew", Value: "me"}}, Submit: "Log", Thanks: "Logged."}),
			heading("My last hours"),
			rows("time", "crew = me", "-day", "", "No hours yet.", "day", "order", "hours", "note")),
		page("p_hauls", "haul-outs", "Haul-outs", yard,
			heading("Haul-outs and launches"),
			as(rows("haul", "", "day", "p_haul", "Nothing planned.", "day", "boat", "kind", "note"), func(l *blueprint.RecordsBlock) {
				l.From, l.Badge, l.OpenAs, l.Add = fieldID("haul", "day"), fieldID("haul", "kind"), blueprint.OpenDialog, "p_plan"
				l.Filters = ids("haul", []string{"kind", "done"})
			}, blueprint.CalendarWay, blueprint.LinesWay, blueprint.TableWay),
			heading("Tides today"),
			&blueprint.ServiceBlock{BlockHead: kind("service"), Call: "c_tides", Minutes: 60,
				Values: gives("c_tides_harbour", `"Alder Cove"`, "c_tides_day", "TODAY()")}),
		about("haul", page("p_haul", "haul-out", "Haul-out or launch", yard,
			heading("{{ boat }}"),
			words("{{ kind }} on {{ day }}"),
			editing(details("haul", "day", "boat", "kind", "done", "note"), "day", "done"))),
		offMenu(page("p_plan", "plan-haul-out", "Plan a haul-out", yard,
			heading("Plan a haul-out or a launch"),
			form(blueprint.FormBlock{Table: "haul", Blocks: asks("haul", "!day", "!boat", "!kind", "note"), Submit: "Plan it",
				Then:   "p_hauls",
				Thanks: "It is planned."}))),
		page("p_new", "new-requests", "New requests", managers,
			heading("New requests"),
			as(rows("req", `status = "New"`, "", "p_req", "Every request has an answer.", "title", "boat", "owner", "kind", "by"),
				func(l *blueprint.RecordsBlock) {
					l.Blocks = blueprint.Blocks{&blueprint.PartBlock{BlockHead: kind("part"), Part: "pt_req"}}
				}, blueprint.LinesWay, blueprint.TableWay)),
		about("req", page("p_answer", "answer", "Answer a request", managers,
			heading("{{ title }}"),
			words("{{ owner.name }} asks for {{ boat }}: {{ wish }}"),
			form(blueprint.FormBlock{Table: "req", Changes: true, Blocks: asks("req", "!status", "answer"), Submit: "Send the answer",
				Then: "p_new", Thanks: "The owner sees your answer."}),
			starter("Accept it as an order", "w_accept"))),
		page("p_owners", "owners", "Owners", managers,
			heading("Owners"),
			as(rows("own", "", "name", "p_owner", "", "name", "email", "phone", "since"), func(l *blueprint.RecordsBlock) {
				l.OpenAs, l.Export, l.Filters = blueprint.OpenPanel, true, ids("own", []string{"since", "news"})
				l.Unfold = "p_fleet"
			})),
		about("own", page("p_fleet", "fleet", "Boats and invoices", managers,
			wide(as(rows("boat", "owner = page.record", "name", "p_boat", "No boats with us.", "name", "kind", "length", "berth"),
				func(l *blueprint.RecordsBlock) { l.Title, l.OpenAs = "Boats", blueprint.OpenPanel }, blueprint.LinesWay), blueprint.Half),
			wide(as(rows("inv", "owner = page.record", "-day", "", "No invoices yet.", "number", "due", "total", "status"),
				badge("inv", "status", "Invoices"), blueprint.LinesWay), blueprint.Half))),
		page("p_invoices", "invoices", "Invoices", managers,
			heading("Invoices"),
			as(rows("inv", "", "-day", "", "No invoices.", "number", "owner", "day", "due", "total", "status"),
				func(l *blueprint.RecordsBlock) {
					l.Group, l.Totals, l.Export = fieldID("inv", "status"), ids("inv", []string{"total"}), true
					l.Filters = ids("inv", []string{"status", "owner", "due"})
					l.Tones = []prop.Given{{Field: "danger", Value: `status = "Sent" and due < TODAY()`}}
				})),
		page("p_due", "overdue", "Overdue invoices", managers,
			heading("Overdue invoices"),
			rows("inv", `status = "Sent" and due < TODAY()`, "due", "", "No one owes us anything.", "number", "owner", "boat", "due",
				"total")),
	}, formPages(owners, managers), figurePages(yard), calculatorPages(managers))
}
