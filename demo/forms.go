package demo

import (
	"pinegate/core/blueprint"
	"pinegate/core/prop"
)

// step makes a step of a form.
func step(title, when string, inside ...block) block {
	return &blueprint.SectionBlock{BlockHead: blueprint.BlockHead{Kind: "section", When: when}, Way: blueprint.StepSection, Title: title,
		Blocks: inside}
}

// goes makes what goes with a form, linked by a field.
func goes(field, title string, inside ...block) *blueprint.WithBlock {
	return &blueprint.WithBlock{BlockHead: kind("with"), Link: field, Title: title, Blocks: inside}
}

// free makes a question that is not kept.
func free(key, name string, t blueprint.FieldType, list string) block {
	x := &blueprint.FreeBlock{BlockHead: kind("ask"), Key: key, Name: name, Type: t, List: list}
	if t == blueprint.YesNo {
		x.Ask = blueprint.AskButtons
	}
	return x
}

// formPages are the pages with the larger forms.
func formPages(owners, managers []string) []blueprint.Page {
	return []blueprint.Page{
		offMenu(page("p_enquire", "ask-us", "Ask us something", nil,
			heading("Ask us something"),
			words("We answer within two working days. If you keep a boat with us, use the address by which we know you."),
			form(blueprint.FormBlock{Table: "enq", Submit: "Send the question", Public: "enquiry", Sites: "https://sailing-club.example",
				Thanks:  "Thank you. We have your question and answer within two working days.",
				Presets: []prop.Given{{Field: "enq_day", Value: "TODAY()"}},
				Blocks: append(asking(asks("enq", "!subject", "!message"), ofEnquiries),
					finding(goes("enq_owner", "Who asks", asking(asks("own", "!name", "!email", "phone"), ofWhoAsks)...), "own_email"),
					asks("enq", "about")[0], free("newsletter", "Send me the newsletter", blueprint.YesNo, ""))}))),
		offMenu(page("p_mend", "how-we-repair", "How we repair boats", nil,
			heading("How we repair boats"),
			words("A shipwright looks at your boat first, and you get an estimate. Nothing is begun before you say yes."),
			button("Back to the yard", "p_home"))),
		offMenu(page("p_sale", "selling", "Selling your boat", nil,
			heading("Selling your boat"),
			words("We sell boats that we know. Have yours looked over in our yard, and we find her a new owner."),
			button("Back to the yard", "p_home"))),
		page("p_enqs", "enquiries", "Enquiries", managers,
			heading("Enquiries"),
			as(rows("enq", "", "-day", "", "No one has asked anything.", "day", "subject", "message", "owner"), plain,
				blueprint.LinesWay, blueprint.TableWay)),
		about("boat", page("p_check", "her-details", "Her details", owners,
			heading("{{ name }}: are we up to date?"),
			words("Once a year we ask you to look over what we know of you and your boat."),
			form(blueprint.FormBlock{Table: "boat", Changes: true, Review: true, Submit: "Save all of it", Then: "p_boat",
				Thanks: "Thank you. You and {{ name }} are up to date.",
				Blocks: blueprint.Blocks{
					step("You", "", goes("boat_owner", "", asks("own", "!name", "phone", "address", "news")...)),
					step("Your boat", "", append(asking(asks("boat", "!name", "registration", "length", "draught", "built"), ofBoats),
						free("insured_elsewhere", "She is insured elsewhere", blueprint.YesNo, ""))...),
					step("Her insurance", "answers.insured_elsewhere",
						words("We need to see the policy of **{{ answers.name }}** before we lift her."),
						goes("pol_boat", "", asking(asks("pol", "!insurer", "!number", "!until", "paper"), ofPolicies)...)),
				}}))),
		about("boat", page("p_place", "berth", "A berth for her", managers,
			heading("A berth for {{ name }}"),
			words("She is {{ length }} m long and lies at {{ berth.name }}."),
			form(blueprint.FormBlock{Table: "boat", Changes: true, Submit: "Give her this berth", Then: "p_boat",
				Thanks: "The owner sees it at once.",
				Blocks: append(blueprint.Blocks{free("dock", "Dock", blueprint.Choose, "dk")},
					asking(asks("boat", "!berth", "card"), ofBerths)...)}))),
		page("p_ests", "estimates", "Estimates", managers,
			heading("Estimates"),
			as(rows("est", "", "-day", "p_est", "No estimates yet.", "number", "boat", "owner", "day", "gross", "status"),
				func(l *blueprint.RecordsBlock) {
					l.Add, l.Filters = "p_offer", ids("est", []string{"status", "owner"})
				})),
		about("est", page("p_est", "estimate", "Estimate", managers,
			heading("Estimate {{ number }}"),
			words("{{ boat }}, {{ owner }}"),
			form(blueprint.FormBlock{Table: "est", Changes: true, Submit: "Save", Then: "p_ests", Thanks: "Estimate {{ number }} is saved.",
				Blocks: append(asks("est", "!status", "note"), estimateLines()...)}))),
		offMenu(page("p_offer", "new-estimate", "New estimate", managers,
			heading("New estimate"),
			form(blueprint.FormBlock{Table: "est", Submit: "Send the estimate", Then: "p_est", Thanks: "The estimate is sent.",
				Presets: []prop.Given{{Field: "est_status", Value: `"Sent"`}, {Field: "est_day", Value: "TODAY()"}},
				Blocks:  append(asking(asks("est", "!number", "!boat", "!owner"), ofEstimates), estimateLines()...)}))),
		offMenu(page("p_job", "new-order", "New work order", managers,
			heading("New work order"),
			form(blueprint.FormBlock{Table: "ord", Submit: "Plan it", Then: "p_orders", Thanks: "It is planned.",
				Presets: []prop.Given{{Field: "ord_status", Value: `"Planned"`}},
				Blocks:  asking(asks("ord", "!boat", "!title", "!kind", "crew", "start", "due", "hours"), ofOrders)}))),
	}
}

