package demo

import (
	"fmt"
	"strings"
	"time"

	"pinegate/core/expr"
)

var tradesOf = []string{"Shipwright", "Engine fitter", "Rigger", "Electrician", "Crane driver", "Painter", "Sailmaker", "Shipwright",
	"Apprentice"}

func (g *generator) idsOf(table string) []string {
	for _, m := range g.made {
		if m.Table == table {
			var out []string
			for _, r := range m.Records {
				out = append(out, r.ID)
			}
			return out
		}
	}
	return nil
}

func (g *generator) people() {
	streets := []string{"Harbour Lane", "Ropewalk", "Chandler Street", "Quay Hill", "Lighthouse Road"}
	g.add("own", owners, func(i int) row {
		r := row{"name": text(personName(i)), "email": text(mailOf(i, "sailmail")),
			"phone":   text(fmt.Sprintf("0555 01%02d %02d", i, g.rand.IntN(90)+10)),
			"address": text(fmt.Sprintf("%d %s\nAlder Cove", g.rand.IntN(80)+1, g.pick(streets...))), "since": g.day(-4000, -400),
			"news": yes(g.rand.IntN(3) > 0)}
		if g.rand.IntN(5) == 0 {
			r["note"] = text(g.pick("Pays late, but always pays.", "Prefers to be rung up.", "Ask about the second boat."))
		}
		return r
	})
	g.add("crew", crewCount+2, func(i int) row {
		if i >= crewCount { // the managers, who are crew as well
			name := []string{"Marta", "Jonas"}[i-crewCount]
			return row{"name": text(name + " Alder"), "email": text(strings.ToLower(name) + "@aldercove.example"),
				"trade": text("Yard office"), "phone": text(fmt.Sprintf("0555 02%02d", i)), "active": yes(true), "manager": yes(true)}
		}
		return row{"name": text(personName(i + owners)), "email": text(mailOf(i+owners, "aldercove")), "trade": text(tradesOf[i]),
			"phone": text(fmt.Sprintf("0555 02%02d", i)), "active": yes(i != crewCount-1), "manager": yes(false)}
	})
}

func (g *generator) boats() {
	g.add("ber", berths, func(i int) row {
		dock := []string{"North dock", "South dock", "Inner basin"}[i/16]
		return row{"name": text(fmt.Sprintf("%c%d", dock[0], i%16+1)), "dock": expr.ChoiceOf(choiceID("dk", dock)),
			"longest": whole(8 + (i%5)*2), "fee": whole(900 + (i%5)*350), "power": yes(i%3 > 0)}
	})
	names := []string{"Sandpiper", "Grey Heron", "Saltwind", "Marigold", "Curlew", "Northern Lass", "Bell Rock", "Tern", "Quiet Tide",
		"Merrow", "Driftwood", "Anna Ruth", "Blue Hour", "Petrel", "Lodestar"}
	owned, places := g.idsOf("own"), g.idsOf("ber")
	g.add("boat", boats, func(i int) row {
		name := names[i%len(names)]
		if i >= len(names) {
			name += " " + []string{"", "II", "III", "IV"}[i/len(names)]
		}
		r := row{"name": text(name), "registration": text(fmt.Sprintf("AC %d", 1200+i*7)), "owner": ref(owned[(i*3)%len(owned)]),
			"kind":    g.choice("bk", "Sailing yacht", "Sailing yacht", "Motor boat", "Dinghy", "Trawler", "Day boat"),
			"length":  tenths(45 + g.rand.IntN(120)),
			"draught": tenths(5 + g.rand.IntN(16)), "built": whole(1968 + g.rand.IntN(55)), "insured": g.day(-60, 500)}
		if i < len(places)-6 {
			r["berth"] = ref(places[i])
		}
		if g.rand.IntN(4) == 0 {
			r["note"] = text(g.pick("Watch the port strop when lifting.", "Battery switch is behind the steps.",
				"Keel bolts checked last spring."))
		}
		return r
	})
}

