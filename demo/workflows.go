package demo

import (
	"pinegate/core/blueprint"
	"pinegate/core/prop"
)

// does gives a step its id, its kind and, where it makes something, its name.
func does[S blueprint.Step](id, kind, name, key string, x S) blueprint.Step {
	*x.Self() = blueprint.StepHead{ID: id, Kind: kind, Name: name, Key: key, When: x.Self().When}
	return x
}

func pressed(record, when string, roles ...string) blueprint.Starts {
	return blueprint.Starts{Trigger: &blueprint.PressTrigger{TriggerHead: blueprint.TriggerHead{Kind: "press", When: when}, Record: record,
		Roles: roles}}
}

// sets lists what a step sets: keys of fields of a table, and expressions.
func sets(table string, pairs ...string) []prop.Given {
	var out []prop.Given
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, prop.Given{Field: fieldID(table, pairs[i]), Value: pairs[i+1]})
	}
	return out
}

// gives lists what a step sends: ids of what is sent, and expressions.
func gives(pairs ...string) []prop.Given {
	var out []prop.Given
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, prop.Given{Field: pairs[i], Value: pairs[i+1]})
	}
	return out
}

// starter makes a button that starts a workflow.
func starter(text, flow string) block {
	return &blueprint.ButtonBlock{BlockHead: kind("button"), Text: text, Flow: flow}
}

// workflows are what the yard's app does by itself, or at the press of a button.
func workflows() []blueprint.Workflow {
	return []blueprint.Workflow{
		{ID: "w_done", Name: "Mark as done", Starts: pressed("ord", `status <> "Done"`, "r_crew", "r_man"), Steps: blueprint.Steps{
			does("w_done_1", "change", "", "", &blueprint.ChangeStep{Which: blueprint.Which{Record: "this"},
				Values: sets("ord", "status", `"Done"`, "finished", "TODAY()")}),
			does("w_done_2", "message", "", "", &blueprint.MessageStep{Text: "{{title}} is done. Well done!"}),
		}},
		{ID: "w_tell", Name: "Tell the owner that the work is done", Rights: blueprint.AppRights, Starts: blueprint.Starts{
			Trigger: &blueprint.ChangedTrigger{TriggerHead: blueprint.TriggerHead{Kind: "changed", When: `status = "Done"`}, Table: "ord",
				Fields: []string{"ord_status"}}}, Steps: blueprint.Steps{
			does("w_tell_1", "mail", "", "", &blueprint.MailStep{To: "boat.owner.email", Subject: "{{boat.name}}: {{title}} is done",
				Body: "Dear {{boat.owner.name}},\n\nthe work on **{{boat.name}}** is done: {{title}}. " +
					"You can collect her whenever it suits you.\n\nAlder Cove Boatyard"}),
		}},
		accept(), invoice(), decision(), overdue(), reminder(), again(), slot(), enquiry(), request(), news(), welcoming(), weekly(), cheering(),
	}
}

// enquiry gives what somebody asks to who knows about it, and shows a page that helps; those who want the newsletter
// get it whichever path was taken.
func enquiry() blueprint.Workflow {
	path := func(n, when, trade, page string) blueprint.Step {
		id := "w_enq_" + n
		who := "expert " + n
		return does(id, "path", "", "", &blueprint.PathStep{StepHead: blueprint.StepHead{When: when}, Steps: blueprint.Steps{
			does(id+"f", "find", who, "expert_"+n, &blueprint.FindStep{What: blueprint.FirstFound, Table: "crew",
				Where: "active and trade = \"" + trade + "\"", Sort: "crew_name"}),
			does(id+"m", "mail", "", "", &blueprint.MailStep{To: "made.expert_" + n + ".email", Subject: "{{owner.name}} asks: {{subject}}",
				Body: "{{message}}\n\n{{owner.name}}, {{owner.email}}", ReplyTo: "owner.email"}),
			does(id+"o", "open", "", "", &blueprint.OpenStep{Page: page}),
		}})
	}
	return blueprint.Workflow{ID: "w_enq", Name: "Pass an enquiry on", Rights: blueprint.AppRights, Starts: blueprint.Starts{
		Trigger: &blueprint.SentTrigger{TriggerHead: blueprint.TriggerHead{Kind: "sent"}, Form: "p_enquire_c"}}, Steps: blueprint.Steps{
		does("w_enq_0", "branch", "", "", &blueprint.BranchStep{Steps: blueprint.Steps{
			path("1", `about = "Storage"`, "Crane driver", "p_berths"), path("2", `about = "Repair"`, "Shipwright", "p_mend"),
			path("3", `about = "Sale"`, "Sailmaker", "p_sale"), path("4", "", "Yard office", "p_home"),
		}}),
		does("w_enq_5", "change", "", "", &blueprint.ChangeStep{StepHead: blueprint.StepHead{When: "answers.newsletter"},
			Which: blueprint.Which{Record: "owner"}, Values: sets("own", "news", "true")}),
	}}
}