// estimateLines are the lines of an estimate with what they come to.
func estimateLines() blueprint.Blocks {
	lines := goes("eli_estimate", "Lines", asks("eli", "!text", "!quantity", "!price", "taxable", "amount")...)
	lines.Lines, lines.Least = true, 1
	return append(blueprint.Blocks{lines}, asks("est", "total", "tax", "gross")...)
}

func finding(x *blueprint.WithBlock, field string) block {
	x.Find = field
	return x
}

func ofEnquiries(q *blueprint.QuestionBlock) {
	if q.Field == "enq_subject" {
		q.Param, q.Example = "about", "A berth for the winter"
	}
}

func ofWhoAsks(q *blueprint.QuestionBlock) {
	switch q.Field {
	case "own_name":
		q.Words, q.Start, q.Skip = "Your name", "me.name", true
	case "own_email":
		q.Words, q.Start, q.Skip = "Your email", "me.email", true
	case "own_phone":
		q.Words = "Your phone"
	}
}

func ofBoats(q *blueprint.QuestionBlock) {
	if q.Field == "boat_length" {
		q.Rules = []prop.Rule{{Holds: "answers.length > 0 and answers.length <= 18", Says: "We take boats of up to 18 metres."}}
	}
}

func ofPolicies(q *blueprint.QuestionBlock) {
	if q.Field == "pol_until" {
		q.Rules = []prop.Rule{{Holds: "answers.policies.until >= TODAY()", Says: "This policy has ended."}}
	}
}

func ofBerths(q *blueprint.QuestionBlock) {
	switch q.Field {
	case "boat_berth":
		q.Narrow = "(dock = answers.dock or answers.dock = empty) and longest >= page.record.length"
		q.Help = "Only those that are long enough for her"
	case "boat_card":
		q.Digits, q.Example = 8, "20260412"
	}
}

func ofEstimates(q *blueprint.QuestionBlock) {
	switch q.Field {
	case "est_number":
		q.Example = "E-0061"
	case "est_owner":
		q.Narrow = "answers.boat = empty or this = answers.boat.owner"
	}
}

func ofOrders(q *blueprint.QuestionBlock) {
	switch q.Field {
	case "ord_title":
		q.Rules = []prop.Rule{{Holds: "CONTAINS(answers.title, answers.boat.name)", Says: "Name the boat in the title."}}
		q.Example = "Sandpiper: new halyards"
	case "ord_due":
		q.When = "answers.start <> empty"
		q.Rules = []prop.Rule{{Holds: "answers.due > answers.start", Says: "It ends after it starts."}}
	}
}
