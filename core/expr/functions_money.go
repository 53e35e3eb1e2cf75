package expr

import "github.com/shopspring/decimal"

// The functions of money over time follow OpenFormula (OASIS ODF 1.3, part 4,
// 6.12). They reckon to finePlaces and round the result to 12 places, each
// step as the functions of the database do.

const finePlaces = 40

func fineMul(x, y decimal.Decimal) decimal.Decimal { return x.Mul(y).Round(finePlaces) }

func fineDiv(x, y decimal.Decimal) decimal.Decimal { return x.DivRound(y, finePlaces) }

var one = decimal.New(1, 0)

// growth gives (1+rate)^n to finePlaces; nil where it is not to be had.
func growth(rate, n decimal.Decimal) *decimal.Decimal {
	if rate.LessThanOrEqual(one.Neg()) {
		return nil
	}
	q := power(rate.Add(one), n)
	if q == nil || q.Abs().GreaterThan(maxNumber) {
		return nil
	}
	fine := q.Round(finePlaces)
	return &fine
}

func moneyFunctions() map[string]function {
	five := func(usage, help, sql string, f func(rate, n, x, y, due decimal.Decimal) Value) function {
		return function{params: "n n n n=0 n=0", usage: usage, help: help, result: Number, sql: sql,
			eval: func(_ *evaluator, a []Value) Value {
				due := decimal.Zero
				if !a[4].Num.IsZero() {
					due = one
				}
				return f(a[0].Num, a[1].Num, a[2].Num, a[3].Num, due)
			}}
	}
	return map[string]function{
		"PMT":  five("PMT(rate, periods, present, future, at start)", "The payment for each period of a loan.", "money_pmt", pmt),
		"PV":   five("PV(rate, periods, payment, future, at start)", "What regular payments are worth today.", "money_pv", pv),
		"FV":   five("FV(rate, periods, payment, present, at start)", "What regular payments come to.", "money_fv", fv),
		"NPER": five("NPER(rate, payment, present, future, at start)", "How many periods it takes to pay off.", "money_nper", nper),
		"NPV": {usage: "NPV(rate, amounts)", help: "What a list of amounts, one for each period, is worth today.", params: "n v",
			loose: true,
			check: func(c *checker, n *Node) *Error { return c.amounts(n, 1) },
			lazy: func(e *evaluator, n *Node) Value {
				rate := e.eval(n.Args[0])
				if rate.IsEmpty() {
					return rate
				}
				return npv(rate.Num, e.eval(n.Args[1]).Items)
			},
			compile: func(c *Compiler, n *Node) (string, error) {
				rate, err := c.Value(n.Args[0])
				if err != nil {
					return "", err
				}
				list, err := c.array(n.Args[1])
				return "pinegate.money_npv(" + rate + ", " + list + ")", err
			}},
		"IRR": {usage: "IRR(amounts, guess)", help: "The rate at which a list of amounts, one for each period, is worth nothing today.",
			params: "v n=0.1", loose: true,
			check: func(c *checker, n *Node) *Error {
				if len(n.Args) == 1 {
					n.Args = append(n.Args, &Node{Op: OpConst, Type: Type{Kind: Number}, Value: number("0.1"), At: n.At})
				}
				return c.amounts(n, 0)
			},
			lazy: func(e *evaluator, n *Node) Value {
				guess := e.eval(n.Args[1])
				if guess.IsEmpty() {
					return guess
				}
				return irr(e.eval(n.Args[0]).Items, guess.Num)
			},
			compile: func(c *Compiler, n *Node) (string, error) {
				list, err := c.array(n.Args[0])
				if err != nil {
					return "", err
				}
				guess, err := c.Value(n.Args[1])
				return "pinegate.money_irr(" + list + ", " + guess + ")", err
			}},
	}
}

// amounts checks that the argument is a list of numbers and the other a
// number.
func (c *checker) amounts(n *Node, list int) *Error {
	if n.Args[list].Type != ListOf(Type{Kind: Number}) {
		return errorAt(n.Args[list].At, "expr-needs-number-list", "name", n.Func, "type", describe(c.scope, n.Args[list].Type))
	}
	other, err := c.want(n.Args[1-list], Type{Kind: Number}, n.Func)
	n.Args[1-list], n.Type = other, Type{Kind: Number}
	return err
}

func settled(d decimal.Decimal) Value { return NumberOf(d.Round(places)) }

