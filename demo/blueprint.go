// Package demo is the invented boatyard that shows what an app can be: its
// blueprint, and a seeded generator of its records.
package demo

import (
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
)

type f = blueprint.Field

// field makes a field whose id is made of its table's and its own key.
func field(key, name string, t blueprint.FieldType) f { return f{Key: key, Name: name, Type: t} }

func must(x f) f {
	x.Required = true
	return x
}

func link(key, name, target string) f {
	return f{Key: key, Name: name, Type: blueprint.Link, Target: target}
}

// money makes an amount in euros.
func money(key, name string) f {
	return f{Key: key, Name: name, Type: blueprint.Money, FieldSettings: blueprint.FieldSettings{Currency: "EUR"}}
}

// unit makes a number with what stands behind it.
func unit(key, name, unit string) f {
	return f{Key: key, Name: name, Type: blueprint.Number, FieldSettings: blueprint.FieldSettings{Unit: unit}}
}

// back shows the other side of a link that the target table has.
func back(key, name, target, of string) f {
	return f{Key: key, Name: name, Type: blueprint.Links, Target: target, FieldSettings: blueprint.FieldSettings{Of: target + "_" + of}}
}

// total sums a field of linked records; table is the id of the field's own.
func total(key, name, table, via, take string) f {
	return f{Key: key, Name: name, Type: blueprint.RollUp, FieldSettings: blueprint.FieldSettings{Via: fieldID(table, via), Take: take,
		Total: blueprint.SumTotal}}
}

// taken makes a field that shows one of a linked record.
func taken(key, name, table, via, take string) f {
	return f{Key: key, Name: name, Type: blueprint.Lookup, FieldSettings: blueprint.FieldSettings{Via: fieldID(table, via), Take: take}}
}

func formula(key, name, source string) f {
	return f{Key: key, Name: name, Type: blueprint.Formula, FieldSettings: blueprint.FieldSettings{Formula: source}}
}

// inEuros shows a computed number as money.
func inEuros(x f) f {
	x.Currency = "EUR"
	return x
}

func choose(key, name, list string) f {
	return f{Key: key, Name: name, Type: blueprint.Choose, List: list}
}

func table(id, key, name, label string, fields ...f) blueprint.Table {
	for i := range fields {
		fields[i].ID = fieldID(id, fields[i].Key)
	}
	return blueprint.Table{ID: id, Key: key, Name: name, Label: label, Fields: fields}
}

// year makes a field of a number that is shown as a year.
func year(key, name string) f {
	out := field(key, name, blueprint.Number)
	out.Show = blueprint.ShowYear
	return out
}

func fieldID(table, key string) string { return table + "_" + key }

func list(id, name string, labels ...string) blueprint.ChoiceList {
	l := blueprint.ChoiceList{ID: id, Name: name}
	for _, label := range labels {
		l.Choices = append(l.Choices, blueprint.Choice{ID: choiceID(id, label), Label: label})
	}
	return l
}

// coloured gives the choices of a list colours, in their order.
func coloured(l blueprint.ChoiceList, colours ...string) blueprint.ChoiceList {
	column := l.ID + "_colour"
	l.Columns = []blueprint.ListColumn{{ID: column, Key: "colour", Name: "Colour", Type: blueprint.ColourColumn}}
	for i, c := range colours {
		l.Choices[i].Values = map[string]string{column: c}
	}
	return l
}

// hundredths writes a number with two decimals.
func hundredths(x f) f {
	two := 2
	x.Decimals = &two
	return x
}

// priced gives the choices of a list prices, in their order.
func priced(l blueprint.ChoiceList, prices ...string) blueprint.ChoiceList {
	column := l.ID + "_price"
	l.Columns = []blueprint.ListColumn{{ID: column, Key: "price", Name: "Price per metre", Type: blueprint.NumberColumn}}
	for i, p := range prices {
		l.Choices[i].Values = map[string]string{column: p}
	}
	return l
}

