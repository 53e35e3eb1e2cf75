package demo

import (
	"pinegate/core/blueprint"
	"pinegate/core/report"
)

// measure is a number over a field, written as that is.
func measure(total report.Total, of, name, key string) blueprint.Measure {
	return blueprint.Measure{Total: total, Of: of, Name: name, Key: key}
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

// figurePages show how the yard does.
func figurePages(yard []string) []blueprint.Page {
	count := func(name string) blueprint.Measure { return measure(report.Count, "", name, "number") }
	takings := measure(report.Sum, "total", "Takings", "takings")
	billed := `status <> "Draft"`
	return []blueprint.Page{
		page("p_figures", "figures", "The yard in figures", yard,
			heading("The yard in figures"),
			figure(over("ord", "Work in hand", `status <> "Done"`, "", report.Always, count("Work orders")), "", "", ""),
			figure(over("time", "Hours this month", "", "day", report.ThisMonth, measure(report.Sum, "hours", "Hours", "hours")),
				blueprint.HigherBetter, report.RangeBefore, report.Day),
			figure(over("inv", "Takings this quarter", billed, "day", report.ThisQuarter, takings), blueprint.HigherBetter,
				report.YearBefore, report.Week),
			figure(over("inv", "Overdue", `status = "Sent" and due < TODAY()`, "", report.Always, takings, count("Invoices")), "", "", ""),
			drawn(chart(blueprint.Bars, "day", over("inv", "Takings", billed, "day", report.Last12, takings)), blueprint.TwoThirds,
				func(x *blueprint.ChartBlock) { x.Ranges, x.Units, x.Compare = true, true, report.YearBefore }),
			drawn(chart(blueprint.Donut, "kind", over("ord", "Kinds of work", "", "start", report.Last12, count("Work orders"))),
				blueprint.Third, func(x *blueprint.ChartBlock) { x.Ranges = true }),
			drawn(chart(blueprint.Lines, "start", over("ord", "Hours planned and worked", "", "start", report.Last12,
				measure(report.Sum, "hours", "Planned", "planned"), measure(report.Sum, "worked", "Worked", "worked"))), blueprint.Half,
				func(x *blueprint.ChartBlock) { x.Ranges = true }),
			drawn(chart(blueprint.Bars, "start", over("ord", "Orders begun, by kind", "", "start", report.Last12, count("Orders"))),
				blueprint.Half, func(x *blueprint.ChartBlock) {
					x.Then, x.Stack, x.Ranges = fieldID("ord", "kind"), blueprint.Stacked, true
				}),
			drawn(chart(blueprint.Sideways, "crew", over("time", "Hours of each of the crew", "", "day", report.Last30,
				measure(report.Sum, "hours", "Hours", "hours"))), blueprint.Half, func(x *blueprint.ChartBlock) { x.Ranges = true }),
			drawn(chart(blueprint.Bars, "kind", over("ord", "A job on average", "", "start", report.Last12,
				measure(report.Average, "price", "Price", "price"))), blueprint.Half, nil)),
	}
}
