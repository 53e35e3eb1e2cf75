// Package report says what figures and charts are made of: totals over records, in groups, over a range of days. It knows
// days and how they are parted, and neither apps nor databases.
package report

// Total is how the records of a group become one number.
type Total string

// The totals. All but the number of records leave out what is empty, and are empty where nothing is left.
const (
	Count    Total = "" // the number of records
	Sum      Total = "sum"
	Average  Total = "average"
	Weighted Total = "weighted" // the average, in which each record counts by its weight
	Least    Total = "least"
	Greatest Total = "greatest"
	Median   Total = "median"  // of an even number of records the mean of the two in the middle
	Formula  Total = "formula" // over other totals of the same group
)

// Of tells whether the total is one of a value of each record.
func (t Total) Of() bool { return t != Count && t != Formula }

// Digits is to how many decimals averages and medians are computed.
const Digits = 10

// Unit is a part into which days are put together.
type Unit string

// The units. Weeks begin on the first day of the week of the app.
const (
	Day     Unit = "day"
	Week    Unit = "week"
	Month   Unit = "month"
	Quarter Unit = "quarter"
	Year    Unit = "year"
)

// Units lists the units, the shortest first.
func Units() []Unit { return []Unit{Day, Week, Month, Quarter, Year} }

// Compare is with what a range is compared.
type Compare string

// The comparisons.
const (
	NotCompared Compare = ""
	RangeBefore Compare = "before" // as long, and just before
	YearBefore  Compare = "year"   // the same days a year before
)