// decision is for crew who cannot go on with an order: they say what is in the way, and the managers are told.
func decision() blueprint.Workflow {
	w := blueprint.Workflow{ID: "w_wait", Name: "Ask for a decision",
		Starts: pressed("ord", `status <> "Done" and status <> "Waiting for parts"`, "r_crew")}
	w.Starts.Trigger.(*blueprint.PressTrigger).Blocks = blueprint.Blocks{
		&blueprint.FreeBlock{BlockHead: blueprint.BlockHead{ID: "w_wait_q1", Kind: "ask"}, Name: "What is in the way", Key: "reason",
			Type: blueprint.Text, Asking: blueprint.Asking{Required: true, Start: `"A part is missing"`}},
		&blueprint.FreeBlock{BlockHead: blueprint.BlockHead{ID: "w_wait_q2", Kind: "ask"}, Name: "Decide by", Key: "until",
			Type: blueprint.Date},
	}
	w.Steps = blueprint.Steps{
		does("w_wait_1", "add", "new note", "new_note", &blueprint.AddStep{Table: "onote", Values: sets("onote", "text", "answers.reason",
			"order", "this", "crew", "me", "day", "TODAY()")}),
		does("w_wait_2", "change", "", "", &blueprint.ChangeStep{Which: blueprint.Which{Record: "this"},
			Values: sets("ord", "status", `"Waiting for parts"`)}),
		does("w_wait_3", "find", "managers", "managers", &blueprint.FindStep{What: blueprint.ListFound, Table: "crew", Where: "manager"}),
		does("w_wait_4", "mail", "", "", &blueprint.MailStep{To: "made.managers.email", Subject: "{{boat.name}}: a decision is needed",
			Body:    "{{me.name}} cannot go on with **{{title}}** on {{boat.name}}: {{answers.reason}}.\n\nDecide by: {{answers.until}}",
			ReplyTo: "me.email"}),
		does("w_wait_5", "message", "", "", &blueprint.MessageStep{Text: "The managers are told: {{answers.reason}}."}),
		does("w_wait_6", "repeat", "", "", &blueprint.RepeatStep{Most: 3, Until: `status <> "Waiting for parts"`,
			LoopItem: blueprint.LoopItem{ItemName: "round", ItemKey: "round"}, Steps: blueprint.Steps{
				does("w_wait_7", "wait", "decided", "decided", &blueprint.WaitStep{For: blueprint.WaitsCondition,
					Holds: `status <> "Waiting for parts"`, N: 2, Unit: blueprint.Days}),
				does("w_wait_8", "mail", "", "", &blueprint.MailStep{StepHead: blueprint.StepHead{When: "not made.decided"},
					To: "made.managers.email", Subject: "{{boat.name}}: still waiting for a decision ({{made.round}} of 3)",
					Body: "**{{title}}** on {{boat.name}} is still waiting: {{answers.reason}}."}),
			}}),
	}
	return w
}

// request tells the managers of a new request, with its photos.
func request() blueprint.Workflow {
	return blueprint.Workflow{ID: "w_ask", Name: "Tell the yard about a new request", Rights: blueprint.AppRights, Starts: blueprint.Starts{
		Trigger: &blueprint.AddedTrigger{TriggerHead: blueprint.TriggerHead{Kind: "added"}, Table: "req"}}, Steps: blueprint.Steps{
		does("w_ask_1", "find", "manager", "manager", &blueprint.FindStep{What: blueprint.FirstFound, Table: "crew",
			Where: "manager and active", Sort: "crew_name"}),
		does("w_ask_2", "mail", "", "", &blueprint.MailStep{To: "made.manager.email", Subject: "New request: {{title}}",
			Body: "{{owner.name}} asks for work on **{{boat.name}}**: {{title}}.", ReplyTo: "owner.email", Pictures: "photos",
			Attach: "photos"}),
	}}
}

