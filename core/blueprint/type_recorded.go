package blueprint

import "pinegate/core/expr"

// The types of field that the system writes down.
const (
	CreatedAt FieldType = "created at"
	CreatedBy FieldType = "created by"
	ChangedAt FieldType = "changed at"
	ChangedBy FieldType = "changed by"
)

// recorded is a type that shows a column of the system.
type recorded struct {
	base
	kind expr.Kind
}

func (t recorded) Value(*Field) expr.Type { return expr.Type{Kind: t.kind} }

func recordedType(name FieldType, words, label, column string, kind expr.Kind) recorded {
	return recorded{base{TypeRow{Name: name, Words: words, Label: label, Group: "Recorded", Nature: Recorded, System: column}}, kind}
}

var (
	createdAt = recordedType(CreatedAt, "when it was added", "When it was added", "created_at", expr.Time)
	createdBy = recordedType(CreatedBy, "who added it", "Who added it", "created_by", expr.Text)
	changedAt = recordedType(ChangedAt, "when it was last changed", "When it was last changed", "changed_at", expr.Time)
	changedBy = recordedType(ChangedBy, "who last changed it", "Who last changed it", "changed_by", expr.Text)
)