func pmt(rate, n, present, future, due decimal.Decimal) Value {
	if rate.IsZero() {
		if n.IsZero() {
			return Empty()
		}
		return settled(fineDiv(present.Add(future).Neg(), n))
	}
	q := growth(rate, n)
	if q == nil || q.Equal(one) {
		return Empty()
	}
	top := fineMul(fineMul(present, *q).Add(future).Neg(), rate)
	bottom := fineMul(one.Add(fineMul(rate, due)), q.Sub(one))
	if bottom.IsZero() {
		return Empty()
	}
	return settled(fineDiv(top, bottom))
}

func pv(rate, n, payment, future, due decimal.Decimal) Value {
	if rate.IsZero() {
		return settled(future.Add(fineMul(payment, n)).Neg())
	}
	q := growth(rate, n)
	if q == nil || q.IsZero() {
		return Empty()
	}
	regular := fineDiv(fineMul(fineMul(payment, one.Add(fineMul(rate, due))), q.Sub(one)), rate)
	return settled(fineDiv(future.Add(regular).Neg(), *q))
}

func fv(rate, n, payment, present, due decimal.Decimal) Value {
	if rate.IsZero() {
		return settled(present.Add(fineMul(payment, n)).Neg())
	}
	q := growth(rate, n)
	if q == nil {
		return Empty()
	}
	regular := fineDiv(fineMul(fineMul(payment, one.Add(fineMul(rate, due))), q.Sub(one)), rate)
	return settled(fineMul(present, *q).Add(regular).Neg())
}

func nper(rate, payment, present, future, due decimal.Decimal) Value {
	if rate.IsZero() {
		if payment.IsZero() {
			return Empty()
		}
		return settled(fineDiv(present.Add(future).Neg(), payment))
	}
	if rate.LessThanOrEqual(one.Neg()) {
		return Empty()
	}
	regular := fineMul(payment, one.Add(fineMul(rate, due)))
	top := regular.Sub(fineMul(future, rate))
	bottom := regular.Add(fineMul(present, rate))
	if bottom.IsZero() {
		return Empty()
	}
	quotient := fineDiv(top, bottom)
	a, b := logarithm(quotient, false), logarithm(rate.Add(one), false)
	if a.IsEmpty() || b.IsEmpty() || b.Num.IsZero() {
		return Empty()
	}
	return settled(fineDiv(a.Num, b.Num))
}

// discounted gives the worth of the amounts, the first of which is first
// periods away, by the factor that a period takes off; nil where it is beyond
// all bounds.
func discounted(list []Value, factor decimal.Decimal, first int) *decimal.Decimal {
	sum, f := decimal.Zero, one
	for range first {
		f = fineMul(f, factor)
	}
	for _, v := range list {
		sum = sum.Add(fineMul(v.Num, f))
		f = fineMul(f, factor)
		if f.Abs().GreaterThan(maxNumber) {
			return nil
		}
	}
	return &sum
}

func npv(rate decimal.Decimal, list []Value) Value {
	if rate.LessThanOrEqual(one.Neg()) || len(list) == 0 {
		return Empty()
	}
	sum := discounted(list, fineDiv(one, one.Add(rate)), 1)
	if sum == nil {
		return Empty()
	}
	return settled(*sum)
}

// irr searches the rate by secants from the guess.
func irr(list []Value, guess decimal.Decimal) Value {
	const rounds = 60
	enough := decimal.New(1, -25)
	at := func(r decimal.Decimal) *decimal.Decimal {
		if r.LessThanOrEqual(one.Neg()) || r.GreaterThan(decimal.New(1, 10)) || len(list) == 0 {
			return nil
		}
		return discounted(list, fineDiv(one, one.Add(r)), 0)
	}
	r0, r1 := guess, guess.Add(decimal.New(1, -2))
	f0 := at(r0)
	for range rounds {
		f1 := at(r1)
		if f0 == nil || f1 == nil {
			return Empty()
		}
		if f1.IsZero() {
			return settled(r1)
		}
		if f1.Equal(*f0) {
			return Empty()
		}
		step := fineDiv(fineMul(*f1, r1.Sub(r0)), f1.Sub(*f0))
		r0, f0, r1 = r1, f1, r1.Sub(step).Round(finePlaces)
		if step.Abs().LessThan(enough) {
			return settled(r1)
		}
	}
	return Empty()
}