func (g *generator) work() {
	fleet, hands := g.idsOf("boat"), g.idsOf("crew")[:crewCount]
	titles := []string{"Scrub and antifoul", "Replace impeller", "Mend the guard rail", "Service the engine", "New halyards",
		"Trace a leak", "Winter storage", "Rewire the mast light", "Polish the hull", "Change the anodes"}
	kinds := []string{"Hull", "Engine", "Hull", "Engine", "Rigging", "Hull", "Winter storage", "Electrics", "Hull", "Hull"}
	ownerOf := map[string]expr.Value{}
	for _, m := range g.made {
		if m.Table == "boat" {
			for _, b := range m.Records {
				ownerOf[b.ID] = b.Values["boat_owner"]
			}
		}
	}
	asked := g.add("req", requests, func(i int) row {
		boat, t := fleet[g.rand.IntN(len(fleet))], g.rand.IntN(len(titles))
		state := "Done"
		if i > 70 {
			state = g.pick("New", "Accepted", "Declined")
		}
		if i == requests-1 { // the owner as whom one looks at first has something under way
			boat, state = fleet[0], "Accepted"
		}
		return row{"title": text(titles[t]), "boat": ref(boat), "owner": ownerOf[boat], "kind": expr.ChoiceOf(choiceID("wk", kinds[t])),
			"by": g.day(-500+i*5, -400+i*6), "status": expr.ChoiceOf(choiceID("rs", state))}
	})
	jobs := g.add("ord", orders, func(i int) row {
		t := g.rand.IntN(len(titles))
		start := -720 + i*2 - i/8
		r := row{"title": text(titles[t]), "boat": g.any(fleet), "kind": expr.ChoiceOf(choiceID("wk", kinds[t])), "crew": g.any(hands),
			"start": g.day(start, start+3), "due": g.day(start+10, start+40),
			"hours": whole(2 + g.rand.IntN(40)), "price": g.money(80, 4000), "status": expr.ChoiceOf(choiceID("os", "Done"))}
		r["finished"] = g.day(start+8, start+30)
		if i > 354 { // of this week
			r["finished"] = g.day(-4, 0)
		}
		if i > 360 {
			delete(r, "finished")
			r["status"] = g.choice("os", "Planned", "In the yard", "In the yard", "Waiting for parts")
		}
		if i%5 == 0 {
			r["request"] = g.any(asked)
		}
		return r
	})
	g.add("time", entries, func(i int) row {
		return row{"order": ref(jobs[i*len(jobs)/entries]), "crew": g.any(hands), "day": g.day(-720+i*720/entries-5, -720+i*720/entries),
			"hours": tenths(5 * (1 + g.rand.IntN(16)))}
	})
	g.add("part", 500, func(int) row {
		return row{"part": text(g.pick("Impeller", "Anode", "Shackle", "Antifoul, 5 l", "Oil filter", "Halyard, 12 mm", "Bilge pump",
			"Sealant")), "order": g.any(jobs), "quantity": whole(1 + g.rand.IntN(6)), "price": g.money(4, 180)}
	})
	g.add("haul", 70, func(i int) row {
		day := -200 + i*4
		return row{"boat": g.any(fleet), "day": g.day(day, day+3), "kind": g.choice("hk", "Haul out", "Launch"), "done": yes(day+3 < 0)}
	})
}

