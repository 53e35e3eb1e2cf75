package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"pinegate/app/outside"
	"pinegate/core/blueprint"
	"pinegate/standin/harbour"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/seal"
)

// office is the harbour office, which the yard asks for tides and from which it buys parts.
func office() []blueprint.Connection {
	sent := func(id, name string, is blueprint.FieldType, as string) blueprint.Sent {
		return blueprint.Sent{ID: id, Name: name, Type: is, As: as}
	}
	taken := func(id, key, name string, is blueprint.FieldType, from string) blueprint.Taken {
		return blueprint.Taken{ID: id, Key: key, Name: name, Type: is, From: from}
	}
	return []blueprint.Connection{{ID: "harbour", Name: "Harbour office", Address: harbour.Address, Proof: blueprint.HeaderProof,
		ProofName: harbour.KeyHeader, Calls: []blueprint.Call{
			{ID: "c_tides", Name: "Tides", Method: blueprint.GetMethod, Path: "/tides/{harbour}", Rows: "/tides",
				Sends: []blueprint.Sent{sent("c_tides_harbour", "Harbour", blueprint.Text, "harbour"),
					sent("c_tides_day", "Day", blueprint.Date, "day")},
				Takes: []blueprint.Taken{taken("c_tides_at", "at", "At", blueprint.TimeStamp, "/at"),
					taken("c_tides_height", "height", "Height", blueprint.Number, "/height"),
					taken("c_tides_high", "high", "High", blueprint.YesNo, "/high")},
				Sample: `{"harbour":"Alder Cove","tides":[{"at":"2026-05-02T04:10:00Z","height":3.6,"high":true},` +
					`{"at":"2026-05-02T10:22:00Z","height":0.6,"high":false},{"at":"2026-05-02T16:34:00Z","height":3.7,"high":true}]}`},
			{ID: "c_parts", Name: "Parts for sale", Method: blueprint.GetMethod, Path: "/parts", Rows: "/parts",
				Sends: []blueprint.Sent{sent("c_parts_search", "Search", blueprint.Text, "search")},
				Takes: []blueprint.Taken{taken("c_parts_number", "number", "Number", blueprint.Text, "/number"),
					taken("c_parts_name", "name", "Name", blueprint.Text, "/name"),
					taken("c_parts_price", "price", "Price", blueprint.Number, "/price"),
					taken("c_parts_stock", "stock", "In stock", blueprint.Number, "/stock")},
				Sample: sample(map[string]any{"parts": harbour.Parts("a")})},
			{ID: "c_order", Name: "Order of a part", Method: blueprint.PostMethod, Path: "/orders",
				Sends: []blueprint.Sent{sent("c_order_part", "Part", blueprint.Text, "line.part"),
					sent("c_order_count", "How many", blueprint.Number, "line.count")},
				Takes: []blueprint.Taken{taken("c_order_number", "number", "Number", blueprint.Text, "/order/number"),
					taken("c_order_total", "total", "Total", blueprint.Number, "/order/total")},
				Sample: sample(map[string]any{"order": harbour.Order{Number: "H-0001", Part: "AN-12", Count: 2, Total: "37.00"}})},
		}}}
}

func sample(answer any) string {
	raw, err := json.Marshal(answer)
	if err != nil {
		panic(err) // of values that are written above
	}
	return string(raw)
}

