package store_test

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
)

// wants tells whether something holds a content.
func wants(t *testing.T, s *store.Store, d item.Digest, at time.Time) bool {
	t.Helper()
	held, err := s.Held(ctx)
	require.NoError(t, err)
	wanted, err := held.Wants(ctx, d, at)
	require.NoError(t, err)
	return wanted
}

// holdsNothing are the columns of digests and texts that hold no content, each with the reason.
var holdsNothing = map[string]string{
	"collections.digest": "of a state", "revisions.digest": "of a state", "items.state": "of a state",
	"items.normalized_digest": "of a meaning", "draft_items.normalized_digest": "of a meaning",
	"draft_items.base_state": "of a state", "draft_preconditions.state": "of a state",
	"origins.normalized_digest": "of a meaning", "draft_origins.normalized_digest": "of a meaning",
	"docs.digest": "the content itself", "blobs.digest": "the content itself",
	"facts.digest": "made of the content, anew where it is there", "blob_leases.digest": "asked for its own time",
	"folder_files.digest": "of a file outside", "kit_versions.digest": "of the packing list",
	"kit_versions.list":      "its items are rows of items",
	"kit_versions.making":    "addresses",
	"deliveries.ask":         "decisions, keyed by what they were about",
	"deliveries.plan":        "compares what site and kit hold themselves",
	"deliveries.plan_digest": "of a plan", "sessions.hash": "of a secret", "access_tokens.hash": "of a secret",
	"setup_links.hash": "of a secret", "outlets.site_digest": "of a state", "pictures.picture": "of what is shown",
	"pictures.doc": "a file of the pictures' own store", "pictures.small": "a file of the pictures' own store",
	"pictures.seen": "what a browser saw", "delivery_pictures.before_picture": "of what is shown",
	"delivery_pictures.after_picture": "of what is shown", "form_entries.fields": "what a visitor wrote",
	"items.meta": "metadata", "draft_items.meta": "metadata", "origins.meta": "metadata",
	"draft_origins.meta": "metadata", "jobs.payload": "names of records", "docs.body": "a content",
	"facts.body": "made of a content", "request_keys.request_key": "of a request",
	"request_keys.request": "of a request", "request_keys.header": "of an answer", "request_keys.body": "an answer",
	"kit_versions.seal": "an envelope around the packing list",
}

// Every column of the tables that can name a content is known: it holds it, or a reason is given.
func TestWhatHoldsAContentIsKnown(t *testing.T) {
	s := harness.Records(t)
	var columns []string
	require.NoError(t, s.DB(ctx).Raw(`SELECT CONCAT(table_name, '.', column_name) FROM information_schema.columns
		WHERE table_schema = DATABASE() AND table_name <> 'goose_db_version' AND (column_type = 'char(64)'
		OR data_type IN ('text', 'mediumtext', 'longtext', 'blob', 'mediumblob', 'longblob'))`).Scan(&columns).Error)
	require.Greater(t, len(columns), 30)
	holds := map[string]bool{}
	for _, c := range store.ContentColumns {
		holds[c.Table+"."+c.Column] = true
	}
	for _, c := range store.ContentTexts {
		holds[c.Table+"."+c.Column] = true
	}
	for _, c := range columns {
		assert.True(t, holds[c] != (holdsNothing[c] != ""), "%s: does it hold a content?", c)
		delete(holds, c)
	}
	assert.Empty(t, holds, "columns that are no more")
}

// A content that any of these columns names survives both sweeps, and goes when nothing names it.
func TestEachColumnHoldsItsContent(t *testing.T) {
	s := harness.Records(t)
	later := now().Add(48 * time.Hour)
	check := func(table, column, value string, d item.Digest, set map[string]any) {
		name := table + "." + column
		d2, err := s.PutContent(ctx, item.Block, []byte(name), now())
		require.NoError(t, err)
		require.Equal(t, d, d2)
		require.NoError(t, s.DB(ctx).Connection(func(tx *gorm.DB) error {
			require.NoError(t, tx.Exec("SET SESSION foreign_key_checks = 0, sql_mode = ''").Error)
			defer tx.Exec("SET SESSION foreign_key_checks = DEFAULT, sql_mode = DEFAULT")
			set[column] = value
			return tx.Table(table).Create(set).Error
		}))
		assert.True(t, wants(t, s, d, later), name)
		held, err := s.Held(ctx)
		require.NoError(t, err)
		_, err = s.SweepDocs(ctx, held, later)
		require.NoError(t, err)
		_, err = s.Content(ctx, item.Head{Address: item.MustAddress("block/x"), Doc: d})
		assert.NoError(t, err, name)
		require.NoError(t, s.DB(ctx).Exec("DELETE FROM "+table).Error)
		assert.False(t, wants(t, s, d, later), name)
	}
	for _, c := range store.ContentColumns {
		d := item.DigestOf([]byte(c.Table + "." + c.Column))
		check(c.Table, c.Column, string(d), d, map[string]any{})
	}
	for _, c := range store.ContentTexts {
		set := map[string]any{"state": c.State}
		if c.Table == "draft_steps" {
			require.NoError(t, s.Tx(ctx, func(tx *store.Tx) error {
				d, err := tx.NewDraft(collection(t, s, "held"), "spring", "ida", now())
				set = map[string]any{"draft_id": d.ID}
				return err
			}))
		}
		d := item.DigestOf([]byte(c.Table + "." + c.Column))
		check(c.Table, c.Column, `{"doc":"`+string(d)+`"}`, d, set)
	}
}

// A text is found whatever its size is taken to be: an earlier one may have been larger or smaller.
func TestATextIsFoundWhateverItsSize(t *testing.T) {
	s := harness.Records(t)
	for _, body := range []string{"<p>small</p>", strings.Repeat("a long text ", 200_000)} {
		t.Run(strconv.Itoa(len(body)), func(t *testing.T) {
			h := head(t, s, "block/a", body, item.Meta{})
			for _, size := range []int64{0, 10, store.MaxDoc + 1} {
				h.Bytes = size
				rc, err := s.Content(ctx, h)
				require.NoError(t, err)
				rc.Close()
				c := collection(t, s, strings.ToLower(store.NewID()))
				write(t, s, c, store.Change{Head: h})
				v := live(t, s, c)
				got, err := v.ReadMany(v.Heads())
				require.NoError(t, err)
				assert.Equal(t, body, text(t, v, "block/a"))
				if size <= store.MaxDoc {
					assert.Equal(t, body, string(got[h.Doc]))
				}
			}
		})
	}
}
