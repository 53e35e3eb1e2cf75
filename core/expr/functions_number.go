package expr

import (
	"github.com/cockroachdb/apd/v3"
	"github.com/shopspring/decimal"
)

// places is the number of decimal places to which what is not exact is
// rounded.
const places = 12

// number reads a number that is known to be one.
func number(s string) Value { return NumberOf(decimal.RequireFromString(s)) }

// whole gives a number without what is behind the point, within ±10^9, so that
// it can count characters, months or days.
func whole(v Value) int {
	const most = 1_000_000_000
	d := v.Num.Truncate(0)
	switch {
	case d.GreaterThan(decimal.New(most, 0)):
		return most
	case d.LessThan(decimal.New(-most, 0)):
		return -most
	}
	return int(d.IntPart())
}

// mostPlaces bounds the places to which numbers are rounded.
const mostPlaces = 50

func roundTo(v Value) int32 { return int32(max(-mostPlaces, min(mostPlaces, whole(v)))) }

func numberFunctions() map[string]function {
	one := func(usage, help, sql string, f func(decimal.Decimal) Value) function {
		return function{params: "n", usage: usage, help: help, result: Number, sql: sql,
			eval: func(_ *evaluator, a []Value) Value { return f(a[0].Num) }}
	}
	two := func(params, usage, help, sql string, f func(x, y decimal.Decimal) Value) function {
		return function{params: params, usage: usage, help: help, result: Number, sql: sql,
			eval: func(_ *evaluator, a []Value) Value { return f(a[0].Num, a[1].Num) }}
	}
	rounding := func(usage, help, sql string, f func(d decimal.Decimal, n int32) decimal.Decimal) function {
		return function{params: "n n=0", usage: usage, help: help, result: Number, sql: sql,
			eval: func(_ *evaluator, a []Value) Value { return NumberOf(f(a[0].Num, roundTo(a[1]))) }}
	}
	return map[string]function{
		"ABS": one("ABS(number)", "The number without its sign.", "number_abs",
			func(d decimal.Decimal) Value { return NumberOf(d.Abs()) }),
		"SIGN": one("SIGN(number)", "1, 0 or -1.", "number_sign",
			func(d decimal.Decimal) Value { return NumberOf(decimal.New(int64(d.Sign()), 0)) }),
		"INT": one("INT(number)", "The next whole number below.", "number_int",
			func(d decimal.Decimal) Value { return NumberOf(d.Floor()) }),
		"SQRT": one("SQRT(number)", "The square root, to 12 places.", "number_sqrt", sqrt),
		"EXP":  one("EXP(number)", "e to the power of the number, to 12 places.", "number_exp", exp),
		"LN": one("LN(number)", "The natural logarithm, to 12 places.", "number_ln",
			func(d decimal.Decimal) Value { return logarithm(d, false) }),
		"LOG10": one("LOG10(number)", "The logarithm to base 10, to 12 places.", "number_log10",
			func(d decimal.Decimal) Value { return logarithm(d, true) }),
		"ROUND": rounding("ROUND(number, places)", "Rounded, half away from zero.", "number_round",
			func(d decimal.Decimal, n int32) decimal.Decimal { return d.Round(n) }),
		"ROUNDUP": rounding("ROUNDUP(number, places)", "Rounded away from zero.", "number_round_up",
			func(d decimal.Decimal, n int32) decimal.Decimal { return d.RoundUp(n) }),
		"ROUNDDOWN": rounding("ROUNDDOWN(number, places)", "Rounded towards zero.", "number_round_down",
			func(d decimal.Decimal, n int32) decimal.Decimal { return d.RoundDown(n) }),
		"CEILING": two("n n=1", "CEILING(number, step)", "The nearest multiple of the step, rounded up.", "number_ceiling",
			func(x, y decimal.Decimal) Value { return toStep(x, y, 1) }),
		"FLOOR": two("n n=1", "FLOOR(number, step)", "The nearest multiple of the step, rounded down.", "number_floor",
			func(x, y decimal.Decimal) Value { return toStep(x, y, -1) }),
		"MOD": two("n n", "MOD(number, divisor)", "The rest after dividing, with the sign of the divisor.", "number_mod", mod),
		"POWER": two("n n", "POWER(base, exponent)", "The base to the power of the exponent, to 12 places.", "number_power",
			func(x, y decimal.Decimal) Value { return rounded(power(x, y)) }),
		"PERCENT": two("n n", "PERCENT(part, whole)", "The part as a percentage of the whole: PERCENT(1, 4) is 25.", "number_percent",
			func(x, y decimal.Decimal) Value {
				return arithmetic(OpDiv, NumberOf(x.Mul(decimal.New(100, 0))), NumberOf(y))
			}),
		"CLAMP": {params: "n n n", usage: "CLAMP(number, low, high)", help: "The number, kept between low and high.", result: Number,
			loose: true, sql: "number_clamp",
			eval: func(_ *evaluator, a []Value) Value {
				switch x, low, high := a[0], a[1], a[2]; {
				case x.IsEmpty():
					return x
				case !low.IsEmpty() && x.Num.LessThan(low.Num):
					return low
				case !high.IsEmpty() && x.Num.GreaterThan(high.Num):
					return high
				default:
					return x
				}
			}},
	}
}

