package demo

import (
	"pinegate/core/blueprint"
	"pinegate/core/prop"
)

// inNumber asks for a number between two, with a slider, beginning with one.
func inNumber(key, name, unit, least, most, start string) block {
	none := 0
	return &blueprint.FreeBlock{BlockHead: kind("ask"), Key: key, Name: name, Type: blueprint.Number, Unit: unit, Least: least, Most: most,
		Decimals: &none, Asking: blueprint.Asking{Required: true, Start: start, Ask: blueprint.AskSlider}}
}

// typed has a question for a number that is typed in, to so many decimals.
func typed(x block, decimals int) block {
	q := x.(*blueprint.FreeBlock)
	q.Ask, q.Decimals = blueprint.AskUsual, &decimals
	return x
}

// result calculates something in euros; so it is until something else is said.
func result(key, name, value string) *blueprint.ResultBlock {
	return &blueprint.ResultBlock{BlockHead: kind("result"), Key: key, Name: name, Value: value, As: blueprint.AsMoney, Currency: "EUR"}
}

// in writes a result as a number with a unit.
func in(unit string, decimals int, x *blueprint.ResultBlock) *blueprint.ResultBlock {
	x.As, x.Currency, x.Unit, x.Decimals = blueprint.AsNumber, "", unit, &decimals
	return x
}

func calculator(f blueprint.FormBlock) block {
	f.BlockHead = kind("calculator")
	return &f
}

// namedByKeys puts the ids of questions and results into a chart of results, which has their keys until they are known.
func namedByKeys(form *blueprint.FormBlock) {
	ids := map[string]string{}
	for x := range form.Blocks.All {
		switch x := x.(type) {
		case *blueprint.FreeBlock:
			ids[x.Key] = x.ID
		case *blueprint.ResultBlock:
			ids[x.Key] = x.ID
		case *blueprint.CourseBlock:
			x.Over = ids[x.Over]
			for i, key := range x.Results {
				x.Results[i] = ids[key]
			}
		}
	}
}

// calculatorPages work things out.
func calculatorPages(managers []string) []blueprint.Page {
	return []blueprint.Page{
		offMenu(page("p_storage", "winter-storage", "What winter storage costs", nil,
			heading("What winter storage costs"),
			words("Choose what fits your boat. The price is what you pay, with hauling out and launching again."),
			storageCalculator(), button("Is she too heavy for the slip?", "p_trailer"))),
		offMenu(page("p_trailer", "trailer-load", "Is she too heavy for the slip?", nil,
			heading("Is she too heavy for the slip?"), words("Our slip and its winch take 2,800 kg, with the trailer."),
			trailerCalculator())),
		page("p_solar", "solar-panels", "Solar panels on the shed", managers,
			heading("Solar panels on the shed"),
			words("What the panels would bring, from what the roofer and the grid company told us. Keep a scenario to see others beside it."),
			solarCalculator()),
	}
}

func storageCalculator() block {
	total := result("total", "In all", "answers.storage + answers.hauling + answers.extras")
	total.Bands = []prop.Rule{{Holds: "answers.length > 14", Tone: "attention",
		Says: "Longer than our lift: ask us before you plan with this."}}
	extras := result("extras", "Extras", "IF(answers.wash, answers.length * 6.5, 0) + IF(answers.cover, 140, 0)")
	place := &blueprint.FreeBlock{BlockHead: kind("ask"), Key: "place", Name: "Where she stands", Type: blueprint.Choose, List: "sp",
		Asking: blueprint.Asking{Required: true, Ask: blueprint.AskButtons, Start: `"In the open"`}}
	return calculator(blueprint.FormBlock{Table: "enq", Submit: "Ask for this place",
		Thanks: "Thank you. We keep a place for her and write to you within two working days.",
		Presets: []prop.Given{{Field: "enq_day", Value: "TODAY()"}, {Field: "enq_about", Value: `"Storage"`},
			{Field: "enq_subject", Value: `"Winter storage, " & answers.length & " m"`},
			{Field: "enq_message", Value: `"A boat of " & answers.length & " m for " & answers.months & " months: " & ` +
				`TEXT(answers.total, "#,##0.00") & " euros, as calculated."`}},
		Blocks: blueprint.Blocks{
			step("Your boat", "", inNumber("length", "Length of the boat", "m", "4", "18", "9"),
				inNumber("months", "Months", "", "1", "8", "6"), place, free("wash", "Wash her hull", blueprint.YesNo, ""),
				free("cover", "A cover for her", blueprint.YesNo, ""),
				result("storage", "Her place", "answers.length * answers.place.price * answers.months"),
				result("hauling", "Hauling out and launching", "answers.length * 14 * 2"), extras, total),
			step("Who asks", "", words("{{ answers.length }} m for {{ answers.months }} months: {{ TEXT(answers.total, \"#,##0.00\") }} euros in all."),
				finding(goes("enq_owner", "", asking(asks("own", "!name", "!email", "phone"), ofWhoAsks)...), "own_email"))}})
}

