-- +goose Up
-- What was done in a draft, step by step: by it each person's last steps can be taken back.
CREATE TABLE IF NOT EXISTS draft_steps (
  draft_id BIGINT NOT NULL,
  n INT NOT NULL,
  kind VARCHAR(16) NOT NULL,
  of_step INT NOT NULL DEFAULT 0,
  by_user VARCHAR(64) NOT NULL,
  at DATETIME(6) NOT NULL,
  message VARCHAR(500) NOT NULL DEFAULT '',
  edits LONGTEXT NOT NULL,
  PRIMARY KEY (draft_id, n),
  CONSTRAINT step_draft FOREIGN KEY (draft_id) REFERENCES drafts (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
-- When a draft goes live by itself, for whom, and what came of it.
ALTER TABLE drafts ADD COLUMN IF NOT EXISTS live_at DATETIME(6) NULL, ADD COLUMN IF NOT EXISTS live_for VARCHAR(64) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS live_says VARCHAR(500) NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE drafts DROP COLUMN IF EXISTS live_at, DROP COLUMN IF EXISTS live_for, DROP COLUMN IF EXISTS live_says;
DROP TABLE IF EXISTS draft_steps;
