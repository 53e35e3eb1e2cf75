package demo

import "pinegate/core/blueprint"

// welcome is what is to be done for a new owner. It is begun when they are added, and by hand.
func welcome() block {
	return &blueprint.ChecklistBlock{BlockHead: kind("checklist"), Title: "Welcome {{ name }}", Items: "todo", Link: "todo_owner",
		Text: "todo_step", Done: "todo_done", At: "todo_at", By: "todo_by", Due: "todo_due", Order: "todo_place", Round: "todo_list",
		Steps: "wel", From: "todo_from", Values: sets("todo", "step", "step", "place", "place", "due", "ADDDAYS(TODAY(), after)")}
}

// welcoming begins the welcome list of each owner who is added.
func welcoming() blueprint.Workflow {
	return blueprint.Workflow{ID: "w_welcome", Name: "Begin the welcome list", Rights: blueprint.AppRights,
		Starts: blueprint.Starts{Trigger: &blueprint.AddedTrigger{TriggerHead: blueprint.TriggerHead{Kind: "added"}, Table: "own"}},
		Steps: blueprint.Steps{
			does("w_welcome_1", "each", "", "", &blueprint.EachStep{List: "RECORDS(welcome_steps)",
				LoopItem: blueprint.LoopItem{ItemName: "welcome step", ItemKey: "welcome_step"}, Steps: blueprint.Steps{
					does("w_welcome_2", "add", "thing to do", "thing_to_do", &blueprint.AddStep{Table: "todo", Values: sets("todo",
						"step", "made.welcome_step.step", "owner", "this", "place", "made.welcome_step.place", "list", "1",
						"due", "ADDDAYS(TODAY(), made.welcome_step.after)", "from", "made.welcome_step")}),
				}}),
		}}
}

// cheering writes to whoever got a badge.
func cheering() blueprint.Workflow {
	return blueprint.Workflow{ID: "w_cheer", Name: "Email whoever reached a target", Rights: blueprint.AppRights,
		Starts: blueprint.Starts{Trigger: &blueprint.AddedTrigger{TriggerHead: blueprint.TriggerHead{Kind: "added"}, Table: "bdg"}},
		Steps: blueprint.Steps{
			does("w_cheer_1", "mail", "", "", &blueprint.MailStep{To: "who.email", Subject: "You have the badge {{badge}}",
				Body: "Hello {{who.name}},\n\nthe target is reached, and the badge **{{badge}}** is yours. Thank you for your part in it."}),
		}}
}

// weekly tells the managers each Monday how the week before went against what was aimed at.
func weekly() blueprint.Workflow {
	number := func(id, name, key, table, where string) blueprint.Step {
		return does(id, "find", name, key, &blueprint.FindStep{What: blueprint.NumberFound, Table: table, Where: where})
	}
	return blueprint.Workflow{ID: "w_week", Name: "Weekly summary", Rights: blueprint.AppRights, Starts: blueprint.Starts{
		Trigger: &blueprint.ScheduleTrigger{TriggerHead: blueprint.TriggerHead{Kind: "schedule"}, Every: blueprint.EveryWeek, Weekday: "1",
			At: "07:00"}}, Steps: blueprint.Steps{
		number("w_week_1", "finished", "finished", "ord", "finished >= ADDDAYS(TODAY(), -7) and finished < TODAY()"),
		does("w_week_6", "find", "hours", "hours", &blueprint.FindStep{What: blueprint.SumFound, Table: "time", Of: "hours",
			Where: "day >= ADDDAYS(TODAY(), -7) and day < TODAY()"}),
		does("w_week_7", "find", "takings", "takings", &blueprint.FindStep{What: blueprint.SumFound, Table: "inv", Of: "total",
			Where: `status <> "Draft" and day >= ADDDAYS(TODAY(), -7) and day < TODAY()`}),
		does("w_week_8", "find", "hours aimed at", "hours_aimed_at", &blueprint.FindStep{What: blueprint.SumFound, Table: "goal",
			Of: "hours", Where: "YEAR(month) = YEAR(ADDDAYS(TODAY(), -7)) and MONTH(month) = MONTH(ADDDAYS(TODAY(), -7))"}),
		number("w_week_2", "berths taken", "berths_taken", "boat", "berth <> empty"),
		number("w_week_3", "overdue", "overdue", "inv", "late > 0"),
		does("w_week_4", "find", "managers", "managers", &blueprint.FindStep{What: blueprint.ListFound, Table: "crew",
			Where: "manager and active"}),
		does("w_week_5", "mail", "", "", &blueprint.MailStep{To: "made.managers.email", Subject: "The week before {{TODAY()}}",
			Body: "Orders finished: **{{made.finished}}**, of at least 3: {{IF(made.finished >= 3, \"reached\", \"not reached\")}}.\n\n" +
				"Hours worked: **{{ROUND(made.hours, 1)}}**, of {{ROUND(made.hours_aimed_at * 7 / 30, 0)}} aimed at in a week of that month.\n\n" +
				"Takings: **{{ROUND(made.takings, 2)}} EUR**.\n\n" +
				"Berths taken: **{{made.berths_taken}}**, between 30 and 45: " +
				"{{IF(made.berths_taken >= 30 and made.berths_taken <= 45, \"within\", \"outside\")}}.\n\n" +
				"Invoices overdue: **{{made.overdue}}**."}),
	}}
}