func trailerCalculator() block {
	load := in("kg", 0, result("load", "On the slip", "answers.boat + answers.trailer + answers.gear + answers.fuel_weight"))
	load.Bands = []prop.Rule{{Holds: "answers.load > 2800", Says: "Not on our slip", Tone: "danger"},
		{Holds: "answers.load > 1800", Says: "Heavy: two people, and the winch", Tone: "attention"},
		{Holds: "answers.load > 0", Says: "Light", Tone: "good"}}
	fuel := in("kg", 1, result("fuel_weight", "Fuel", "answers.fuel * 0.74"))
	fuel.Aside = true
	gear := typed(inNumber("gear", "Gear on board", "kg", "0", "2000", ""), 0)
	gear.(*blueprint.FreeBlock).Required = false
	return calculator(blueprint.FormBlock{Blocks: blueprint.Blocks{
		typed(inNumber("boat", "Weight of the boat", "kg", "0", "20000", ""), 0),
		typed(inNumber("trailer", "Weight of the trailer", "kg", "0", "5000", "350"), 0), gear,
		typed(inNumber("fuel", "Fuel in her tanks", "l", "0", "2000", "0"), 0), fuel, load}})
}

func solarCalculator() block {
	money := func(key, name, start string, decimals int) block {
		return &blueprint.FreeBlock{BlockHead: kind("ask"), Key: key, Name: name, Type: blueprint.Money, Currency: "EUR",
			Decimals: &decimals, Asking: blueprint.Asking{Required: true, Start: start}}
	}
	pays := in("years", 1, result("pays", "Paid back after", "answers.cost / answers.yearly"))
	pays.Bands = []prop.Rule{{Holds: "answers.pays <= 12", Says: "Worth it: panels are good for 25 years", Tone: "good"},
		{Holds: "answers.pays <= 25", Says: "It pays, late", Tone: "attention"},
		{Holds: "answers.pays > 25", Says: "It does not pay", Tone: "danger"}}
	yearly := result("yearly", "Saved each year",
		"answers.made * answers.own * answers.price + answers.made * (1 - answers.own) * answers.feed - answers.upkeep")
	own := &blueprint.FreeBlock{BlockHead: kind("ask"), Key: "own", Name: "Used in the yard", Type: blueprint.Percent,
		Asking: blueprint.Asking{Required: true, Start: "0.65"}}
	return calculator(blueprint.FormBlock{Compare: true, Blocks: blueprint.Blocks{
		inNumber("size", "Size of the panels", "kWp", "5", "60", "24"), money("cost", "Cost of panels and fitting", "31000", 0),
		typed(inNumber("yield", "Made by each kWp in a year", "kWh", "500", "1400", "940"), 0), own,
		money("price", "Price of a kWh that we buy", "0.29", 2), money("feed", "Paid for a kWh that we sell", "0.06", 2),
		money("upkeep", "Upkeep in a year", "350", 0), inNumber("years", "Years", "", "1", "25", "15"),
		in("kWh", 0, result("made", "Made in a year", "answers.size * answers.yield")), yearly, pays,
		result("balance", "Left after these years", "answers.years * answers.yearly - answers.cost"),
		&blueprint.CourseBlock{BlockHead: kind("course"), Title: "What is left, over the years", Over: "years", From: "0", To: "25",
			Results: []string{"balance"}},
	}})
}