// again orders the parts of an order again: each is looked for at the harbour office, and noted.
func again() blueprint.Workflow {
	note := func(id, name, key, text string) blueprint.Step {
		return does(id, "add", name, key, &blueprint.AddStep{Table: "onote",
			Values: sets("onote", "text", text, "order", "this", "crew", "me", "day", "TODAY()")})
	}
	path := func(id, when string, steps ...blueprint.Step) blueprint.Step {
		return does(id, "path", "", "", &blueprint.PathStep{StepHead: blueprint.StepHead{When: when}, Steps: steps})
	}
	w := blueprint.Workflow{ID: "w_parts", Name: "Order the parts again", Starts: pressed("ord", "", "r_crew")}
	w.Steps = blueprint.Steps{
		does("w_parts_1", "find", "used parts", "used_parts", &blueprint.FindStep{What: blueprint.ListFound, Table: "part",
			Where: "order = this"}),
		does("w_parts_2", "stop", "", "", &blueprint.StopStep{StepHead: blueprint.StepHead{When: "COUNT(made.used_parts) = 0"},
			Text: "No parts were used on this order."}),
		does("w_parts_3", "message", "", "", &blueprint.MessageStep{
			Text: "The harbour office is asked for {{COUNT(made.used_parts)}} parts. What comes of it is noted below."}),
		does("w_parts_4", "each", "", "", &blueprint.EachStep{List: "made.used_parts",
			LoopItem: blueprint.LoopItem{ItemName: "used part", ItemKey: "used_part"}, Steps: blueprint.Steps{
				does("w_parts_5", "call", "offers", "offers", &blueprint.CallStep{Call: "c_parts",
					Values: gives("c_parts_search", "made.used_part.part")}),
				does("w_parts_6", "branch", "", "", &blueprint.BranchStep{Steps: blueprint.Steps{
					path("w_parts_7", "COUNT(made.offers) > 0",
						does("w_parts_8", "call", "order taken", "order_taken", &blueprint.CallStep{Call: "c_order",
							Values: gives("c_order_part", "FIRST(made.offers.number)", "c_order_count", "made.used_part.quantity")}),
						note("w_parts_9a", "note of the order", "note_of_the_order", `"Ordered " & FIRST(made.offers.name) & ": " & made.order_taken.number & ", € " & `+
							`TEXT(made.order_taken.total, "#,##0.00")`)),
					path("w_parts_a", "", note("w_parts_9b", "note of what is missing", "note_of_what_is_missing",
						`"The harbour office does not have " & made.used_part.part`)),
				}}),
			}}),
	}
	return w
}

// slot books in what the harbour office announces: when its crane takes which boat.
func slot() blueprint.Workflow {
	taken := func(id, key, name string, is blueprint.FieldType) blueprint.Taken {
		return blueprint.Taken{ID: id, Key: key, Name: name, Type: is, From: "/" + key}
	}
	w := blueprint.Workflow{ID: "w_slot", Name: "Book in what the crane announces", Starts: blueprint.Starts{
		Trigger: &blueprint.IncomingTrigger{TriggerHead: blueprint.TriggerHead{Kind: "incoming"}, Once: "/id",
			Signed: "X-Harbour-Signature",
			Takes: []blueprint.Taken{taken("w_slot_boat", "boat", "Boat", blueprint.Text),
				taken("w_slot_day", "day", "Day", blueprint.Date)},
			Sample: `{"id":"crane-17","boat":"Sandpiper","day":"2026-12-04"}`}}}
	w.Steps = blueprint.Steps{
		does("w_slot_1", "find", "found boat", "found_boat", &blueprint.FindStep{What: blueprint.FirstFound, Table: "boat",
			Where: "name = answers.boat"}),
		does("w_slot_2", "stop", "", "", &blueprint.StopStep{StepHead: blueprint.StepHead{When: "ISBLANK(made.found_boat)"},
			Text: "There is no boat called {{answers.boat}}."}),
		does("w_slot_3", "add", "new haul-out", "new_haul_out", &blueprint.AddStep{Table: "haul", Values: sets("haul",
			"boat", "made.found_boat", "day", "answers.day", "kind", `"Haul out"`, "note", `"Announced by the harbour office"`)}),
	}
	return w
}

// Secrets keeps what the harbour office is shown.
func Secrets(ctx context.Context, a *apps.Apps, seals *seal.Book) error {
	app, err := a.BySlug(ctx, Slug)
	if errors.Is(err, store.ErrNotFound) {
		return nil // the founder removed it
	}
	if err != nil {
		return fmt.Errorf("keep the secrets of the demo: %w", err)
	}
	for _, x := range office() {
		if err := seals.Set(ctx, app.ID, outside.SecretOf(&x), harbour.Key, Founder().Name); err != nil {
			return err
		}
	}
	return nil
}
