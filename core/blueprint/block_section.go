package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

var sectionKind = BlockKind{
	Name:  "section",
	Label: "A section or a step",
	Noun:  "section",
	Help:  "Questions that belong together, with words above them. Steps come one after the other",
	Forms: OnlyInForms,
	New:   func() Block { return &SectionBlock{} },
}

// SectionBlock holds questions, and words between them. A form with steps shows one of them
// at a time.
type SectionBlock struct {
	BlockHead
	Way    SectionWay `json:"way,omitempty"`
	Title  string     `json:"title,omitempty"` // with placeholders
	Blocks Blocks     `json:"blocks"`
}

// SectionWay is how a section stands among others.
type SectionWay string

// The ways.
const (
	PlainSection SectionWay = ""
	StepSection  SectionWay = "step"
)

// Row gives the kind.
func (*SectionBlock) Row() *BlockKind { return &sectionKind }

// Inside gives what stands in it.
func (x *SectionBlock) Inside() *Blocks { return &x.Blocks }

// Called says which block it is.
func (x *SectionBlock) Called(c Context) string {
	if x.Title == "" || c.form == nil {
		return calledBlock(&sectionKind, c)
	}
	noun := sectionKind.Noun
	if x.Way == StepSection {
		noun = "step"
	}
	return words.Say("called-section", words.Args{"noun": noun, "title": x.Title, "in": c.stands()})
}

// Core is the sentence that tells it.
func (*SectionBlock) Core(Context) string { return "{way} holds what follows" }

// Props lists its settings.
func (x *SectionBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "way",
			Label: "It is",
			Noun:  "what it is",
			Asked: true,
			Value: prop.Pick(&x.Way, prop.Option{Value: "", Words: "A section", Label: "A section, beneath the one above"},
				prop.Option{Value: string(StepSection), Words: "A step", Label: "A step: people go on to it, and back"}),
		},
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above its questions; those of a step stand in the line of steps, too",
			Group: "Look",
			Say:   ", titled {}",
			Value: prop.Template(&x.Title, c.above(x)),
		},
	}
}

// Start makes room for questions, and has words for a step.
func (x *SectionBlock) Start(Context) {
	if x.Blocks == nil {
		x.Blocks = Blocks{}
	}
	if x.Way == StepSection {
		orStart(&x.Title, "Next")
	}
}

// Check refuses sections in sections, and steps that are not those of a form.
func (x *SectionBlock) Check(c Context) *words.Problem {
	_, inForm := c.holder.(*FormBlock)
	in, inSection := c.holder.(*SectionBlock)
	switch {
	case x.Way == StepSection && !inForm:
		return words.New("step-inside")
	case inSection && in.Way != StepSection:
		return words.New("section-deep")
	case x.Way == StepSection && x.Title == "":
		return words.New("step-title")
	}
	return nil
}