func choiceID(list, label string) string {
	return list + "_" + strings.NewReplacer(" ", "_", "-", "_").Replace(strings.ToLower(label))
}

// Blueprint gives the boatyard's app.
func Blueprint() *blueprint.Blueprint {
	return &blueprint.Blueprint{Format: blueprint.Format, Name: "Alder Cove Boatyard", Zone: "Europe/London", Theme: "Harbour",
		Look:  blueprint.Look{Region: "en-GB", Phone: blueprint.BarMenu},
		Lists: lists(), Tables: tables(),
		Roles: roles(), Pages: inMenu(pages()), Parts: parts(), Kept: kept(), Workflows: workflows(), Connections: office(), Gate: gate(),
		Expectations: []blueprint.Expectation{
			{ID: "must_boats", Role: "r_own", Action: blueprint.See, Table: "boat", Except: "owner = me"},
			{ID: "must_owners", Role: blueprint.VisitorRole, Action: blueprint.See, Table: "own"},
		}}
}

func gate() blueprint.Gate {
	return blueprint.Gate{Ways: []blueprint.Way{blueprint.CodeWay, blueprint.PasswordWay},
		Session: blueprint.SessionSettings{Hours: 30 * 24, Prolonged: true},
		Terms: blueprint.Terms{Version: "2026-10",
			Text: "Boats are kept ashore at their owners’ risk. Berths are paid by the year, work by the hour. Invoices are due within 14 days.", Privacy: "We keep your name, address and telephone number to look after your boat, and show them to no one outside the yard."},
		Words: map[blueprint.GateWords]string{blueprint.SignUpText: "For owners who keep a boat with us, or would like to."}}
}

func lists() []blueprint.ChoiceList {
	return []blueprint.ChoiceList{
		list("bk", "Boat kinds", "Sailing yacht", "Motor boat", "Dinghy", "Trawler", "Day boat"),
		list("dk", "Docks", "North dock", "South dock", "Inner basin"),
		list("wk", "Work kinds", "Hull", "Engine", "Rigging", "Electrics", "Winter storage"),
		coloured(list("rs", "Request states", "New", "Accepted", "Declined", "Done"), "#2A6F97", "#1E5B43", "#A6324A", "#7A857F"),
		coloured(list("os", "Order states", "Planned", "In the yard", "Waiting for parts", "Done"), "#2A6F97", "#1E5B43", "#B8641B",
			"#7A857F"),
		list("es", "Estimate states", "Sent", "Accepted", "Declined"),
		coloured(list("is", "Invoice states", "Draft", "Sent", "Paid"), "#7A857F", "#B8641B", "#1E5B43"),
		priced(list("sp", "Storage places", "In the open", "In the shed", "In the heated shed"), "11", "19", "27"),
		list("tk", "Kinds of hours", "On the boat", "In the workshop", "Driving"),
		list("ek", "What enquiries are about", "Storage", "Repair", "Sale", "Something else"),
		coloured(list("hk", "Haul-out kinds", "Haul out", "Launch"), "#B8641B", "#2A6F97"),
	}
}

