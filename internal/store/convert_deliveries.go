package store

import (
	"database/sql"
	"encoding/json"
	"fmt"

	"compactparcel/core/plan"
)

// deliveries converts what deliveries were asked for, planned and did. A plan that cannot be
// read any more is left out; planning again makes it.
func (c *converter) deliveries() error {
	type delivery struct {
		id                                     int64
		state, ask, plan, digest, receipt, stg string
	}
	all, err := query(c, "SELECT id, state, ask, plan, plan_digest, receipt, staged FROM deliveries",
		func(rows *sql.Rows) (d delivery, err error) {
			err = rows.Scan(&d.id, &d.state, &d.ask, &d.plan, &d.digest, &d.receipt, &d.stg)
			return d, err
		})
	if err != nil {
		return err
	}
	for _, d := range all {
		n := d
		for _, t := range []*string{&n.ask, &n.plan, &n.receipt, &n.stg} {
			if *t, err = c.text(*t); err != nil {
				return fmt.Errorf("delivery %d: %w", d.id, err)
			}
		}
		if n == d {
			continue
		}
		if n.plan != "" && json.Unmarshal([]byte(n.plan), &plan.Plan{}) != nil {
			n.plan = ""
		}
		if err := c.exec("UPDATE deliveries SET ask = ?, plan = ?, receipt = ?, staged = ? WHERE id = ?",
			n.ask, n.plan, n.receipt, n.stg, d.id); err != nil {
			return err
		}
	}
	return nil
}

// outlets notes that what is published is what is live, under its new digest.
func (c *converter) outlets() error {
	had, err := query(c, "SELECT DISTINCT site_digest FROM outlets", single[string])
	if err != nil {
		return err
	}
	for _, old := range had {
		if now := c.digests[old]; now != "" {
			if err := c.exec("UPDATE outlets SET site_digest = ? WHERE site_digest = ?", now,
				old); err != nil {
				return err
			}
		}
	}
	return nil
}

// text converts a JSON text.
func (c *converter) text(s string) (string, error) {
	if s == "" {
		return "", nil
	}
	var v any
	if err := unmarshal(s, &v); err != nil {
		return "", err
	}
	b, err := json.Marshal(c.mapped(renamed(v)))
	return string(b), err
}

// mapped gives a value with new digests for old ones.
func (c *converter) mapped(v any) any {
	switch v := v.(type) {
	case map[string]any:
		for k, x := range v {
			v[k] = c.mapped(x)
		}
	case []any:
		for i, x := range v {
			v[i] = c.mapped(x)
		}
	case string:
		if now := c.digests[v]; now != "" && len(v) == 64 {
			return now
		}
	}
	return v
}
