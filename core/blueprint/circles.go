package blueprint

import (
	"cmp"
	"slices"
	"strings"

	"pinegate/core/expr"
)

// writing is what a step writes: records of a table that it adds, changes or deletes.
type writing struct {
	table  string
	kind   *TriggerKind // of what it starts
	fields []string     // ids of those that it changes
}

// FlowCircle gives the workflows that set each other off from one of them back to it, in their order: the
// shortest way, without those that are switched off. It is nil where there is none. What a condition
// keeps from going on is not known here.
func (b *Blueprint) FlowCircle(w *Workflow, catalog *expr.Catalog) []*Workflow {
	circles, err := checkedOnce(b, circlesKey{}, func() (map[string][]*Workflow, error) { return b.flowCircles(catalog), nil })
	if err != nil {
		return nil
	}
	return circles[w.ID]
}

// FlowCircles lists the circles of all workflows, each once.
func (b *Blueprint) FlowCircles(catalog *expr.Catalog) [][]*Workflow {
	var out [][]*Workflow
	seen := map[string]bool{}
	for i := range b.Workflows {
		circle := b.FlowCircle(&b.Workflows[i], catalog)
		var ids []string
		for _, w := range circle {
			ids = append(ids, w.ID)
		}
		slices.Sort(ids)
		if key := strings.Join(ids, " "); key != "" && !seen[key] {
			seen[key] = true
			out = append(out, circle)
		}
	}
	return out
}

type circlesKey struct{}

// CirclePath tells a circle of workflows: each sets the next one off, and the last one the first.
func CirclePath(circle []*Workflow) string {
	var names []string
	for _, w := range circle {
		names = append(names, w.Name)
	}
	return strings.Join(append(names, names[0]), " → ")
}

// flowCircles finds the shortest circle of each workflow that is in one.
func (b *Blueprint) flowCircles(catalog *expr.Catalog) map[string][]*Workflow {
	next := map[string][]*Workflow{}
	for i := range b.Workflows {
		w := &b.Workflows[i]
		if !w.Off && w.Routine() == nil {
			next[w.ID] = b.setOffBy(b.flowWrites(w, catalog))
		}
	}
	out := map[string][]*Workflow{}
	for i := range b.Workflows {
		if circle := wayBack(&b.Workflows[i], next); circle != nil {
			out[b.Workflows[i].ID] = circle
		}
	}
	return out
}

// wayBack finds the shortest way from a workflow back to it.
func wayBack(from *Workflow, next map[string][]*Workflow) []*Workflow {
	ways, seen := [][]*Workflow{{from}}, map[string]bool{}
	for len(ways) > 0 {
		way := ways[0]
		ways = ways[1:]
		for _, w := range next[way[len(way)-1].ID] {
			if w == from {
				return way
			}
			if !seen[w.ID] {
				seen[w.ID] = true
				ways = append(ways, append(slices.Clone(way), w))
			}
		}
	}
	return nil
}

// flowWrites lists what the steps of a workflow write, with those of the routines that it runs.
func (b *Blueprint) flowWrites(w *Workflow, catalog *expr.Catalog) []writing {
	var out []writing
	for _, flow := range append([]*Workflow{w}, b.RoutinesOf(w)...) {
		for p := range b.FlowPlaces(flow, catalog) {
			switch x := p.Thing.(type) {
			case *AddStep:
				out = append(out, writing{x.Table, &addedKind, nil})
			case *ChangeStep:
				if t := x.Of(p.Context); t != nil {
					is := writing{t.ID, &changedKind, nil}
					for _, g := range x.Values {
						is.fields = append(is.fields, g.Field)
					}
					out = append(out, is)
				}
			case *DeleteStep:
				if t := x.Of(p.Context); t != nil {
					out = append(out, writing{t.ID, &deletedKind, nil})
				}
			}
		}
	}
	return out
}

// setOffBy lists the workflows that what is written sets off.
func (b *Blueprint) setOffBy(writes []writing) []*Workflow {
	var out []*Workflow
	for i := range b.Workflows {
		w := &b.Workflows[i]
		if !w.Off && slices.ContainsFunc(writes, func(x writing) bool { return x.starts(w.Starts.Trigger) }) {
			out = append(out, w)
		}
	}
	slices.SortStableFunc(out, func(x, y *Workflow) int { return cmp.Compare(x.Name, y.Name) })
	return out
}

// starts tells whether what is written is what a trigger waits for.
func (x writing) starts(t Trigger) bool {
	if t.Row() != x.kind {
		return false
	}
	switch t := t.(type) {
	case *AddedTrigger:
		return t.Table == x.table
	case *DeletedTrigger:
		return t.Table == x.table
	case *ChangedTrigger:
		return t.Table == x.table && (len(t.Fields) == 0 || slices.ContainsFunc(x.fields, func(f string) bool {
			return slices.Contains(t.Fields, f)
		}))
	}
	return false
}
