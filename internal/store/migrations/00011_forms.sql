-- +goose Up
-- What visitors sent with the forms of a site.
CREATE TABLE IF NOT EXISTS form_entries (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  collection_id BIGINT NOT NULL,
  form VARCHAR(160) NOT NULL,
  at DATETIME(6) NOT NULL,
  fields MEDIUMTEXT NOT NULL,
  KEY entry_form (collection_id, form, id),
  CONSTRAINT entry_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
-- The mails about an entry: one to the team, one in answer to the sender.
CREATE TABLE IF NOT EXISTS form_mails (
  entry_id BIGINT NOT NULL,
  addressee VARCHAR(8) NOT NULL,
  state VARCHAR(8) NOT NULL,
  tries INT NOT NULL DEFAULT 0,
  at DATETIME(6) NOT NULL,
  says VARCHAR(500) NOT NULL DEFAULT '',
  PRIMARY KEY (entry_id, addressee),
  CONSTRAINT mail_entry FOREIGN KEY (entry_id) REFERENCES form_entries (id) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
-- Where an outlet's forms are sent.
ALTER TABLE outlets ADD COLUMN IF NOT EXISTS forms VARCHAR(400) NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE outlets DROP COLUMN IF EXISTS forms;
DROP TABLE IF EXISTS form_mails, form_entries;
