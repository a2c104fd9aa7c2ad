package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"compactparcel/core/item"
)

// sumVersion is the version of the schema in which collections keep the sum of their items,
// and in which digests of collections begin with their scheme.
const sumVersion = 8

// sums is the migration to schema 8.
func sums(ctx context.Context, db *sql.DB) error {
	for _, ddl := range []string{
		"ALTER TABLE collections MODIFY digest VARCHAR(80) NOT NULL",
		"ALTER TABLE collections ADD COLUMN IF NOT EXISTS sum VARBINARY(2048) NOT NULL DEFAULT '' AFTER digest",
		"ALTER TABLE revisions MODIFY digest VARCHAR(80) NOT NULL",
		"ALTER TABLE outlets MODIFY site_digest VARCHAR(80) NOT NULL DEFAULT ''",
	} {
		if _, err := db.ExecContext(ctx, ddl); err != nil {
			return err
		}
	}
	tx, err := db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // after a commit there is nothing to roll back
	c := &converter{ctx: ctx, tx: tx, digests: map[string]string{}}
	ids, err := query(c, "SELECT id FROM collections ORDER BY id", single[int64])
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := c.sum(id); err != nil {
			return fmt.Errorf("the digests of collection %d: %w", id, err)
		}
	}
	for _, step := range []func() error{c.outlets, c.receipts} {
		if err := step(); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// sum works out the digest of every revision of a collection in one pass through what came
// and went, and keeps the sum of the newest.
func (c *converter) sum(id int64) error {
	type row struct {
		a        item.Address
		state    item.Digest
		from, to int64
	}
	rows, err := query(c, fmt.Sprintf("SELECT kind, item_key, state, from_rev, to_rev FROM items WHERE "+
		"collection_id = %d", id), func(rows *sql.Rows) (r row, err error) {
		err = rows.Scan(&r.a.Kind, &r.a.Key, &r.state, &r.from, &r.to)
		return r, err
	})
	if err != nil {
		return err
	}
	begins, ends := map[int64][]row{}, map[int64][]row{}
	for _, x := range rows {
		begins[x.from], ends[x.to] = append(begins[x.from], x), append(ends[x.to], x)
	}
	type revision struct {
		rev    int64
		digest string
	}
	revs, err := query(c, fmt.Sprintf("SELECT rev, digest FROM revisions WHERE collection_id = %d ORDER BY rev", id),
		func(rows *sql.Rows) (r revision, err error) { err = rows.Scan(&r.rev, &r.digest); return r, err })
	if err != nil {
		return err
	}
	var sum item.CollectionSum
	for _, r := range revs {
		for _, x := range ends[r.rev] {
			sum.Remove(x.a, x.state)
		}
		for _, x := range begins[r.rev] {
			sum.Add(x.a, x.state)
		}
		now := string(sum.Digest())
		if now == r.digest {
			continue
		}
		c.digests[r.digest] = now
		if err := c.exec("UPDATE revisions SET digest = ? WHERE collection_id = ? AND rev = ?", now, id,
			r.rev); err != nil {
			return err
		}
	}
	return c.exec("UPDATE collections SET digest = ?, sum = ? WHERE id = ?", string(sum.Digest()), sum.Bytes(), id)
}

// receipts gives the receipts of deliveries the new digests of the sites.
func (c *converter) receipts() error {
	type delivery struct {
		id      int64
		receipt string
	}
	all, err := query(c, "SELECT id, receipt FROM deliveries WHERE receipt <> ''",
		func(rows *sql.Rows) (d delivery, err error) { err = rows.Scan(&d.id, &d.receipt); return d, err })
	if err != nil {
		return err
	}
	for _, d := range all {
		var v any
		if err := unmarshal(d.receipt, &v); err != nil {
			return fmt.Errorf("delivery %d: %w", d.id, err)
		}
		b, err := json.Marshal(c.mapped(v))
		if err != nil {
			return err
		}
		if string(b) == d.receipt {
			continue
		}
		if err := c.exec("UPDATE deliveries SET receipt = ? WHERE id = ?", string(b), d.id); err != nil {
			return err
		}
	}
	return nil
}
