-- +goose Up
-- Pictures of previews, by the digest of what they show and how they are made.
CREATE TABLE IF NOT EXISTS pictures (
  picture CHAR(64) NOT NULL PRIMARY KEY,
  shown_at VARCHAR(1000) NOT NULL,
  width SMALLINT NOT NULL,
  state VARCHAR(8) NOT NULL,
  doc CHAR(64) NOT NULL DEFAULT '',
  small CHAR(64) NOT NULL DEFAULT '',
  height INT NOT NULL DEFAULT 0,
  cut BOOLEAN NOT NULL DEFAULT FALSE,
  seen MEDIUMTEXT NOT NULL,
  message VARCHAR(400) NOT NULL DEFAULT '',
  attempts INT NOT NULL DEFAULT 0,
  wanted_at DATETIME(6) NOT NULL,
  lease_until DATETIME(6) NULL,
  KEY picture_wanted (state, wanted_at)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
-- The pictures that are kept with a delivery: of each page that it touches, before and after.
CREATE TABLE IF NOT EXISTS delivery_pictures (
  delivery_id BIGINT NOT NULL,
  slug VARCHAR(400) NOT NULL,
  width SMALLINT NOT NULL,
  before_picture CHAR(64) NOT NULL DEFAULT '',
  after_picture CHAR(64) NOT NULL DEFAULT '',
  PRIMARY KEY (delivery_id, slug, width),
  KEY kept_before (before_picture),
  KEY kept_after (after_picture),
  CONSTRAINT pictured_delivery FOREIGN KEY (delivery_id) REFERENCES deliveries (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- +goose Down
DROP TABLE IF EXISTS delivery_pictures, pictures;
