// Package expr is the small expression language in which a founder writes
// rules: conditions, labels, placeholders and preset values.
//
// Source text goes through three layers: [Parse] makes a syntax tree with
// positions, [Check] resolves names and types against a [Scope] and makes a
// checked [Node], and a node is either evaluated in Go ([Eval]) or compiled to
// one PostgreSQL expression ([Compiler]). The two back ends agree exactly.
//
// The language is total: a checked expression never fails. What cannot be
// computed is empty.
package expr
