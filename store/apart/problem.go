package apart

import (
	"pinegate/core/words"
)

// problem is a [words.Problem] on its way between two processes. Arguments are apart
// by what they are, as JSON has one kind of number only.
type problem struct {
	Code  string              `json:"code"`
	Hint  string              `json:"hint,omitempty"`
	Slot  string              `json:"slot,omitempty"`
	Texts map[string]string   `json:"texts,omitempty"`
	Whole map[string]int      `json:"whole,omitempty"`
	Lists map[string][]string `json:"lists,omitempty"`
}

func problemOf(p *words.Problem) *problem {
	out := &problem{Code: p.Code, Hint: p.Hint, Slot: p.Slot, Texts: map[string]string{}, Whole: map[string]int{}, Lists: map[string][]string{}}
	for name, arg := range p.Args {
		switch arg := arg.(type) {
		case int:
			out.Whole[name] = arg
		case []string:
			out.Lists[name] = arg
		default:
			out.Texts[name] = words.Fill("{it}", words.Args{"it": arg})
		}
	}
	return out
}

func (p *problem) words() *words.Problem {
	out := &words.Problem{Code: p.Code, Hint: p.Hint, Slot: p.Slot, Args: words.Args{}}
	for name, text := range p.Texts {
		out.Args[name] = text
	}
	for name, n := range p.Whole {
		out.Args[name] = n
	}
	for name, list := range p.Lists {
		out.Args[name] = list
	}
	return out
}
