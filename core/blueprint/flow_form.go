package blueprint

import (
	"strings"

	"pinegate/core/prop"
	"pinegate/core/words"
)

// FlowForm is the small form of a workflow that a button starts: what it asks before it runs. It
// stands on no page of the app.
type FlowForm struct {
	Flow  *Workflow
	press *PressTrigger
}

// flowForm stands behind the id of a workflow in that of its form, which no other id has.
const flowForm = ":asks"

// Asks gives what the workflow asks before it runs; nil where nothing but a button starts it.
func (w *Workflow) Asks() *FlowForm {
	if x, is := w.Starts.Trigger.(*PressTrigger); is {
		return &FlowForm{w, x}
	}
	return nil
}

// FlowForm gives the form of a workflow with the id, or nil.
func (b *Blueprint) FlowForm(id string) *FlowForm {
	flow, is := strings.CutSuffix(id, flowForm)
	w := b.Workflow(flow)
	if !is || w == nil {
		return nil
	}
	return w.Asks()
}

// flowForms walks the forms of all workflows.
func (b *Blueprint) flowForms(yield func(*FlowForm) bool) {
	for i := range b.Workflows {
		if f := b.Workflows[i].Asks(); f != nil && !yield(f) {
			return
		}
	}
}

// ID gives the id of the form, which is the path of its page as well.
func (f *FlowForm) ID() string { return f.Flow.ID + flowForm }

// Any tells whether it asks for anything.
func (f *FlowForm) Any() bool { return len(f.press.Blocks) > 0 }

// Form gives it as a form on a page.
func (f *FlowForm) Form() *FormBlock {
	return &FormBlock{BlockHead: BlockHead{ID: f.ID(), Kind: formKind.Name}, Table: f.press.Record, Blocks: f.press.Blocks,
		Submit: f.Flow.Name}
}

// Page gives the page on which it stands, which is open to those who can start the workflow.
func (f *FlowForm) Page() *Page {
	return &Page{ID: f.ID(), Path: f.ID(), Name: f.Flow.Name, Record: f.press.Record, Audience: SomeRole, Roles: f.press.Roles,
		Blocks: Blocks{f.Form()}}
}

// Called says which form it is.
func (f *FlowForm) Called(Context) string {
	return words.Say("called-flow-form", words.Args{"flow": f.Flow.Name})
}

// Core is the sentence that tells it.
func (f *FlowForm) Core(Context) string {
	if f.Any() {
		return "Before it runs, it asks what follows"
	}
	return "It asks nothing before it runs"
}

// Props lists its settings.
func (f *FlowForm) Props(Context) []prop.Prop { return nil }

// flowFormPlaces walks the form of a workflow with what stands in it.
func flowFormPlaces(c Context, yield func(Place) bool) bool {
	f := c.flow.Asks()
	if f == nil {
		return true
	}
	p := Place{ID: f.ID(), What: "flow form", In: c.flow.ID, Thing: f, Context: c}
	return yield(p) && blockPlaces(f.ID(), &f.press.Blocks, p.Within(), yield)
}