func tables() []blueprint.Table {
	const (
		text, long, number, yes, date, email = blueprint.Text, blueprint.LongText, blueprint.Number, blueprint.YesNo, blueprint.Date,
			blueprint.Email
	)
	return []blueprint.Table{
		table("own", "owners", "Owners", "name", must(field("name", "Name", text)), must(field("email", "Email", email)),
			field("phone", "Phone", text),
			field("address", "Address", long), field("since", "Customer since", date), field("news", "Wants the newsletter", yes),
			field("note", "Office note", long)),
		table("boat", "boats", "Boats", `name & " (" & registration & ")"`, must(field("name", "Name", text)),
			field("registration", "Registration", text), picture("photo", "Photo", false), link("owner", "Owner", "own"),
			choose("kind", "Kind", "bk"), unit("length", "Length", "m"), unit("draught", "Draught", "m"),
			year("built", "Built in"),
			link("berth", "Berth", "ber"), field("card", "Berth card", text), field("insured", "Insured until", date),
			field("note", "Yard note", long),
			back("orders", "Work orders", "ord", "boat")),
		table("pol", "policies", "Policies", `insurer & " " & number`, link("boat", "Boat", "boat"), must(field("insurer", "Insurer", text)),
			must(field("number", "Number of the policy", text)), must(field("until", "Valid until", date)),
			field("paper", "The policy", blueprint.File)),
		table("ber", "berths", "Berths", "name", must(field("name", "Name", text)), choose("dock", "Dock", "dk"),
			unit("longest", "Longest boat", "m"), money("fee", "Yearly fee"), field("power", "Shore power", yes)),
		table("req", "work_requests", "Work requests", "title", must(field("title", "Title", text)), must(link("boat", "Boat", "boat")),
			link("owner", "Owner", "own"), choose("kind", "Kind of work", "wk"),
			f{Key: "wish", Name: "What should be done", Type: long, Help: "Say what you noticed, and since when."},
			field("engine", "Make and model of the engine", text), field("run", "Hours it has run", number),
			picture("photos", "Photos", true), field("by", "Wanted by", date), choose("status", "Status", "rs"),
			field("answer", "Answer of the yard", long)),
		table("ord", "work_orders", "Work orders", "title", must(field("title", "Title", text)), must(link("boat", "Boat", "boat")),
			link("request", "Request", "req"), choose("kind", "Kind of work", "wk"),
			choose("status", "Status", "os"), link("crew", "Who does it", "crew"), field("start", "Starts on", date),
			field("due", "Due on", date), field("finished", "Finished on", date),
			field("hours", "Hours planned", number), money("price", "Price"),
			back("entries", "Time entries", "time", "order"), total("worked", "Hours worked", "ord", "entries", "time_hours"),
			formula("left", "Hours left", "hours - worked")),
		table("onote", "order_notes", "Order notes", "text", must(field("text", "Note", text)), must(link("order", "Work order", "ord")),
			link("crew", "Who", "crew"), field("day", "Date", date)),
		table("ostep", "order_steps", "Order steps", "text", must(field("text", "Step", text)), must(link("order", "Work order", "ord")),
			field("place", "Place", number), field("done", "Done", yes)),
		table("usual", "usual_steps", "Usual steps", "text", must(field("text", "Step", text)), must(choose("kind", "Kind of work", "wk")),
			field("place", "Place", number)),
		table("wel", "welcome_steps", "Welcome steps", "step", must(field("step", "Step", text)), unit("after", "Due after", "days"),
			field("place", "Place", number)),
		table("todo", "welcome_lists", "Welcome lists", "step", must(field("step", "Step", text)), must(link("owner", "Owner", "own")),
			field("done", "Done", yes), field("at", "Done at", blueprint.TimeStamp), link("by", "Done by", "crew"),
			field("due", "Due", date), field("place", "Place", number), field("list", "List", number), link("from", "Made from", "wel")),
		table("time", "time_entries", "Time entries", `day & " " & crew.name`, must(link("order", "Work order", "ord")),
			link("crew", "Who", "crew"), must(field("day", "Day", date)), must(hundredths(field("hours", "Hours", number))),
			field("note", "Note", text), choose("kind", "Kind of hours", "tk"), taken("work", "Kind of work", "time", "order", "ord_kind"),
			field("started", "Started at", blueprint.TimeStamp),
			field("paused", "Paused", yes),
			field("stopped", "Stopped at", blueprint.TimeStamp)),
		table("part", "parts_used", "Parts used", "part", must(field("part", "Part", text)), link("order", "Work order", "ord"),
			field("quantity", "Quantity", number), money("price", "Unit price"), inEuros(formula("amount", "Amount", "quantity * price")),
			taken("day", "Work began on", "part", "order", "ord_start")),
		table("est", "estimates", "Estimates", "number", must(field("number", "Number", text)), link("boat", "Boat", "boat"),
			link("owner", "Owner", "own"), field("day", "Date", date), choose("status", "Status", "es"), field("note", "Note", long),
			back("lines", "Lines", "eli", "estimate"), inEuros(total("total", "Total", "est", "lines", "eli_amount")),
			inEuros(total("tax", "Tax", "est", "lines", "eli_tax")), inEuros(formula("gross", "With tax", "total + tax"))),
		table("eli", "estimate_lines", "Estimate lines", "text", must(field("text", "Text", text)), link("estimate", "Estimate", "est"),
			field("quantity", "Quantity", number), money("price", "Unit price"), starting(field("taxable", "Taxable", yes), "true"),
			inEuros(formula("amount", "Amount", "quantity * price")),
			inEuros(formula("tax", "Tax", "IF(taxable, ROUND(amount * 0.2, 2), 0)"))),
		table("inv", "invoices", "Invoices", "number", must(field("number", "Number", text)), link("owner", "Owner", "own"),
			link("boat", "Boat", "boat"), field("day", "Date", date), field("due", "Due on", date), choose("status", "Status", "is"),
			money("total", "Total"), formula("late", "Days late", `IF(status = "Sent", MAX(0, DAYS(TODAY(), due)), 0)`)),
		table("ili", "invoice_lines", "Invoice lines", "text", must(field("text", "Text", text)), link("invoice", "Invoice", "inv"),
			field("quantity", "Quantity", number), money("price", "Unit price"), inEuros(formula("amount", "Amount", "quantity * price"))),
		table("haul", "haul_outs", "Haul-outs", `kind & ": " & boat.name`, must(link("boat", "Boat", "boat")), field("day", "Day", date),
			choose("kind", "Kind", "hk"), field("done", "Done", yes), field("note", "Note", text)),
		table("crew", "crew", "Crew", "name", must(field("name", "Name", text)), must(field("email", "Email", email)),
			field("trade", "Trade", text), field("phone", "Phone", text), field("active", "Works here", yes),
			field("manager", "Runs the yard", yes)),
		table("enq", "enquiries", "Enquiries", "subject", must(field("subject", "Subject", text)), must(field("message", "Question", long)),
			choose("about", "About", "ek"), link("owner", "Who asks", "own"), field("day", "Asked on", date)),
		table("news", "notices", "Notices", "title", must(field("title", "Title", text)), field("text", "Text", long),
			field("day", "Date", date), field("public", "Shown to visitors", yes)),
		table("goal", "season_targets", "Season targets", `month & ""`, must(field("month", "Month", date)),
			field("hours", "Hours", number), money("takings", "Takings")),
		table("bdg", "badges", "Badges", "badge", must(field("badge", "Badge", text)), must(link("who", "Who", "crew")),
			field("period", "First day of the period", date), field("reached", "Reached at", blueprint.TimeStamp),
			field("picture", "Picture", text), field("figure", "Figure", text)),
	}
}