// news sends a new notice to the owners who want the newsletter.
func news() blueprint.Workflow {
	return blueprint.Workflow{ID: "w_news", Name: "Yard news", Rights: blueprint.AppRights, Starts: blueprint.Starts{
		Trigger: &blueprint.AddedTrigger{TriggerHead: blueprint.TriggerHead{Kind: "added"}, Table: "news"}}, Steps: blueprint.Steps{
		does("w_news_1", "find", "readers", "readers", &blueprint.FindStep{What: blueprint.ListFound, Table: "own", Where: "news"}),
		does("w_news_2", "mail", "", "", &blueprint.MailStep{To: "made.readers.email", Subject: "{{title}}",
			Body: "{{text}}\n\nAlder Cove Boatyard, {{day}}"}),
	}}
}

// accept makes an order of a request, with the steps that are usual for such work.
func accept() blueprint.Workflow {
	tells := func(id, until string) blueprint.Step {
		return does(id, "mail", "", "", &blueprint.MailStep{To: "owner.email", Subject: "We will look after {{boat.name}}",
			Body: "Dear {{owner.name}},\n\nyour request “{{title}}” is now in our plan" + until})
	}
	path := func(id, when string, steps ...blueprint.Step) blueprint.Step {
		return does(id, "path", "", "", &blueprint.PathStep{StepHead: blueprint.StepHead{When: when}, Steps: steps})
	}
	w := blueprint.Workflow{ID: "w_accept", Name: "Accept a request", Starts: pressed("req", `status = "New"`, "r_man")}
	w.Steps = blueprint.Steps{
		does("w_accept_1", "add", "new order", "new_order", &blueprint.AddStep{Table: "ord", Values: sets("ord",
			"title", "title", "boat", "boat", "request", "this", "kind", "kind", "status", `"Planned"`, "due", "by")}),
		does("w_accept_9", "find", "usual steps", "usual_steps", &blueprint.FindStep{What: blueprint.ListFound, Table: "usual",
			Where: "kind = this.kind", Sort: "usual_place"}),
		does("w_accept_a", "add", "steps of the order", "steps_of_the_order", &blueprint.AddStep{Table: "ostep", For: "made.usual_steps",
			Values: sets("ostep", "text", "text", "order", "made.new_order", "place", "place")}),
		does("w_accept_2", "change", "", "", &blueprint.ChangeStep{Which: blueprint.Which{Record: "this"},
			Values: sets("req", "status", `"Accepted"`)}),
		does("w_accept_3", "branch", "", "", &blueprint.BranchStep{Steps: blueprint.Steps{
			path("w_accept_4", "ISBLANK(by)", tells("w_accept_5", ". We will tell you the day soon.")),
			path("w_accept_6", "", tells("w_accept_7", ", to be ready by {{by}}.")),
		}}),
		does("w_accept_8", "open", "", "", &blueprint.OpenStep{Page: "p_order", Record: "made.new_order"}),
	}
	return w
}

// invoice raises the invoice of an order: a line for each part and each entry of hours, then what it comes to,
// then its mail.
func invoice() blueprint.Workflow {
	return blueprint.Workflow{ID: "w_invoice", Name: "Raise the invoice", Starts: pressed("ord", `status = "Done"`, "r_man"),
		Steps: blueprint.Steps{
			does("w_invoice_1", "find", "number of invoices", "number_of_invoices",
				&blueprint.FindStep{What: blueprint.NumberFound, Table: "inv"}),
			does("w_invoice_2", "find", "used parts", "used_parts", &blueprint.FindStep{What: blueprint.ListFound, Table: "part",
				Where: "order = this"}),
			does("w_invoice_3", "stop", "", "", &blueprint.StopStep{StepHead: blueprint.StepHead{
				When: "COUNT(made.used_parts) = 0 and COUNT(entries) = 0"}, Text: "There are no parts and no hours on this order yet."}),
			does("w_invoice_4", "add", "new invoice", "new_invoice", &blueprint.AddStep{Table: "inv", Values: sets("inv",
				"number", `"A-" & (10000 + made.number_of_invoices)`, "owner", "boat.owner", "boat", "boat", "day", "TODAY()",
				"due", "ADDDAYS(TODAY(), 14)", "status", `"Draft"`)}),
			does("w_invoice_5", "add", "lines for parts", "lines_for_parts", &blueprint.AddStep{Table: "ili", For: "made.used_parts",
				Values: sets("ili", "text", "part", "invoice", "made.new_invoice", "quantity", "quantity", "price", "price")}),
			does("w_invoice_6", "add", "lines for hours", "lines_for_hours", &blueprint.AddStep{Table: "ili", For: "entries",
				Values: sets("ili", "text", `"Work on " & day`, "invoice", "made.new_invoice", "quantity", "hours", "price", "65")}),
			does("w_invoice_7", "change", "", "", &blueprint.ChangeStep{
				Which: blueprint.Which{Record: "made.new_invoice"}, Values: sets("inv",
					"total", "SUM(made.lines_for_parts.amount) + SUM(made.lines_for_hours.amount)", "status", `"Sent"`)}),
			does("w_invoice_8", "mail", "", "", &blueprint.MailStep{To: "boat.owner.email", Subject: "Invoice {{made.new_invoice.number}}",
				Body: "Dear {{boat.owner.name}},\n\nthe invoice **{{made.new_invoice.number}}** for {{title}} comes to " +
					"€ {{TEXT(made.new_invoice.total, \"#,##0.00\")}} and is due on {{made.new_invoice.due}}.",
				Each: "made.lines_for_parts", Line: "{{quantity}} × {{text}} at € {{TEXT(price, \"#,##0.00\")}}"}),
			does("w_invoice_9", "message", "", "", &blueprint.MessageStep{Text: "Invoice {{made.new_invoice.number}} is on its way."}),
		}}
}

