package words

// Problem is a reason, told to whoever asked for something, why it cannot be
// done. Code names the message and Args what stands in it; Slot names the setting
// that is wrong, where one is, and Cause is what lies behind it.
type Problem struct {
	Code  string
	Args  Args
	Hint  string // the code of a message that says what to do
	Slot  string
	Cause error
}

// New gives a problem. The arguments are pairs of a name and what it stands for.
func New(code string, pairs ...any) *Problem {
	return &Problem{Code: code, Args: pairsOf(pairs)}
}

// With makes an error the cause of the problem.
func (p *Problem) With(cause error) *Problem {
	p.Cause = cause
	return p
}

// Parts words what is wrong and, apart from it, what to do, or "".
func (p *Problem) Parts() (wrong, todo string) {
	if p.Hint != "" {
		todo = Say(p.Hint, p.Args)
	}
	return Say(p.Code, p.Args), todo
}

func (p *Problem) Error() string {
	wrong, todo := p.Parts()
	if todo == "" {
		return wrong
	}
	return wrong + " " + todo
}

// Unwrap gives what lies behind the problem, or nil.
func (p *Problem) Unwrap() error { return p.Cause }

func pairsOf(pairs []any) Args {
	args := Args{}
	for i := 0; i+1 < len(pairs); i += 2 {
		if name, ok := pairs[i].(string); ok {
			args[name] = pairs[i+1]
		}
	}
	return args
}
