package demo

import (
	"fmt"
	"math/rand/v2"
	"time"

	"github.com/google/uuid"
	"github.com/shopspring/decimal"

	"pinegate/core/expr"
	"pinegate/store/records"
)

// Made are the records made for a table.
type Made struct {
	Table   string
	Records []records.New
}

// How many records there are of the main things.
const (
	owners, boats, berths, crewCount, requests, orders, entries, invoices = 40, 60, 48, 9, 90, 400, 3000, 480
)

// generator makes records that look real. The same day gives the same values;
// only the ids differ.
type generator struct {
	rand  *rand.Rand
	today time.Time
	made  []Made
	err   error
}

// Generate makes the boatyard's records as of a day.
func Generate(today time.Time) ([]Made, error) {
	g := &generator{rand: rand.New(rand.NewPCG(18, 7)), today: today}
	g.people()
	g.boats()
	g.work()
	g.office()
	return g.made, g.err
}

type row = map[string]expr.Value

// add makes n records of a table and gives their ids.
func (g *generator) add(table string, n int, values func(i int) row) []string {
	m := Made{Table: table}
	var out []string
	for i := range n {
		id, err := uuid.NewV7()
		if err != nil {
			g.err = fmt.Errorf("make record id: %w", err)
			return out
		}
		filled := row{}
		for key, v := range values(i) {
			filled[fieldID(table, key)] = v
		}
		m.Records = append(m.Records, records.New{ID: id.String(), Values: filled})
		out = append(out, id.String())
	}
	g.made = append(g.made, m)
	return out
}

func (g *generator) pick(list ...string) string { return list[g.rand.IntN(len(list))] }

func (g *generator) choice(list string, labels ...string) expr.Value {
	return expr.ChoiceOf(choiceID(list, g.pick(labels...)))
}

func (g *generator) day(from, to int) expr.Value {
	return expr.DateOf(g.today.AddDate(0, 0, from+g.rand.IntN(to-from+1)).Format(time.DateOnly))
}

func (g *generator) money(from, to int) expr.Value {
	return expr.NumberOf(decimal.New(int64(from*100+g.rand.IntN((to-from)*100)), -2))
}

func tenths(n int) expr.Value                    { return expr.NumberOf(decimal.New(int64(n), -1)) }
func whole(n int) expr.Value                     { return expr.NumberOf(decimal.NewFromInt(int64(n))) }
func text(s string) expr.Value                   { return expr.TextOf(s) }
func ref(id string) expr.Value                   { return expr.RecordOf(id) }
func yes(b bool) expr.Value                      { return expr.YesNoOf(b) }
func (g *generator) any(ids []string) expr.Value { return ref(ids[g.rand.IntN(len(ids))]) }

var firstNames = []string{"Ines", "Tomas", "Ruth", "Callum", "Odile", "Piet", "Sanna", "Hugh", "Mira", "Joss", "Edda", "Noor", "Bram",
	"Lotte", "Aidan", "Greta", "Silvio", "Wren", "Oskar", "Tamsin"}
var lastNames = []string{"Calder", "Penrose", "Vane", "Holm", "Trevanion", "Marsh", "Okafor", "Lindqvist", "Ferro", "Quayle", "Brandt",
	"Sorrel", "Amado", "Thorne", "Kestle", "Radley", "Voss", "Pascoe", "Iversen", "Dunmore"}

func personName(i int) string {
	return firstNames[i%len(firstNames)] + " " + lastNames[(i*7+i/len(firstNames))%len(lastNames)]
}

func mailOf(i int, domain string) string {
	return fmt.Sprintf("%s.%s@%s.example", lower(firstNames[i%len(firstNames)]), lower(lastNames[(i*7+i/len(firstNames))%len(lastNames)]),
		domain)
}

func lower(s string) string { return string(s[0]+32) + s[1:] }
