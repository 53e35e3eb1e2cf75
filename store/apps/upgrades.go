package apps

import (
	"fmt"
	"strings"

	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/store"
)

// blueprintOf reads that of an environment, in the transaction.
func blueprintOf(tx *gorm.DB, app store.App, env Environment) (*blueprint.Blueprint, error) {
	table, number := "revisions", app.Revision
	if env == Live {
		table, number = "versions", app.LiveVersion
	}
	var raw []byte
	if err := tx.Raw("SELECT blueprint FROM "+table+" WHERE app_id = ? AND number = ?", app.ID, number).Row().Scan(&raw); err != nil {
		return nil, fmt.Errorf("read blueprint %d: %w", number, err)
	}
	return blueprint.Decode(raw)
}

// noteAside is the way to level 2: from then on, what stands set aside is noted in
// a table; before, it was looked for by its names.
func noteAside(tx *gorm.DB, name string, b *blueprint.Blueprint) error {
	if err := tx.Exec(schema.AsideSQL(name)).Error; err != nil {
		return fmt.Errorf("make the list of what is set aside: %w", err)
	}
	ids := map[string]string{}
	for _, t := range b.Tables {
		ids[t.Key] = t.ID
	}
	var found []struct{ TableName, ColumnName string }
	err := tx.Raw(`SELECT c.relname AS table_name, a.attname AS column_name FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid
		WHERE c.relnamespace = ?::regnamespace AND c.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped
		AND (c.relname LIKE 'gone\_%' OR a.attname LIKE 'gone\_%')`, query.Quote(name)).Scan(&found).Error
	if err != nil {
		return fmt.Errorf("look for what is set aside: %w", err)
	}
	names := map[string]bool{}
	for _, f := range found {
		id, active := ids[f.TableName]
		if !active {
			id = strings.TrimPrefix(f.TableName, "gone_")
			names[f.TableName] = true
		}
		if strings.HasPrefix(f.ColumnName, "gone_") {
			names[id+"."+f.ColumnName] = true
		}
	}
	note := fmt.Sprintf("INSERT INTO %s.%s VALUES (?)", query.Quote(name), query.Quote(schema.AsideTable))
	for n := range names {
		if err := tx.Exec(note, n).Error; err != nil {
			return fmt.Errorf("note what is set aside: %w", err)
		}
	}
	return nil
}
