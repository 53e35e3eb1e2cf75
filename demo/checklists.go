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
