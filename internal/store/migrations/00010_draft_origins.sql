-- +goose Up
-- Where items came from that a draft brings: they become origins when it goes live.
CREATE TABLE IF NOT EXISTS draft_origins (
  draft_id BIGINT NOT NULL,
  kit VARCHAR(160) NOT NULL,
  kit_kind VARCHAR(16) NOT NULL,
  kit_key VARCHAR(160) NOT NULL,
  copy INT NOT NULL DEFAULT 1,
  version VARCHAR(64) NOT NULL,
  item_id CHAR(36) NOT NULL,
  normalized_digest CHAR(64) NOT NULL,
  doc CHAR(64) NOT NULL DEFAULT '',
  bytes BIGINT NOT NULL DEFAULT 0,
  meta MEDIUMTEXT NOT NULL DEFAULT '',
  PRIMARY KEY (draft_id, kit, kit_kind, kit_key, copy),
  KEY draft_origin_doc (doc),
  CONSTRAINT origin_draft FOREIGN KEY (draft_id) REFERENCES drafts (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- +goose Down
DROP TABLE IF EXISTS draft_origins;