// Permissions in short.
var (
	all  = blueprint.Permission{Extent: blueprint.AllRecords}
	none = blueprint.Permission{Extent: blueprint.NoRecords}
)

func where(condition string) blueprint.Permission {
	return blueprint.Permission{Extent: blueprint.Where, Condition: condition}
}

func rule(table string, see, add, change, del blueprint.Permission) blueprint.Rule {
	return blueprint.Rule{Table: table, See: see, Add: add, Change: change, Delete: del}
}

func roles() []blueprint.Role {
	owners := blueprint.Role{ID: "r_own", Name: "Boat owners", People: "own", Email: "own_email", Rules: []blueprint.Rule{
		rule("own", where("this = me"), none, where("this = me"), none),
		rule("boat", where("owner = me"), none, where("owner = me"), none),
		rule("ber", all, none, none, none),
		rule("pol", where("boat.owner = me"), where("boat.owner = me"), none, none),
		rule("req", where("owner = me"), where("owner = me and boat.owner = me"), none, none),
		rule("est", where("owner = me"), none, none, none),
		rule("inv", where(`owner = me and status <> "Draft"`), none, none, none),
		rule("haul", where("boat.owner = me"), none, none, none),
		rule("news", all, none, none, none),
		rule("todo", where("owner = me"), none, none, none),
	}}
	owners.Rules[0].Hidden, owners.Rules[0].Fixed = []string{"own_note"}, []string{"own_email", "own_since"}
	owners.Rules[1].Hidden, owners.Rules[1].Fixed = []string{"boat_note"}, []string{"boat_owner", "boat_berth", "boat_card"}
	owners.Rules[2].Hidden = []string{"ber_fee"}
	owners.Rules[4].Fixed = []string{"req_status", "req_answer"}
	owners.SignUp = blueprint.SignUp{Mode: blueprint.Open, Blocks: asks("own", "!name", "!phone", "address", "news"),
		Presets: []prop.Given{{Field: "own_since", Value: "TODAY()"}}}
	owners.Profile = blueprint.Profile{Blocks: asks("own", "name", "phone", "address", "news", "since"),
		Closing: blueprint.ClosingKeeps}
	crew := blueprint.Role{ID: "r_crew", Name: "Crew", People: "crew", Email: "crew_email", Admit: "active",
		Refusal: "You do not work at the yard at the moment. If you think you do, please call the office on 0555 0200.",
		SignUp: blueprint.SignUp{Mode: blueprint.Invited, Blocks: asks("crew", "!name", "trade", "phone"),
			Presets: []prop.Given{{Field: "crew_active", Value: "true"}}},
		Profile: blueprint.Profile{Blocks: asks("crew", "name", "trade", "phone")},
		Homes:   []prop.Path{{When: `trade = "Crane driver"`, Page: "p_hauls"}, {Page: "p_orders"}}, Rules: []blueprint.Rule{
			rule("own", all, none, none, none), rule("boat", all, none, all, none), rule("ber", all, none, none, none),
			rule("req", all, none, none, none), rule("ord", all, none, all, none),
			rule("time", all, where("crew = me"), where("crew = me"), where("crew = me")),
			rule("onote", all, where("crew = me"), where("crew = me"), where("crew = me")),
			rule("part", all, all, all, none), rule("haul", all, all, all, none), rule("crew", all, none, where("this = me"), none),
			rule("news", all, none, none, none), rule("ostep", all, all, all, none),
			rule("bdg", where("who = me"), none, none, none),
		}}
	crew.Rules[0].Hidden = []string{"own_note", "own_address"}
	crew.Rules[2].Hidden = []string{"ber_fee"}
	crew.Rules[4].Hidden = []string{"ord_price"}
	crew.Rules[7].Hidden = []string{"part_price", "part_amount"}
	crew.Rules[9].Fixed = []string{"crew_email", "crew_active", "crew_manager"}
	managers := blueprint.Role{ID: "r_man", Name: "Yard managers", People: "crew", Email: "crew_email", Where: "manager", Admit: "active"}
	for _, t := range tables() {
		managers.Rules = append(managers.Rules, rule(t.ID, all, all, all, all))
	}
	badges := len(managers.Rules) - 1
	managers.Rules[badges] = rule("bdg", all, none, none, none) // nobody gives one by hand
	visitors := blueprint.Role{ID: blueprint.VisitorRole, Name: "Visitors",
		Rules: []blueprint.Rule{rule("news", where("public"), none, none, none), rule("ber", all, none, none, none),
			rule("enq", none, all, none, none), rule("own", none, all, none, none)}}
	visitors.Rules[3].Hidden = []string{"own_address", "own_since", "own_news", "own_note"}
	out := []blueprint.Role{visitors, owners, crew, managers}
	for _, r := range out {
		number(r.SignUp.Blocks, r.ID+"_s%d")
		number(r.Profile.Blocks, r.ID+"_p%d")
	}
	return out
}

// starting gives a field what it starts as in a new record.
func starting(x f, source string) f {
	x.Default = source
	return x
}