func rounded(d *decimal.Decimal) Value {
	if d == nil {
		return Empty()
	}
	return NumberOf(d.Round(places))
}

// toStep gives the multiple of the step next to x, upwards or downwards.
func toStep(x, step decimal.Decimal, direction int) Value {
	if step.IsZero() {
		return NumberOf(decimal.Zero)
	}
	step = step.Abs()
	q, rest := x.QuoRem(step, 0)
	if rest.Sign() == direction {
		q = q.Add(decimal.New(int64(direction), 0))
	}
	return NumberOf(q.Mul(step))
}

func mod(x, y decimal.Decimal) Value {
	if y.IsZero() {
		return Empty()
	}
	_, r := x.QuoRem(y, 0)
	if r.Sign() != 0 && r.Sign() != y.Sign() {
		r = r.Add(y)
	}
	return NumberOf(r)
}

// exact is the precision, in significant digits, in which roots, powers and
// logarithms are computed before they are rounded.
const exact = 120

func toAPD(d decimal.Decimal) *apd.Decimal {
	return apd.NewWithBigInt(new(apd.BigInt).SetMathBigInt(d.Coefficient()), d.Exponent())
}

func fromAPD(x *apd.Decimal) *decimal.Decimal {
	if x.Form != apd.Finite {
		return nil
	}
	c := x.Coeff.MathBigInt()
	if x.Negative {
		c.Neg(c)
	}
	d := decimal.NewFromBigInt(c, x.Exponent)
	return &d
}

// compute runs a computation of the decimal library; nil where it has no
// result.
func compute(f func(c *apd.Context, out *apd.Decimal) (apd.Condition, error)) *decimal.Decimal {
	c := apd.BaseContext.WithPrecision(exact)
	c.Traps = 0
	var out apd.Decimal
	if _, err := f(c, &out); err != nil {
		return nil
	}
	return fromAPD(&out)
}

func sqrt(d decimal.Decimal) Value {
	if d.Sign() < 0 {
		return Empty()
	}
	return rounded(compute(func(c *apd.Context, out *apd.Decimal) (apd.Condition, error) { return c.Sqrt(out, toAPD(d)) }))
}

// Beyond these exponents the result is more than 10^40, or nothing to 12 places.
var (
	mostExp  = decimal.New(93, 0)
	leastExp = decimal.New(-30, 0)
)

func exp(d decimal.Decimal) Value {
	switch {
	case d.GreaterThan(mostExp):
		return Empty()
	case d.LessThan(leastExp):
		return NumberOf(decimal.Zero)
	}
	return rounded(compute(func(c *apd.Context, out *apd.Decimal) (apd.Condition, error) { return c.Exp(out, toAPD(d)) }))
}

func logarithm(d decimal.Decimal, ten bool) Value {
	if d.Sign() <= 0 {
		return Empty()
	}
	return rounded(compute(func(c *apd.Context, out *apd.Decimal) (apd.Condition, error) {
		if ten {
			return c.Log10(out, toAPD(d))
		}
		return c.Ln(out, toAPD(d))
	}))
}

// power gives x to the power of y, nearly exact; nil where there is no such
// number or it is beyond 10^40. What is nothing to 40 places is 0.
func power(x, y decimal.Decimal) *decimal.Decimal {
	one, zero := decimal.New(1, 0), decimal.Zero
	switch {
	case y.IsZero():
		return &one
	case x.IsZero() && y.Sign() > 0:
		return &zero
	case x.IsZero(), x.Sign() < 0 && !y.IsInteger():
		return nil
	}
	log := compute(func(c *apd.Context, out *apd.Decimal) (apd.Condition, error) {
		return c.WithPrecision(30).Log10(out, toAPD(x.Abs()))
	})
	if log == nil {
		return nil
	}
	switch size := log.Mul(y); {
	case size.GreaterThan(decimal.New(41, 0)):
		return nil
	case size.LessThan(decimal.New(-45, 0)):
		return &zero
	}
	return compute(func(c *apd.Context, out *apd.Decimal) (apd.Condition, error) { return c.Pow(out, toAPD(x), toAPD(y)) })
}
