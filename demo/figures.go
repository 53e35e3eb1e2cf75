package demo

import (
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/report"
)

// measure is a number over a field, written as that is.
func measure(total report.Total, of, name, key string) blueprint.Measure {
	return blueprint.Measure{Total: total, Of: of, Name: name, Key: key}
}

// aiming gives a number the targets of the season.
func aiming(m blueprint.Measure, of string) blueprint.Measure {
	m.Goal = blueprint.Goal{Goal: blueprint.AtLeast, Goals: "goal", GoalsOf: fieldID("goal", of), GoalsBy: fieldID("goal", "month")}
	return m
}

// over is what figures and charts of a table have alike: the day of its records, a range, and their numbers.
func over(table, title, filter, day string, r report.Range, measures ...blueprint.Measure) blueprint.Reported {
	out := blueprint.Reported{Table: table, Title: title, Filter: filter, Range: r, Measures: measures}
	if day != "" {
		out.Date = fieldID(table, day)
	}
	return out
}

func figure(r blueprint.Reported, better blueprint.Better, compare report.Compare, course report.Unit) block {
	r.Compare = compare
	return wide(&blueprint.FigureBlock{BlockHead: kind("figure"), Reported: r, Better: better, Course: course}, blueprint.Quarter)
}

func chart(shape blueprint.Shape, by string, r blueprint.Reported) *blueprint.ChartBlock {
	return &blueprint.ChartBlock{BlockHead: kind("chart"), Reported: r, Shape: shape, By: fieldID(r.Table, by)}
}

// drawn gives a chart a width, and what else it has.
func drawn(x *blueprint.ChartBlock, w blueprint.Width, also func(*blueprint.ChartBlock)) block {
	if also != nil {
		also(x)
	}
	return wide(x, w)
}

// following has what shows totals follow the first filter bar of its page.
func following(bar string, blocks ...block) []block {
	for _, x := range blocks {
		if r, is := x.(blueprint.Reporter); is && r.Report().Date != "" {
			r.Report().Bar, r.Report().Range, r.Report().Ranges = bar, report.Always, false
		}
	}
	return blocks
}

// figurePages show how the yard does.
func figurePages(yard []string) []blueprint.Page {
	count := func(name string) blueprint.Measure { return measure(report.Count, "", name, "number") }
	takings := measure(report.Sum, "total", "Takings", "takings")
	billed := `status <> "Draft"`
	return []blueprint.Page{
		page("p_figures", "figures", "The yard in figures", yard, slices.Concat([]block{
			heading("The yard in figures"),
			figure(over("ord", "Work in hand", `status <> "Done"`, "", report.Always, count("Work orders")), "", "", ""),
			figure(over("time", "Hours this month", "", "day", report.ThisMonth,
				aiming(measure(report.Sum, "hours", "Hours", "hours"), "hours")),
				blueprint.HigherBetter, report.RangeBefore, report.Day),
			figure(over("inv", "Takings this quarter", billed, "day", report.ThisQuarter, aiming(takings, "takings")),
				blueprint.HigherBetter, report.YearBefore, report.Week),
			figure(over("inv", "Overdue", `status = "Sent" and due < TODAY()`, "", report.Always, takings, count("Invoices")), "", "", ""),
			&blueprint.BarBlock{BlockHead: kind("bar"), Range: report.Last12, Table: "ord",
				Fields: ids("ord", []string{"kind", "boat", "crew"})},
		}, following("p_figures_f",
			drawn(chart(blueprint.Bars, "day", over("inv", "Takings", billed, "day", "", aiming(takings, "takings"))), blueprint.TwoThirds,
				func(x *blueprint.ChartBlock) { x.Units, x.Compare = true, report.YearBefore }),
			drawn(chart(blueprint.Donut, "kind", over("ord", "Kinds of work", "", "start", "", count("Work orders"))),
				blueprint.Third, nil),
			drawn(chart(blueprint.Lines, "start", over("ord", "Hours planned and worked", "", "start", "",
				measure(report.Sum, "hours", "Planned", "planned"), aiming(measure(report.Sum, "worked", "Worked", "worked"), "hours"))),
				blueprint.Half, nil),
			drawn(chart(blueprint.Bars, "start", over("ord", "Orders begun, by kind", "", "start", "", count("Orders"))), blueprint.Half,
				func(x *blueprint.ChartBlock) { x.Then, x.Stack = fieldID("ord", "kind"), blueprint.Stacked }),
			drawn(chart(blueprint.Sideways, "crew", over("time", "Hours of each of the crew", "", "day", "",
				measure(report.Sum, "hours", "Hours", "hours"))), blueprint.Half, nil),
			drawn(chart(blueprint.Bars, "kind", over("ord", "A job on average", "", "start", "",
				measure(report.Average, "price", "Price", "price"))), blueprint.Half,
				func(x *blueprint.ChartBlock) { x.Bys = ids("ord", []string{"boat", "crew", "start"}) }),
			drawn(chart(blueprint.Sideways, "work", over("time", "Hours by kind of work", "", "day", "",
				measure(report.Sum, "hours", "Hours", "hours"))), blueprint.Half, nil),
			drawn(chart(blueprint.Bars, "late", over("inv", "Overdue invoices, by age", "late > 0", "", report.Always, takings)),
				blueprint.Half, func(x *blueprint.ChartBlock) { x.Step = "30" })))...),
		page("p_targets", "targets", "Targets", yard,
			heading("What we aim at"),
			targeted("ord", "Orders finished this week", `status = "Done"`, "finished", report.ThisWeek, measure(report.Count, "", "Orders", "orders"),
				blueprint.Goal{Goal: blueprint.AtLeast, At: "3", Ring: true}, reward("Three in a week", "wrench", "")),
			targeted("part", "Antifoul used this quarter", `CONTAINS(part, "Antifoul")`, "day", report.ThisQuarter,
				measure(report.Sum, "quantity", "Cans", "cans"), blueprint.Goal{Goal: blueprint.AtMost, At: "60"},
				reward("Sparing with paint", "drop", "")),
			targeted("boat", "Berths taken", "berth <> empty", "", report.Always, measure(report.Count, "", "Berths", "berths"),
				blueprint.Goal{Goal: blueprint.BetweenGoal, At: "30", To: "45"}, reward("A harbour well filled", "anchor", report.Month)),
			&blueprint.BadgesBlock{BlockHead: kind("badges"), From: "bdg", Title: "Your badges"}),
	}
}

// reward is what a figure gives to those who see its target reached.
func reward(name, picture string, each report.Unit) blueprint.Badged {
	at := func(key string) string { return fieldID("bdg", key) }
	return blueprint.Badged{Badge: name, Picture: picture, Each: each, Badges: "bdg", Who: at("who"), Named: at("badge"),
		Pics: at("picture"), For: at("figure"), FirstOn: at("period"), Won: at("reached")}
}

// targeted is a figure with a target, and a badge for reaching it.
func targeted(table, title, filter, day string, r report.Range, m blueprint.Measure, g blueprint.Goal, won blueprint.Badged) block {
	m.Goal = g
	x := &blueprint.FigureBlock{BlockHead: kind("figure"), Reported: over(table, title, filter, day, r, m), Badged: won}
	return wide(x, blueprint.Third)
}
