package apps

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/store"
	"pinegate/store/records"
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
	ids := map[string]string{} // of tables, by their names in the database
	names := map[string]bool{}
	for _, t := range b.Tables {
		ids[t.Key] = t.ID
	}
	// by names, of which there is an index: there may be very many tables of others
	var gone []string
	err := tx.Raw(`SELECT relname FROM pg_class WHERE relname LIKE 'gone\_%' AND relnamespace = ?::regnamespace AND relkind = 'r'`,
		query.Quote(name)).Scan(&gone).Error
	if err != nil {
		return fmt.Errorf("look for tables that are set aside: %w", err)
	}
	for _, t := range gone {
		ids[t], names[t] = strings.TrimPrefix(t, "gone_"), true
	}
	var columns []struct{ TableName, ColumnName string }
	err = tx.Raw(`SELECT c.relname AS table_name, a.attname AS column_name FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid
		WHERE c.relname IN ? AND c.relnamespace = ?::regnamespace AND a.attnum > 0 AND NOT a.attisdropped AND a.attname LIKE 'gone\_%'`,
		append(slices.Collect(maps.Keys(ids)), ""), query.Quote(name)).Scan(&columns).Error
	if err != nil {
		return fmt.Errorf("look for columns that are set aside: %w", err)
	}
	for _, c := range columns {
		names[ids[c.TableName]+"."+c.ColumnName] = true
	}
	note := fmt.Sprintf("INSERT INTO %s.%s VALUES (?)", query.Quote(name), query.Quote(schema.AsideTable))
	for n := range names {
		if err := tx.Exec(note, n).Error; err != nil {
			return fmt.Errorf("note what is set aside: %w", err)
		}
	}
	return nil
}

// noteWho is the way to level 3: from then on histories keep the ids of those who did
// something, beside the names that they had.
func noteWho(tx *gorm.DB, name string) error {
	sql := fmt.Sprintf("ALTER TABLE %s.%s ADD COLUMN made_by_id text", query.Quote(name), query.Quote(records.HistoryTable))
	if err := tx.Exec(sql).Error; err != nil {
		return fmt.Errorf("make room for who did what: %w", err)
	}
	return nil
}