func (g *generator) office() {
	owned, ships := g.idsOf("own"), g.idsOf("boat")
	offers := g.add("est", 60, func(i int) row {
		return row{"number": text(fmt.Sprintf("E-%04d", i+1)), "boat": g.any(ships), "owner": g.any(owned),
			"day": g.day(-600+i*10, -595+i*10), "status": g.choice("es", "Sent", "Accepted", "Accepted", "Declined")}
	})
	g.add("eli", 180, func(i int) row {
		return row{"text": text(g.pick("Labour", "Crane", "Materials")), "estimate": ref(offers[i/3]),
			"quantity": whole(1 + g.rand.IntN(12)), "price": g.money(40, 90), "taxable": yes(true)}
	})
	bills := g.add("inv", invoices, func(i int) row {
		day := -730 + i*730/invoices
		state := "Paid"
		if day > -70 {
			state = g.pick("Sent", "Sent", "Paid", "Draft")
		}
		return row{"number": text(fmt.Sprintf("%d", 20000+i)), "owner": g.any(owned), "boat": g.any(ships), "day": g.day(day, day),
			"due": g.day(day+30, day+30), "status": expr.ChoiceOf(choiceID("is", state)), "total": g.money(90, 3800)}
	})
	g.add("ili", invoices*2, func(i int) row {
		return row{"text": text(g.pick("Labour", "Materials", "Storage", "Crane")), "invoice": ref(bills[i/2]),
			"quantity": whole(1 + g.rand.IntN(10)), "price": g.money(30, 190)}
	})
	notices := []struct {
		title, text string
		public      bool
	}{
		{"Crane out of use on Thursday", "The crane is inspected. No lifts that day.", true},
		{"Winter storage is filling up", "Book your place before the end of the month.", true},
		{"New opening hours", "The yard office opens at half past seven.", true},
		{"Owners’ supper", "Saturday at seven in the sail loft. Bring a dish.", false},
	}
	g.add("news", len(notices), func(i int) row {
		n := notices[i]
		return row{"title": text(n.title), "text": text(n.text), "day": g.day(-3-i*9, -1-i*9), "public": yes(n.public)}
	})
	first := time.Date(g.today.Year(), 1, 1, 0, 0, 0, 0, time.UTC)
	g.add("goal", 12, func(i int) row {
		return row{"month": expr.DateOf(first.AddDate(0, i, 0).Format(time.DateOnly)), "hours": whole(320 + 40*(i%4)),
			"takings": whole(18000 + 1500*(i%5))}
	})
	g.add("pol", 18, func(i int) row {
		return row{"boat": ref(ships[1+i*3]), "insurer": text(g.pick("Mutual of the Sound", "Harbour & Coast", "Northern Hulls")),
			"number": text(fmt.Sprintf("P-%05d", 31000+i*17)), "until": g.day(40, 420)}
	})
	g.add("enq", 6, func(i int) row {
		asked := []string{"A berth for the winter", "Do you mend sails?", "Crane for 9 tonnes", "Shore power in the inner basin",
			"Trailer for a dinghy", "Opening hours at Easter"}
		return row{"subject": text(asked[i]), "owner": g.any(owned), "day": g.day(-40+i*6, -36+i*6),
			"message": text(g.pick("How much is it?", "When could we come?", "Is that possible in spring?"))}
	})
	g.steps()
	g.welcomes(owned)
}

// welcomes are what is to be done for those who keep a boat with us for the first time.
func (g *generator) welcomes(owners []string) {
	steps := []string{"Copy of the insurance", "Keys to the pontoon", "A round of the yard", "Berth card with her photo",
		"Ring up after a month"}
	after := []int{7, 1, 1, 14, 30}
	made := g.add("wel", len(steps), func(i int) row {
		return row{"step": text(steps[i]), "after": whole(after[i]), "place": whole(i + 1)}
	})
	g.add("todo", 3*len(steps), func(i int) row {
		who, n := i/len(steps), i%len(steps)
		r := row{"step": text(steps[n]), "owner": ref(owners[len(owners)-1-who]), "place": whole(n + 1), "list": whole(1),
			"from": ref(made[n]), "due": g.day(after[n]-10-who, after[n]-9-who), "done": yes(n < who+1)}
		if n < who+1 {
			r["by"] = g.any(g.idsOf("crew"))
		}
		return r
	})
}

// steps are what is usually to be done for each kind of work.
func (g *generator) steps() {
	usual := []struct {
		kind  string
		steps [3]string
	}{
		{"Hull", [3]string{"Lift her out and wash her down", "Do the work on the hull", "Show it to the owner"}},
		{"Engine", [3]string{"Look at the engine and write down its hours", "Do the work on the engine", "Run it for half an hour"}},
		{"Rigging", [3]string{"Look at mast, stays and fittings", "Do the work on the rigging", "Set the stays and try her under sail"}},
		{"Electrics", [3]string{"Measure the batteries", "Do the work on the electrics", "Try all circuits"}},
		{"Winter storage", [3]string{"Drain the water, take off the sails", "Bring her in and cover her", "Check the cover each month"}},
	}
	g.add("usual", len(usual)*3, func(i int) row {
		u := usual[i/3]
		return row{"text": text(u.steps[i%3]), "kind": g.choice("wk", u.kind), "place": whole(1 + i%3)}
	})
}