// overdue mails each owner once who has invoices that are a week overdue, each morning.
func overdue() blueprint.Workflow {
	w := blueprint.Workflow{ID: "w_over", Name: "Remind about overdue invoices", Starts: blueprint.Starts{
		Trigger: &blueprint.ScheduleTrigger{TriggerHead: blueprint.TriggerHead{Kind: "schedule"}, Every: blueprint.EveryDay, At: "08:00"}}}
	w.Steps = blueprint.Steps{
		does("w_over_1", "find", "overdue invoices", "overdue_invoices", &blueprint.FindStep{What: blueprint.ListFound, Table: "inv",
			Where: `status = "Sent" and due = ADDDAYS(TODAY(), -7)`}),
		does("w_over_2", "each", "", "", &blueprint.EachStep{List: "UNIQUE(made.overdue_invoices.owner)",
			LoopItem: blueprint.LoopItem{ItemName: "owner", ItemKey: "owner"},
			Steps: blueprint.Steps{
				does("w_over_3", "let", "theirs", "theirs", &blueprint.LetStep{
					Value: "FILTER(made.overdue_invoices, owner = made.owner)"}),
				does("w_over_4", "mail", "", "", &blueprint.MailStep{To: "made.owner.email", Subject: "A reminder from Alder Cove Boatyard",
					Body: "Dear {{made.owner.name}},\n\nthese invoices were due a week ago: {{made.theirs.number}}, together " +
						"€ {{TEXT(SUM(made.theirs.total), \"#,##0.00\")}}. If you have paid meanwhile, thank you."}),
			}}),
	}
	return w
}

// reminder tells owners of a haul-out three days before.
func reminder() blueprint.Workflow {
	w := blueprint.Workflow{ID: "w_haul", Name: "Remind about haul-outs", Starts: blueprint.Starts{
		Trigger: &blueprint.DateTrigger{TriggerHead: blueprint.TriggerHead{Kind: "date", When: "not done"}, Table: "haul",
			Field: "haul_day",
			Days:  3, Side: blueprint.BeforeDate, At: "09:00"}}}
	w.Steps = blueprint.Steps{
		does("w_haul_2", "call", "tides", "tides", &blueprint.CallStep{Call: "c_tides", Goes: true,
			Values: gives("c_tides_harbour", `"Alder Cove"`, "c_tides_day", "day")}),
		does("w_haul_3", "let", "high water", "high_water", &blueprint.LetStep{Value: `JOIN(FILTER(made.tides, high).at, " and ")`}),
		does("w_haul_1", "mail", "", "", &blueprint.MailStep{To: "boat.owner.email", Subject: "{{boat.name}}: {{kind}} on {{day}}",
			Body: "Dear {{boat.owner.name}},\n\n{{boat.name}} is due on {{day}} ({{kind}}). Please have her at the slip by eight." +
				`{{IF(ISBLANK(made.high_water), "", " High water: " & made.high_water & ".")}}`}),
	}
	return w
}
