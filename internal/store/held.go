package store

import (
	"context"
	"regexp"
	"strings"
	"time"

	"compactparcel/core/item"
)

// contentColumn is a column whose digest names a content: a text or a file.
type contentColumn struct{ Table, Column string }

// contentColumns are all columns that hold a content. This and contentTexts are the one place that
// knows what holds what: both sweeps ask them, and a test holds them against the tables.
var contentColumns = []contentColumn{
	{"items", "doc"},
	{"draft_items", "doc"},
	{"origins", "doc"},
	{"draft_origins", "doc"},
	{"folder_files", "doc"}, // the base of the next comparison with the folder
	{"kit_versions", "file"},
}

// contentText is a column in whose texts digests of contents stand, in the rows of one state.
type contentText struct {
	Table, Column string
	Rows          string // a condition on the rows that hold
	State         any
}

// contentTexts are the texts in which digests hold contents: the steps of open drafts, which can be taken
// back, what staged deliveries will write, and the receipts of live ones, which can be undone.
var contentTexts = []contentText{
	{"draft_steps", "edits", "EXISTS (SELECT 1 FROM drafts d WHERE d.id = draft_id AND d.state = ?)", DraftOpen},
	{"deliveries", "staged", "state = ?", Staged},
	{"deliveries", "receipt", "state = ?", Live},
}

// heldBy is an SQL condition: some column holds the content that the expression names. It takes no value.
func heldBy(expression string) string {
	var or []string
	for _, c := range contentColumns {
		or = append(or, "EXISTS (SELECT 1 FROM "+c.Table+" x WHERE x."+c.Column+" = "+expression+")")
	}
	return "(" + strings.Join(or, " OR ") + ")"
}

// inTexts finds digests in a text.
var inTexts = regexp.MustCompile(`[0-9a-f]{64}`)

// Held is what the texts of records hold, read once for a whole sweep.
type Held struct {
	s       *Store
	inTexts map[item.Digest]bool
}

// Held reads what the texts of records hold. A content that one of them comes to name later is either
// named by another already or has been written since, and is young.
func (s *Store) Held(ctx context.Context) (*Held, error) {
	out := &Held{s, map[item.Digest]bool{}}
	for _, t := range contentTexts {
		if err := out.note(ctx, t); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// note reads the digests of a column's texts, one row at a time.
func (h *Held) note(ctx context.Context, t contentText) error {
	rows, err := h.s.conn(ctx).Table(t.Table).Select(t.Column).Where(t.Rows, t.State).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var text []byte
		if err := rows.Scan(&text); err != nil {
			return err
		}
		for _, d := range inTexts.FindAll(text, -1) {
			h.inTexts[item.Digest(d)] = true
		}
	}
	return rows.Err()
}

// Wants tells whether any record or lease holds a content.
func (h *Held) Wants(ctx context.Context, d item.Digest, now time.Time) (bool, error) {
	if h.inTexts[d] {
		return true, nil
	}
	var held bool
	err := h.s.conn(ctx).
		Raw("SELECT EXISTS (SELECT 1 FROM blob_leases WHERE digest = w.d AND until > ?) OR "+heldBy("w.d")+
			" FROM (SELECT CAST(? AS CHAR(64) CHARACTER SET utf8mb4) COLLATE utf8mb4_nopad_bin AS d) w", now, d).
		Scan(&held).
		Error
	return held, err
}

// SweepDocs removes texts that nothing holds any more: those that drafts had in between, and that have been
// here for some time. Whoever writes a text makes it young again. It gives how many went.
func (s *Store) SweepDocs(ctx context.Context, held *Held, olderThan time.Time) (int, error) {
	unheld := " AND NOT " + heldBy("docs.digest")
	gone, last := 0, item.Digest("")
	for ctx.Err() == nil {
		var list []item.Digest
		if err := s.conn(ctx).Raw("SELECT digest FROM docs WHERE digest > ? AND created_at < ?"+unheld+
			" ORDER BY digest LIMIT 500", last, olderThan).Scan(&list).Error; err != nil {
			return gone, err
		}
		if len(list) == 0 {
			return gone, nil
		}
		last = list[len(list)-1]
		for _, d := range list {
			if held.inTexts[d] {
				continue
			}
			r := s.conn(ctx).Exec("DELETE FROM docs WHERE digest = ? AND created_at < ?"+unheld, d, olderThan)
			if r.Error != nil {
				return gone, r.Error
			}
			if r.RowsAffected == 0 {
				continue // somebody wrote it again
			}
			gone++
			if err := s.conn(ctx).Exec("DELETE FROM facts WHERE digest = ?", d).Error; err != nil {
				return gone, err
			}
		}
	}
	return gone, ctx.Err()
}
