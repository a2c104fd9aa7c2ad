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

-- +goose Down
DROP TABLE IF EXISTS draft_steps;
