package blueprinttest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
)

// Busy is the loft with workflows that have one of everything: a trigger of each kind, and a
// step of each.
func Busy(t testing.TB) *blueprint.Blueprint {
	t.Helper()
	b, err := blueprint.Apply(Loft(t), FlowChanges()...)
	require.NoError(t, err)
	return b
}

// FlowChanges add the workflows of [Busy].
func FlowChanges() []blueprint.Change {
	add, step := blueprint.Adding, func(into, id, kind string, pairs ...any) blueprint.Change {
		return blueprint.Adding("step", into, id, append([]any{"kind", kind}, pairs...)...)
	}
	given := func(pairs ...string) []map[string]string {
		var out []map[string]string
		for i := 0; i < len(pairs); i += 2 {
			out = append(out, map[string]string{"field": pairs[i], "value": pairs[i+1]})
		}
		return out
	}
	return []blueprint.Change{
		add("workflow", "", "mend", "kind", "press", "name", "Mend a sail", "roles", []string{"r"}, "record", "sail"),
		blueprint.Setting("mend", "when", "area > 10"),
		step("mend", "m_let", "let", "name", "patch", "value", "area / 10"),
		step("mend", "m_sew", "find", "what", "list", "table", "sailor",
			"where", "member and this.owner <> empty and all_area > made.patch"),
		step("mend", "m_stop", "stop", "text", "Nobody can mend {{name}}"),
		blueprint.Setting("m_stop", "when", "COUNT(made.found_sailors) = 0"),
		step("mend", "m_way", "branch"),
		step("m_way", "m_big", "path", "when", `cloth = "Dacron"`),
		step("m_big", "m_add", "add", "table", "sail",
			"values", given("name", `"Patch of " & name`, "area", "made.patch", "owner", "owner")),
		step("m_way", "m_small", "path", "when", "made.patch > 5"),
		step("m_small", "m_change", "change", "record", "this", "values", given("price", "price * 2")),
		step("m_way", "m_else", "path"),
		step("m_else", "m_all", "change", "all", true, "table", "sail", "where", "owner = this.owner and area < made.patch", "values",
			given("price", "price + this.price")),
		step("mend", "m_each", "each", "list", "made.found_sailors"),
		step("m_each", "m_mail", "mail", "to", "made.sailor.email", "subject", "Sail {{name}}", "body",
			"Dear {{made.sailor.name}},\n\n{{name}} needs *{{made.patch}}* m².", "replyTo", "me.email"),
		step("mend", "m_many", "add", "table", "sail", "for", "made.found_sailors", "values", given("name", "name", "owner", "this.owner")),
		step("mend", "m_gone", "delete", "all", true, "table", "sail", "where", "price > 1000"),
		step("mend", "m_say", "message", "text", "{{COUNT(made.found_sailors)}} sailors know of it"),
		step("mend", "m_open", "open", "page", "one", "record", "made.new_sail"),
		add("workflow", "", "w_sent", "kind", "sent", "name", "Thank", "form", "form"),
		step("w_sent", "w_s1", "change", "record", "owner", "values", given("s_name", "answers.name")),
		add("workflow", "", "w_added", "kind", "added", "name", "Greet", "table", "sailor"),
		step("w_added", "w_a1", "mail", "to", "email", "subject", "Welcome", "body", "Dear {{name}}", "each", "sails",
			"line", "{{name}}, {{area}} m² for {{this.name}}"),
		add("workflow", "", "w_changed", "kind", "changed", "name", "Tell", "table", "sail", "fields", []string{"price"}),
		blueprint.Setting("w_changed", "when", "price > was.price", "rights", "app"),
		step("w_changed", "w_c1", "mail", "to", "owner.email", "subject", "It went up", "body", "From {{was.price}} to {{price}}"),
		add("workflow", "", "w_deleted", "kind", "deleted", "name", "Mourn", "table", "sail"),
		step("w_deleted", "w_d1", "delete", "record", "was.owner"),
		add("connection", "", "port", "name", "Harbour", "address", "https://harbour.example/api", "proof", "header", "proofName", "X-Key"),
		add("call", "port", "tides", "name", "Tides", "method", "GET", "path", "/tides/{harbour}", "rows", "/tides", "sample",
			`{"tides":[{"at":"2026-05-02T10:00:00Z","height":2.5},{"at":"2026-05-02T16:10:00Z","height":0.4}]}`),
		add("sent", "tides", "t_harbour", "name", "Harbour", "type", "text", "as", "harbour"),
		add("sent", "tides", "t_day", "name", "Day", "type", "date", "as", "day"),
		add("taken", "tides", "t_at", "name", "At", "type", "time stamp", "from", "/at"),
		add("taken", "tides", "t_height", "name", "Height", "type", "number", "from", "/height"),
		add("call", "port", "order", "name", "Order", "method", "POST", "path", "/orders", "sample",
			`{"order":{"number":"H-1","total":"12.50"}}`),
		add("sent", "order", "o_part", "name", "Part", "type", "text", "as", "line.part"),
		add("sent", "order", "o_count", "name", "Count", "type", "number", "as", "line.count"),
		add("taken", "order", "o_number", "name", "Number", "type", "text", "from", "/order/number"),
		add("taken", "order", "o_total", "name", "Total", "type", "number", "from", "/order/total"),
		add("workflow", "", "asks", "kind", "press", "name", "Ask the harbour", "roles", []string{"r"}, "record", "sail"),
		step("asks", "a_before", "change", "record", "this", "values", given("price", "price + 1")),
		step("asks", "a_call", "call", "call", "tides", "values", given("t_harbour", "name", "t_day", "cut_on")),
		step("asks", "a_each", "each", "list", "made.tides"),
		step("a_each", "a_add", "add", "table", "sail", "values", given("name", `"Tide at " & made.item.at`, "area", "made.item.height")),
		step("asks", "a_order", "call", "call", "order", "values", given("o_part", `"seal"`, "o_count", "COUNT(made.tides)"), "goes", true),
		step("asks", "a_say", "change", "record", "this", "values", given("name", `name & " " & made.order.number`, "price",
			"made.order.total + SUM(made.tides.height)")),
		add("workflow", "", "w_in", "kind", "incoming", "name", "Hear of sails", "once", "/id", "signed", "X-Signature"),
		add("taken", "w_in", "i_name", "name", "Sail name", "type", "text", "from", "/sail/name"),
		add("taken", "w_in", "i_area", "name", "Area", "type", "number", "from", "/sail/area"),
		blueprint.Setting("w_in", "when", "answers.area > 1", "sample", `{"id":"1","sail":{"name":"Genoa","area":30}}`),
		step("w_in", "w_i1", "add", "table", "sail", "values", given("name", "answers.sail_name", "area", "answers.area")),
		add("workflow", "", "w_come", "kind", "person", "name", "Greet at the door", "role", "r", "on", "in"),
		step("w_come", "p_1", "mail", "to", "me.email", "subject", "Ahoy", "body", "You have {{COUNT(sails)}} sails"),
		add("workflow", "", "tally", "kind", "routine", "name", "Tally", "record", "sailor"),
		add("input", "tally", "y_more", "name", "More", "type", "number"),
		blueprint.Setting("tally", "when", "answers.more > 0"),
		step("tally", "y_sum", "let", "name", "sum", "value", "answers.more + COUNT(sails)"),
		step("tally", "y_say", "message", "text", "{{name}} has {{made.sum}}"),
		blueprint.Setting("tally", "gives", "made.sum"),
		add("workflow", "", "count", "kind", "press", "name", "Count", "roles", []string{"r"}, "record", "sail"),
		step("count", "k_each", "repeat", "most", 2),
		step("k_each", "k_run", "routine", "routine", "tally", "record", "owner", "values", given("y_more", "area / 10 * made.round - 2")),
		step("k_each", "k_say", "message", "text", "{{name}}: {{made.result_of_tally}}"),
		add("field", "sail", "papers", "name", "Papers", "type", "file"),
		add("kept", "", "k_size", "name", "Size", "type", "number"),
		add("workflow", "", "door", "kind", "press", "name", "See to the door", "roles", []string{"r"}, "record", "sailor"),
		blueprint.Setting("door", "rights", "app"),
		step("door", "o_sail", "find", "what", "first", "table", "sail", "where", "owner = this"),
		step("door", "o_paper", "document", "title", "Sail of {{name}}", "record", "made.found_sail",
			"template", "made.found_sail.papers", "field", "papers"),
		step("door", "o_keep", "keep", "kept", "k_size", "value", "COUNT(sails) + 1"),
		step("door", "o_out", "person", "do", "out", "email", "me.email"),
		step("door", "o_in", "person", "do", "invite", "email", "email", "role", "r"),
		step("door", "o_yes", "person", "do", "approve", "email", `"new@" & name & ".example"`, "role", "r"),
		add("workflow", "", "chase", "kind", "press", "name", "Chase", "roles", []string{"r"}, "record", "sail"),
		step("chase", "c_each", "repeat", "most", 3, "until", "cut_on <> empty"),
		step("c_each", "c_wait", "wait", "for", "condition", "holds", "cut_on <> empty", "n", 2, "unit", "days"),
		step("c_each", "c_mail", "mail", "to", "owner.email", "subject", "Reminder {{made.round}}", "body", "When is {{name}} cut?"),
		blueprint.Setting("c_mail", "when", "not made.in_time"),
		step("chase", "c_day", "wait", "for", "date", "until", "cut_on", "at", "08:00"),
		step("chase", "c_end", "change", "record", "this", "values", given("price", "price + 1")),
	}
}
