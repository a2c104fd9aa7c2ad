-- +goose Up
-- What changed, by names alone, numbered in the order in which it was committed.
CREATE TABLE IF NOT EXISTS events (
  n BIGINT NOT NULL PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  site VARCHAR(64) NOT NULL DEFAULT '',
  subject VARCHAR(200) NOT NULL DEFAULT '',
  KEY event_at (at)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
CREATE TABLE IF NOT EXISTS event_clock (
  id TINYINT NOT NULL PRIMARY KEY,
  n BIGINT NOT NULL
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
INSERT IGNORE INTO event_clock (id, n) VALUES (1, 0);

-- +goose Down
DROP TABLE IF EXISTS event_clock, events;
